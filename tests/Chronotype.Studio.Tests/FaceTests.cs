using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Natives that nobody else can read, and what is saved beside them to be looked at.</summary>
public class FaceTests
{
    private static byte[] Native(int seed) => [.. "GULL LAYOUT\0"u8, .. Samples.Noise(4000, seed)];

    private static async Task<Piece> ClosedPieceAsync(StudioInUse studio)
    {
        var piece = await studio.PieceAsync("Ticket");
        await studio.VersionAsync(piece, Native(1), "ticket.gull");
        return piece;
    }

    private static Task<Save> SaveAsync(StudioInUse studio, Guid id) =>
        studio.Do((StudioDb db) => db.Saves.AsNoTracking().Include(s => s.Faces).FirstAsync(s => s.Id == id));

    [Theory]
    [InlineData("ticket.png", FaceOrigin.SameName)]
    [InlineData("Ticket.PNG", FaceOrigin.SameName)]
    [InlineData("TIM_ticket_key.png", FaceOrigin.SameName)]
    [InlineData("TIM_ticket_key_IK_001.png", FaceOrigin.SameName)]
    [InlineData("whatever.png", FaceOrigin.SameSitting)]
    public async Task A_flat_picture_beside_a_closed_native_becomes_its_face_and_no_save(string name, FaceOrigin why)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        studio.Time.Advance(TimeSpan.FromMinutes(10));

        var taken = await studio.TakeAsync(piece, Samples.Png(40, 30), name);

