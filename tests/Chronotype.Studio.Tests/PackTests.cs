using System.Text;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

public class PackTests
{
    private static byte[] Svg(params string[] links) =>
        Samples.Svg(string.Concat(links.Select(l => $"""<image href="{l}" width="9" height="9"/>""")));

    private static async Task DropAsync(StudioInUse studio, string path, byte[] content)
    {
        var at = ProjectPath.Parse(path);
        var arriving = new ArrivingContent(at.Name, new MemoryStream(content));
        (await studio.Do((TendFiles d) => d.ReceiveAsync(studio.Odo, studio.Project.Id, at.Folder, arriving))).Expect();
    }

    private static async Task<(Piece Piece, Save Save)> LeafletAsync(StudioInUse studio, params string[] links)
    {
        var piece = await studio.PieceAsync("Leaflet");
        await studio.TakeAsync(piece, Svg(links), "leaflet.svg");
        await studio.SettledAsync();
        return (piece, (await studio.SavesAsync(piece))[^1]);
    }

    [Fact]
    public async Task A_file_is_packed_with_what_it_needs_and_that_with_what_it_needs_and_no_circle_goes_on()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var moon = Samples.Png(30, 30);
        await DropAsync(studio, "assets/moon.png", moon);
        await DropAsync(studio, "assets/birds.svg", Svg("moon.png", "../working/TIM_leaflet_key.svg"));
        var (piece, save) = await LeafletAsync(studio, "../assets/birds.svg", "../assets/lost.png", "https://tides.example/x.png");

        var plan = (await studio.Do((PackFile p) => p.PlanAsync(save.Id)))!;
        Assert.Equal(["assets/birds.svg", "assets/moon.png"], plan.Inside.Select(f => f.Path.Text));
        Assert.Equal(["../assets/lost.png"], plan.Missing);

