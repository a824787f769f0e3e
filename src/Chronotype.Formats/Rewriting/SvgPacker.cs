using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Rewriting;

/// <summary>What an SVG refers to, as data URIs in its text. Every other character stays.</summary>
internal static class SvgPacker
{
    public static void Pack(Stream content, IReadOnlyList<Stream> contents, IReadOnlyList<PackedReference> references, Stream output)
    {
        // RFC 4648, 4: four letters for three bytes.
        var size = content.Length + references.Sum(r => contents[r.Source].Length * 4 / 3);
        if (size > Limits.SvgBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.SvgBytes));
        var inside = references.ToDictionary(
            r => r.Written,
            r => DataUri.Write(MediaTypes.Of(contents[r.Source], r.Name), All(contents[r.Source]), DataUri.Fragment(r.Written)),
            StringComparer.Ordinal
        );
        SvgRewriter.Rewrite(content, written => inside.GetValueOrDefault(written), output);
    }

    public static IEnumerable<(string Name, byte[] Bytes)> Find(Stream content)
    {
        var found = new List<(string, byte[])>();
        SvgRewriter.Rewrite(
            content,
            written =>
            {
                if (DataUri.Read(written) is { Length: > 0 } bytes)
                    found.Add(("", bytes));
                return null;
            },
            Stream.Null
        );
        return found;
    }

    public static void PutOut(Stream content, IReadOnlyDictionary<ContentHash, string> paths, Stream output) =>
        SvgRewriter.Rewrite(
            content,
            written =>
                DataUri.Read(written) is { Length: > 0 } bytes && paths.TryGetValue(ContentHash.Of(bytes), out var path)
                    ? path + DataUri.Fragment(written)
                    : null,
            output
        );

    private static byte[] All(Stream content)
    {
        content.Position = 0;
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        return bytes;
    }
}
