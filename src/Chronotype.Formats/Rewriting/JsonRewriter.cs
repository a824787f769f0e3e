using System.Buffers.Binary;
using System.Text.Encodings.Web;
using System.Text.Json;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Rewriting;

/// <summary>Exchanges strings of JSON (RFC 8259) where they stand; every other byte stays.</summary>
internal static class JsonRewriter
{
    private const int GlbHead = 12,
        ChunkHead = 8;

    /// <summary>glTF 2.0, 5.9 and 5.18: the URIs of buffers and images; of a GLB (4.4), in its chunk of JSON.</summary>
    public static void RewriteGltf(Stream content, IReadOnlyDictionary<string, string> to, Stream output)
    {
        Span<byte> head = stackalloc byte[GlbHead + ChunkHead];
        if (content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false) < head.Length || !head.StartsWith("glTF"u8))
        {
            content.Position = 0;
            output.Write(Exchange(All(content), IsUri, to));
            return;
        }
        var length = BinaryPrimitives.ReadUInt32LittleEndian(head[GlbHead..]);
        if (length > Limits.JsonBytes || length > content.Length - head.Length)
            throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
        var text = new byte[length];
        content.ReadExactly(text);
        var json = Exchange(text.AsSpan().TrimEnd((byte)' ').ToArray(), IsUri, to);
        // 4.4.3.2: chunks end at a multiple of four, JSON with spaces.
        var padded = (json.Length + 3) / 4 * 4;
        BinaryPrimitives.WriteUInt32LittleEndian(head[8..], (uint)(GlbHead + ChunkHead + padded + (content.Length - content.Position)));
        BinaryPrimitives.WriteUInt32LittleEndian(head[GlbHead..], (uint)padded);
        output.Write(head);
        output.Write(json);
        output.Write("   "u8[..(padded - json.Length)]);
        content.CopyTo(output);
    }

    /// <summary>OpenTimelineIO: what its references to media call <c>target_url</c>.</summary>
    public static void RewriteTimeline(Stream content, IReadOnlyDictionary<string, string> to, Stream output) =>
        output.Write(Exchange(All(content), path => path[^1] == "target_url", to));

    private static bool IsUri(IReadOnlyList<string> path) => path is ["buffers" or "images", "uri"];

    private static byte[] All(Stream content)
    {
        if (content.Length > Limits.JsonBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.JsonBytes));
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        return bytes;
    }

    /// <param name="isMeant">Given the names of the members that lead to a string, from the top; a list has none of its own.</param>
    private static byte[] Exchange(byte[] json, Func<IReadOnlyList<string>, bool> isMeant, IReadOnlyDictionary<string, string> to)
    {
        ReadOnlySpan<byte> mark = [0xEF, 0xBB, 0xBF];
        var from = json.AsSpan().StartsWith(mark) ? mark.Length : 0;
        using var made = new MemoryStream(json.Length + 256);
        var reader = new Utf8JsonReader(json.AsSpan(from), new JsonReaderOptions { MaxDepth = 128 });
        var (names, copied, pending) = (new List<string>(), 0, false);
        var open = new Stack<bool>();
        while (reader.Read())
        {
            switch (reader.TokenType)
            {
                case JsonTokenType.PropertyName:
                    names.Add(reader.GetString()!);
                    pending = true;
                    continue;
                case JsonTokenType.StartObject or JsonTokenType.StartArray:
                    // Whether a name waits for its end.
                    open.Push(pending);
                    pending = false;
                    continue;
                case JsonTokenType.EndObject or JsonTokenType.EndArray:
                    if (open.Pop())
                        names.RemoveAt(names.Count - 1);
                    continue;
                case JsonTokenType.String when pending && isMeant(names) && to.TryGetValue(reader.GetString()!, out var now):
                    var at = from + (int)reader.TokenStartIndex;
                    made.Write(json, copied, at - copied);
                    made.WriteByte((byte)'"');
                    made.Write(JsonEncodedText.Encode(now, JavaScriptEncoder.UnsafeRelaxedJsonEscaping).EncodedUtf8Bytes);
                    made.WriteByte((byte)'"');
                    copied = from + (int)reader.BytesConsumed;
                    break;
            }
            if (pending)
                names.RemoveAt(names.Count - 1);
            pending = false;
        }
        made.Write(json, copied, json.Length - copied);
        return made.ToArray();
    }
}
