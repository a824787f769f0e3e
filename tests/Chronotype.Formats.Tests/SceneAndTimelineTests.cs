using System.Text;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Tests;

public class SceneAndTimelineTests
{
    private static FileFacts Read(byte[] file) => FormatReader.Read(new MemoryStream(file));

    private static Comparison Compare(byte[] before, byte[] after) =>
        SaveComparer.Compare(new MemoryStream(before), Read(before), new MemoryStream(after), Read(after));

    private static readonly Samples.Box Buoy = new("Buoy", 0),
        Pier = new("Pier", 3, Side: 2, Material: "Wood");

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_scene_is_told_with_its_parts_and_counts(bool isText)
    {
        var facts = Read(Samples.Glb([Buoy, Pier], isText: isText));
        Assert.Equal((FileFormat.Gltf, null), (facts.Format, facts.Fault));
        var scene = facts.Scene!;
        Assert.Equal(("metre", 24), (scene.Unit, scene.Triangles));
        Assert.Equal(["Buoy", "Pier", "Eye"], scene.Parts.Where(p => p.Kind == ScenePartKind.Node).Select(p => p.Name));
        Assert.Equal(
            [(12L, 8L, "Paint"), (12L, 8L, "Wood")],
            scene.Parts.Where(p => p.Kind == ScenePartKind.Mesh).Select(p => (p.Triangles, p.Vertices, p.Uses))
        );
        var lift = Assert.Single(scene.Parts, p => p.Kind == ScenePartKind.Animation);
        Assert.Equal(("Lift", 2.0, 2L), (lift.Name, lift.Seconds, lift.Keys));
        Assert.Equal(isText ? [true] : [], facts.References.Select(r => r.EmbeddedBytes > 100));
    }

    [Fact]
    public void A_scene_written_as_text_and_as_one_file_is_the_same_scene()
    {
        var result = Compare(Samples.Glb([Buoy, Pier]), Samples.Glb([Buoy, Pier], isText: true));
        Assert.Equal((ComparisonBasis.Scene, 0.0), (result.Basis, result.Change!.Value));
    }

    [Fact]
    public void Parts_of_a_scene_are_told_apart_by_what_became_of_them()
    {
        var before = Samples.Glb([Buoy, Pier, new("Gull", 9)]);
        var after = Samples.Glb(
            [Buoy with { X = 1 }, Pier with { Name = "Jetty", Mesh = "Pier mesh" }, new("Lamp", 12, Side: 0.5)],
            seconds: 3
        );
        var parts = Compare(before, after).Parts.Where(p => p.Kind != PartChangeKind.Same).ToList();
        PartChange Part(string name, ScenePartKind kind) => Assert.Single(parts, p => p.Name == name && p.Scene == kind);
        Assert.Equal(PartChangeKind.Moved, Part("Buoy", ScenePartKind.Node).Kind);
        Assert.Equal("Pier", Part("Jetty", ScenePartKind.Node).FormerName);
        Assert.Equal(PartChangeKind.Removed, Part("Gull", ScenePartKind.Node).Kind);
        Assert.Equal(PartChangeKind.Added, Part("Lamp", ScenePartKind.Node).Kind);
        var lift = Part("Lift", ScenePartKind.Animation);
        Assert.Equal((PartChangeKind.Retimed, 2.0, 3.0), (lift.Kind, lift.SecondsBefore, lift.SecondsNow));
    }

    [Fact]
    public void Another_material_on_a_mesh_and_a_material_that_looks_otherwise_are_two_things()
    {
        var remapped = Compare(Samples.Glb([Buoy, Pier]), Samples.Glb([Buoy with { Material = "Wood" }, Pier]));
        var mesh = Assert.Single(remapped.Parts, p => p.Scene == ScenePartKind.Mesh && p.Kind != PartChangeKind.Same);
        Assert.Equal((PartChangeKind.Remapped, "Paint", "Wood"), (mesh.Kind, mesh.UsesBefore, mesh.UsesNow));
        var painted = Compare(Samples.Glb([Buoy]), Samples.Glb([Buoy], red: 0.1));
        var material = Assert.Single(painted.Parts, p => p.Kind != PartChangeKind.Same);
        Assert.Equal((ScenePartKind.Material, PartChangeKind.Changed), (material.Scene, material.Kind));
    }

