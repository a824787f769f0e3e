using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using static Chronotype.Formats.Rewriting.GltfTree;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Puts what stands in one scene into another, under a node of its own: its parts are counted on behind those that are there (glTF 2.0, 5),
/// and its buffer inside lies behind the one that is there.
/// </summary>
internal static class GltfJoiner
{
    // What extensions keep for the whole file, the list of it, and where parts name places in that list.
    private static readonly (string Extension, string List, string Name)[] Shared =
    [
        ("KHR_lights_punctual", "lights", "light"),
        ("KHR_materials_variants", "variants", "variants"),
    ];

    /// <param name="name">Of the node that all comes under.</param>
    /// <param name="source">What is put in, all of it.</param>
    /// <returns>How many nodes there are then.</returns>
    /// <exception cref="UnreadableFileException">One holds an extension that may name parts in ways that are not known here.</exception>
    public static int Join(Stream target, Stream source, string name, Stream output)
    {
        var (into, binary, isGlb) = Read(target);
        var (from, other, _) = Read(source);
        if (!GltfLinks.AreKnown(into) || !GltfLinks.AreKnown(from))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        if ((from["extensions"] as JsonObject ?? []).Any(e => Shared.All(s => s.Extension != e.Key)))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);

        var before = GltfLinks.Lists.ToDictionary(l => l, l => Items(into, l).Count());
        var parts = new List<Part>();
        var length = binary.Length;
        if (isGlb && binary.Length > 0)
            parts.Add(new Part(target, binary.At, binary.Length));
        var buffers = Buffers(into, from, isGlb, ref length, parts, source, other);

