using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using System.Xml;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Sound;

/// <summary>
/// What broadcasters and recordists write into a WAVE file: the broadcast extension (EBU Tech 3285, section 2.3) and iXML (the iXML
/// specification 3.0).
/// </summary>
internal static class BroadcastTags
{
    private const int BextBytes = 602,
        MostBytes = 1 << 20,
        MaxDepth = 32,
        MaxElements = 2_000;

    /// <param name="chunk">The chunk's name, <c>bext</c> or <c>iXML</c>.</param>
    /// <param name="content">At the chunk's content.</param>
    /// <param name="size">Bytes that the chunk claims.</param>
    /// <returns>What can be read of it; a tag that cannot is no fault of the sound.</returns>
    public static IReadOnlyList<TagFacts> Read(ReadOnlySpan<byte> chunk, Stream content, long size)
    {
        var bytes = new byte[Math.Min(Math.Min(size, MostBytes), Math.Max(0, content.Length - content.Position))];
        PcmFile.Fill(content, bytes);
        return chunk.StartsWith("bext"u8) ? Bext(bytes) : Ixml(bytes);
    }

    private static IReadOnlyList<TagFacts> Bext(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length < BextBytes)
            return [];
        // Samples since midnight, by which recordings of one scene are laid beside one another.
        var reference = BinaryPrimitives.ReadUInt64LittleEndian(bytes[338..]);
        (string Name, string Value)[] told =
        [
            ("description", Text(bytes[..256])),
            ("originator", Text(bytes[256..288])),
            ("originator reference", Text(bytes[288..320])),
            ("date", Text(bytes[320..330])),
            ("time", Text(bytes[330..338])),
            ("time reference", reference == 0 ? "" : reference.ToString(CultureInfo.InvariantCulture)),
            ("coding history", Text(bytes[BextBytes..])),
        ];
        return [.. told.Where(t => t.Value.Length > 0).Select(t => TagFacts.Of(t.Name, t.Value))];
    }

    private static string Text(ReadOnlySpan<byte> bytes)
    {
        var end = bytes.IndexOf((byte)0);
        return Encoding.Latin1.GetString(end < 0 ? bytes : bytes[..end]).Trim();
    }

    // Every element that holds nothing but text, under its own name.
    private static IReadOnlyList<TagFacts> Ixml(byte[] bytes)
    {
        var tags = new List<TagFacts>();
        try
        {
            using var reader = new LimitedXmlReader(
                XmlReader.Create(
                    new MemoryStream(bytes.AsSpan().TrimEnd((byte)0).ToArray()),
                    new XmlReaderSettings
                    {
                        DtdProcessing = DtdProcessing.Prohibit,
                        XmlResolver = null,
                        IgnoreWhitespace = true,
                    }
                ),
                MaxDepth,
                MaxElements,
                MaxElements
            );
            var name = "";
            while (tags.Count < TagFacts.Most && reader.Read())
            {
                if (reader.NodeType == XmlNodeType.Element)
                    name = reader.LocalName;
                else if (reader.NodeType == XmlNodeType.Text && name.Length > 0 && reader.Value.Trim() is { Length: > 0 } value)
                    tags.Add(TagFacts.Of(name.ToLowerInvariant().Replace('_', ' '), value));
            }
        }
        catch (Exception e) when (e is XmlException or UnreadableFileException)
        {
            // What came before the fault is told all the same.
        }
        return tags;
    }
}
