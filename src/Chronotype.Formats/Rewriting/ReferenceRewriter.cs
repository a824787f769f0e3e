using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats.Texts;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Writes files anew whose references lead elsewhere. Nothing else of a file changes: each reference is exchanged where it stands, byte
/// for byte, and what was made is read again before anybody has it.
/// </summary>
public static class ReferenceRewriter
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="changes">Every place where a reference is written so is changed.</param>
    /// <param name="output">Gets the new file; left open.</param>
    /// <param name="patterns">How a text says what it refers to.</param>
    /// <exception cref="UnreadableFileException">The file cannot be read, or not be rewritten without changing more than was asked.</exception>
    public static void Rewrite(
        Stream content,
        IReadOnlyList<RewrittenReference> changes,
        Stream output,
        IReadOnlyList<ReferencePattern>? patterns = null,
        CancellationToken cancel = default
    )
    {
        var before = FormatReader.ReadSound(content, cancel, patterns);
        var to = changes.ToDictionary(c => c.From, c => c.To, StringComparer.Ordinal);
        content.Position = 0;
        using var made = new MemoryStream();
        switch (before.Format)
        {
            case FileFormat.Svg:
                SvgRewriter.Rewrite(content, written => to.GetValueOrDefault(written), made);
                break;
            case FileFormat.Gltf:
                JsonRewriter.RewriteGltf(content, to, made);
                break;
            case FileFormat.Timeline:
                JsonRewriter.RewriteTimeline(content, to, made);
                break;
            case FileFormat.Text when patterns is { Count: > 0 }:
                PatternLinks.Rewrite(content, patterns, to, made);
                break;
            default:
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
        // Whatever the file's maker did with its syntax: what was not changed as asked is not given out.
        var after = FormatReader.Read(made, patterns ?? [], cancel);
        var asked = before.References.Select(r => to.GetValueOrDefault(r.Written, r.Written));
        if (after.Fault is not null || !after.References.Select(r => r.Written).SequenceEqual(asked))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }
}