        Assert.Equal(why, taken.Face?.Origin);
        Assert.False(taken.IsNew);
        var only = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal(taken.Face!.Hash, only.FaceHash);
        Assert.Equal(taken.Face.Hash, only.SeenHash);
        Assert.NotEqual(only.MainHash, only.SeenHash);
        await studio.SettledAsync();
        var seen = await studio.Do((StudioDb db) => Readers.ContentReader.KnownAsync(db, only.SeenHash));
        Assert.Equal((40, 30), (seen?.Picture?.Width, seen?.Picture?.Height));
    }

    [Fact]
    public async Task What_comes_another_day_under_another_name_is_a_save_that_asks_and_may_be_made_the_face()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        studio.Time.Advance(TimeSpan.FromHours(20));

        var taken = await studio.TakeAsync(piece, Samples.Png(40, 30), "proof.png");
        Assert.Null(taken.Face);
        Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece, taken.Save.Id));

        var faced = (await studio.Do((AttachFace d) => d.FromSaveAsync(studio.Odo, piece.Id, taken.Save.Id))).Expect();
        Assert.Equal(1, faced.Save.Number);
        var only = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal(taken.Save.MainHash, only.FaceHash);
    }

    [Fact]
    public async Task A_picture_of_a_piece_that_can_be_read_is_never_taken_for_a_face()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var taken = await studio.TakeAsync(piece, Samples.Png(30, 20), "poster.png");
        Assert.Null(taken.Face);
        Assert.True(taken.IsNew);
        var version = (await studio.SavesAsync(piece))[0];
        var refused = await studio.Do(
            (AttachFace d) =>
                d.DoAsync(studio.Ilse, piece.Id, version.Id, new ArrivingContent("a.png", new MemoryStream(Samples.Png(3, 2))))
        );
        Assert.IsType<Refusal.NeedsNoFace>(refused.Refusal);
    }

    [Fact]
    public async Task What_shows_nothing_is_refused_as_a_face_by_hand()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        var version = (await studio.SavesAsync(piece))[0];
        Task<Outcome<FacedSave>> Attach(byte[] content, Guid save) =>
            studio.Do((AttachFace d) => d.DoAsync(studio.Ilse, piece.Id, save, new ArrivingContent("a.png", new MemoryStream(content))));
        Assert.IsType<Refusal.NoFace>((await Attach(Native(5), version.Id)).Refusal);
        Assert.IsType<Refusal.NoFace>((await Attach([], version.Id)).Refusal);
        Assert.IsType<Refusal.NoSuchSave>((await Attach(Samples.Png(3, 2), Guid.NewGuid())).Refusal);
        Assert.Null((await SaveAsync(studio, version.Id)).FaceHash);
        Assert.Equal(FaceOrigin.ByHand, (await Attach(Samples.Wave(1), version.Id)).Expect().Face.Origin);
    }

    [Fact]
    public async Task Versions_with_faces_are_compared_by_them_and_anew_when_one_is_changed()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        await studio.TakeAsync(piece, Samples.Png(40, 30, red: 10), "ticket.png");
        studio.Time.Advance(TimeSpan.FromHours(3));
        await studio.VersionAsync(piece, Native(2), "ticket.gull");
        var saves = await studio.SavesAsync(piece);
        Task<(Comparison? Comparison, Storage.Entities.JobError)> Compare() =>
            studio.Do((CompareSaves d) => d.DoAsync(saves[0].Identity, saves[1].Identity, piece.Id));

        var (byBytes, _) = await Compare();
        Assert.Equal((ComparisonBasis.Bytes, false), (byBytes!.Basis, byBytes.IsByFaces));

        await studio.TakeAsync(piece, Samples.Png(40, 30, red: 250), "ticket.png");
        var (byFaces, _) = await Compare();
        Assert.Equal((ComparisonBasis.PictureArea, true, 1.0), (byFaces!.Basis, byFaces.IsByFaces, byFaces.Change));

        var face = AttachFace.Standing(await SaveAsync(studio, saves[1].Id))!;
        (await studio.Do((AttachFace d) => d.TakeOffAsync(studio.Ilse, piece.Id, face.Id))).Expect();
        Assert.Equal(ComparisonBasis.Bytes, (await Compare()).Comparison!.Basis);
    }

    [Fact]
    public async Task A_face_that_was_meant_as_a_save_becomes_one()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        var taken = await studio.TakeAsync(piece, Samples.Png(40, 30), "ticket.png");
        var received = (await studio.Do((AttachFace d) => d.AsSaveAsync(studio.Ilse, piece.Id, taken.Face!.Id))).Expect();
        Assert.True(received.IsNew);
        var saves = await studio.SavesAsync(piece);
        Assert.Equal([null, taken.Face!.Hash], saves.Select(s => s.FaceHash ?? (s.Number is null ? s.MainHash : (ContentHash?)null)));
        Assert.Null(saves[0].FaceHash);
    }

    [Fact]
    public async Task What_was_exported_before_the_native_was_saved_follows_it_within_the_sitting()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        studio.Time.Advance(TimeSpan.FromHours(20));
        var face = (await studio.TakeAsync(piece, Samples.Png(40, 30), "ticket.png")).Face!;
        studio.Time.Advance(TimeSpan.FromMinutes(2));
        await studio.TakeAsync(piece, Native(2), "ticket.gull");
        var saves = await studio.SavesAsync(piece);
        Assert.Equal([null, face.Hash], saves.Select(s => s.FaceHash));
    }

    [Fact]
    public async Task What_has_the_name_of_a_version_stays_with_it_whatever_comes_after()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        studio.Time.Advance(TimeSpan.FromHours(20));
        var face = (await studio.TakeAsync(piece, Samples.Png(40, 30), "TIM_ticket_key_IK_001.png")).Face!;
        studio.Time.Advance(TimeSpan.FromMinutes(2));
        await studio.TakeAsync(piece, Native(2), "ticket.gull");
        Assert.Equal([face.Hash, null], (await studio.SavesAsync(piece)).Select(s => s.FaceHash));
    }

    [Fact]
    public async Task In_a_folder_the_flat_file_of_the_mains_name_is_the_face()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Ticket");
        using var memory = new MemoryStream();
        using (var zip = new System.IO.Compression.ZipArchive(memory, System.IO.Compression.ZipArchiveMode.Create, leaveOpen: true))
        {
            Add("ticket.gull", Native(1));
            Add("parts/moon.png", Samples.Png(9, 9));
            Add("proofs/ticket.png", Samples.Png(40, 30));
            void Add(string path, byte[] bytes)
            {
                using var entry = zip.CreateEntry(path).Open();
                entry.Write(bytes);
            }
        }
        await studio.VersionAsync(piece, memory.ToArray(), "ticket.zip");
        var version = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal(version.Files.Single(f => f.Path == "proofs/ticket.png").Hash, version.FaceHash);
        Assert.Equal(FaceOrigin.Companion, AttachFace.Standing(await SaveAsync(studio, version.Id))!.Origin);
    }

    [Fact]
    public async Task A_face_stays_stored_for_as_long_as_its_save_and_comes_back_with_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await ClosedPieceAsync(studio);
        var first = (await studio.TakeAsync(piece, Samples.Png(40, 30, red: 1), "ticket.png")).Face!;
        var second = (await studio.TakeAsync(piece, Samples.Png(40, 30, red: 2), "ticket.png")).Face!;
        await studio.TakeAsync(piece, Native(2), "ticket.gull");
        var version = (await studio.SavesAsync(piece))[0];
        Assert.Equal(second.Hash, version.FaceHash);

        studio.Time.Advance(TimeSpan.FromDays(3));
        await studio.Do((HeldContent d) => d.DropUnheldAsync());
        // The one that was replaced, too: it arrived, so it is not lost.
        Assert.True(await studio.Do((IContentStore store) => Task.FromResult(store.Has(first.Hash) && store.Has(second.Hash))));

        var back = (await studio.Do((BringBack d) => d.DoAsync(studio.Ilse, piece.Id, version.Id))).Expect();
        Assert.Equal(second.Hash, (await SaveAsync(studio, back.Id)).FaceHash);
        Assert.NotNull(AttachFace.Standing(await SaveAsync(studio, back.Id)));
    }

    [Fact]
    public async Task A_folders_files_are_told_apart_by_what_they_hold()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Texts");
        await studio.VersionAsync(
            piece,
            Samples.Zip(
                ("texts.md", "the main file is the longest of them\n"),
                ("captions/bell.md", "one\n"),
                ("captions/moon.md", "two\n"),
                ("shore.md", "a\nb\nc\nd\n")
            ),
            "texts.zip"
        );
        var second = await studio.TakeAsync(
            piece,
            Samples.Zip(
                ("texts.md", "the main file is the longest of them\n"),
                ("captions/buoy.md", "one\n"),
                ("sky/moon.md", "two\n"),
                ("shore.md", "a\nb\nc\ne\n")
            ),
            "texts.zip"
        );
        var saves = await studio.SavesAsync(piece);
        var (told, _) = await studio.Do((CompareSaves d) => d.DoAsync(saves[0].Identity, second.Save.Identity, piece.Id));
        Assert.Equal(
            [
                ("captions/buoy.md", PartChangeKind.Changed, "captions/bell.md"),
                ("shore.md", PartChangeKind.Changed, null),
                ("sky/moon.md", PartChangeKind.Moved, "captions/moon.md"),
            ],
            told!.Companions.Select(c => (c.Name, c.Kind, c.FormerName))
        );
        var shore = told.Companions[1];
        Assert.Equal(ComparisonBasis.Lines, shore.Inside!.Basis);
        Assert.Equal(0.25, shore.Share!.Value, 3);
    }
}