        var received = (await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, save.Id))).Expect();
        Assert.Equal((true, 2), (received.IsNew, received.Save.Sequence));
        Assert.InRange(received.Save.Size - save.Size, plan.Added * 3 / 4, plan.Added * 5 / 4);
        await studio.SettledAsync();
        var facts = (await studio.FactsAsync(received.Save))!;
        Assert.Equal(
            ["../assets/lost.png", "https://tides.example/x.png"],
            facts.References.Where(r => r.EmbeddedBytes is null).Select(r => r.Written)
        );
        var packed = await TextAsync(studio, received.Save.MainHash);
        var birds = Encoding.UTF8.GetString(Convert.FromBase64String(packed.Split("data:image/svg+xml;base64,")[1].Split('"')[0]));
        Assert.Contains(Convert.ToBase64String(moon), birds);
        // The way back to where it began stays a link.
        Assert.Contains("../working/TIM_leaflet_key.svg", birds);
    }

    [Fact]
    public async Task What_is_inside_is_put_out_once_by_content_and_packed_again_it_is_the_same()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (moon, sand) = (Samples.Png(30, 30), Samples.Png(20, 20, red: 7));
        await DropAsync(studio, "assets/known/moon.png", moon);
        await DropAsync(studio, "assets/leaflet-1.png", Samples.Png(3, 3));
        string Data(byte[] png) => "data:image/png;base64," + Convert.ToBase64String(png);
        var (piece, save) = await LeafletAsync(studio, Data(sand), Data(moon), Data(sand));

        var plan = (await studio.Do((PutOutFiles p) => p.PlanAsync(piece.Id)))!;
        Assert.Equal(
            [("assets/leaflet-1-2.png", false, 2), ("assets/known/moon.png", true, 1)],
            plan.Select(p => (p.To.Text, p.IsThere, p.Part.Times))
        );
        // Looking changes nothing.
        Assert.Equal(2, (await studio.PathsAsync(EntryKind.OwnFile)).Count);

        var outcome = (await studio.Do((PutOutFiles p) => p.DoAsync(studio.Ilse, piece.Id))).Expect();
        Assert.Equal(
            ["assets/known/moon.png", "assets/leaflet-1-2.png", "assets/leaflet-1.png"],
            await studio.PathsAsync(EntryKind.OwnFile)
        );
        var text = await TextAsync(studio, outcome.Save.Save.MainHash);
        Assert.Equal(
            Encoding.UTF8.GetString(Svg("../assets/leaflet-1-2.png", "../assets/known/moon.png", "../assets/leaflet-1-2.png")),
            text
        );
        await studio.SettledAsync();

        var back = (await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, outcome.Save.Save.Id))).Expect();
        Assert.Equal(save.MainHash, back.Save.MainHash);
    }

    [Fact]
    public async Task A_scene_is_put_out_and_packed_again_and_a_glTF_of_text_is_packed_to_be_given_away_alone()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Pier");
        await studio.TakeAsync(piece, Samples.Glb([new("Buoy")]), "pier.glb");
        await studio.SettledAsync();
        var parts = (await studio.FactsAsync((await studio.SavesAsync(piece))[^1]))!.Scene!.Parts;
        (await studio.Do((PutOutFiles p) => p.DoAsync(studio.Ilse, piece.Id))).Expect();
        Assert.Equal(["assets/pier-1.bin"], await studio.PathsAsync(EntryKind.OwnFile));
        await studio.SettledAsync();
        var outside = (await studio.SavesAsync(piece))[^1];
        Assert.Equal("../assets/pier-1.bin", Assert.Single((await studio.FactsAsync(outside))!.References).Written);
        var packed = (await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, outside.Id))).Expect();
        await studio.SettledAsync();
        Assert.Equal(
            parts.Select(p => (p.Name, p.Made)),
            (await studio.FactsAsync(packed.Save))!.Scene!.Parts.Select(p => (p.Name, p.Made))
        );

        var text = await studio.PieceAsync("Wharf");
        await studio.TakeAsync(text, Samples.Glb([new("Buoy")], isText: true), "wharf.gltf");
        await studio.SettledAsync();
        var newest = (await studio.SavesAsync(text))[^1];
        // Under its name stands text.
        Assert.IsType<Refusal.NotPacked>((await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, newest.Id))).Refusal);
        var (file, name, _) = (await studio.Do((PackFile p) => p.MakeAsync(newest.Id)))!.Value;
        using (file)
        {
            Assert.Equal("TIM_wharf_key_IK_001.glb", name);
            Assert.Equal("glTF", Encoding.ASCII.GetString((await File.ReadAllBytesAsync(file!.Path))[..4]));
        }
        Assert.False(File.Exists(file.Path));
    }

    [Fact]
    public async Task What_cannot_be_packed_is_refused_and_nothing_is_left_behind()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var taken = await studio.TakeAsync(piece, Samples.OpenRaster(9, 9, new Samples.OraLayer("Sky", 9, 9)));
        await studio.SettledAsync();
        Assert.Null(await studio.Do((PackFile p) => p.PlanAsync(taken.Save.Id)));
        Assert.IsType<Refusal.NotPacked>((await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, taken.Save.Id))).Refusal);
        Assert.IsType<Refusal.NoSuchSave>((await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, Guid.NewGuid()))).Refusal);
        Assert.Null(await studio.Do((PutOutFiles p) => p.PlanAsync(piece.Id)));
        Assert.False((await studio.Do((PutOutFiles p) => p.DoAsync(studio.Ilse, piece.Id))).Done);
        Assert.Empty(Directory.GetFiles(studio.DataFolder, "*.pack*", SearchOption.AllDirectories));

        // Larger than what is read of an SVG.
        await DropAsync(studio, "assets/sand.bin", new byte[26 << 20]);
        var (_, save) = await LeafletAsync(studio, "../assets/sand.bin");
        Assert.IsType<Refusal.NotPacked>((await studio.Do((PackFile p) => p.SaveAsync(studio.Ilse, save.Id))).Refusal);
    }

    private static async Task<string> TextAsync(StudioInUse studio, ContentHash hash) =>
        await studio.Do(
            async (IContentStore store) =>
            {
                using var reader = new StreamReader(store.OpenRead(hash));
                return await reader.ReadToEndAsync();
            }
        );

    [Fact]
    public async Task A_scene_and_a_timeline_are_outputs_of_one_file_with_all_that_they_refer_to()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var waves = Samples.Wave(2);
        await DropAsync(studio, "assets/waves.wav", waves);
        await DropAsync(studio, "assets/more/waves.wav", Samples.Wave(1, seed: 4));
        var teaser = await studio.PieceAsync("Teaser");
        var clips = new[]
        {
            new Samples.Clip("a", 24, Media: "../assets/waves.wav"),
            new Samples.Clip("b", 24, Media: "../assets/more/waves.wav"),
        };
        await studio.TakeAsync(teaser, Samples.Otio(("Sound", "Audio", clips)), "teaser.otio");
        await studio.KeepAsync(teaser);
        await studio.SettledAsync();
        var version = (await studio.SavesAsync(teaser))[^1];
        (await studio.Do((Outputs.MakeOutputs d) => d.AskAsync(studio.Odo, teaser.Id, version.Id, "packed"))).Expect();
        await studio.SettledAsync();
        var output = Assert.Single(await studio.Do((StudioDb db) => Outputs.PieceOutputs.OfAsync(db, teaser.Id)));
        Assert.EndsWith(".otioz", output.Entry.Path.Name);
        await using var content = await studio.Do((IContentStore store) => Task.FromResult(store.OpenRead(output.Record.Hash)));
        using var zip = new System.IO.Compression.ZipArchive(content);
        Assert.Equal(["content.otio", "version.txt", "media/waves.wav", "media/waves (2).wav"], zip.Entries.Select(e => e.FullName));
        using var reader = new StreamReader(zip.GetEntry("content.otio")!.Open());
        var timeline = await reader.ReadToEndAsync();
        Assert.Contains("\"media/waves.wav\"", timeline);
        Assert.Contains("\"media/waves%20%282%29.wav\"", timeline);
        Assert.DoesNotContain("../assets", timeline);
        using var held = new MemoryStream();
        await zip.GetEntry("media/waves.wav")!.Open().CopyToAsync(held);
        Assert.Equal(waves, held.ToArray());

        var model = await studio.PieceAsync("Buoy");
        await studio.TakeAsync(model, Samples.Glb([new Samples.Box("Crate")]), "buoy.glb");
        await studio.KeepAsync(model);
        await studio.SettledAsync();
        (
            await studio.Do(
                async (Outputs.MakeOutputs d) => await d.AskAsync(studio.Odo, model.Id, (await studio.SavesAsync(model))[^1].Id, "packed")
            )
        ).Expect();
        await studio.SettledAsync();
        var glb = Assert.Single(await studio.Do((StudioDb db) => Outputs.PieceOutputs.OfAsync(db, model.Id)));
        Assert.EndsWith(".glb", glb.Entry.Path.Name);
        var facts = await studio.Do((StudioDb db) => Readers.ContentReader.KnownAsync(db, glb.Record.Hash));
        Assert.Equal((FileFormat.Gltf, null), (facts!.Format, facts.Fault));
    }
}
