namespace Chronotype.Storage.Starting;

/// <summary>
/// A studio cannot be opened as it lies there. The message says what was found, that nothing was changed, and how to go on.
/// </summary>
public sealed class StudioUnusableException(string message, Exception? inner = null) : IOException(message, inner);
