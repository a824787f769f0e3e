using System.Buffers.Binary;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Core.References;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Buffers and pictures of a glTF in one binary chunk of a GLB, and out of it again (glTF 2.0, 3.6 and 4.4). What else stands in its
/// JSON stays, and is written anew.
/// </summary>
internal static class GltfPacker
{
    private const uint JsonChunk = 0x4E4F534A,
        BinaryChunk = 0x004E4942,
        Magic = 0x46546C67;

    // Enough for any component of an accessor (3.6.2.4), and for what extensions want.
    private const int Alignment = 16;

    // What is known to name views by "bufferView" alone, so that views can be counted anew.
    private static readonly string[] Plain = ["KHR_", "EXT_texture_webp", "EXT_mesh_gpu_instancing"];

    public static void Pack(Stream content, IReadOnlyList<Stream> contents, IReadOnlyList<PackedReference> references, Stream output)
    {
        var (root, binary, _) = Read(content);
        var sources = references.ToDictionary(r => r.Written, StringComparer.Ordinal);
        var parts = new List<Part>();
        var length = 0L;
        long Add(Stream source, long from, long size)
        {
            var at = length;
            parts.Add(new Part(source, from, size));
            length += (size + Alignment - 1) / Alignment * Alignment;
            return at;
        }
        (long At, long Size)? Inside(string? uri)
        {
            if (uri is null)
                return null;
            if (DataUri.Read(uri) is { } bytes)
                return (Add(new MemoryStream(bytes), 0, bytes.Length), bytes.Length);
            if (!sources.TryGetValue(uri, out var source))
                return null;
            var file = contents[source.Source];
            return (Add(file, 0, file.Length), file.Length);
        }

        // Buffers that stay outside keep a place of their own behind the one that is inside.
        var moved = new List<(int Buffer, long At)>();
        var outside = new List<JsonNode>();
        foreach (var (buffer, i) in Items(root, "buffers"))
        {
            var place =
                i == 0 && binary.Length > 0 && buffer["uri"] is null
                    ? (Add(content, binary.At, binary.Length), binary.Length)
                    : Inside(Text(buffer["uri"]));
            if (place is var (at, _))
                moved.Add((0, at));
            else
            {
                outside.Add(buffer.DeepClone());
                moved.Add((outside.Count, 0));
            }
        }
        var views = Items(root, "bufferViews").Select(v => v.Item).ToList();
        foreach (var view in views)
        {
            Move(view, moved);
            // An extension may hold the same bytes a second time, compressed.
            foreach (var (_, extension) in view["extensions"] as JsonObject ?? [])
            {
                if (extension is JsonObject packed && packed["buffer"] is not null)
                    Move(packed, moved);
            }
        }
        var all = root["bufferViews"] as JsonArray ?? [];
        foreach (var (image, _) in Items(root, "images"))
        {
            if (Inside(Text(image["uri"])) is not var (at, size))
                continue;
            var uri = Text(image["uri"])!;
            var stream = DataUri.Read(uri) is { } bytes ? new MemoryStream(bytes) : contents[sources[uri].Source];
            image["mimeType"] = MediaTypes.Of(stream, sources.GetValueOrDefault(uri)?.Name ?? "");
            image["bufferView"] = all.Count;
            image.Remove("uri");
            all.Add(
                new JsonObject
                {
                    ["buffer"] = 0,
                    ["byteOffset"] = at,
                    ["byteLength"] = size,
                }
            );
        }
        if (length == 0)
        {
            WriteGlb(Read(content).Root, [], 0, output);
            return;
        }
        if (all.Count > 0 && all.Parent is null)
            root["bufferViews"] = all;
        root["buffers"] = new JsonArray([new JsonObject { ["byteLength"] = length }, .. outside]);
        WriteGlb(root, parts, length, output);
    }

    public static IEnumerable<(string Name, byte[] Bytes)> Find(Stream content)
    {
        var (root, binary, _) = Read(content);
        var opened = new Opened(root, content, binary);
        foreach (var (image, _) in Items(root, "images"))
        {
            if (opened.Picture(image) is { Length: > 0 } bytes)
                yield return (Text(image["name"]) ?? "", bytes);
        }
        foreach (var (_, bytes) in opened.Rest())
            yield return ("", bytes);
    }

    public static void PutOut(Stream content, IReadOnlyDictionary<ContentHash, string> paths, Stream output)
    {
        var (root, binary, isGlb) = Read(content);
        var opened = new Opened(root, content, binary);
        var pictures = Items(root, "images").Select(i => (i.Item, Bytes: opened.Picture(i.Item))).ToList();
        // Where pictures leave a buffer, what is left of it is told by what it then holds.
        var rest = opened.Rest().ToList();
        opened.Compact();
        foreach (var (image, bytes) in pictures)
        {
            if (bytes is null)
                continue;
            var isOut = paths.TryGetValue(ContentHash.Of(bytes), out var path);
            image["uri"] = isOut ? path : DataUri.Write(MediaTypes.Of(new MemoryStream(bytes), ""), bytes, "");
            image.Remove("bufferView");
            image.Remove("mimeType");
        }
        foreach (var (buffer, bytes) in rest)
        {
            var told = (JsonObject)((JsonArray)root["buffers"]!)[buffer]!;
            told["byteLength"] = bytes.Length;
            told["uri"] = paths.TryGetValue(ContentHash.Of(bytes), out var path)
                ? path
                : DataUri.Write("application/octet-stream", bytes, "");
        }
        if (isGlb)
            WriteGlb(root, [], 0, output);
        else
            output.Write(LimitedJson.Write(root));
    }