    [Fact]
    public void A_scene_is_drawn_from_a_fixed_place()
    {
        var drawn = PreviewMaker.Make(new MemoryStream(Samples.Glb([Buoy, Pier])), 400)!;
        Assert.Equal("image/webp", drawn.MediaType);
        using var picture = NetVips.Image.NewFromBuffer(drawn.Bytes);
        Assert.Equal((400, 300), (picture.Width, picture.Height));
        // Something stands in it, and not everywhere.
        using var alpha = picture[3];
        Assert.InRange(alpha.Avg(), 10, 200);
        Assert.Equal(drawn.Bytes, PreviewMaker.Make(new MemoryStream(Samples.Glb([Buoy, Pier])), 400)!.Bytes);
    }

    [Fact]
    public void Hostile_scenes_end_in_a_finding()
    {
        static byte[] Json(string text) => Encoding.UTF8.GetBytes(text);
        Assert.Equal(FileFaultCode.TooDeep, Read(Json("{\"asset\":{},\"nodes\":" + new string('[', 1000))).Fault!.Code);
        Assert.Equal(FileFaultCode.NotWellFormed, Read(Json("{\"asset\":{},\"nodes\":[,]}")).Fault!.Code);
        // A node that is its own grandchild, and numbers that are none.
        var loop = Json(
            """{"asset":{},"scenes":[{"nodes":[0]}],"nodes":[{"children":[1]},{"children":[0],"translation":[1e999,"x",null]}]}"""
        );
        Assert.Equal(2, Read(loop).Scene!.Count(ScenePartKind.Node));
        Assert.Null(PreviewMaker.Make(new MemoryStream(loop), 200));
        // Ten million triangles claimed by a header with nothing behind it.
        var claims = Json(
            """
            {"asset":{},"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],
            "accessors":[{"bufferView":0,"componentType":5126,"count":30000000,"type":"VEC3"}],
            "bufferViews":[{"buffer":0,"byteLength":360000000}],"buffers":[{"byteLength":360000000,"uri":"../../etc/passwd"}]}
            """
        );
        var facts = Read(claims);
        Assert.Equal((10_000_000L, "../../etc/passwd"), (facts.Scene!.Triangles, Assert.Single(facts.References).Written));
        Assert.Null(PreviewMaker.Make(new MemoryStream(claims), 200));
        var glb = Samples.Glb([Buoy]);
        foreach (var cut in new[] { 4, 11, 19, 25, glb.Length / 2, glb.Length - 1 })
            Assert.NotNull(Read(glb[..cut]).Fault);
    }

    private static readonly Samples.Clip Waves = new("Waves", 48, 10, "../assets/waves.mov"),
        Gulls = new("Gulls", 72, 0, "../assets/gulls.mov"),
        Moon = new("Moon", 24, 5, "../assets/moon.mov");

    [Fact]
    public void A_timeline_is_told_with_its_tracks_clips_and_media()
    {
        var facts = Read(Samples.Otio(("V1", "Video", [Waves, new("", 12), Gulls]), ("A1", "Audio", [Moon])));
        Assert.Equal((FileFormat.Timeline, null), (facts.Format, facts.Fault));
        var timeline = facts.Timeline!;
        Assert.Equal(("Teaser", 24.0, 5.5), (timeline.Name, timeline.Rate, timeline.Length));
        var gulls = timeline.Tracks[0].Items[2];
        Assert.Equal(("Gulls", 2.5, 3.0, "../assets/gulls.mov"), (gulls.Name, gulls.Start, gulls.Length, gulls.Media));
        Assert.Equal(["../assets/waves.mov", "../assets/gulls.mov", "../assets/moon.mov"], facts.References.Select(r => r.Written));
        Assert.Contains(
            "Gulls",
            Encoding.UTF8.GetString(PreviewMaker.Make(new MemoryStream(Samples.Otio(("V1", "Video", [Gulls]))), 800)!.Bytes)
        );
    }

