using System.Buffers.Binary;
using System.Numerics;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Scenes;

namespace Chronotype.Formats.Scenes;

/// <summary>The triangles of a glTF scene where they stand, for drawing. What lies in other files is left out.</summary>
internal static class GltfSurfaces
{
    private const int MostDepth = 200,
        MostInstances = 20_000;

    private const long MostTriangles = 6_000_000;

    public static IReadOnlyList<SceneSurface> Of(GltfFile file, CancellationToken cancel)
    {
        var walk = new Walk(file, cancel);
        walk.All();
        return walk.Surfaces;
    }

    /// <summary>Where a node stands: its matrix, or what its translation, rotation and scale make (section 3.5.3), by columns.</summary>
    public static double[] Matrix(JsonElement node)
    {
        var given = Numbers(node, "matrix", 16);
        if (given is not null)
            return given;
        var t = Numbers(node, "translation", 3) ?? [0, 0, 0];
        var r = Numbers(node, "rotation", 4) ?? [0, 0, 0, 1];
        var s = Numbers(node, "scale", 3) ?? [1, 1, 1];
        var (x, y, z, w) = (r[0], r[1], r[2], r[3]);
        return
        [
            (1 - 2 * (y * y + z * z)) * s[0],
            2 * (x * y + z * w) * s[0],
            2 * (x * z - y * w) * s[0],
            0,
            2 * (x * y - z * w) * s[1],
            (1 - 2 * (x * x + z * z)) * s[1],
            2 * (y * z + x * w) * s[1],
            0,
            2 * (x * z + y * w) * s[2],
            2 * (y * z - x * w) * s[2],
            (1 - 2 * (x * x + y * y)) * s[2],
            0,
            t[0],
            t[1],
            t[2],
            1,
        ];
    }

    private static double[]? Numbers(JsonElement element, string name, int count)
    {
        var all = element.Items(name).Take(count + 1).ToList();
        if (all.Count != count)
            return null;
        var numbers = new double[count];
        for (var i = 0; i < count; i++)
        {
            if (all[i].ValueKind != JsonValueKind.Number || !all[i].TryGetDouble(out numbers[i]) || !double.IsFinite(numbers[i]))
                return null;
        }
        return numbers;
    }

    private sealed class Walk(GltfFile file, CancellationToken cancel)
    {
        private readonly IReadOnlyList<JsonElement> nodes = [.. file.Root.Items("nodes")],
            meshes = [.. file.Root.Items("meshes")],
            materials = [.. file.Root.Items("materials")];

        private readonly Dictionary<int, IReadOnlyList<SceneSurface>> known = [];
        private readonly List<SceneSurface> surfaces = [];
        private long triangles;
        private int instances;

        public IReadOnlyList<SceneSurface> Surfaces => surfaces;

        public void All()
        {
            var scenes = file.Root.Items("scenes").ToList();
            var scene = file.Root.Index("scene") is { } s && s < scenes.Count ? s : 0;
            var roots = scene < scenes.Count ? Indexes(scenes[scene], "nodes") : Enumerable.Range(0, nodes.Count);
            foreach (var root in roots)
                Node(root, Matrix4x4.Identity, 0);
        }

        private static IEnumerable<int> Indexes(JsonElement element, string name) =>
            element
                .Items(name)
                .Where(e => e.ValueKind == JsonValueKind.Number && e.TryGetInt32(out var i) && i >= 0)
                .Select(e => e.GetInt32());

        // A loop of nodes ends at the depth that no scene has.
        private void Node(int index, Matrix4x4 above, int depth)
        {
            if (index >= nodes.Count || depth > MostDepth || ++instances > MostInstances)
                return;
            cancel.ThrowIfCancellationRequested();
            var m = Matrix(nodes[index]).Select(n => (float)n).ToArray();
            var stands =
                new Matrix4x4(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11], m[12], m[13], m[14], m[15]) * above;
            if (nodes[index].Index("mesh") is { } mesh && mesh < meshes.Count)
            {
                foreach (var surface in Mesh(mesh))
                {
                    triangles += surface.Triangles.Length / 3;
                    if (triangles > MostTriangles)
                        throw new UnreadableFileException(FileFaultCode.TooHeavy);
                    surfaces.Add(surface with { Corners = [.. surface.Corners.Select(c => Vector3.Transform(c, stands))] });
                }
            }
            foreach (var child in Indexes(nodes[index], "children"))
                Node(child, stands, depth + 1);
        }

