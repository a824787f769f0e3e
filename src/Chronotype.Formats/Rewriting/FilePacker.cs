using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Puts what a file refers to inside it, and out of it again: pictures and typefaces of an SVG as data URIs (RFC 2397), buffers and
/// pictures of a glTF as a GLB (glTF 2.0, 4.4). What was made is read again before anybody has it.
/// </summary>
public static class FilePacker
{
    /// <param name="contents">Seekable: the file itself, then what it refers to; left open.</param>
    /// <param name="references">Which reference leads to which content. Others stay as they are.</param>
    /// <param name="output">Gets the new file; left open.</param>
    /// <exception cref="UnreadableFileException">The file cannot be read, or would be larger than any that is read here.</exception>
    public static void Pack(
        IReadOnlyList<Stream> contents,
        IReadOnlyList<PackedReference> references,
        Stream output,
        CancellationToken cancel = default
    )
    {
        var content = contents[0];
        var before = FormatReader.ReadSound(content, cancel);
        content.Position = 0;
        using var made = TemporaryFile.Open();
        switch (before.Format)
        {
            case FileFormat.Svg:
                SvgPacker.Pack(content, contents, references, made);
                break;
            case FileFormat.Gltf:
                GltfPacker.Pack(content, contents, references, made);
                break;
            default:
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
        var after = FormatReader.ReadSound(made, cancel);
        var packed = references.Select(r => r.Written).ToHashSet(StringComparer.Ordinal);
        if (after.Layers.Count != before.Layers.Count || after.References.Any(r => r.EmbeddedBytes is null && packed.Contains(r.Written)))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }

    /// <summary>Finds what a file carries inside, each once by its bytes.</summary>
    /// <param name="content">Seekable; left open.</param>
    /// <param name="take">Given each part with its bytes.</param>
    /// <exception cref="UnreadableFileException">The file cannot be read.</exception>
    public static IReadOnlyList<EmbeddedPart> Find(Stream content, Action<EmbeddedPart, byte[]> take, CancellationToken cancel = default)
    {
        var facts = FormatReader.ReadSound(content, cancel);
        content.Position = 0;
        var parts = new List<EmbeddedPart>();
        var found = facts.Format switch
        {
            FileFormat.Svg => SvgPacker.Find(content),
            FileFormat.Gltf => GltfPacker.Find(content),
            _ => throw new UnreadableFileException(FileFaultCode.NotUnderstood),
        };
        foreach (var (name, bytes) in found)
        {
            cancel.ThrowIfCancellationRequested();
            var hash = ContentHash.Of(bytes);
            if (parts.FindIndex(p => p.Hash == hash) is >= 0 and var at)
            {
                parts[at] = parts[at] with { Times = parts[at].Times + 1 };
                continue;
            }
            var part = new EmbeddedPart(hash, bytes.Length, name, MediaTypes.ExtensionOf(new MemoryStream(bytes)));
            parts.Add(part);
            take(part, bytes);
        }
        return parts;
    }

    /// <summary>Writes a file anew that refers to what it carried inside. A GLB stays one, with nothing but its JSON.</summary>
    /// <param name="content">Seekable; left open.</param>
    /// <param name="placed">Parts as <see cref="Find"/> told them, each with how it is referred to; what is not among them stays inside.</param>
    /// <param name="output">Gets the new file; left open.</param>
    /// <exception cref="UnreadableFileException">The file cannot be read.</exception>
    public static void PutOut(Stream content, IReadOnlyList<PlacedPart> placed, Stream output, CancellationToken cancel = default)
    {
        var before = FormatReader.ReadSound(content, cancel);
        content.Position = 0;
        var paths = placed.ToDictionary(p => p.Hash, p => p.Written);
        using var made = TemporaryFile.Open();
        switch (before.Format)
        {
            case FileFormat.Svg:
                SvgPacker.PutOut(content, paths, made);
                break;
            case FileFormat.Gltf:
                GltfPacker.PutOut(content, paths, made);
                break;
            default:
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
        var after = FormatReader.ReadSound(made, cancel);
        var written = after
            .References.Where(r => r.EmbeddedBytes is null)
            .Select(r => r.Written[..^DataUri.Fragment(r.Written).Length])
            .ToHashSet(StringComparer.Ordinal);
        if (after.Layers.Count != before.Layers.Count || placed.Any(p => !written.Contains(p.Written)))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }
}
