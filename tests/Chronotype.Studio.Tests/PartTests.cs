using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Files converted to what they should be, and parts of files put elsewhere.</summary>
public class PartTests
{
    private static async Task<Guid> StoreAsync(StudioInUse studio, string folder, string name, byte[] content) =>
        (
            await studio.Do(
                (TendFiles d) =>
                    d.ReceiveAsync(
                        studio.Odo,
                        studio.Project.Id,
                        ProjectPath.Parse(folder),
                        new ArrivingContent(name, new MemoryStream(content))
                    )
            )
        )
            .Expect()
            .Entry.Id;

    [Fact]
    public async Task An_asset_gets_new_content_a_piece_a_loose_save_and_an_original_a_copy_beside_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var spec = new ProjectSpec { Sound = new SoundSpec(48_000, 24) };
        (await studio.Do((SetSpec d) => d.DoAsync(studio.Ilse, studio.Project.Id, spec))).Expect();
        var asset = await StoreAsync(studio, "assets", "waves.wav", Samples.Wave(1, rate: 44_100));
        var original = await StoreAsync(studio, "originals", "voice.wav", Samples.Wave(1, seed: 3, rate: 44_100));
        var right = await StoreAsync(studio, "assets", "bell.flac", [1, 2, 3]);
        var mix = await studio.PieceAsync("Guide");
        await studio.TakeAsync(mix, Samples.Wave(1, seed: 5, rate: 44_100), "guide.wav");
        await studio.KeepAsync(mix);
        await studio.SettledAsync();
        var current = await studio.Do(
            (StudioDb db) => db.Entries.Where(e => e.PieceId == mix.Id && e.Kind == EntryKind.CurrentFile).Select(e => e.Id).SingleAsync()
        );
        var mendable = await studio.Do((StudioDb db) => MendSpec.OfAsync(db, studio.Project.Id));
        Assert.Equal(new[] { asset, original, current }.Order(), mendable.Select(m => m.File.EntryId).Order());
        Assert.IsType<Refusal.NothingToMend>((await studio.Do((MendSpec d) => d.AskAsync(studio.Odo, studio.Project.Id, [right]))).Refusal);
        Assert.Equal(
            3,
            (await studio.Do((MendSpec d) => d.AskAsync(studio.Odo, studio.Project.Id, [asset, original, current, right]))).Expect().Count
        );
        await studio.SettledAsync();

