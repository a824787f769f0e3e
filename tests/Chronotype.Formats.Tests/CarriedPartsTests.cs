using System.IO.Compression;
using System.Text;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Rewriting;
using NetVips;

namespace Chronotype.Formats.Tests;

/// <summary>Some parts of a file, without the rest; and a file without what is for its maker's program alone.</summary>
public class CarriedPartsTests
{
    private static byte[] Keep(byte[] file, params int[] chosen)
    {
        using var made = new MemoryStream();
        CarriedParts.Keep(new MemoryStream(file), chosen.ToHashSet(), made);
        return made.ToArray();
    }

    private static string Bare(string svg)
    {
        using var made = new MemoryStream();
        CarriedParts.WithoutSettings(new MemoryStream(Encoding.UTF8.GetBytes(svg)), made);
        return Encoding.UTF8.GetString(made.ToArray());
    }

    private static FileFacts Read(byte[] file) => FormatReader.Read(new MemoryStream(file));

    [Fact]
    public void Layers_of_a_picture_are_carried_over_with_the_groups_that_they_stand_in_and_the_whole_is_drawn_anew()
    {
        var file = Samples.OpenRaster(
            40,
            30,
            new Samples.OraLayer("Moon", 10, 10, Red: 250, X: 20, Y: 5, Group: "Night"),
            new Samples.OraLayer("Star", 4, 4, Group: "Night"),
            new Samples.OraLayer("Haze", 40, 30, Opacity: 0.5, Group: "Air"),
            new Samples.OraLayer("Sky", 40, 30, Red: 10)
        );
        var before = Read(file);
        Assert.Equal(["Night", "Moon", "Star", "Air", "Haze", "Sky"], before.Layers.Select(l => l.Name));
        Assert.Equal([1, 2, 4, 5], FileParts.Of(before));

        var made = Keep(file, 1, 5);
        var after = Read(made);
        Assert.Null(after.Fault);
        Assert.Equal(["Night", "Moon", "Sky"], after.Layers.Select(l => l.Name));
        Assert.Equal((20, 5, 1), (after.Layers[1].X, after.Layers[1].Y, after.Layers[1].Depth));
        Assert.Equal(before.Layers[5].Pixels, after.Layers[2].Pixels);
        using var zip = new ZipArchive(new MemoryStream(made));
        Assert.Equal("mimetype", zip.Entries[0].FullName);
        Assert.Equal(zip.Entries[0].Length, zip.Entries[0].CompressedLength);
        // No pixel of what stayed behind is in it.
        Assert.Equal(2, zip.Entries.Count(e => e.FullName.StartsWith("data/", StringComparison.Ordinal)));
        using var merged = Image.NewFromStream(zip.GetEntry("mergedimage.png")!.Open());
        Assert.Equal((40, 30), (merged.Width, merged.Height));
        Assert.Equal([250, 90, 30, 255], merged.Getpoint(25, 10));
        Assert.Equal([10, 90, 30, 255], merged.Getpoint(2, 2));
    }

    [Fact]
    public void What_is_hidden_faded_or_laid_over_in_another_way_is_drawn_so()
    {
        var file = Samples.OpenRaster(
            8,
            8,
            new Samples.OraLayer("Hidden", 8, 8, Red: 255, IsHidden: true),
            new Samples.OraLayer("Times", 4, 8, Red: 128, Blend: "svg:multiply"),
            new Samples.OraLayer("Half", 8, 4, Red: 0, Opacity: 0.5),
            new Samples.OraLayer("Ground", 8, 8, Red: 200),
            new Samples.OraLayer("Out", 8, 8)
        );
        using var zip = new ZipArchive(new MemoryStream(Keep(file, 0, 1, 2, 3)));
        using var merged = Image.NewFromStream(zip.GetEntry("mergedimage.png")!.Open());
        Assert.InRange(merged.Getpoint(6, 6)[0], 199, 201);
        Assert.InRange(merged.Getpoint(6, 1)[0], 98, 102);
        Assert.InRange(merged.Getpoint(1, 6)[0], 98, 102);
        Assert.InRange(merged.Getpoint(1, 1)[0], 48, 52);
    }

    [Fact]
    public void Of_a_drawing_everything_that_stays_is_as_it_was_written()
    {
        const string svg = """
            <svg xmlns="http://www.w3.org/2000/svg"   width='90' height="60"><!-- by hand -->
              <defs><g id="gull"><path d="M0 0h4"/></g></defs>
              <g id='birds'><image href="a>b.png" /><g id="flock"><use href="#gull"/>
              </g></g>
              <text x="1">Tide  <tspan>high</tspan> <tspan>low</tspan></text><rect width="9" height="9"/>
              <g id="sea"><path d="M0 9h90"/></g>
            </svg>
            """;
        var file = Encoding.UTF8.GetBytes(svg);
        var layers = Read(file).Layers;
        Assert.Equal(
            ["sea", "Tide high low", "birds", "flock", "Picture 1"],
            layers.Select(l => l.Name == "Picture 2" ? "Picture 1" : l.Name)
        );
        Assert.Equal(
            svg.Replace("""<g id="sea"><path d="M0 9h90"/></g>""", "", StringComparison.Ordinal)
                .Replace("""<image href="a>b.png" />""", "", StringComparison.Ordinal),
            Encoding.UTF8.GetString(Keep(file, 1, 3))
        );
        // With all that is in it, a group goes, and loose shapes stay.
        var text = Encoding.UTF8.GetString(Keep(file, 0));
        Assert.DoesNotContain("birds", text);
        Assert.Contains("<rect width=\"9\" height=\"9\"/>", text);
    }