        private IReadOnlyList<SceneSurface> Mesh(int index)
        {
            if (known.TryGetValue(index, out var made))
                return made;
            var all = new List<SceneSurface>();
            foreach (var primitive in meshes[index].Items("primitives"))
            {
                if ((primitive.Index("mode") ?? 4) is not (4 or 5 or 6) || Corners(primitive) is not { } corners)
                    continue;
                var order = primitive.Index("indices") is { } indices ? Order(indices) : Enumerable.Range(0, corners.Length).ToArray();
                if (order is not null)
                    all.Add(new SceneSurface(corners, Triangles(order, primitive.Index("mode") ?? 4), Colour(primitive.Index("material"))));
            }
            return known[index] = all;
        }

        // Section 3.7.2: lists, strips and fans.
        private static int[] Triangles(int[] order, int mode)
        {
            if (mode == 4)
                return order;
            var made = new List<int>();
            for (var i = 2; i < order.Length; i++)
                made.AddRange(mode == 5 ? [order[i - 2], order[i - 1], order[i]] : [order[0], order[i - 1], order[i]]);
            return [.. made];
        }

        private Vector3 Colour(int? material)
        {
            var factor =
                material is { } m && m < materials.Count && materials[m].Get("pbrMetallicRoughness") is { } look
                    ? Numbers(look, "baseColorFactor", 4)
                    : null;
            // Linear light, shown by the eye's curve.
            return factor is null ? new Vector3(0.78f) : new Vector3(Shown(factor[0]), Shown(factor[1]), Shown(factor[2]));
        }

        private static float Shown(double linear) => (float)Math.Pow(Math.Clamp(linear, 0, 1), 1 / 2.2);

        private Vector3[]? Corners(JsonElement primitive)
        {
            if (
                primitive.Get("attributes")?.Index("POSITION") is not { } accessor
                || Elements(accessor, 5126, 12) is not var (bytes, at, stride, count)
            )
                return null;
            var corners = new Vector3[count];
            for (var i = 0; i < count; i++)
            {
                var from = bytes.AsSpan(at + i * stride);
                corners[i] = new Vector3(
                    BinaryPrimitives.ReadSingleLittleEndian(from),
                    BinaryPrimitives.ReadSingleLittleEndian(from[4..]),
                    BinaryPrimitives.ReadSingleLittleEndian(from[8..])
                );
            }
            return corners;
        }

        private int[]? Order(int accessor)
        {
            if (accessor >= file.Accessors.Count)
                return null;
            var (kind, size) = file.Accessors[accessor].Index("componentType") switch
            {
                5121 => (5121, 1),
                5123 => (5123, 2),
                5125 => (5125, 4),
                _ => (0, 0),
            };
            if (size == 0 || Elements(accessor, kind, size) is not var (bytes, at, stride, count))
                return null;
            var order = new int[count];
            for (var i = 0; i < count; i++)
            {
                var from = bytes.AsSpan(at + i * stride);
                order[i] = size switch
                {
                    1 => from[0],
                    2 => BinaryPrimitives.ReadUInt16LittleEndian(from),
                    _ => (int)Math.Min(int.MaxValue, BinaryPrimitives.ReadUInt32LittleEndian(from)),
                };
            }
            return order;
        }

        private (byte[] Bytes, int At, int Stride, int Count)? Elements(int accessor, int component, int size)
        {
            if (accessor >= file.Accessors.Count || file.Accessors[accessor] is var told && told.Index("componentType") != component)
                return null;
            var element = file.Accessors[accessor];
            if (element.Index("bufferView") is not { } view || element.Index("count") is not { } count || file.Bytes(view) is not { } bytes)
                return null;
            var stride = file.Views[view].Index("byteStride") ?? size;
            var at = element.Index("byteOffset") ?? 0;
            return stride >= size && count <= MostTriangles * 3 && at + (long)stride * (count - 1) + size <= bytes.Length && count > 0
                ? (bytes, at, stride, count)
                : null;
        }
    }
}
