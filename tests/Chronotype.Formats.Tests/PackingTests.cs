using System.Buffers.Binary;
using System.Text;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Tests;

/// <summary>What a file refers to, put inside it and out again.</summary>
public class PackingTests
{
    private static byte[] Pack(byte[] file, params (string Written, byte[] Content)[] inside)
    {
        using var made = new MemoryStream();
        FilePacker.Pack(
            [new MemoryStream(file), .. inside.Select(i => new MemoryStream(i.Content))],
            [.. inside.Select((p, i) => new PackedReference(p.Written, i + 1, Path.GetFileName(p.Written.Split('#')[0])))],
            made
        );
        return made.ToArray();
    }

    private static Dictionary<ContentHash, (EmbeddedPart Part, byte[] Bytes)> Find(byte[] file)
    {
        var found = new Dictionary<ContentHash, (EmbeddedPart, byte[])>();
        var parts = FilePacker.Find(new MemoryStream(file), (part, bytes) => found[part.Hash] = (part, bytes));
        // What was told last counts how often.
        return parts.ToDictionary(p => p.Hash, p => (p, found[p.Hash].Item2));
    }

    private static byte[] PutOut(byte[] file, params (byte[] Content, string Written)[] placed)
    {
        using var made = new MemoryStream();
        FilePacker.PutOut(new MemoryStream(file), [.. placed.Select(p => new PlacedPart(ContentHash.Of(p.Content), p.Written))], made);
        return made.ToArray();
    }

    private static FileFacts Read(byte[] file) => FormatReader.Read(new MemoryStream(file));

    private static readonly byte[] Moon = Samples.Png(12, 9);
    private static readonly byte[] Birds = Samples.Svg("<g id='gull'><rect width='4' height='2'/></g>");

    private const string Leaflet = """
        <?xml version="1.0" encoding="UTF-8"?>
        <svg xmlns="http://www.w3.org/2000/svg" width="90" height="60">
          <style>rect { fill: url("../assets/grain&amp;dust.png") }</style>
          <!-- ../assets/moon.png stays -->
          <image href='../assets/moon.png' width="30" height="30"/><use href="../assets/birds.svg#gull"/>
          <image href="../assets/moon.png" x="40" width="30" height="30"/><image href="../assets/lost.png"/>
          <a href="../assets/moon.png"><rect width="9" height="9"/></a>
        </svg>
        """;

    [Fact]
    public void An_svg_packed_and_put_out_to_where_it_was_is_the_same_byte_for_byte()
    {
        var file = Encoding.UTF8.GetBytes(Leaflet);
        var grain = Samples.Png(5, 5, red: 9);
        var packed = Pack(file, ("../assets/moon.png", Moon), ("../assets/birds.svg#gull", Birds), ("../assets/grain&dust.png", grain));
        Assert.Equal(["../assets/lost.png"], Read(packed).References.Where(r => r.EmbeddedBytes is null).Select(r => r.Written));
        var text = Encoding.UTF8.GetString(packed);
        Assert.Contains("<!-- ../assets/moon.png stays -->", text);
        Assert.Contains("<a href=\"../assets/moon.png\">", text);
        Assert.Contains("data:image/svg+xml;base64,", text);

        var found = Find(packed);
        Assert.Equal(
            [(".png", 2, Moon.Length), (".svg", 1, Birds.Length), (".png", 1, grain.Length)],
            new[] { Moon, Birds, grain }.Select(p => found[ContentHash.Of(p)].Part).Select(p => (p.Extension, p.Times, (int)p.Size))
        );
        Assert.Equal(
            file,
            PutOut(packed, (Moon, "../assets/moon.png"), (Birds, "../assets/birds.svg"), (grain, "../assets/grain&dust.png"))
        );
    }

    [Fact]
    public void What_is_written_with_percents_or_over_lines_is_found_too()
    {
        var file = Samples.Svg(
            $"""
            <image href="data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='3' height='4'/%3E"/>
            <image href="data:image/png;base64,{Convert.ToBase64String(Moon, Base64FormattingOptions.InsertLineBreaks)}"/>
            <image href="data:image/png;base64,%%%"/><image href="data:,"/>
            """
        );
        var found = Find(file);
        Assert.Equal([".png", ".svg"], found.Values.Select(f => f.Part.Extension).Order(StringComparer.Ordinal));
        Assert.Contains(ContentHash.Of(Moon), found.Keys);
    }

