using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using static Chronotype.Formats.Rewriting.GltfTree;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Some of what stands in a scene, without the rest: its surfaces, materials, pictures and movements, and of each buffer inside the bytes
/// that these need. A buffer in a file of its own is not touched.
/// </summary>
internal sealed class GltfCutter
{
    private readonly JsonObject root;
    private readonly Dictionary<string, List<JsonObject>> lists;
    private readonly Dictionary<string, SortedSet<int>> kept;

    private GltfCutter(JsonObject root)
    {
        this.root = root;
        lists = GltfLinks.Lists.ToDictionary(l => l, l => Items(root, l).Select(i => i.Item).ToList());
        kept = GltfLinks.Lists.ToDictionary(l => l, _ => new SortedSet<int>());
    }

    /// <param name="chosen">Numbers of nodes that stand under none; all that stands under them stays.</param>
    /// <returns>The numbers, as they were, of all nodes that stay.</returns>
    /// <exception cref="UnreadableFileException">It holds an extension that may name parts in ways that are not known here.</exception>
    public static IReadOnlyCollection<int> Keep(Stream content, IReadOnlyCollection<int> chosen, Stream output)
    {
        var (root, binary, isGlb) = Read(content);
        if (!GltfLinks.AreKnown(root))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        var cutter = new GltfCutter(root);
        var nodes = cutter.Choose(chosen);
        cutter.CutAnimations(nodes);
        cutter.CutScenes(nodes);
        var stretches = new GltfStretches(cutter.lists["bufferViews"], cutter.lists["buffers"], content, binary);
        cutter.CutViews(stretches);
        var inside = stretches.Write(cutter.kept["buffers"]);
        cutter.Renumber();
        foreach (var list in GltfLinks.Lists)
            Set(root, list, cutter.kept[list].Select(i => (JsonNode)cutter.lists[list][i].DeepClone()));
        if (isGlb)
            WriteGlb(root, inside is null ? [] : [new Part(new MemoryStream(inside), 0, inside.Length)], inside?.Length ?? 0, output);
        else
            output.Write(LimitedJson.Write(root));
        return nodes;
    }

    // What is chosen, what it needs, and the way down to what it needs that stands elsewhere, such as the joints of a skin.
    private HashSet<int> Choose(IReadOnlyCollection<int> chosen)
    {
        var parent = new Dictionary<int, int>();
        for (var i = 0; i < lists["nodes"].Count; i++)
        {
            foreach (var child in GltfLinks.Of("nodes", lists["nodes"][i]).Where(l => l.Of == "nodes"))
                parent.TryAdd(child.To, i);
        }
        var open = new Stack<(string List, int At)>(chosen.Select(c => ("nodes", c)));
        while (open.TryPop(out var at))
        {
            if (at.At >= lists[at.List].Count)
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
            if (!kept[at.List].Add(at.At))
                continue;
            foreach (var link in GltfLinks.Of(at.List, lists[at.List][at.At]))
                open.Push((link.Of, link.To));
        }
        // Of what only leads down to something nothing else stays: no mesh, no other child.
        foreach (var node in kept["nodes"].ToList())
        {
            for (var up = node; parent.TryGetValue(up, out var above) && kept["nodes"].Add(above); up = above)
            {
                var bare = lists["nodes"][above];
                foreach (var name in (string[])["mesh", "skin", "camera", "weights"])
                    bare.Remove(name);
            }
        }
        foreach (var node in kept["nodes"])
            Filter(lists["nodes"][node], "children", kept["nodes"]);
        return [.. kept["nodes"]];
    }

