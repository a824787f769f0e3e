using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using static Chronotype.Formats.Rewriting.GltfTree;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Buffers and pictures of a glTF in one binary chunk of a GLB, and out of it again (glTF 2.0, 3.6 and 4.4). What else stands in its
/// JSON stays, and is written anew.
/// </summary>
internal static class GltfPacker
{
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
        var opened = new GltfBuffers(root, content, binary);
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
        var opened = new GltfBuffers(root, content, binary);
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

    private static void Move(JsonObject view, List<(int Buffer, long At)> moved)
    {
        if (Number(view["buffer"]) is not { } buffer || buffer < 0 || buffer >= moved.Count)
            return;
        var (to, at) = moved[(int)buffer];
        view["buffer"] = to;
        if (at > 0)
            view["byteOffset"] = (Number(view["byteOffset"]) ?? 0) + at;
    }
}