    [Fact]
    public void Tracks_of_a_timeline_are_carried_over()
    {
        var file = Samples.Otio(
            ("V1", "Video", [new("Waves", 24, 0, "waves.mov")]),
            ("V2", "Video", [new("", 12), new("Gulls", 24, 3, "gulls.mov")]),
            ("A1", "Audio", [new("Surf", 48, 0, "surf.wav")])
        );
        var after = Read(Keep(file, 0, 2));
        Assert.Equal(["V1", "A1"], after.Timeline!.Tracks.Select(t => t.Name));
        Assert.Equal(["waves.mov", "surf.wav"], after.References.Select(r => r.Written));
    }

    [Fact]
    public void Nothing_chosen_and_nothing_to_choose_from_are_refused()
    {
        Assert.Throws<UnreadableFileException>(() => Keep(Samples.OpenRaster(9, 9, new Samples.OraLayer("Sky", 9, 9))));
        Assert.Throws<UnreadableFileException>(() => Keep(Samples.Png(4, 4), 0));
        Assert.Throws<UnreadableFileException>(() => Keep(Samples.OpenRaster(9, 9, new Samples.OraLayer("Sky", 9, 9)), 7));
        Assert.Throws<UnreadableFileException>(() => Bare("<svg"));
    }

    [Fact]
    public void What_a_program_keeps_for_itself_goes_and_what_a_layer_is_called_stays()
    {
        const string svg = """
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:x="urn:made:editor" xmlns:y='urn:made:other'
                 xmlns:dc="http://purl.org/dc/elements/1.1/" width="9" height="9" x:window-width="1920" y:zoom = '2.5'>
              <x:namedview pagecolor="#fff"><x:grid/></x:namedview>
              <metadata><dc:title>Tide</dc:title></metadata>
              <g x:label="Birds" x:groupmode="layer" id="g1"><path d="M0 0h4"
                 y:nodetypes="cc"/></g>
            </svg>
            """;
        Assert.Equal(
            """
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:x="urn:made:editor"
                 xmlns:dc="http://purl.org/dc/elements/1.1/" width="9" height="9">
              
              <metadata><dc:title>Tide</dc:title></metadata>
              <g x:label="Birds" id="g1"><path d="M0 0h4"/></g>
            </svg>
            """,
            Bare(svg)
        );
        const string plain = "<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><rect width='4' height='4'/></svg>";
        Assert.Equal(plain, Bare(plain));
    }

    [Fact]
    public void A_scene_loses_its_extras_and_nothing_else()
    {
        var scene = JsonNode.Parse(Samples.Glb([new("Buoy")], isText: true))!;
        scene["extras"] = new JsonObject { ["panel"] = "left" };
        scene["nodes"]![0]!["extras"] = new JsonObject { ["locked"] = true };
        var file = Encoding.UTF8.GetBytes(scene.ToJsonString());
        using var made = new MemoryStream();
        CarriedParts.WithoutSettings(new MemoryStream(file), made);
        Assert.DoesNotContain("extras", Encoding.UTF8.GetString(made.ToArray()));
        Assert.Equal(
            Read(Samples.Glb([new("Buoy")], isText: true)).Scene!.Parts.Select(p => (p.Name, p.Made)),
            Read(made.ToArray()).Scene!.Parts.Select(p => (p.Name, p.Made))
        );

        using var binary = new MemoryStream();
        CarriedParts.WithoutSettings(new MemoryStream(Samples.Glb([new("Buoy")])), binary);
        Assert.Equal(
            Read(Samples.Glb([new("Buoy")])).Scene!.Parts.Select(p => (p.Name, p.Made)),
            Read(binary.ToArray()).Scene!.Parts.Select(p => (p.Name, p.Made))
        );
    }

