using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>What is read of a file that may be hostile. Past these its bytes are kept all the same, and only not looked into.</summary>
public static class Limits
{
    /// <summary>Pixels of one picture: 1.2 thousand million, a 30,000 x 40,000 wall print.</summary>
    public const long Pixels = 1_200_000_000;

    public const int SvgBytes = 32 * 1024 * 1024;
    public const int StackBytes = 16 * 1024 * 1024;
    public const int JsonBytes = 32 * 1024 * 1024;

    /// <summary>Bytes of one part of a scene's buffers that are taken into memory.</summary>
    public const int SceneBytes = 192 * 1024 * 1024;

    /// <summary>Bytes of moving pictures that are set aside to be looked into.</summary>
    public const long FilmBytes = 2_000_000_000;

    public const int TextBytes = 16 * 1024 * 1024;
    public const int Layers = 5_000;

    /// <summary>Pixels of all layers of a file together that are decoded; the layers past it are told apart by their bytes.</summary>
    public const long LayerPixels = 6_000_000_000;

    /// <summary>Pages of a picture that are compared.</summary>
    public const int Pages = 100;

    /// <summary>Links of a file that are told.</summary>
    public const int References = 20_000;

    /// <summary>Entries of a container, chunks of a sound file.</summary>
    public const int Entries = 20_000;

    /// <summary>The longer side of an SVG's drawing when it is made to pixels, before it is scaled.</summary>
    public const int SvgSide = 4096;

    /// <summary>What is wrong when a picture's claimed size is past what is drawn; null when it is not.</summary>
    public static FileFault? TooLarge(long width, long height) =>
        width * height > Pixels ? new FileFault(FileFaultCode.PictureTooLarge, "", width, height) : null;
}

/// <summary>A file that is not what its format says, or more than is read.</summary>
public sealed class UnreadableFileException(FileFault fault, Exception? inner = null)
    : Exception($"{fault.Code} {fault.Name}".TrimEnd(), inner)
{
    public UnreadableFileException(FileFaultCode code, Exception? inner = null)
        : this(new FileFault(code), inner) { }

    public FileFault Fault { get; } = fault;
}
