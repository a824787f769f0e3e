using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;

namespace Chronotype.Demo.Film;

/// <summary>What the buoy of the foyer film is like at one moment of its making.</summary>
/// <param name="BodyColour">Red, green and blue, from 0 to 1, in linear light.</param>
/// <param name="CageHeight">Of the cage over the body, in metres.</param>
/// <param name="HasBell">Whether the bell hangs in it.</param>
/// <param name="LampX">How far the lamp stands from the middle, in metres.</param>
/// <param name="SwaySeconds">How long it takes to sway once.</param>
internal sealed record BuoyScene(double[] BodyColour, double CageHeight, bool HasBell, double LampX, double SwaySeconds);

/// <summary>Makes the buoy as a GLB: bodies of revolution with materials, a camera, and an animation that lets it sway.</summary>
internal static class BuoyModel
{
    private const int Segments = 28;

    private sealed record Part(string Name, string Material, (double Radius, double Y)[] Profile, double X = 0, double Z = 0);

    public static byte[] Make(BuoyScene scene)
    {
        var top = 1.1 + scene.CageHeight;
        var parts = new List<Part>
        {
            new("Body", "Body paint", [(0, -0.5), (0.9, -0.25), (1.05, 0.1), (0.9, 0.35), (0.35, 0.55), (0, 0.55)]),
            new("Lamp", "Lamp glass", [(0, top), (0.16, top + 0.02), (0.16, top + 0.26), (0, top + 0.34)], scene.LampX),
        };
        for (var i = 0; i < 4; i++)
        {
            var angle = Math.PI / 4 + i * Math.PI / 2;
            parts.Add(
                new($"Post {i + 1}", "Iron", [(0, 0.5), (0.05, 0.5), (0.04, top), (0, top)], 0.3 * Math.Cos(angle), 0.3 * Math.Sin(angle))
            );
        }
        parts.Add(new("Roof", "Iron", [(0, top - 0.04), (0.42, top - 0.02), (0.38, top + 0.03), (0, top + 0.04)]));
        if (scene.HasBell)
            parts.Add(new("Bell", "Bronze", [(0, 0.75), (0.2, 0.72), (0.16, 0.9), (0.08, 1.05), (0, 1.06)]));

        var buffer = new MemoryStream();
        var views = new List<object>();
        var accessors = new List<object>();
        int Add<T>(T[] data, int component, string type, int count, double[]? max = null)
            where T : unmanaged
        {
            while (buffer.Length % 4 != 0)
                buffer.WriteByte(0);
            views.Add(
                new
                {
                    buffer = 0,
                    byteOffset = buffer.Length,
                    byteLength = data.Length * Marshal.SizeOf<T>(),
                }
            );
            buffer.Write(MemoryMarshal.AsBytes<T>(data));
            accessors.Add(
                max is null
                    ? new
                    {
                        bufferView = views.Count - 1,
                        componentType = component,
                        count,
                        type,
                    }
                    : new
                    {
                        bufferView = views.Count - 1,
                        componentType = component,
                        count,
                        type,
                        max,
                    }
            );
            return accessors.Count - 1;
        }

        string[] materials = ["Body paint", "Iron", "Lamp glass", "Bronze"];
        double[][] colours = [scene.BodyColour, [0.05, 0.05, 0.06], [0.9, 0.8, 0.45], [0.45, 0.27, 0.09]];
        var meshes = parts.ConvertAll(part =>
        {
            var (corners, order) = Turned(part.Profile);
            return new
            {
                name = part.Name,
                primitives = new[]
                {
                    new
                    {
                        attributes = new { POSITION = Add(corners, 5126, "VEC3", corners.Length / 3) },
                        indices = Add(order, 5123, "SCALAR", order.Length),
                        material = Array.IndexOf(materials, part.Material),
                    },
                },
            };
        });
        float[] times = [0, (float)scene.SwaySeconds / 2, (float)scene.SwaySeconds];
        var (input, output) = (
            Add(times, 5126, "SCALAR", 3, [scene.SwaySeconds]),
            Add<float>([0, 0, -0.08f, 0.9968f, 0, 0, 0.08f, 0.9968f, 0, 0, -0.08f, 0.9968f], 5126, "VEC4", 3)
        );
        var json = JsonSerializer.Serialize(
            new
            {
                asset = new { version = "2.0" },
                scene = 0,
                scenes = new[] { new { name = "Buoy", nodes = new[] { 0, parts.Count + 1 } } },
                nodes = new object[] { new { name = "Buoy", children = Enumerable.Range(1, parts.Count) } }
                    .Concat(
                        parts.Select(
                            object (p, i) =>
                                new
                                {
                                    name = p.Name,
                                    mesh = i,
                                    translation = new[] { p.X, 0, p.Z },
                                }
                        )
                    )
                    .Append(
                        new
                        {
                            name = "Foyer view",
                            camera = 0,
                            translation = new[] { 0, 1.2, 6 },
                        }
                    ),
                cameras = new[]
                {
                    new
                    {
                        name = "Foyer",
                        type = "perspective",
                        perspective = new { yfov = 0.6, znear = 0.1 },
                    },
                },
                materials = materials.Select(
                    (m, i) => new { name = m, pbrMetallicRoughness = new { baseColorFactor = colours[i].Append(1) } }
                ),
                meshes,
                animations = new[]
                {
                    new
                    {
                        name = "Sway",
                        samplers = new[] { new { input, output } },
                        channels = new[] { new { sampler = 0, target = new { node = 0, path = "rotation" } } },
                    },
                },
                accessors,
                bufferViews = views,
                buffers = new[] { new { byteLength = buffer.Length } },
            }
        );
        return Packed(json, buffer.ToArray());
    }

    // A profile turned once around the upright.
    private static (float[] Corners, ushort[] Order) Turned((double Radius, double Y)[] profile)
    {
        var corners = new List<float>();
        var order = new List<ushort>();
        for (var s = 0; s < Segments; s++)
        {
            var angle = 2 * Math.PI * s / Segments;
            foreach (var (radius, y) in profile)
                corners.AddRange([(float)(radius * Math.Cos(angle)), (float)y, (float)(radius * Math.Sin(angle))]);
        }
        for (var s = 0; s < Segments; s++)
        {
            for (var p = 0; p + 1 < profile.Length; p++)
            {
                var (a, b) = (s * profile.Length + p, (s + 1) % Segments * profile.Length + p);
                foreach (var corner in (int[])[a, a + 1, b, b, a + 1, b + 1])
                    order.Add((ushort)corner);
            }
        }
        return ([.. corners], [.. order]);
    }

    // glTF 2.0, section 4.4: a header, the JSON, the buffer.
    private static byte[] Packed(string json, byte[] buffer)
    {
        var text = Encoding.UTF8.GetBytes(json.PadRight((json.Length + 3) / 4 * 4));
        Array.Resize(ref buffer, (buffer.Length + 3) / 4 * 4);
        var file = new byte[28 + text.Length + buffer.Length];
        "glTF"u8.CopyTo(file);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(4), 2);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(8), file.Length);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(12), text.Length);
        "JSON"u8.CopyTo(file.AsSpan(16));
        text.CopyTo(file, 20);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(20 + text.Length), buffer.Length);
        "BIN\0"u8.CopyTo(file.AsSpan(24 + text.Length));
        buffer.CopyTo(file, 28 + text.Length);
        return file;
    }
}
