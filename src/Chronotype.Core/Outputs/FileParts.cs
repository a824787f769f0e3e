using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>What of a file stands by itself, and can be taken without the rest.</summary>
public static class FileParts
{
    /// <summary>
    /// Layers that are no groups, tracks, or nodes that stand under no other; by their places in what was read. Empty for a file that
    /// cannot be parted.
    /// </summary>
    /// <param name="facts">Of the file.</param>
    public static IReadOnlyList<int> Of(FileFacts facts) =>
        facts.Format switch
        {
            FileFormat.OpenRaster or FileFormat.Svg =>
            [
                .. Enumerable.Range(0, facts.Layers.Count).Where(i => facts.Layers[i].Kind != LayerKind.Group),
            ],
            FileFormat.Gltf => facts.Scene?.Tops ?? [],
            FileFormat.Timeline => [.. Enumerable.Range(0, facts.Timeline?.Tracks.Count ?? 0)],
            _ => [],
        };

    /// <summary>What a part can be chosen by, in the order in which parts stand, each name once: layers and groups, nodes.</summary>
    /// <param name="facts">Of a picture, a drawing or a scene.</param>
    public static IReadOnlyList<string> Names(FileFacts facts) => [.. Named(facts).Select(p => p.Name).Distinct()];

    /// <summary>The parts that have names, in groups or by themselves.</summary>
    /// <param name="facts">Of a picture, a drawing or a scene.</param>
    /// <param name="names">Of a group, all that is in it. Of several that have a name, all.</param>
    /// <returns>As <see cref="Of"/> tells places; null where one of the names is not in it.</returns>
    public static IReadOnlyList<int>? Find(FileFacts facts, IReadOnlyList<string> names)
    {
        var named = Named(facts).ToList();
        if (names.Count == 0 || !names.All(n => named.Exists(p => p.Name == n)))
            return null;
        return [.. named.Where(p => names.Contains(p.Name)).SelectMany(p => p.Places).Distinct().Order()];
    }

    /// <summary>What a part is called.</summary>
    /// <param name="facts">Of the file.</param>
    /// <param name="place">As <see cref="Of"/> tells it.</param>
    public static string NameOf(FileFacts facts, int place) =>
        facts.Scene is { } scene ? scene.Parts[place].Name
        : facts.Timeline is { } timeline ? timeline.Tracks[place].Name
        : facts.Layers[place].Name;

    /// <summary>What would be read in a file with some of its layers alone, as far as layers go.</summary>
    /// <param name="facts">Of the file.</param>
    /// <param name="chosen">As <see cref="Of"/> tells places.</param>
    public static FileFacts With(FileFacts facts, IReadOnlyList<int> chosen) =>
        facts.Layers.Count == 0 ? facts : facts with { Layers = [.. chosen.Select(i => facts.Layers[i])] };

    private static IEnumerable<(string Name, IReadOnlyList<int> Places)> Named(FileFacts facts)
    {
        if (facts.Format == FileFormat.Gltf)
            return Of(facts).Select(i => (facts.Scene!.Parts[i].Name, (IReadOnlyList<int>)[i]));
        if (facts.Format is not (FileFormat.OpenRaster or FileFormat.Svg))
            return [];
        var layers = facts.Layers;
        return Enumerable
            .Range(0, layers.Count)
            .Select(i =>
                (
                    layers[i].Name,
                    (IReadOnlyList<int>)
                        [
                            .. layers[i].Kind != LayerKind.Group
                                ? [i]
                                : Enumerable
                                    .Range(i + 1, layers.Count - i - 1)
                                    .TakeWhile(k => layers[k].Depth > layers[i].Depth)
                                    .Where(k => layers[k].Kind != LayerKind.Group),
                        ]
                )
            );
    }
}