        CountOn(from, before, buffers);
        foreach (var (extension, list, named) in Shared)
            Share(into, from, extension, list, named);
        var tops = Tops(from, before["nodes"]);
        foreach (var list in GltfLinks.Lists.Where(l => l != "buffers").Append("animations"))
            Append(into, list, Items(from, list).Select(i => (JsonNode)i.Item.DeepClone()));
        foreach (var list in (string[])["extensionsUsed", "extensionsRequired"])
        {
            var said = (into[list] as JsonArray ?? []).Select(Text).ToHashSet();
            Append(into, list, (from[list] as JsonArray ?? []).Where(e => said.Add(Text(e))).Select(e => e!.DeepClone()));
        }
        Append(into, "nodes", [new JsonObject { ["name"] = name, ["children"] = new JsonArray([.. tops.Select(t => (JsonNode)t)]) }]);
        var nodes = Items(into, "nodes").Count();
        Stand(into, nodes - 1);
        if (isGlb)
            WriteGlb(into, parts, length, output);
        else
            output.Write(LimitedJson.Write(into));
        return nodes;
    }

    // Where each buffer of the other is to be found: its number, and how far in it begins.
    private static List<(int Number, long Offset)> Buffers(
        JsonObject into,
        JsonObject from,
        bool isGlb,
        ref long length,
        List<Part> parts,
        Stream source,
        (long At, long Length) binary
    )
    {
        var found = new List<(int, long)>();
        foreach (var (buffer, index) in Items(from, "buffers"))
        {
            var count = Items(into, "buffers").Count();
            var isInside = index == 0 && buffer["uri"] is null;
            if (!isInside)
            {
                Append(into, "buffers", [buffer.DeepClone()]);
                found.Add((count, 0));
                continue;
            }
            // Only the first buffer can be the one inside (4.4.3.1).
            var first = Items(into, "buffers").FirstOrDefault().Item;
            if (isGlb && (first is null || (first["uri"] is null && parts.Count > 0)))
            {
                var at = (length + Alignment - 1) / Alignment * Alignment;
                parts.Add(new Part(source, binary.At, binary.Length));
                length = at + binary.Length;
                if (first is null)
                    Append(into, "buffers", [new JsonObject()]);
                Items(into, "buffers").First().Item["byteLength"] = length;
                found.Add((0, at));
                continue;
            }
            var copy = (JsonObject)buffer.DeepClone();
            copy["uri"] = $"data:application/octet-stream;base64,{Convert.ToBase64String(Bytes(source, binary.At, binary.Length))}";
            Append(into, "buffers", [copy]);
            found.Add((count, 0));
        }
        return found;
    }

    private static void CountOn(JsonObject from, Dictionary<string, int> before, List<(int Number, long Offset)> buffers)
    {
        foreach (var (view, _) in Items(from, "bufferViews"))
        {
            // Where a view tells its buffer, and where an extension does, which has an offset of its own.
            foreach (var link in GltfLinks.Of("bufferViews", view).ToList())
            {
                if (link.To >= buffers.Count)
                    throw new UnreadableFileException(FileFaultCode.NotUnderstood);
                var (number, offset) = buffers[link.To];
                var holder = (JsonObject)link.Holder;
                if (offset > 0)
                    holder["byteOffset"] = (Number(holder["byteOffset"]) ?? 0) + offset;
                link.Set(number);
            }
        }
        var parts = GltfLinks
            .Lists.Where(l => l is not ("buffers" or "bufferViews"))
            .Append("scenes")
            .Append("animations")
            .SelectMany(l => Items(from, l).Select(i => (List: l, Part: i.Item)));
        foreach (var link in parts.SelectMany(p => GltfLinks.Of(p.List, p.Part)).ToList())
            link.Set(link.To + before[link.Of]);
    }

    private static void Share(JsonObject into, JsonObject from, string extension, string list, string named)
    {
        if (Field(from, "extensions", extension, list) is not JsonArray { Count: > 0 } more)
            return;
        if (into["extensions"] is not JsonObject extensions)
            into["extensions"] = extensions = [];
        if (extensions[extension] is not JsonObject shared)
            extensions[extension] = shared = [];
        var count = (shared[list] as JsonArray)?.Count ?? 0;
        foreach (var holder in Items(from, "nodes").Concat(Items(from, "meshes")).SelectMany(i => Holders(i.Item, extension)))
        {
            if (Number(holder[named]) is { } one)
                holder[named] = one + count;
            else if (holder[named] is JsonArray several)
                holder[named] = new JsonArray([.. several.Select(n => (JsonNode)((Number(n) ?? 0) + count))]);
        }
        Append(shared, list, more.Select(m => m!.DeepClone()));
    }

    // A light stands in a node; what a variant wears, in the mappings of a primitive.
    private static IEnumerable<JsonObject> Holders(JsonObject part, string extension)
    {
        if (Field(part, "extensions", extension) is JsonObject own)
            yield return own;
        foreach (var primitive in (part["primitives"] as JsonArray ?? []).OfType<JsonObject>())
        {
            foreach (var mapping in (Field(primitive, "extensions", extension, "mappings") as JsonArray ?? []).OfType<JsonObject>())
                yield return mapping;
        }
    }

    // What stands under no other, counted on.
    private static List<long> Tops(JsonObject from, int before)
    {
        var nodes = Items(from, "nodes").ToList();
        var under = nodes.SelectMany(n => (n.Item["children"] as JsonArray ?? []).Select(Number)).OfType<long>().ToHashSet();
        return [.. nodes.Select(n => (long)n.Index + before).Where(n => !under.Contains(n))];
    }

    private static void Stand(JsonObject into, int node)
    {
        if (Items(into, "scenes").FirstOrDefault().Item is null)
        {
            into["scenes"] = new JsonArray(new JsonObject());
            into["scene"] = 0L;
        }
        var scenes = Items(into, "scenes").ToList();
        var shown = (int)Math.Clamp(Number(into["scene"]) ?? 0, 0, scenes.Count - 1);
        Append(scenes[shown].Item, "nodes", [(long)node]);
    }

    private static void Append(JsonObject holder, string list, IEnumerable<JsonNode> items)
    {
        var more = items.ToList();
        if (more.Count == 0)
            return;
        if (holder[list] is not JsonArray all)
            holder[list] = all = [];
        foreach (var item in more)
            all.Add(item);
    }
}
