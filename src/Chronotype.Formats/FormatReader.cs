using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats.Texts;

namespace Chronotype.Formats;

/// <summary>Reads what is inside a file. Whatever the file is, it answers; it never fails a save.</summary>
public static class FormatReader
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="patterns">How texts say what they refer to.</param>
    /// <param name="cancel">Reading a large file may be stopped.</param>
    public static FileFacts Read(Stream content, IReadOnlyList<ReferencePattern> patterns, CancellationToken cancel = default)
    {
        var facts = Read(content, cancel);
        return facts is { Format: FileFormat.Text, Fault: null } && patterns.Count > 0
            ? facts with
            {
                References = PatternLinks.Find(content, patterns),
            }
            : facts;
    }

    /// <inheritdoc cref="Read(Stream, IReadOnlyList{ReferencePattern}, CancellationToken)"/>
    public static FileFacts Read(Stream content, CancellationToken cancel = default) =>
        Read(content, format => format.Read(content, cancel));

    /// <summary>
    /// As <see cref="Read(Stream, CancellationToken)"/>, of a file whose pixels somebody else goes over: what is told of layers is what its
    /// stack says, and damage in them is not found.
    /// </summary>
    public static FileFacts Outline(Stream content, CancellationToken cancel = default) =>
        Read(content, format => format.Outline(content, cancel));

    /// <summary>Reads what the beginning tells of a file that is too much to be read to its end.</summary>
    public static FileFacts Header(Stream content) => Read(content, format => format.Header(content));

    private static FileFacts Read(Stream content, Func<IFormat, FileFacts> read)
    {
        if (content.Length == 0)
            return new FileFacts { Fault = new FileFault(FileFaultCode.Empty) };
        var format = FormatList.Of(content);
        if (format is null)
            return new FileFacts { IsPacked = FormatSniffer.IsPacked(content) };
        try
        {
            return read(format);
        }
        catch (UnreadableFileException e)
        {
            return new FileFacts { Format = format.Format, Fault = e.Fault };
        }
        catch (Exception e)
            when (e is EndOfStreamException or (not OperationCanceledException and not IOException and not OutOfMemoryException))
        {
            // A reader that stumbles over a file in a way nobody thought of must not take the save with it.
            return new FileFacts { Format = format.Format, Fault = new FileFault(FileFaultCode.NotUnderstood, e.GetType().Name) };
        }
    }

    /// <summary>As <see cref="Read"/>, of a file that is to be written anew.</summary>
    /// <exception cref="UnreadableFileException">It has a fault.</exception>
    internal static FileFacts ReadSound(
        Stream content,
        CancellationToken cancel = default,
        IReadOnlyList<ReferencePattern>? patterns = null
    )
    {
        var facts = Read(content, patterns ?? [], cancel);
        return facts.Fault is { } fault ? throw new UnreadableFileException(fault) : facts;
    }
}