    /// <summary>Without what programs keep for themselves (3.7.2.1, "extras").</summary>
    public static void WithoutExtras(Stream content, Stream output)
    {
        var (root, binary, isGlb) = Read(content);
        Remove(root);
        if (isGlb)
            WriteGlb(root, binary.Length > 0 ? [new Part(content, binary.At, binary.Length)] : [], binary.Length, output);
        else
            output.Write(LimitedJson.Write(root));

        static void Remove(JsonNode? node)
        {
            if (node is JsonObject fields)
            {
                fields.Remove("extras");
                foreach (var (_, value) in fields)
                    Remove(value);
            }
            else if (node is JsonArray items)
            {
                foreach (var item in items)
                    Remove(item);
            }
        }
    }

    /// <summary>The buffers of a file with what lies in them.</summary>
    private sealed class Opened
    {
        private readonly JsonObject root;
        private readonly byte[]?[] buffers;
        private readonly List<JsonObject> views;
        private readonly List<(long From, long End, long At)>[] places;

        // Views that only a picture needs, where nothing else can name them.
        private readonly HashSet<int> leaving = [];

        public Opened(JsonObject root, Stream content, (long At, long Length) binary)
        {
            this.root = root;
            buffers =
            [
                .. Items(root, "buffers")
                    .Select(b =>
                        b.Index == 0 && b.Item["uri"] is null && binary.Length > 0 ? GltfPacker.Bytes(content, binary.At, binary.Length)
                        : Text(b.Item["uri"]) is { } uri ? DataUri.Read(uri)
                        : null
                    ),
            ];
            views = [.. Items(root, "bufferViews").Select(v => v.Item)];
            var used = (root["extensionsUsed"] as JsonArray ?? []).Select(e => Text(e) ?? "");
            if (used.All(e => Plain.Any(p => e.StartsWith(p, StringComparison.Ordinal))) && views.TrueForAll(v => v["extensions"] is null))
            {
                leaving = [.. Items(root, "images").Select(i => Number(i.Item["bufferView"])).OfType<long>().Select(v => (int)v)];
                leaving.ExceptWith(NamedOutsidePictures(root));
                leaving.RemoveWhere(v => v < 0 || v >= views.Count || Bytes(views[v]) is null);
            }
            places = [.. buffers.Select(Places)];
            // Of several buffers none is left empty: others count on its number.
            if (buffers.Length > 1 && Enumerable.Range(0, buffers.Length).Any(b => buffers[b] is not null && places[b].Count == 0))
            {
                leaving.Clear();
                places = [.. buffers.Select(Places)];
            }
        }

        public byte[]? Picture(JsonObject image) =>
            Text(image["uri"]) is { } uri ? DataUri.Read(uri)
            : Number(image["bufferView"]) is { } view && view >= 0 && view < views.Count ? Bytes(views[(int)view])
            : null;

        /// <summary>What is left of each buffer that is inside, without the pictures that leave it.</summary>
        public IEnumerable<(int Buffer, byte[] Bytes)> Rest()
        {
            for (var b = 0; b < buffers.Length; b++)
            {
                if (buffers[b] is { } bytes && Kept(b, bytes) is { Length: > 0 } kept)
                    yield return (b, kept);
            }
        }

        /// <summary>Writes the views anew as they lie in what is left.</summary>
        public void Compact()
        {
            if (leaving.Count == 0)
                return;
            for (var i = 0; i < views.Count; i++)
            {
                var (buffer, offset) = (BufferOf(views[i]), OffsetOf(views[i]));
                if (leaving.Contains(i) || buffer < 0 || buffer >= buffers.Length)
                    continue;
                // What lies outside of its buffer stays as wrong as it was.
                if (places[buffer].Find(p => p.From <= offset && offset < p.End) is { End: > 0 } place)
                    views[i]["byteOffset"] = place.At + offset - place.From;
            }
            var numbers = new Dictionary<long, long>();
            var kept = new JsonArray();
            for (var i = 0; i < views.Count; i++)
            {
                if (leaving.Contains(i))
                    continue;
                numbers[i] = kept.Count;
                kept.Add(views[i].DeepClone());
            }
            root["bufferViews"] = kept;
            if (kept.Count == 0)
                root.Remove("bufferViews");
            Renumber(root, numbers);
            // A buffer of which nothing is left is none.
            if (buffers is [{ }] && places[0].Count == 0)
                root.Remove("buffers");
        }

