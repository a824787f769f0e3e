namespace Chronotype.Formats;

/// <summary>What is read of a file that may be hostile. Past these its bytes are kept all the same, and only not looked into.</summary>
public static class Limits
{
    /// <summary>Pixels of one picture: 1.2 thousand million, a 30,000 x 40,000 wall print.</summary>
    public const long Pixels = 1_200_000_000;

    public const int SvgBytes = 32 * 1024 * 1024;
    public const int StackBytes = 16 * 1024 * 1024;
    public const int Layers = 5_000;

    /// <summary>Entries of a container.</summary>
    public const int Entries = 20_000;

    /// <summary>The longer side of an SVG's drawing when it is made to pixels, before it is scaled.</summary>
    public const int SvgSide = 4096;

    /// <summary>A sentence when a picture's claimed size is past what is drawn; null when it is not.</summary>
    public static string? TooLarge(long width, long height) => width * height > Pixels
        ? $"This picture says that it is {width:N0} × {height:N0} px, more than is drawn here. Its bytes are kept as they came."
        : null;
}

/// <summary>A file that is not what its format says; the message is a sentence for the person who saved it.</summary>
public sealed class UnreadableFileException(string message, Exception? inner = null) : Exception(message, inner);
