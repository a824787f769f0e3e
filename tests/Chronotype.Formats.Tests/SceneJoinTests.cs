using System.Text;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Tests;

/// <summary>Nodes of one scene put into another, and outputs of some parts alone.</summary>
public class SceneJoinTests
{
    private static FileFacts Read(byte[] content) => FormatReader.Read(new MemoryStream(content));

    private static byte[] Put(byte[] target, byte[] source, params string[] names)
    {
        using var output = new MemoryStream();
        var parts = FileParts.Find(Read(source), names) ?? [];
        PartPutter.Put(new MemoryStream(target), new MemoryStream(source), parts, "TIM_pier_model_003", null, 0, output);
        return output.ToArray();
    }

    private static List<(string Name, ContentHash? Made, long Vertices)> Meshes(FileFacts facts) =>
        [.. facts.Scene!.Parts.Where(p => p.Kind == ScenePartKind.Mesh).Select(p => (p.Name, p.Made, p.Vertices))];

    [Theory]
    [InlineData(false, false)]
    [InlineData(false, true)]
    [InlineData(true, false)]
    [InlineData(true, true)]
    public void Things_of_another_scene_stand_under_a_node_of_their_own_and_all_that_was_there_stays(bool isText, bool isOtherText)
    {
        var target = Samples.Glb([new("Buoy", Side: 1, Material: "red")], isText: isText);
        var source = Samples.Glb(
            [new("Pier", Side: 2, Material: "wood"), new("Post", Side: 3, Material: "wood"), new("Rope", Side: 4, Material: "hemp")],
            isText: isOtherText
        );
        var (before, other) = (Read(target), Read(source));
        var made = Put(target, source, "Pier", "Post");
        var after = Read(made);
        Assert.Null(after.Fault);
        Assert.Equal(Meshes(before).Concat(Meshes(other).Where(m => m.Name.StartsWith('P'))).Order(), Meshes(after).Order());
        // What was there stands first, as it stood; what came stands under one node.
        var tops = after.Scene!.Tops.Select(i => after.Scene.Parts[i].Name).ToList();
        Assert.Equal([.. before.Scene!.Tops.Select(i => before.Scene.Parts[i].Name), "TIM_pier_model_003"], tops);
        Assert.Contains(after.Scene.Parts, p => p.Kind == ScenePartKind.Material && p.Name == "wood");
        Assert.DoesNotContain(after.Scene.Parts, p => p.Name == "hemp");
        Assert.Equal(made[..4].AsSpan().SequenceEqual("glTF"u8), !isText);
        // It can be taken out again, and is what it was.
        using var back = new MemoryStream();
        CarriedParts.Keep(new MemoryStream(made), after.Scene.Tops.SkipLast(1).ToHashSet(), back);
        Assert.Equal(Meshes(before), Meshes(Read(back.ToArray())));
        // And once more the same is a second one.
        Assert.Equal(tops.Count + 1, Read(Put(made, source, "Pier")).Scene!.Tops.Count);
    }

    [Fact]
    public void Lights_are_counted_on_and_what_is_not_known_is_not_joined()
    {
        static byte[] Lit(string name, string extra = "") =>
            Encoding.UTF8.GetBytes(
                $$$"""
                {"asset":{"version":"2.0"},"extensionsUsed":["KHR_lights_punctual"{{{extra}}}],"scene":0,"scenes":[{"nodes":[0]}],
                 "nodes":[{"name":"{{{name}}}","extensions":{"KHR_lights_punctual":{"light":0} } } ],
                 "extensions":{"KHR_lights_punctual":{"lights":[{"type":"point","name":"{{{name}}} light"} ] } } }
                """
            );
        var made = JsonNode.Parse(Put(Lit("Lamp"), Lit("Beacon"), "Beacon"))!;
        var lights = made["extensions"]!["KHR_lights_punctual"]!["lights"]!.AsArray();
        Assert.Equal(["Lamp light", "Beacon light"], lights.Select(l => (string)l!["name"]!));
        var beacon = made["nodes"]!.AsArray().Single(n => (string?)n!["name"] == "Beacon")!;
        Assert.Equal(1, (int)beacon["extensions"]!["KHR_lights_punctual"]!["light"]!);
        Assert.Single(made["extensionsUsed"]!.AsArray());
        Assert.Throws<UnreadableFileException>(() => Put(Lit("Lamp", ",\"MADE_up\""), Lit("Beacon"), "Beacon"));
        Assert.Throws<UnreadableFileException>(() => Put(Lit("Lamp"), Lit("Beacon"), "Nobody"));
        Assert.Throws<UnreadableFileException>(() =>
            Put(Lit("Lamp"), Encoding.UTF8.GetBytes("""{"asset":{"version":"2.0"},"nodes":[{"name":"A","mesh":4}]}"""), "A")
        );
    }

    [Fact]
    public void An_output_of_some_layers_is_that_of_a_file_with_these_alone()
    {
        var layered = Samples.OpenRaster(
            60,
            40,
            new Samples.OraLayer("Gull", 9, 9, Red: 200, X: 5, Y: 5),
            new Samples.OraLayer("Moon", 20, 20, Red: 250, X: 30),
            new Samples.OraLayer("Sky", 60, 40, Red: 10)
        );
        byte[] Made(byte[] content, params string[] layers)
        {
            using var output = new MemoryStream();
            OutputMaker.Make(new MemoryStream(content), OurRecipes.Find("flat-16")! with { Layers = layers }, output);
            return output.ToArray();
        }
        using var kept = new MemoryStream();
        CarriedParts.Keep(new MemoryStream(layered), FileParts.Find(Read(layered), ["Moon", "Gull"])!.ToHashSet(), kept);
        Assert.Equal(Made(kept.ToArray()), Made(layered, "Moon", "Gull"));
        Assert.NotEqual(Made(layered), Made(layered, "Moon", "Gull"));
        var e = Assert.Throws<UnreadableFileException>(() => Made(layered, "Moon", "Nobody"));
        Assert.Equal(FileFaultCode.NoLayers, e.Fault.Code);
        // What it gives up is of those alone, and of a name that is not in it nothing is made.
        var losses = GivenUp.Of(Read(layered), OurRecipes.Find("flat-16")! with { Layers = ["Moon"] })!;
        Assert.Equal((Loss.LayersLeftOut, 3, 1), (losses[0].Loss, losses[0].Was, losses[0].Now));
        Assert.DoesNotContain(losses, l => l.Loss == Loss.Layers);
        Assert.Null(GivenUp.Of(Read(layered), OurRecipes.Find("flat-16")! with { Layers = ["Nobody"] }));
    }
}