    // A scene with a picture in its buffer, another beside it, and one that is a link.
    private static byte[] Scene(bool isText, string? buffer = null)
    {
        var file = Samples.Glb([new("Buoy"), new("Pier", 3)]);
        var length = BinaryPrimitives.ReadInt32LittleEndian(file.AsSpan(12));
        var json = JsonNode.Parse(file.AsSpan(20, length))!.AsObject();
        var binary = file[(28 + length)..];
        var views = json["bufferViews"]!.AsArray();
        // In the middle, so that what follows has to move.
        var inner = (binary.Length + 3) / 4 * 4;
        var whole = new byte[inner + (Moon.Length + 3) / 4 * 4 + 12];
        binary.CopyTo(whole, 0);
        Moon.CopyTo(whole, inner);
        views.Insert(
            0,
            new JsonObject
            {
                ["buffer"] = 0,
                ["byteOffset"] = inner,
                ["byteLength"] = Moon.Length,
            }
        );
        foreach (var accessor in json["accessors"]!.AsArray())
            accessor!["bufferView"] = (int)accessor["bufferView"]! + 1;
        json["images"] = new JsonArray(
            new JsonObject
            {
                ["name"] = "Moon disc",
                ["bufferView"] = 0,
                ["mimeType"] = "image/png",
            },
            new JsonObject { ["uri"] = "../assets/grain.png" }
        );
        json["buffers"] = new JsonArray(
            isText ? new JsonObject { ["byteLength"] = whole.Length, ["uri"] = buffer } : new JsonObject { ["byteLength"] = whole.Length }
        );
        return isText ? Encoding.UTF8.GetBytes(json.ToJsonString()) : Binary(json, whole);
    }