    private void CutAnimations(HashSet<int> nodes)
    {
        var stay = new List<JsonNode>();
        foreach (var (animation, _) in Items(root, "animations"))
        {
            var channels = (animation["channels"] as JsonArray ?? [])
                .OfType<JsonObject>()
                .Where(c => Number(Field(c, "target", "node")) is { } node && nodes.Contains((int)Math.Clamp(node, -1, int.MaxValue)))
                .Select(c => (JsonObject)c.DeepClone())
                .ToList();
            if (channels.Count == 0)
                continue;
            var samplers = animation["samplers"] as JsonArray ?? [];
            var used = channels.Select(c => (int)(Number(c["sampler"]) ?? -1)).Distinct().Order().ToList();
            if (used.Any(s => s < 0 || s >= samplers.Count))
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
            foreach (var channel in channels)
                channel["sampler"] = (long)used.IndexOf((int)Number(channel["sampler"])!.Value);
            var cut = (JsonObject)animation.DeepClone();
            cut["channels"] = new JsonArray([.. channels]);
            cut["samplers"] = new JsonArray([.. used.Select(s => samplers[s]!.DeepClone())]);
            foreach (var link in GltfLinks.Of("animations", cut).Where(l => l.Of == "accessors"))
                Reach(link);
            stay.Add(cut);
        }
        Set(root, "animations", stay);
    }

    private void CutScenes(HashSet<int> nodes)
    {
        foreach (var (scene, _) in Items(root, "scenes"))
            Filter(scene, "nodes", nodes);
    }

    private void CutViews(GltfStretches stretches)
    {
        var links = GltfLinks
            .Lists.Where(l => l != "bufferViews")
            .SelectMany(l => kept[l].Select(i => (Part: lists[l][i], List: l)))
            .SelectMany(p => GltfLinks.Of(p.List, p.Part).Select(l => (Link: l, p.Part, p.List)))
            .Where(l => l.Link.Of == "bufferViews")
            .ToLookup(l => l.Link.To);
        foreach (var view in kept["bufferViews"].ToList())
        {
            // An accessor names its view itself; a picture, a packed mesh and what differs from an accessor need the whole.
            var accessors = links[view].Where(l => l.List == "accessors" && l.Link.Holder == l.Part).Select(l => l.Part).ToList();
            kept["bufferViews"].Remove(view);
            kept["bufferViews"].UnionWith(stretches.Cut(view, accessors, isWhole: accessors.Count < links[view].Count()));
        }
    }

    private void Reach(GltfLink link)
    {
        if (link.To >= lists[link.Of].Count)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        if (!kept[link.Of].Add(link.To))
            return;
        foreach (var next in GltfLinks.Of(link.Of, lists[link.Of][link.To]))
            Reach(next);
    }

    private void Renumber()
    {
        var numbers = kept.ToDictionary(k => k.Key, k => k.Value.Select((old, now) => (old, now)).ToDictionary(n => n.old, n => n.now));
        var parts = GltfLinks
            .Lists.SelectMany(l => kept[l].Select(i => (List: l, Part: lists[l][i])))
            .Concat(Items(root, "scenes").Select(s => (List: "scenes", Part: s.Item)))
            .Concat(Items(root, "animations").Select(a => (List: "animations", Part: a.Item)));
        foreach (var link in parts.SelectMany(p => GltfLinks.Of(p.List, p.Part)).ToList())
            link.Set(numbers[link.Of][link.To]);
    }

    private static void Set(JsonObject holder, string name, IEnumerable<JsonNode> items)
    {
        var all = items.ToArray();
        // An empty list is not allowed to be one (5.1).
        if (all.Length == 0)
            holder.Remove(name);
        else
            holder[name] = new JsonArray(all);
    }

    private static void Filter(JsonObject part, string name, IReadOnlySet<int> stay)
    {
        if (part[name] is not JsonArray items)
            return;
        var left = items.Where(i => Number(i) is { } n && stay.Contains((int)Math.Clamp(n, -1, int.MaxValue))).Select(i => i!.DeepClone());
        var all = left.ToArray();
        if (all.Length == 0)
            part.Remove(name);
        else
            part[name] = new JsonArray(all);
    }
}