    [Fact]
    public void Clips_that_were_moved_trimmed_relinked_added_and_removed_are_told_apart()
    {
        var before = Samples.Otio(("V1", "Video", [Waves, Gulls, Moon]), ("A1", "Audio", [new("Wind", 96, 0, "wind.wav")]));
        var after = Samples.Otio(
            ("V1", "Video", [Gulls, Waves with { Length = 24, From = 34 }, new("Ship", 24, 0, "ship.mov")]),
            ("A1", "Audio", [new("Wind", 96, 0, "../assets/wind-2.wav")])
        );
        var result = Compare(before, after);
        Assert.Equal(
            [
                ("Gulls", PartChangeKind.Moved),
                ("Waves", PartChangeKind.Trimmed),
                ("Ship", PartChangeKind.Added),
                ("Wind", PartChangeKind.Relinked),
                ("Moon", PartChangeKind.Removed),
            ],
            result.Parts.Select(p => (p.Name, p.Kind))
        );
        Assert.Equal((2.0, 0.0), (result.Parts[0].AtBefore, result.Parts[0].At));
        Assert.Equal((2.0, 1.0), (result.Parts[1].SecondsBefore, result.Parts[1].SecondsNow));
        Assert.Equal(("wind.wav", "../assets/wind-2.wav"), (result.Parts[3].UsesBefore, result.Parts[3].UsesNow));
        Assert.Equal(0, Compare(before, before[..^1].Append((byte)'}').ToArray()).Change);
    }

    [Fact]
    public void Two_clips_that_are_alike_in_everything_stay_two()
    {
        var result = Compare(Samples.Otio(("V1", "Video", [Moon, Moon, Moon])), Samples.Otio(("V1", "Video", [Moon, Moon])));
        Assert.Equal([PartChangeKind.Same, PartChangeKind.Same, PartChangeKind.Removed], result.Parts.Select(p => p.Kind));
    }

    [Theory]
    [InlineData("utf-8")]
    [InlineData("utf-16")]
    [InlineData("utf-16BE")]
    [InlineData("utf-32")]
    [InlineData("iso-8859-1")]
    public void A_text_of_any_encoding_is_read(string encoding)
    {
        const string words = "Möwen über dem Hafen\r\nzweite Zeile\r\n";
        var coding = Encoding.GetEncoding(encoding);
        var facts = Read([.. coding.GetPreamble(), .. coding.GetBytes(words)]);
        Assert.Equal((FileFormat.Text, null), (facts.Format, facts.Fault));
        Assert.Equal((2, 6, 32L), (facts.Text!.Lines, facts.Text.Words, facts.Text.Letters));
        Assert.Equal("Möwen über dem Hafen", facts.Text.Beginning[0]);
    }

    [Fact]
    public void Lines_that_were_changed_added_and_removed_are_told_with_their_places()
    {
        string[] old = ["title: Tides", "", "The moon pulls.", "Gulls cry.", "The end."],
            now = ["title: Tides", "", "The moon pulls hard.", "The end.", "Credits"];
        static byte[] Text(string[] lines) => Encoding.UTF8.GetBytes(string.Join('\n', lines) + "\n");
        var result = Compare(Text(old), Text(now));
        Assert.Equal((ComparisonBasis.Lines, 0.6), (result.Basis, result.Change!.Value));
        Assert.Equal(
            [(3, 3, "The moon pulls.|Gulls cry.", "The moon pulls hard."), (6, 5, "", "Credits")],
            result.TextChanges.Select(c => (c.LineBefore, c.LineNow, string.Join('|', c.Removed), string.Join('|', c.Added)))
        );
        // Only how lines end differs: nothing that is read.
        Assert.Equal(0, Compare(Text(old), Encoding.UTF8.GetBytes(string.Join("\r\n", old))).Change);
    }

    [Fact]
    public void Two_long_texts_with_nothing_in_common_are_measured_at_once()
    {
        static byte[] Text(int seed) => Encoding.UTF8.GetBytes(string.Join('\n', Enumerable.Range(0, 100_000).Select(i => $"{seed} {i}")));
        var result = Compare(Text(1), Text(2));
        Assert.Equal((1.0, 0), (result.Change!.Value, result.TextChanges.Count));
    }

    [Fact]
    public void What_only_begins_as_text_is_carried_as_its_bytes()
    {
        var mixed = new byte[9000];
        Array.Fill(mixed, (byte)'a');
        mixed[8000] = 0;
        Assert.Equal(FileFormat.Other, Read(mixed).Format);
        Assert.Equal(FileFormat.Other, Read(Samples.Noise(5000, 3)).Format);
    }
}
