using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Writes a file anew with some of its parts: layers of an OpenRaster picture or an SVG, tracks of a timeline, what stands in a scene. And
/// without what its maker's program keeps in it for itself.
/// </summary>
public static class CarriedParts
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="chosen">What stays, as <see cref="FileParts.Of"/> tells places. A group stays for what stays in it.</param>
    /// <param name="output">Gets the new file; left open.</param>
    /// <exception cref="UnreadableFileException">The file cannot be read, or not be parted without changing more than was asked.</exception>
    public static void Keep(Stream content, IReadOnlySet<int> chosen, Stream output, CancellationToken cancel = default)
    {
        var before = FormatReader.ReadSound(content, cancel);
        var parts = FileParts.Of(before);
        if (parts.Count == 0 || !parts.Any(chosen.Contains))
            throw new UnreadableFileException(FileFaultCode.NoLayers);
        content.Position = 0;
        using var made = TemporaryFile.Open();
        IReadOnlyCollection<int> nodes = [];
        switch (before.Format)
        {
            case FileFormat.Gltf:
                nodes = GltfCutter.Keep(content, [.. parts.Where(chosen.Contains).Select(i => before.Scene!.Parts[i].Index)], made);
                break;
            case FileFormat.OpenRaster:
                OpenRasterCutter.Without(content, Gone(before.Layers, chosen), made);
                break;
            case FileFormat.Svg:
                SvgCutter.Without(content, Gone(before.Layers, chosen).Select(i => before.Layers[i].Source).ToHashSet(), made);
                break;
            case FileFormat.Timeline:
                KeepTracks(content, chosen, made);
                break;
            default:
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
        var after = FormatReader.ReadSound(made, cancel);
        var isAsAsked = before.Format switch
        {
            FileFormat.Timeline => after.Timeline!.Tracks.Count == parts.Count(chosen.Contains),
            FileFormat.Gltf => Nodes(after).SequenceEqual(Nodes(before).Where((_, i) => nodes.Contains(i))),
            _ => Leaves(after.Layers).SequenceEqual(parts.Where(chosen.Contains).Select(i => before.Layers[i].Pixels)),
        };
        if (!isAsAsked)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }

    /// <summary>Without what is for its maker's program alone: namespaced elements and attributes of an SVG, <c>extras</c> of a glTF.</summary>
    /// <inheritdoc cref="Keep"/>
    public static void WithoutSettings(Stream content, Stream output, CancellationToken cancel = default)
    {
        var before = FormatReader.ReadSound(content, cancel);
        content.Position = 0;
        using var made = TemporaryFile.Open();
        switch (before.Format)
        {
            case FileFormat.Svg:
                SvgCutter.WithoutSettings(content, made);
                break;
            case FileFormat.Gltf:
                GltfPacker.WithoutExtras(content, made);
                break;
            default:
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
        var after = FormatReader.ReadSound(made, cancel);
        if (
            !after.References.Select(r => r.Written).SequenceEqual(before.References.Select(r => r.Written))
            || !after.Layers.Select(l => l.Name).SequenceEqual(before.Layers.Select(l => l.Name))
        )
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }

    private static IEnumerable<ContentHash?> Leaves(IReadOnlyList<LayerFacts> layers) =>
        layers.Where(l => l.Kind != LayerKind.Group).Select(l => l.Pixels);

    // What stands where, by how it is made: a node that has no name is called by its number, and that changes.
    private static IEnumerable<(ContentHash? Made, string Stands)> Nodes(FileFacts facts) =>
        facts.Scene!.Parts.Where(p => p.Kind == ScenePartKind.Node).Select(p => (p.Made, string.Join(' ', p.Stands ?? [])));

    // A group goes when nothing in it stays.
    private static HashSet<int> Gone(IReadOnlyList<LayerFacts> layers, IReadOnlySet<int> chosen)
    {
        var gone = new HashSet<int>();
        for (var i = layers.Count - 1; i >= 0; i--)
        {
            var inner = Enumerable.Range(i + 1, layers.Count - i - 1).TakeWhile(k => layers[k].Depth > layers[i].Depth);
            if (layers[i].Kind == LayerKind.Group ? inner.All(gone.Contains) : !chosen.Contains(i))
                gone.Add(i);
        }
        return gone;
    }

    // OpenTimelineIO: a timeline's stack holds its tracks, from the lowest up.
    private static void KeepTracks(Stream content, IReadOnlySet<int> chosen, Stream output)
    {
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        var root = LimitedJson.Tree(bytes);
        // A file may hold the stack alone.
        if ((root["tracks"] as JsonObject ?? root)["children"] is not JsonArray tracks)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        for (var i = tracks.Count - 1; i >= 0; i--)
        {
            if (!chosen.Contains(i))
                tracks.RemoveAt(i);
        }
        output.Write(LimitedJson.Write(root, isIndented: true));
    }
}