        var contents = await studio.Do(
            (StudioDb db) => db.FileContents.Where(c => c.EntryId == asset).OrderBy(c => c.Sequence).Select(c => c.Hash).ToListAsync()
        );
        Assert.Equal(2, contents.Count);
        var facts = await studio.Do((StudioDb db) => ContentReader.KnownAsync(db, contents[1]));
        Assert.Equal((48_000, 24), (facts!.Sound!.SampleRate, facts.Sound.Bits));
        // The original is what it was; what it became stands among the assets.
        Assert.Equal(1, await studio.Do((StudioDb db) => db.FileContents.CountAsync(c => c.EntryId == original)));
        Assert.Contains("assets/voice.wav", await studio.PathsAsync(EntryKind.OwnFile));
        var saves = await studio.SavesAsync(mix);
        Assert.Equal([1, null], saves.Select(s => s.Number));
        Assert.Equal(48_000, (await studio.FactsAsync(saves[1]))!.Sound!.SampleRate);
        // The original itself is still off: it is what was received.
        Assert.Equal([original], (await studio.Do((StudioDb db) => MendSpec.OfAsync(db, studio.Project.Id))).Select(m => m.File.EntryId));
    }

    [Fact]
    public void What_would_bend_cut_or_lose_something_is_left_to_its_program()
    {
        static Recipe? Of(FileFormat format, FileMeasures file, ProjectSpec spec) =>
            SpecMending.Of(format, file, spec, spec.FaultsOf(file, FolderRole.Outputs));
        var picture = new FileMeasures
        {
            Width = 2000,
            Height = 1000,
            Resolution = 72,
            Colour = ColourModel.Rgb,
            Depth = 8,
        };
        ProjectSpec Size(int width, int height) => new() { Picture = new PictureSpec(width, height) };
        Assert.Equal(new OutputSize(1000, 500, "px", 72), Of(FileFormat.Png, picture, Size(1000, 500))!.Picture!.Size);
        Assert.Null(Of(FileFormat.Png, picture, Size(1000, 600)));
        Assert.Null(Of(FileFormat.Png, picture, Size(4000, 2000)));
        // A denser print has the same pixels.
        var dense = Of(FileFormat.Tiff, picture, new() { Picture = new PictureSpec(Resolution: 300) })!.Picture!;
        Assert.Equal(new OutputSize(2000, 1000, "px", 300), dense.Size);
        Assert.Null(Of(FileFormat.Png, picture, new() { Picture = new PictureSpec(Colour: ColourModel.Cmyk) }));
        Assert.Equal(16, Of(FileFormat.Png, picture, new() { Picture = new PictureSpec(Depth: 16) })!.Picture!.Depth);
        Assert.Null(Of(FileFormat.Jpeg, picture, new() { Picture = new PictureSpec(Depth: 16) }));
        Assert.Null(Of(FileFormat.OpenRaster, picture, Size(1000, 500)));
        var sound = new FileMeasures
        {
            SampleRate = 44_100,
            Bits = 32,
            Channels = 2,
        };
        var wanted = new ProjectSpec { Sound = new SoundSpec(48_000) };
        Assert.Null(Of(FileFormat.Wave, sound, wanted));
        Assert.Equal(24, Of(FileFormat.Flac, sound with { Bits = 24 }, wanted)!.Sound!.Bits);
        Assert.Null(Of(FileFormat.Mpeg, sound with { Bits = null }, wanted));
    }

    [Fact]
    public async Task Parts_of_another_piece_come_in_as_a_loose_save_that_says_where_from_and_a_region_begins_a_piece()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.BegunAsync();
        var moon = await studio.PieceAsync("Moon");
        await studio.VersionAsync(
            moon,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Moon", 9, 9, Red: 250, X: 12), new Samples.OraLayer("Night", 30, 20))
        );
        await studio.SettledAsync();
        var source = (await studio.SavesAsync(moon))[0];
        var put = (await studio.Do((PutParts d) => d.DoAsync(studio.Odo, poster.Id, source.Id, [0]))).Expect();
        await studio.SettledAsync();
        var save = (await studio.SavesAsync(poster))[^1];
        Assert.Equal((put.Save.Id, null, $"With parts of {source.ExactName}"), (save.Id, save.Number, save.Note));
        Assert.Equal([source.ExactName!, "Moon", "Beginning", "More"], (await studio.FactsAsync(save))!.Layers.Select(l => l.Name));
        Assert.IsType<Refusal.NotPut>((await studio.Do((PutParts d) => d.DoAsync(studio.Odo, poster.Id, source.Id, []))).Refusal);

        var cut = new PartCut(new PictureRegion(10, 0, 15, 12), null);
        var begun = (
            await studio.Do(
                (StartFrom d) => d.PartsAsync(studio.Odo, studio.Project.Id, StudioInUse.Called("Moon alone", "key"), source.Id, [], cut)
            )
        ).Expect();
        await studio.SettledAsync();
        Assert.Equal(source.Id, begun.FromSaveId);
        Assert.Equal(cut, RecordJson.Read<PartTaken>(begun.FromPart!).Cut);
        var alone = (
            await studio.Do(
                (StartFrom d) => d.PartsAsync(studio.Odo, studio.Project.Id, StudioInUse.Called("Moon layer", "key"), source.Id, [0])
            )
        ).Expect();
        Assert.Equal(["Moon"], RecordJson.Read<PartTaken>(alone.FromPart!).Names);
        var facts = (await studio.FactsAsync((await studio.SavesAsync(begun))[0]))!;
        Assert.Equal((15, 12, 2, 2), (facts.Picture!.Width, facts.Picture.Height, facts.LayerCount, facts.Layers[0].X));
        var outside = cut with { Region = new PictureRegion(99, 0, 5, 5) };
        Assert.IsType<Refusal.NotParted>(
            (
                await studio.Do(
                    (StartFrom d) =>
                        d.PartsAsync(studio.Odo, studio.Project.Id, StudioInUse.Called("Nothing", "key"), source.Id, [], outside)
                )
            ).Refusal
        );
    }
}
