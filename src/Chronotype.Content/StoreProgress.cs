namespace Chronotype.Content;

/// <summary>How far some long work is.</summary>
/// <param name="Done">Bytes that were dealt with.</param>
/// <param name="Total">Bytes in all; more than <paramref name="Done"/> until the end.</param>
public readonly record struct StoreProgress(long Done, long Total);
