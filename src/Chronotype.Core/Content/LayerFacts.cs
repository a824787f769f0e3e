namespace Chronotype.Core.Content;

/// <summary>What a layer holds.</summary>
public enum LayerKind
{
    /// <summary>Pixels of its own.</summary>
    Pixels,

    /// <summary>Other layers.</summary>
    Group,

    /// <summary>Outlines.</summary>
    Drawing,

    /// <summary>Text that can be edited.</summary>
    Text,

    /// <summary>A picture, embedded or linked.</summary>
    Picture,
}

/// <summary>One layer of a picture, or a group of them.</summary>
/// <param name="Kind">What it holds.</param>
/// <param name="Name">As its maker named it. Not trusted.</param>
/// <param name="Depth">In how many groups it lies.</param>
public sealed record LayerFacts(LayerKind Kind, string Name, int Depth = 0)
{
    /// <summary>Where in the file it stands: the entry that holds its pixels, or the way to its element.</summary>
    public string Source { get; init; } = "";

    /// <summary>Where its stored picture begins, in pixels from the canvas's left edge; may lie outside.</summary>
    public int X { get; init; }

    /// <summary>As <see cref="X"/>, from the top edge.</summary>
    public int Y { get; init; }

    /// <summary>What of it is painted; null where nothing is, or where that is not read.</summary>
    public PixelBox? Bounds { get; init; }

    /// <summary>How many pixels are painted, those that are wholly transparent not counted; 0 where that is not read.</summary>
    public long Area { get; init; }

    /// <summary>Its own switch. It is not seen either where a group that it lies in is hidden.</summary>
    public bool Visible { get; init; } = true;

    /// <summary>0 to 1.</summary>
    public double Opacity { get; init; } = 1;

    /// <summary>
    /// How it is laid over what is below, as Compositing and Blending Level 1 (W3C) calls it; a word of the file's own where that has no
    /// name for it. Not trusted.
    /// </summary>
    public string Blend { get; init; } = Normal;

    /// <summary>
    /// Equal for two layers whose painted pixels are the same, wherever they stand and however they are compressed; null where nothing
    /// is painted. For a layer without pixels, of what describes it.
    /// </summary>
    public ContentHash? Pixels { get; init; }

    /// <summary>Its words, where it is text. Not trusted.</summary>
    public string? Text { get; init; }

    /// <summary>Laid over what is below as it is.</summary>
    public const string Normal = "normal";
}

/// <summary>A layer at its place in the tree.</summary>
/// <param name="Facts">The layer itself.</param>
/// <param name="Index">Its place in the list.</param>
/// <param name="Parent">The place of the group it lies in; -1 at the top.</param>
/// <param name="Group">The names of the groups it lies in, joined by <c> / </c>; empty at the top.</param>
/// <param name="Shown">How much of it is seen, from 0 to 1: 0 where it or a group that it lies in is hidden, else their opacities.</param>
public sealed record LayerNode(LayerFacts Facts, int Index, int Parent, string Group, double Shown)
{
    /// <summary>The list of <see cref="FileFacts.Layers"/> as the tree that it is.</summary>
    public static IReadOnlyList<LayerNode> Of(IReadOnlyList<LayerFacts> layers)
    {
        var nodes = new List<LayerNode>(layers.Count);
        var open = new Stack<LayerNode>();
        for (var i = 0; i < layers.Count; i++)
        {
            while (open.Count > Math.Max(0, layers[i].Depth))
                open.Pop();
            var parent = open.TryPeek(out var group) ? group : null;
            var path =
                parent is null ? ""
                : parent.Group.Length == 0 ? parent.Facts.Name
                : $"{parent.Group} / {parent.Facts.Name}";
            var node = new LayerNode(
                layers[i],
                i,
                parent?.Index ?? -1,
                path,
                (layers[i].Visible ? layers[i].Opacity : 0) * (parent?.Shown ?? 1)
            );
            nodes.Add(node);
            if (layers[i].Kind == LayerKind.Group)
                open.Push(node);
        }
        return nodes;
    }
}
