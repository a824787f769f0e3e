namespace Chronotype.Core.Content;

/// <summary>Moving pictures.</summary>
/// <param name="Width">Pixels.</param>
/// <param name="Height">Pixels.</param>
/// <param name="FramesPerSecond">Pictures a second, on average.</param>
/// <param name="Seconds">How long it plays.</param>
/// <param name="HasSound">Whether something is heard with it.</param>
/// <param name="Coding">How its pictures are coded, as the decoder calls it.</param>
public sealed record FilmFacts(int Width, int Height, double FramesPerSecond, double Seconds, bool HasSound, string Coding);
