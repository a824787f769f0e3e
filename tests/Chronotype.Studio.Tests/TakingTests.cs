using System.IO.Compression;
using System.Text;
using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

public class TakingTests
{
    [Fact]
    public async Task A_zip_is_taken_as_a_folder_with_its_main_file()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Scene");
        var kept = await studio.VersionAsync(
            piece,
            Samples.Zip(
                ("scene/main.gltfx", "the scene"),
                ("scene/textures/sand.txt", "sand"),
                ("scene/textures/sea.txt", "a long text about the sea, larger than the main file")
            ),
            "scene.zip"
        );

        Assert.Equal("TIM_scene_key_IK_001.gltfx", kept.ExactName);
        var save = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal(["main.gltfx", "textures/sand.txt", "textures/sea.txt"], save.Files.Select(f => f.Path).Order(StringComparer.Ordinal));
        Assert.Equal("main.gltfx", save.Files.Single(f => f.IsMain).Path);

        // The main file stays the main one, however large another grows beside it.
        await studio.TakeAsync(piece, Samples.Zip(("scene/main.gltfx", "x"), ("scene/notes.txt", new string('n', 500))), "scene.zip");
        Assert.Equal("main.gltfx", (await studio.SavesAsync(piece))[^1].Files.Single(f => f.IsMain).Path);
    }

    [Fact]
    public async Task Two_zips_of_one_folder_are_the_same_content()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Samples.Zip(("a.txt", "1"), ("b.txt", "2")), "one.zip");
        Assert.False((await studio.TakeAsync(piece, Samples.Zip(("b.txt", "2"), ("a.txt", "1")), "two.zip")).IsNew);
    }

    public static TheoryData<ArrivalNoticeCode, byte[]> Hostile() =>
        new()
        {
            { ArrivalNoticeCode.ZipPathRefused, Samples.Zip(("../outside.txt", "x"), ("a.txt", "y")) },
            { ArrivalNoticeCode.ZipPathRefused, Samples.Zip(("/etc/passwd", "x")) },
            { ArrivalNoticeCode.ZipNameTwice, Samples.Zip(("a.txt", "x"), ("A.TXT", "y")) },
            { ArrivalNoticeCode.ZipEmpty, Samples.Zip() },
            { ArrivalNoticeCode.ZipDamaged, Samples.Zip(("a.txt", new string('x', 5000)))[..60] },
            { ArrivalNoticeCode.ZipDamaged, Altered(Samples.Noise(400), "the text of a file", at: 4) },
            { ArrivalNoticeCode.ZipLocked, Locked() },
            { ArrivalNoticeCode.ZipHasLink, Linked() },
            { ArrivalNoticeCode.ZipBomb, Bomb() },
        };

    [Theory]
    [MemberData(nameof(Hostile))]
    public async Task A_hostile_zip_is_kept_as_the_one_file_that_it_is_and_says_why(ArrivalNoticeCode why, byte[] zip)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var taken = await studio.TakeAsync(piece, zip, "folder.zip");
        Assert.Equal(why, taken.Notice!.Code);
        var save = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal(("folder.zip", (long)zip.Length), (Assert.Single(save.Files).Path, save.Size));
        Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece));
    }

    [Fact]
    public async Task An_arrival_that_breaks_off_leaves_no_save()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await Assert.ThrowsAsync<IOException>(() =>
            studio.Do(
                (ReceiveSave d) => d.DoAsync(studio.Ilse, new SaveTarget.OfPiece(piece.Id), new ArrivingContent("a.ora", new BreakingOff()))
            )
        );
        Assert.Empty(await studio.SavesAsync(piece));
        Assert.Equal(1, (await studio.VersionAsync(piece, [1, 2, 3], "a.lay")).Number.Value);
    }

    [Fact]
    public async Task A_content_of_a_name_with_a_path_in_it_stays_in_its_piece()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var taken = await studio.TakeAsync(piece, [1], @"..\..\windows\evil.lay");
        Assert.Equal(("evil.lay", "evil.lay"), (taken.Save.ReceivedName, Assert.Single(taken.Save.Files).Path));
    }

    [Fact]
    public async Task A_milestone_keeps_the_newest_first_and_counts_in_its_own_series()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, [1], "a.lay");
        await studio.TakeAsync(piece, [2], "a.lay");
        var first = await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, null, " before  the sky\nis repainted "));
        Assert.Equal(
            (1, 2, "before the sky is repainted", "TIM_moonpull-poster_key_M01.lay"),
            (first.Expect().Milestone.Number, first.Result!.Version.Value, first.Result.Milestone.Reason, first.Result.Milestone.ExactName)
        );
        Assert.NotNull(first.Result.Kept);

        var older = await studio.Do((MarkMilestone d) => d.DoAsync(studio.Odo, piece.Id, new VersionNumber(1), "client round 1"));
        Assert.Equal((2, 1), (older.Expect().Milestone.Number, older.Result!.Version.Value));
        Assert.Null(older.Result.Kept);
    }

    [Fact]
    public async Task A_milestone_needs_a_reason_a_version_and_is_marked_once()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        async Task<Refusal?> RefusalOf(int? number, string reason) =>
            (
                await studio.Do(
                    (MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, number is { } n ? new VersionNumber(n) : null, reason)
                )
            ).Refusal;

        Assert.IsType<Refusal.NothingToMark>(await RefusalOf(null, "reason"));
        await studio.VersionAsync(piece, [1], "a.lay");
        Assert.IsType<Refusal.NoReason>(await RefusalOf(null, " \u0001 "));
        Assert.Equal(new Refusal.Length("reason", 1, 80), await RefusalOf(null, new string('x', 81)));
        Assert.Equal(new Refusal.NoSuchVersion(new VersionNumber(9)), await RefusalOf(9, "reason"));
        Assert.Null(await RefusalOf(1, "reason"));
        Assert.Equal(new Refusal.MarkedAlready(new VersionNumber(1), 1, "reason"), await RefusalOf(1, "again"));
    }

    [Fact]
    public async Task A_milestone_waits_while_the_newest_save_is_in_question()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, [], "a.lay");
        var outcome = await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, null, "reason"));
        Assert.IsType<KeepResult.Question>(Assert.IsType<Refusal.NotKept>(outcome.Refusal).Objection);
    }

    [Fact]
    public async Task What_is_brought_back_is_a_new_loose_save_on_top()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var first = await studio.VersionAsync(piece, [1], "a.lay");
        var second = await studio.VersionAsync(piece, [2], "a.lay");
        Assert.False((await studio.Do((BringBack d) => d.DoAsync(studio.Odo, piece.Id, second.SaveId))).Done);

        var back = (await studio.Do((BringBack d) => d.DoAsync(studio.Odo, piece.Id, first.SaveId))).Expect();
        var saves = await studio.SavesAsync(piece);
        Assert.Equal([1, 2, null], saves.Select(s => s.Number));
        Assert.Equal((back.Id, 1, saves[0].Identity), (saves[2].Id, saves[2].BroughtBackFrom, saves[2].Identity));
        Assert.Equal(3, Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece, insist: true)).Number.Value);
    }

    [Fact]
    public async Task A_note_is_mended_and_taken_away_but_only_on_a_version()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var version = await studio.VersionAsync(piece, [1], "a.lay");
        Assert.True(
            (await studio.Do((WriteNote d) => d.DoAsync(studio.Ilse, piece.Id, version.SaveId, "a\u0000b " + new string('c', 3000)))).Done
        );
        Assert.Equal(KeepSave.MaxNote, (await studio.SavesAsync(piece))[0].Note!.Length);
        await studio.Do((WriteNote d) => d.DoAsync(studio.Ilse, piece.Id, version.SaveId, "  "));
        Assert.Null((await studio.SavesAsync(piece))[0].Note);
        var loose = await studio.TakeAsync(piece, [2], "a.lay");
        Assert.IsType<Refusal.NoSuchSave>((await studio.Do((WriteNote d) => d.DoAsync(studio.Ilse, piece.Id, loose.Save.Id, "x"))).Refusal);
    }

    [Fact]
    public async Task What_changed_in_a_folder_counts_its_companions()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var before = await studio.VersionAsync(piece, Samples.Zip(("main.txt", "m"), ("a.md", "a"), ("b.md", "b")), "f.zip");
        var after = await studio.VersionAsync(piece, Samples.Zip(("main.txt", "m"), ("a.md", "A"), ("c.md", "c")), "f.zip");
        Assert.True(before.Number < after.Number);
        var identities = (await studio.SavesAsync(piece)).ConvertAll(s => s.Identity);
        var (result, _) = await studio.Do((CompareSaves d) => d.DoAsync(identities[0], identities[1], piece.Id));
        Assert.Equal(["a.md", "c.md", "b.md"], result!.Companions.Select(p => p.Name));
        Assert.Equal((1.0, ComparisonBasis.SameContent), (result.Change!.Value, result.Basis));
        Assert.Equal(1, await studio.Do((StudioDb db) => db.Comparisons.CountAsync()));
    }

    [Fact]
    public async Task A_zip_that_says_itself_how_much_too_large_it_is_is_not_unpacked_to_see()
    {
        await using var studio = await StudioInUse.OpenAsync(otherwise: FullStore.Between);
        var store = (FullStore)(object)await studio.Do((IContentStore s) => Task.FromResult(s));
        var piece = await studio.PieceAsync();
        Assert.Equal(ArrivalNoticeCode.ZipBomb, (await studio.TakeAsync(piece, Bomb(), "folder.zip")).Notice?.Code);
        // The zip alone.
        Assert.Equal(1, store.Staged);
    }

    // A stored entry whose bytes no longer fit their sum.
    private static byte[] Altered(byte[] noise, string text, int at)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            using (var first = zip.CreateEntry("a.txt", CompressionLevel.NoCompression).Open())
                first.Write(Encoding.UTF8.GetBytes(text));
            using var second = zip.CreateEntry("b.bin").Open();
            second.Write(noise);
        }
        var bytes = memory.ToArray();
        bytes[bytes.AsSpan().IndexOf(Encoding.UTF8.GetBytes(text)) + at] ^= 1;
        return bytes;
    }

    // General purpose bit 0 (APPNOTE 4.4.4), in the list of parts at the end.
    private static byte[] Locked()
    {
        var bytes = Samples.Zip(("a.txt", "secret"));
        bytes[bytes.AsSpan().LastIndexOf("PK\u0001\u0002"u8) + 8] |= 1;
        return bytes;
    }

    private static byte[] Bomb()
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            using var stream = zip.CreateEntry("bomb.bin").Open();
            var zeros = new byte[1 << 20];
            for (var i = 0; i < 1100; i++)
                stream.Write(zeros);
        }
        return memory.ToArray();
    }

    private static byte[] Linked()
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            var entry = zip.CreateEntry("link");
            entry.ExternalAttributes = unchecked((int)0xA1FF0000);
            using var stream = entry.Open();
            stream.Write(Encoding.UTF8.GetBytes("/etc/passwd"));
        }
        return memory.ToArray();
    }

    private sealed class BreakingOff : MemoryStream
    {
        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default) =>
            throw new IOException("The other side is gone.");
    }
}
