using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>A picture of a save for the screen.</summary>
/// <param name="Bytes">The file.</param>
/// <param name="MediaType">As RFC 6838 names it.</param>
public sealed record Preview(byte[] Bytes, string MediaType);

/// <summary>Draws what a save looks like, from its content itself.</summary>
public static class PreviewMaker
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="side">The longer side, in pixels, at most.</param>
    /// <param name="page">Of a picture with pages, which, from 0.</param>
    /// <param name="cancel">Drawing a long recording may be stopped.</param>
    /// <returns>Null where the format has nothing to see.</returns>
    /// <exception cref="UnreadableFileException">It cannot be drawn; the fault says why.</exception>
    public static Preview? Make(Stream content, int side, int page = 0, CancellationToken cancel = default) =>
        FormatList.Of(content)?.Draw(content, side, page, cancel);

    internal static Preview Shrunk(Stream content, int side)
    {
        var (width, height, _) = Pictures.Measure(content);
        if (Limits.TooLarge(width, height) is { } fault)
            throw new UnreadableFileException(fault);
        return new Preview(Pictures.Shrink(content, side), "image/webp");
    }

    // A zip's entry cannot be sought in, and the picture library seeks; a large one goes through a file, not through memory.
    internal static Stream Buffered(Stream entry)
    {
        var file = TemporaryFile.Open();
        try
        {
            using var bounded = new BoundedStream(entry, Limits.Pixels * 4);
            bounded.CopyTo(file);
            file.Position = 0;
            return file;
        }
        catch (InvalidDataException e)
        {
            file.Dispose();
            throw new UnreadableFileException(FileFaultCode.PartDamaged, e);
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }
}