    [Fact]
    public void No_mutation_makes_parting_throw_anything_but_what_is_wrong_with_the_file()
    {
        var random = new Random(23);
        byte[][] samples =
        [
            Samples.OpenRaster(20, 20, new Samples.OraLayer("Moon", 9, 9, Group: "Night"), new Samples.OraLayer("Sky", 20, 20)),
            Samples.Svg("<g id='a' x='1'><rect width='9' height='9'/></g><text x='4' y='9'>Tide</text><image href='../a.png'/>"),
            Samples.Otio(("V1", "Video", [new("Waves", 24, 0, "waves.mov")]), ("V2", "Video", [new("Gulls", 24, 3, "gulls.mov")])),
            Samples.Glb([new("Buoy"), new("Post", Side: 2)], isText: true),
            Samples.Glb([new("Buoy"), new("Post", Side: 2)]),
        ];
        var tops = samples.Select(s => FileParts.Of(Read(s))[0]).ToList();
        var done = 0;
        for (var n = 0; n < Thorough.Times(900, 20_000); n++)
        {
            var file = Mutations.Of(samples[n % samples.Length], random);
            foreach (
                var act in new Action[]
                {
                    () => Keep(file, tops[n % samples.Length]),
                    () => CarriedParts.WithoutSettings(new MemoryStream(file), Stream.Null),
                }
            )
            {
                try
                {
                    act();
                    done++;
                }
                catch (UnreadableFileException) { }
            }
        }
        Assert.True(done > 20, $"Only {done} went through.");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void What_stands_in_a_scene_is_carried_over_with_what_it_needs_and_no_byte_of_the_rest(bool isText)
    {
        Samples.Box[] boxes =
        [
            new("Buoy", Side: 1, Material: "red"),
            new("Pier", Side: 2, Material: "wood"),
            new("Post", Side: 3, Material: "wood"),
        ];
        var file = Samples.Glb(boxes, isText: isText);
        var before = Read(file);
        var parts = FileParts.Of(before);
        Assert.Equal(["Buoy", "Pier", "Post", "Eye"], parts.Select(i => before.Scene!.Parts[i].Name));

        var made = Keep(file, parts[1], parts[3]);
        var after = Read(made);
        Assert.Null(after.Fault);
        Assert.Equal(
            before.Scene!.Parts.Where(p => p.Name is "Pier" or "Eye" or "Pier mesh" or "wood" or "Front").Select(Told),
            after.Scene!.Parts.Select(Told)
        );
        Assert.True(made.Length < file.Length - 150, $"{made.Length:N0} of {file.Length:N0}");
        // The one that moves is carried over with its movement, and the order of what is chosen changes nothing.
        var moving = Read(Keep(file, parts[2], parts[0]));
        Assert.Equal(["Lift"], moving.Scene!.Parts.Where(p => p.Kind == ScenePartKind.Animation).Select(p => p.Name));
        Assert.Equal(
            before.Scene.Parts.Single(p => p.Kind == ScenePartKind.Animation).Keys,
            moving.Scene.Parts.Single(p => p.Kind == ScenePartKind.Animation).Keys
        );
        // All of it is all of it, and once more the same.
        var all = Keep(file, [.. parts]);
        Assert.Equal(before.Scene.Parts.Select(Told), Read(all).Scene!.Parts.Select(Told));
        Assert.Equal(all, Keep(all, [.. parts]));

        static (ScenePartKind, string, ContentHash?, string, long) Told(ScenePart part) =>
            (part.Kind, part.Name, part.Made, string.Join(' ', part.Stands ?? []), part.Vertices);
    }

    [Fact]
    public void A_skin_keeps_its_joints_wherever_they_stand_and_what_is_not_known_is_not_parted()
    {
        const string Scene = """
            {"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0,1,4]}],
             "nodes":[{"name":"Gull","skin":0},{"name":"Rig","translation":[1,0,0],"children":[2,3]},{"name":"Wing","translation":[0,2,0]},
                      {"name":"Lamp","translation":[9,9,9]},{"name":"Rock"}],
             "skins":[{"joints":[2]}]}
            """;
        var parts = FileParts.Of(Read(Encoding.UTF8.GetBytes(Scene)));
        var made = JsonNode.Parse(Keep(Encoding.UTF8.GetBytes(Scene), parts[0]))!;
        Assert.Equal(["Gull", "Rig", "Wing"], made["nodes"]!.AsArray().Select(n => (string)n!["name"]!));
        Assert.Equal("[2]", made["skins"]![0]!["joints"]!.ToJsonString());
        Assert.Equal("[2]", made["nodes"]![1]!["children"]!.ToJsonString());
        Assert.Equal("[0,1]", made["scenes"]![0]!["nodes"]!.ToJsonString());

        var unknown = Scene.Replace("\"scene\":0", "\"extensionsUsed\":[\"MADE_up\"],\"scene\":0", StringComparison.Ordinal);
        Assert.Throws<UnreadableFileException>(() => Keep(Encoding.UTF8.GetBytes(unknown), parts[0]));
        foreach (var wrong in (string[])["\"skins\":[{\"joints\":5}]", "\"skins\":7", "\"animations\":[{\"channels\":[{\"target\":4}]}]"])
        {
            var odd = Scene.Replace("\"skins\":[{\"joints\":[2]}]", wrong, StringComparison.Ordinal);
            Assert.IsType<UnreadableFileException>(
                Record.Exception(() => Keep(Encoding.UTF8.GetBytes(odd), parts[0]))
                    ?? new UnreadableFileException(FileFaultCode.NotUnderstood)
            );
        }
        var lost = Scene.Replace("\"skin\":0", "\"skin\":7", StringComparison.Ordinal);
        Assert.Throws<UnreadableFileException>(() => Keep(Encoding.UTF8.GetBytes(lost), parts[0]));
    }
}
