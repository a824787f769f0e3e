using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;

namespace Chronotype.Tests;

public static partial class Samples
{
    /// <summary>A box that stands in a scene.</summary>
    public sealed record Box(string Name, double X = 0, double Side = 1, string Material = "Paint", string? Mesh = null);

    private static readonly ushort[] Faces =
    [
        0,
        1,
        3,
        0,
        3,
        2,
        4,
        7,
        5,
        4,
        6,
        7,
        0,
        5,
        1,
        0,
        4,
        5,
        2,
        3,
        7,
        2,
        7,
        6,
        0,
        2,
        6,
        0,
        6,
        4,
        1,
        5,
        7,
        1,
        7,
        3,
    ];

    /// <summary>A scene of boxes with materials, a camera, and an animation that lifts the first one: a GLB, or glTF as text.</summary>
    public static byte[] Glb(IReadOnlyList<Box> boxes, double seconds = 2, double red = 0.8, bool isText = false)
    {
        var sides = boxes.Select(b => b.Side).Distinct().ToList();
        var materials = boxes.Select(b => b.Material).Distinct().ToList();
        var buffer = new MemoryStream();
        foreach (var side in sides.Select(s => (float)s))
        {
            for (var i = 0; i < 8; i++)
                buffer.Write(MemoryMarshal.AsBytes<float>([(i & 1) * side, (i >> 1 & 1) * side, (i >> 2) * side]));
        }
        var indicesAt = (int)buffer.Length;
        buffer.Write(MemoryMarshal.AsBytes<ushort>(Faces));
        var timesAt = (int)buffer.Length;
        buffer.Write(MemoryMarshal.AsBytes<float>([0, (float)seconds, 0, 0, 0, 0, 3, 0]));
        var accessors = sides
            .Select(
                object (_, i) =>
                    new
                    {
                        bufferView = 0,
                        byteOffset = i * 96,
                        componentType = 5126,
                        count = 8,
                        type = "VEC3",
                    }
            )
            .Append(
                new
                {
                    bufferView = 1,
                    componentType = 5123,
                    count = Faces.Length,
                    type = "SCALAR",
                }
            )
            .Append(
                new
                {
                    bufferView = 2,
                    componentType = 5126,
                    count = 2,
                    type = "SCALAR",
                    min = new[] { 0.0 },
                    max = new[] { seconds },
                }
            )
            .Append(
                new
                {
                    bufferView = 2,
                    byteOffset = 8,
                    componentType = 5126,
                    count = 2,
                    type = "VEC3",
                }
            );
        var scene = new
        {
            asset = new { version = "2.0" },
            scene = 0,
            scenes = new[] { new { nodes = Enumerable.Range(0, boxes.Count + 1) } },
            nodes = boxes
                .Select(
                    object (b, i) =>
                        new
                        {
                            name = b.Name,
                            mesh = i,
                            translation = new[] { b.X, 0, 0 },
                        }
                )
                .Append(new { name = "Eye", camera = 0 }),
            cameras = new[]
            {
                new
                {
                    name = "Front",
                    type = "perspective",
                    perspective = new { yfov = 0.7, znear = 0.1 },
                },
            },
            materials = materials.Select(m => new
            {
                name = m,
                pbrMetallicRoughness = new { baseColorFactor = new[] { red, 0.3, 0.2, 1 } },
            }),
            meshes = boxes.Select(b => new
            {
                name = b.Mesh ?? $"{b.Name} mesh",
                primitives = new[]
                {
                    new
                    {
                        attributes = new { POSITION = sides.IndexOf(b.Side) },
                        indices = sides.Count,
                        material = materials.IndexOf(b.Material),
                    },
                },
            }),
            accessors,
            animations = new[]
            {
                new
                {
                    name = "Lift",
                    samplers = new[] { new { input = sides.Count + 1, output = sides.Count + 2 } },
                    channels = new[] { new { sampler = 0, target = new { node = 0, path = "translation" } } },
                },
            },
            bufferViews = new[]
            {
                new
                {
                    buffer = 0,
                    byteOffset = 0,
                    byteLength = indicesAt,
                },
                new
                {
                    buffer = 0,
                    byteOffset = indicesAt,
                    byteLength = timesAt - indicesAt,
                },
                new
                {
                    buffer = 0,
                    byteOffset = timesAt,
                    byteLength = (int)buffer.Length - timesAt,
                },
            },
            buffers = new object[]
            {
                isText
                    ? new
                    {
                        byteLength = buffer.Length,
                        uri = $"data:application/octet-stream;base64,{Convert.ToBase64String(buffer.ToArray())}",
                    }
                    : new { byteLength = buffer.Length },
            },
        };
        var json = JsonSerializer.Serialize(scene);
        return isText ? Encoding.UTF8.GetBytes(json) : Binary(json, buffer.ToArray());
    }

    private static byte[] Binary(string json, byte[] buffer)
    {
        var text = Encoding.UTF8.GetBytes(json.PadRight((json.Length + 3) / 4 * 4));
        var file = new byte[20 + text.Length + 8 + buffer.Length];
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

    /// <summary>A clip on a track, in frames at 24 a second; without a medium it is a gap.</summary>
    public sealed record Clip(string Name, int Length, int From = 0, string? Media = null);

    public static byte[] Otio(params (string Name, string Kind, Clip[] Clips)[] tracks)
    {
        static object Time(int frames) =>
            new
            {
                OTIO_SCHEMA = "RationalTime.1",
                rate = 24.0,
                value = (double)frames,
            };
        static object Item(Clip clip)
        {
            var source_range = new
            {
                OTIO_SCHEMA = "TimeRange.1",
                start_time = Time(clip.From),
                duration = Time(clip.Length),
            };
            return clip.Media is null
                ? new
                {
                    OTIO_SCHEMA = "Gap.1",
                    name = clip.Name,
                    source_range,
                }
                : new
                {
                    OTIO_SCHEMA = "Clip.2",
                    name = clip.Name,
                    source_range,
                    active_media_reference_key = "DEFAULT_MEDIA",
                    media_references = new { DEFAULT_MEDIA = new { OTIO_SCHEMA = "ExternalReference.1", target_url = clip.Media } },
                };
        }
        return JsonSerializer.SerializeToUtf8Bytes(
            new
            {
                OTIO_SCHEMA = "Timeline.1",
                name = "Teaser",
                tracks = new
                {
                    OTIO_SCHEMA = "Stack.1",
                    children = tracks.Select(t => new
                    {
                        OTIO_SCHEMA = "Track.1",
                        name = t.Name,
                        kind = t.Kind,
                        children = t.Clips.Select(Item),
                    }),
                },
            }
        );
    }
}
