using System.Buffers.Binary;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Rewriting;

/// <summary>A glTF as text or as GLB, read to be changed and written (glTF 2.0, 4.4).</summary>
internal static class GltfTree
{
    private const uint JsonChunk = 0x4E4F534A,
        BinaryChunk = 0x004E4942,
        Magic = 0x46546C67;

    // Enough for any component of an accessor (3.6.2.4), and for what extensions want.
    public const int Alignment = 16;

    /// <summary>Its JSON, and where its binary chunk lies.</summary>
    public static (JsonObject Root, (long At, long Length) Binary, bool IsGlb) Read(Stream content)
    {
        Span<byte> head = stackalloc byte[20];
        content.Position = 0;
        var read = content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false);
        if (read < head.Length || !head.StartsWith("glTF"u8))
        {
            if (content.Length > Limits.JsonBytes)
                throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.JsonBytes));
            return (LimitedJson.Tree(Bytes(content, 0, content.Length)), default, false);
        }
        var length = BinaryPrimitives.ReadUInt32LittleEndian(head[12..]);
        if (length > Limits.JsonBytes || length > content.Length - head.Length)
            throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
        var text = new byte[length];
        content.ReadExactly(text);
        var hasBinary =
            content.ReadAtLeast(head[..8], 8, throwOnEndOfStream: false) == 8
            && BinaryPrimitives.ReadUInt32LittleEndian(head[4..]) == BinaryChunk;
        var binary = hasBinary ? (content.Position, (long)BinaryPrimitives.ReadUInt32LittleEndian(head)) : default;
        return (LimitedJson.Tree(text), binary, true);
    }

    /// <param name="parts">What lies in the binary chunk, each at a multiple of <see cref="Alignment"/>.</param>
    /// <param name="length">Bytes of the chunk; 0 for none.</param>
    public static void WriteGlb(JsonObject root, List<Part> parts, long length, Stream output)
    {
        length = (length + Alignment - 1) / Alignment * Alignment;
        var json = LimitedJson.Write(root);
        var padded = (json.Length + 3) / 4 * 4;
        var whole = 12L + 8 + padded + (length > 0 ? 8 + length : 0);
        if (whole > uint.MaxValue)
            throw new UnreadableFileException(FileFaultCode.PartsTooLarge);
        Span<byte> head = stackalloc byte[20];
        BinaryPrimitives.WriteUInt32LittleEndian(head, Magic);
        BinaryPrimitives.WriteUInt32LittleEndian(head[4..], 2);
        BinaryPrimitives.WriteUInt32LittleEndian(head[8..], (uint)whole);
        BinaryPrimitives.WriteUInt32LittleEndian(head[12..], (uint)padded);
        BinaryPrimitives.WriteUInt32LittleEndian(head[16..], JsonChunk);
        output.Write(head);
        output.Write(json);
        output.Write("   "u8[..(padded - json.Length)]);
        if (length == 0)
            return;
        BinaryPrimitives.WriteUInt32LittleEndian(head, (uint)length);
        BinaryPrimitives.WriteUInt32LittleEndian(head[4..], BinaryChunk);
        output.Write(head[..8]);
        var buffer = new byte[1 << 18];
        foreach (var (source, from, size) in parts)
        {
            source.Position = from;
            for (var left = size; left > 0; )
            {
                var read = source.Read(buffer, 0, (int)Math.Min(buffer.Length, left));
                if (read == 0)
                    throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, "BIN"));
                output.Write(buffer, 0, read);
                left -= read;
            }
            output.Write(new byte[(Alignment - size % Alignment) % Alignment]);
        }
    }

    public static IEnumerable<(JsonObject Item, int Index)> Items(JsonObject root, string name) =>
        (root[name] as JsonArray ?? []).Select((item, i) => (item as JsonObject ?? [], i)).ToList();

    /// <summary>What an object holds under a name, and under names within that; null where there is nothing, or something else.</summary>
    public static JsonNode? Field(JsonNode? node, params ReadOnlySpan<string> names)
    {
        foreach (var name in names)
            node = (node as JsonObject)?[name];
        return node;
    }

    public static string? Text(JsonNode? node) => node is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

    public static long? Number(JsonNode? node) => node is JsonValue value && value.TryGetValue<long>(out var number) ? number : null;

    public static byte[] Bytes(Stream stream, long at, long length)
    {
        if (length > Limits.SceneBytes)
            throw new UnreadableFileException(FileFaultCode.PartsTooLarge);
        var bytes = new byte[length];
        stream.Position = at;
        if (stream.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false) < bytes.Length)
            throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, "BIN"));
        return bytes;
    }

    public sealed record Part(Stream Source, long From, long Length);
}