    private static byte[] Binary(JsonNode json, byte[] buffer)
    {
        var text = Encoding.UTF8.GetBytes(json.ToJsonString());
        Array.Resize(ref text, (text.Length + 3) / 4 * 4);
        text.AsSpan().Replace((byte)0, (byte)' ');
        var file = new byte[28 + text.Length + buffer.Length];
        "glTF"u8.CopyTo(file);
        file[4] = 2;
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(8), file.Length);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(12), text.Length);
        "JSON"u8.CopyTo(file.AsSpan(16));
        text.CopyTo(file, 20);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(20 + text.Length), buffer.Length);
        "BIN\0"u8.CopyTo(file.AsSpan(24 + text.Length));
        buffer.CopyTo(file, 28 + text.Length);
        return file;
    }

    // What a scene is made of, whatever way its bytes lie.
    private static IReadOnlyList<string> Made(byte[] file) =>
        [.. Read(file).Scene!.Parts.Select(p => $"{p.Kind} {p.Name} {p.Made}").Order(StringComparer.Ordinal)];

    [Fact]
    public void A_scene_becomes_one_file_and_two_again_and_is_the_same_scene()
    {
        var grain = Samples.Png(7, 7, red: 3);
        var scene = Scene(isText: false);
        var packed = Pack(scene, ("../assets/grain.png", grain));
        Assert.Empty(Read(packed).References);
        Assert.Equal("glTF"u8.ToArray(), packed[..4]);
        var meshes = Made(scene).Where(p => !p.StartsWith("Picture", StringComparison.Ordinal)).ToList();
        Assert.Equal(meshes, Made(packed).Where(p => !p.StartsWith("Picture", StringComparison.Ordinal)));

        var found = Find(packed);
        Assert.Equal(3, found.Count);
        Assert.Equal(("Moon disc", ".png"), (found[ContentHash.Of(Moon)].Part.Name, found[ContentHash.Of(Moon)].Part.Extension));
        var buffer = found.Values.Single(f => f.Part.Extension == ".bin").Bytes;
        // The pictures have left it.
        Assert.True(buffer.Length < 500, $"{buffer.Length} bytes are left.");

        var text = PutOut(packed, (Moon, "../assets/moon.png"), (grain, "../assets/grain.png"), (buffer, "../assets/scene.bin"));
        Assert.Equal(
            ["../assets/grain.png", "../assets/moon.png", "../assets/scene.bin"],
            Read(text).References.Select(r => r.Written).Order(StringComparer.Ordinal)
        );
        var again = Pack(text, ("../assets/moon.png", Moon), ("../assets/grain.png", grain), ("../assets/scene.bin", buffer));
        Assert.Equal(Made(packed), Made(again));
        Assert.Equal(found.Keys.ToHashSet(), Find(again).Keys.ToHashSet());
    }

    [Fact]
    public void A_buffer_that_is_not_there_stays_outside_and_pictures_go_in_all_the_same()
    {
        var scene = Scene(isText: true, "../assets/lost.bin");
        var packed = Pack(scene, ("../assets/grain.png", Moon));
        Assert.Equal(["../assets/lost.bin"], Read(packed).References.Select(r => r.Written));
        var length = BinaryPrimitives.ReadInt32LittleEndian(packed.AsSpan(12));
        var json = JsonNode.Parse(packed.AsSpan(20, length))!;
        Assert.Equal(2, json["buffers"]!.AsArray().Count);
        Assert.Null(json["buffers"]![0]!["uri"]);
        // Its views follow it to its new number.
        Assert.All(json["bufferViews"]!.AsArray().SkipLast(1), v => Assert.Equal(1, (int)v!["buffer"]!));
        Assert.Equal(0, (int)json["bufferViews"]!.AsArray()[^1]!["buffer"]!);
    }

    [Fact]
    public void What_an_unknown_extension_may_count_on_stays_where_it_is()
    {
        var scene = Scene(isText: false);
        var length = BinaryPrimitives.ReadInt32LittleEndian(scene.AsSpan(12));
        var json = JsonNode.Parse(scene.AsSpan(20, length))!;
        json["extensionsUsed"] = new JsonArray("VENDOR_views_by_another_name");
        var file = Binary(json, scene[(28 + length)..]);
        var buffer = Find(file).Values.Single(f => f.Part.Extension == ".bin").Bytes;
        Assert.Equal(scene.Length - 28 - length, buffer.Length);
        var text = PutOut(file, (Moon, "moon.png"), (buffer, "scene.bin"));
        var left = BinaryPrimitives.ReadInt32LittleEndian(text.AsSpan(12));
        Assert.Equal(text.Length, 20 + left);
        Assert.Equal(4, JsonNode.Parse(text.AsSpan(20, left))!["bufferViews"]!.AsArray().Count);
    }

    [Fact]
    public void More_than_is_read_is_not_written()
    {
        var large = new byte[Limits.SvgBytes];
        var thrown = Assert.Throws<UnreadableFileException>(() => Pack(Samples.Svg("<image href='a.bin'/>"), ("a.bin", large)));
        Assert.Equal(FileFaultCode.TextTooLong, thrown.Fault.Code);
        Assert.Throws<UnreadableFileException>(() => Pack(Moon, ("a.bin", Moon)));
        Assert.Throws<UnreadableFileException>(() => Find(Moon));
    }

    [Fact]
    public void No_mutation_makes_packing_or_putting_out_throw_anything_but_what_is_wrong_with_the_file()
    {
        var random = new Random(17);
        var grain = Samples.Png(4, 4);
        var samples = new[]
        {
            Scene(isText: false),
            Pack(Encoding.UTF8.GetBytes(Leaflet), ("../assets/moon.png", Moon)),
            Scene(isText: true, "data:;base64,AAAA"),
        };
        var done = 0;
        for (var n = 0; n < Thorough.Times(300, 20_000); n++)
        {
            var file = Mutations.Of(samples[n % samples.Length], random);
            try
            {
                var found = Find(file);
                PutOut(file, [.. found.Values.Select((f, i) => (f.Bytes, $"part-{i}{f.Part.Extension}"))]);
                Pack(file, ("../assets/grain.png", grain), ("../assets/lost.png", Moon));
                done++;
            }
            catch (UnreadableFileException) { }
        }
        Assert.True(done > 20, $"Only {done} went through.");
    }
}