        private byte[] Kept(int buffer, byte[] bytes)
        {
            if (leaving.Count == 0)
                return bytes;
            var stretches = places[buffer];
            var kept = new byte[stretches.Count == 0 ? 0 : stretches[^1].At + stretches[^1].End - stretches[^1].From];
            foreach (var (from, end, at) in stretches)
                bytes.AsSpan((int)from, (int)(end - from)).CopyTo(kept.AsSpan((int)at));
            return kept;
        }

        // The stretches of a buffer that stay, those that overlap together, and where each then begins.
        private List<(long From, long End, long At)> Places(byte[]? bytes, int buffer)
        {
            if (bytes is null)
                return [];
            var stretches = views
                .Where((v, i) => BufferOf(v) == buffer && !leaving.Contains(i))
                .Select(v => (From: OffsetOf(v), End: Math.Min(bytes.Length, OffsetOf(v) + (Number(v["byteLength"]) ?? 0))))
                .Where(s => s.From >= 0 && s.From < s.End)
                .OrderBy(s => s.From);
            var found = new List<(long From, long End, long At)>();
            foreach (var (from, end) in stretches)
            {
                if (found.Count > 0 && from < found[^1].End)
                {
                    found[^1] = (found[^1].From, Math.Max(found[^1].End, end), found[^1].At);
                    continue;
                }
                var at = found.Count == 0 ? 0 : found[^1].At + found[^1].End - found[^1].From;
                found.Add((from, end, (at + Alignment - 1) / Alignment * Alignment + (from % Alignment)));
            }
            return found;
        }

        private byte[]? Bytes(JsonObject view)
        {
            var (at, size) = (OffsetOf(view), Number(view["byteLength"]) ?? 0);
            return
                BufferOf(view) is >= 0 and var b
                && b < buffers.Length
                && buffers[b] is { } bytes
                && at >= 0
                && size > 0
                && at + size <= bytes.Length
                ? bytes[(int)at..(int)(at + size)]
                : null;
        }

        private static int BufferOf(JsonObject view) => (int)Math.Clamp(Number(view["buffer"]) ?? -1, -1, int.MaxValue);

        private static long OffsetOf(JsonObject view) => Number(view["byteOffset"]) ?? 0;
    }

    private static HashSet<int> NamedOutsidePictures(JsonObject root)
    {
        var named = new HashSet<int>();
        Visit(root, isPictures: false);
        return named;

        void Visit(JsonNode? node, bool isPictures)
        {
            if (node is JsonObject fields)
            {
                foreach (var (name, value) in fields)
                {
                    if (name == "bufferView" && !isPictures && Number(value) is { } view)
                        named.Add((int)Math.Clamp(view, -1, int.MaxValue));
                    else
                        Visit(value, isPictures || (fields == root && name == "images"));
                }
            }
            else if (node is JsonArray items)
            {
                foreach (var item in items)
                    Visit(item, isPictures);
            }
        }
    }

    private static void Renumber(JsonNode? node, Dictionary<long, long> numbers)
    {
        if (node is JsonObject fields)
        {
            if (Number(fields["bufferView"]) is { } view && numbers.TryGetValue(view, out var now))
                fields["bufferView"] = now;
            foreach (var (_, value) in fields.ToList())
                Renumber(value, numbers);
        }
        else if (node is JsonArray items)
        {
            foreach (var item in items)
                Renumber(item, numbers);
        }
    }

    private static void Move(JsonObject view, List<(int Buffer, long At)> moved)
    {
        if (Number(view["buffer"]) is not { } buffer || buffer < 0 || buffer >= moved.Count)
            return;
        var (to, at) = moved[(int)buffer];
        view["buffer"] = to;
        if (at > 0)
            view["byteOffset"] = (Number(view["byteOffset"]) ?? 0) + at;
    }

    private static (JsonObject Root, (long At, long Length) Binary, bool IsGlb) Read(Stream content)
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

    private static void WriteGlb(JsonObject root, List<Part> parts, long length, Stream output)
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

    private static IEnumerable<(JsonObject Item, int Index)> Items(JsonObject root, string name) =>
        (root[name] as JsonArray ?? []).Select((item, i) => (item as JsonObject ?? [], i)).ToList();

    private static string? Text(JsonNode? node) => node is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

    private static long? Number(JsonNode? node) => node is JsonValue value && value.TryGetValue<long>(out var number) ? number : null;

    private static byte[] Bytes(Stream stream, long at, long length)
    {
        if (length > Limits.SceneBytes)
            throw new UnreadableFileException(FileFaultCode.PartsTooLarge);
        var bytes = new byte[length];
        stream.Position = at;
        if (stream.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false) < bytes.Length)
            throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, "BIN"));
        return bytes;
    }

    private sealed record Part(Stream Source, long From, long Length);
}
