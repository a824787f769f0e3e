using System.Text.Json.Nodes;
using static Chronotype.Formats.Rewriting.GltfTree;

namespace Chronotype.Formats.Rewriting;

/// <summary>The buffers of a file with what lies in them.</summary>
internal sealed class GltfBuffers
{
    // What is known to name views by "bufferView" alone, so that views can be counted anew.
    private static readonly string[] Plain = ["KHR_", "EXT_texture_webp", "EXT_mesh_gpu_instancing"];

    private readonly JsonObject root;
    private readonly byte[]?[] buffers;
    private readonly List<JsonObject> views;
    private readonly List<(long From, long End, long At)>[] places;

    // Views that only a picture needs, where nothing else can name them.
    private readonly HashSet<int> leaving = [];

    public GltfBuffers(JsonObject root, Stream content, (long At, long Length) binary)
    {
        this.root = root;
        buffers =
        [
            .. Items(root, "buffers")
                .Select(b =>
                    b.Index == 0 && b.Item["uri"] is null && binary.Length > 0 ? GltfTree.Bytes(content, binary.At, binary.Length)
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
}
