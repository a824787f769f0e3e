using System.Text.Json.Serialization;

namespace Chronotype.Core.Content;

/// <summary>What a scene is made of.</summary>
public enum ScenePartKind
{
    /// <summary>Something that stands in the scene: a mesh, a light, a camera, a joint, or others under it.</summary>
    Node,

    /// <summary>A surface made of triangles.</summary>
    Mesh,

    /// <summary>How a surface looks.</summary>
    Material,

    /// <summary>What moves over time.</summary>
    Animation,

    /// <summary>From where it is looked at.</summary>
    Camera,

    /// <summary>A picture laid on surfaces.</summary>
    Picture,
}

/// <summary>One part of a scene.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Name">As its maker named it, or its kind and number. Not trusted.</param>
/// <param name="Index">Its place among those of its kind, from 0.</param>
public sealed record ScenePart(ScenePartKind Kind, string Name, int Index)
{
    /// <summary>Equal for two parts of one kind that are made the same, whatever they are called and wherever they stand.</summary>
    public ContentHash? Made { get; init; }

    /// <summary>Of a node, the name of the one that it stands under; empty at the top.</summary>
    public string Under { get; init; } = "";

    /// <summary>Of a node, where and how it stands: the 16 numbers of its matrix, by columns; null for any other.</summary>
    public IReadOnlyList<double>? Stands { get; init; }

    /// <summary>Of a mesh, its triangles.</summary>
    public long Triangles { get; init; }

    /// <summary>Of a mesh, its corners.</summary>
    public long Vertices { get; init; }

    /// <summary>Of a mesh, the materials on it; of a node, what hangs on it.</summary>
    public string Uses { get; init; } = "";

    /// <summary>Of an animation, how long it plays, in seconds.</summary>
    public double Seconds { get; init; }

    /// <summary>Of an animation, its keys.</summary>
    public long Keys { get; init; }
}

/// <summary>A scene in space.</summary>
/// <param name="Parts">In the order of the file, kind by kind.</param>
/// <param name="Unit">What one unit of length is.</param>
public sealed record SceneFacts(IReadOnlyList<ScenePart> Parts, string Unit)
{
    /// <summary>Its triangles, each mesh as often as it stands in the scene.</summary>
    public long Triangles { get; init; }

    /// <summary>How many parts of a kind there are.</summary>
    public int Count(ScenePartKind kind) => Parts.Count(p => p.Kind == kind);

    /// <summary>The places, among its parts, of the nodes that stand under no other.</summary>
    [JsonIgnore]
    public IReadOnlyList<int> Tops => [.. Enumerable.Range(0, Parts.Count).Where(i => Parts[i] is { Kind: ScenePartKind.Node, Under: "" })];
}
