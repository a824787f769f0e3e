using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Scenes;

/// <summary>A glTF 2.0 file, as text or as GLB (Khronos, "glTF 2.0 Specification", sections 3 and 4): its JSON, and the bytes of its buffers.</summary>
internal sealed class GltfFile : IDisposable
{
    private const uint JsonChunk = 0x4E4F534A,
        BinaryChunk = 0x004E4942;

    private readonly JsonDocument json;
    private readonly Stream content;
    private readonly long binaryAt;
    private readonly long binaryLength;
    private readonly Dictionary<int, byte[]?> embedded = [];
    private readonly Dictionary<int, string> hashes = [];

    // Accessors may all claim the same bytes; past so many they are told apart by where they stand.
    private long hashed;

    private GltfFile(JsonDocument json, Stream content, long binaryAt, long binaryLength)
    {
        (this.json, this.content, this.binaryAt, this.binaryLength) = (json, content, binaryAt, binaryLength);
        Views = [.. Root.Items("bufferViews")];
        Accessors = [.. Root.Items("accessors")];
        Buffers = [.. Root.Items("buffers")];
    }

    public JsonElement Root => json.RootElement;

    public IReadOnlyList<JsonElement> Views { get; }

    public IReadOnlyList<JsonElement> Accessors { get; }

    public IReadOnlyList<JsonElement> Buffers { get; }

    /// <exception cref="UnreadableFileException">It is no glTF, cut short, or more than is read.</exception>
    public static GltfFile Open(Stream content)
    {
        content.Position = 0;
        Span<byte> head = stackalloc byte[20];
        var read = content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false);
        if (read < 4 || !head.StartsWith("glTF"u8))
            return new GltfFile(LimitedJson.Parse(content), content, 0, 0);
        if (read < head.Length || BinaryPrimitives.ReadUInt32LittleEndian(head[16..]) != JsonChunk)
            throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
        var length = BinaryPrimitives.ReadUInt32LittleEndian(head[12..]);
        if (length > content.Length - head.Length)
            throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
        if (length > Limits.JsonBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.JsonBytes));
        var text = new byte[length];
        content.ReadExactly(text);
        var promised = BinaryPrimitives.ReadUInt32LittleEndian(head[8..]);
        var (at, bytes) = (0L, 0L);
        if (
            content.ReadAtLeast(head[..8], 8, throwOnEndOfStream: false) == 8
            && BinaryPrimitives.ReadUInt32LittleEndian(head[4..]) == BinaryChunk
        )
            (at, bytes) = (content.Position, BinaryPrimitives.ReadUInt32LittleEndian(head));
        if (promised > content.Length || at + bytes > content.Length)
            throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, "BIN"));
        return new GltfFile(LimitedJson.Parse(text), content, at, bytes);
    }

    public void Dispose() => json.Dispose();

    /// <summary>Equal for accessors that hold the same numbers in the same way; of a buffer in another file, by where it stands there.</summary>
    public string Hash(int? accessor)
    {
        if (accessor is not { } index || index >= Accessors.Count)
            return "";
        if (hashes.TryGetValue(index, out var known))
            return known;
        var told = Accessors[index];
        var shape = $"{told.Index("componentType")}/{told.Text("type")}/{told.Index("count")}";
        using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        if (told.Index("bufferView") is { } view && view < Views.Count)
        {
            // Only its own elements: a view is shared by many.
            var size = ElementBytes(told);
            var stride = Views[view].Index("byteStride") ?? size;
            var (from, length) = (told.Index("byteOffset") ?? 0, (long)stride * Math.Max(0, (told.Index("count") ?? 0) - 1) + size);
            hashed += length;
            var isThere =
                hashed <= 4 * content.Length + Limits.JsonBytes
                && Range(view) is var (buffer, at, whole)
                && from + length <= whole
                && Stretch(buffer, at + from, length, part => sha.AppendData(part));
            shape += isThere ? "/" + Convert.ToHexStringLower(sha.GetHashAndReset()) : "/" + Views[view].GetRawText() + from;
        }
        return hashes[index] = shape;
    }

    // Section 3.6.2.2: bytes of a component, components of an element.
    private static int ElementBytes(JsonElement accessor) =>
        accessor.Index("componentType") switch
        {
            5120 or 5121 => 1,
            5122 or 5123 => 2,
            _ => 4,
        }
        * accessor.Text("type") switch
        {
            "SCALAR" => 1,
            "VEC2" => 2,
            "VEC3" => 3,
            "MAT3" => 9,
            "MAT4" => 16,
            _ => 4,
        };

    /// <summary>The bytes of a buffer view.</summary>
    /// <returns>Null where they are in another file, or not there.</returns>
    public byte[]? Bytes(int view)
    {
        if (view >= Views.Count || Range(view) is not var (buffer, at, length) || length > Limits.SceneBytes)
            return null;
        var bytes = new byte[length];
        var filled = 0;
        return Stretch(
            buffer,
            at,
            length,
            part =>
            {
                part.CopyTo(bytes.AsSpan(filled));
                filled += part.Length;
            }
        )
            ? bytes
            : null;
    }

    private (int Buffer, long At, long Length)? Range(int view)
    {
        var told = Views[view];
        var (buffer, at, length) = (told.Index("buffer"), told.Index("byteOffset") ?? 0, told.Index("byteLength"));
        return buffer is { } b && b < Buffers.Count && length is { } l ? (b, at, l) : null;
    }

    private delegate void Take(ReadOnlySpan<byte> part);

    private bool Stretch(int buffer, long at, long length, Take take)
    {
        if (Buffers[buffer].Get("uri") is { } uri)
        {
            if (!embedded.TryGetValue(buffer, out var bytes))
                embedded[buffer] = bytes = uri.ValueKind == JsonValueKind.String ? DataUri.Read(uri.GetString()!) : null;
            if (bytes is null || at + length > bytes.Length)
                return false;
            take(bytes.AsSpan((int)at, (int)length));
            return true;
        }
        if (buffer != 0 || at + length > binaryLength)
            return false;
        content.Position = binaryAt + at;
        var part = new byte[Math.Min(length, 1 << 18)];
        for (var left = length; left > 0; )
        {
            var read = content.Read(part, 0, (int)Math.Min(part.Length, left));
            if (read == 0)
                return false;
            take(part.AsSpan(0, read));
            left -= read;
        }
        return true;
    }
}
