using System.Text;
using System.Text.Json;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Scenes;

/// <summary>What a glTF scene is made of, and what it refers to.</summary>
internal sealed class GltfReading
{
    private const int MostParts = 100_000;

    private readonly GltfFile file;
    private readonly List<ScenePart> parts = [];
    private readonly List<ReferenceFacts> references = [];

    public GltfReading(GltfFile file, CancellationToken cancel)
    {
        this.file = file;
        if (file.Root.ValueKind != JsonValueKind.Object || file.Root.Get("asset") is null)
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);
        Pictures();
        Materials();
        Meshes(cancel);
        Cameras();
        var triangles = Nodes(cancel);
        Animations(cancel);
        Refer("buffers");
        // Section 3.6: one unit is a metre.
        Scene = new SceneFacts([.. parts.OrderBy(p => p.Kind).ThenBy(p => p.Index)], "metre") { Triangles = triangles };
    }

    public SceneFacts Scene { get; }

    public IReadOnlyList<ReferenceFacts> References => references;

    private IReadOnlyList<JsonElement> All(string name)
    {
        var all = file.Root.Items(name).ToList();
        return all.Count <= MostParts ? all : throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyParts, "", MostParts));
    }

    private void Add(ScenePartKind kind, JsonElement told, int index, Func<ScenePart, ScenePart> more) =>
        parts.Add(more(new ScenePart(kind, told.Text("name") is { Length: > 0 } name ? name : $"{kind} {index + 1}", index)));

    private static ContentHash Hash(string text) => ContentHash.Of(Encoding.UTF8.GetBytes(text));

    // All that is written of a part but its name.
    private static string Written(JsonElement told) =>
        told.ValueKind != JsonValueKind.Object
            ? told.GetRawText()
            : string.Join(
                ',',
                told.EnumerateObject()
                    .Where(p => p.Name != "name")
                    .OrderBy(p => p.Name, StringComparer.Ordinal)
                    .Select(p => $"{p.Name}:{p.Value.GetRawText()}")
            );

    private void Refer(string list)
    {
        var index = 0;
        foreach (var told in file.Root.Items(list))
        {
            var place = $"/{list}/{index++}/uri";
            if (references.Count >= Limits.References || told.Get("uri") is not { ValueKind: JsonValueKind.String } uri)
                continue;
            var written = uri.GetString()!;
            references.Add(
                written.StartsWith("data:", StringComparison.OrdinalIgnoreCase)
                    ? new ReferenceFacts("", place, (written.Length - written.IndexOf(',', StringComparison.Ordinal) - 1) * 3L / 4)
                    : new ReferenceFacts(told.Text("uri"), place)
            );
        }
    }

    private void Pictures()
    {
        var all = All("images");
        for (var i = 0; i < all.Count; i++)
        {
            var bytes = all[i].Index("bufferView") is { } view ? file.Bytes(view) : null;
            Add(ScenePartKind.Picture, all[i], i, p => p with { Made = bytes is null ? Hash(Written(all[i])) : ContentHash.Of(bytes) });
        }
        Refer("images");
    }

    private void Materials()
    {
        var all = All("materials");
        for (var i = 0; i < all.Count; i++)
            Add(ScenePartKind.Material, all[i], i, p => p with { Made = Hash(Written(all[i])) });
    }

    private void Meshes(CancellationToken cancel)
    {
        var all = All("meshes");
        var named = parts.Where(p => p.Kind == ScenePartKind.Material).Select(p => p.Name).ToList();
        for (var i = 0; i < all.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var made = new StringBuilder();
            var materials = new List<string>();
            long triangles = 0,
                vertices = 0;
            foreach (var primitive in all[i].Items("primitives"))
            {
                var mode = primitive.Index("mode") ?? 4;
                var attributes = primitive.Get("attributes") is { ValueKind: JsonValueKind.Object } a
                    ? a.EnumerateObject().OrderBy(p => p.Name, StringComparer.Ordinal).ToList()
                    : [];
                var corners = Count(primitive.Get("attributes")?.Index("POSITION"));
                var drawn = primitive.Index("indices") is { } indices ? Count(indices) : corners;
                vertices += corners;
                triangles += mode switch
                {
                    4 => drawn / 3,
                    5 or 6 => Math.Max(0, drawn - 2),
                    _ => 0,
                };
                made.Append(mode);
                foreach (var attribute in attributes)
                    made.Append(attribute.Name).Append(file.Hash(attribute.Value.TryGetInt32(out var n) && n >= 0 ? n : null));
                made.Append(file.Hash(primitive.Index("indices"))).Append(';');
                materials.Add(primitive.Index("material") is { } m && m < named.Count ? named[m] : "");
            }
            Add(
                ScenePartKind.Mesh,
                all[i],
                i,
                p =>
                    p with
                    {
                        Made = Hash(made.ToString()),
                        Triangles = triangles,
                        Vertices = vertices,
                        Uses = string.Join(", ", materials.Where(m => m.Length > 0).Distinct()),
                    }
            );
        }
    }

    private long Count(int? accessor) => accessor is { } i && i < file.Accessors.Count ? file.Accessors[i].Index("count") ?? 0 : 0;

    private void Cameras()
    {
        var all = All("cameras");
        for (var i = 0; i < all.Count; i++)
            Add(ScenePartKind.Camera, all[i], i, p => p with { Made = Hash(Written(all[i])) });
    }

    private long Nodes(CancellationToken cancel)
    {
        var all = All("nodes");
        var parent = new int[all.Count];
        Array.Fill(parent, -1);
        for (var i = 0; i < all.Count; i++)
        {
            foreach (var child in all[i].Items("children"))
            {
                if (child.ValueKind == JsonValueKind.Number && child.TryGetInt32(out var c) && c >= 0 && c < all.Count && c != i)
                    parent[c] = i;
            }
        }
        var meshes = parts.Where(p => p.Kind == ScenePartKind.Mesh).ToDictionary(p => p.Index);
        var cameras = parts.Where(p => p.Kind == ScenePartKind.Camera).ToDictionary(p => p.Index);
        long triangles = 0;
        for (var i = 0; i < all.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var mesh = all[i].Index("mesh") is { } m ? meshes.GetValueOrDefault(m) : null;
            var camera = all[i].Index("camera") is { } c ? cameras.GetValueOrDefault(c) : null;
            triangles += mesh?.Triangles ?? 0;
            var under =
                parent[i] < 0 ? ""
                : all[parent[i]].Text("name") is { Length: > 0 } name ? name
                : $"Node {parent[i] + 1}";
            Add(
                ScenePartKind.Node,
                all[i],
                i,
                p =>
                    p with
                    {
                        Made = (mesh ?? camera)?.Made,
                        Under = under,
                        Uses = (mesh ?? camera)?.Name ?? "",
                        Stands = [.. GltfSurfaces.Matrix(all[i]).Select(n => Math.Round(n, 6))],
                    }
            );
        }
        return triangles;
    }

    private void Animations(CancellationToken cancel)
    {
        var all = All("animations");
        for (var i = 0; i < all.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var made = new StringBuilder();
            double seconds = 0;
            long keys = 0;
            foreach (var sampler in all[i].Items("samplers"))
            {
                var input = sampler.Index("input");
                keys += Count(input);
                if (input is { } at && at < file.Accessors.Count)
                {
                    foreach (var last in file.Accessors[at].Items("max").Take(1))
                        seconds =
                            last.ValueKind == JsonValueKind.Number && last.TryGetDouble(out var s) && double.IsFinite(s)
                                ? Math.Max(seconds, s)
                                : seconds;
                }
                made.Append(file.Hash(input)).Append(file.Hash(sampler.Index("output"))).Append(sampler.Text("interpolation"));
            }
            foreach (var channel in all[i].Items("channels"))
                made.Append(channel.Index("sampler"))
                    .Append(channel.Get("target")?.Text("path"))
                    .Append(channel.Get("target")?.Index("node"));
            Add(
                ScenePartKind.Animation,
                all[i],
                i,
                p => p with { Made = Hash(made.ToString()), Seconds = Math.Round(seconds, 4), Keys = keys }
            );
        }
    }
}
