using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

public class KeepingTests
{
    private static readonly Samples.OraLayer Sky = new("Sky", 60, 60),
        Moon = new("Moon", 20, 20, Red: 250, X: 5, Y: 5);

    private static byte[] Poster(byte red, params Samples.OraLayer[] more) =>
        Samples.OpenRaster(60, 60, [.. more, Sky with { Red = red }, Moon]);

    [Fact]
    public async Task A_version_records_its_number_its_exact_name_who_when_and_its_base()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        studio.Time.Advance(TimeSpan.FromHours(1));
        var taken = await studio.TakeAsync(piece, Poster(2), "final FINAL (2).ora");
        var kept = Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece, by: studio.Odo, note: "  warmer \r\n sky "));

        Assert.Equal("TIM_moonpull-poster_key_OB_002.ora", kept.ExactName);
        Assert.Null(kept.NewerThanBase);
        var save = (await studio.SavesAsync(piece))[^1];
        Assert.Equal(
            (taken.Save.Id, 2, 1, studio.Odo.PersonId, studio.Ilse.PersonId),
            (save.Id, save.Number, save.BaseNumber, save.KeptById!.Value, save.ArrivedById)
        );
        Assert.Equal(studio.Time.GetUtcNow(), save.KeptAt);
        Assert.Equal("warmer \n sky", save.Note);
        Assert.Equal("final FINAL (2).ora", save.ReceivedName);
        Assert.Equal(2, (await studio.FactsAsync(save))!.Layers.Count);
    }

    [Theory]
    [InlineData(0, "000")]
    [InlineData(1, "001")]
    public async Task The_first_number_is_the_conventions(int first, string label)
    {
        await using var studio = await StudioInUse.OpenAsync(first);
        var kept = await studio.VersionAsync(await studio.PieceAsync(), Poster(1));
        Assert.Equal($"TIM_moonpull-poster_key_IK_{label}.ora", kept.ExactName);
    }

    [Fact]
    public async Task The_same_content_takes_no_number_and_is_not_stored_twice()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var again = await studio.TakeAsync(piece, Poster(1), "copy of it.ora");
        Assert.False(again.IsNew);
        Assert.Single(await studio.SavesAsync(piece));
    }

    [Fact]
    public async Task Content_that_comes_back_after_other_saves_says_what_it_equals()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        await studio.VersionAsync(piece, Poster(2));
        await studio.TakeAsync(piece, Poster(1));
        var older = Assert.IsType<KeepResult.Same>(await studio.KeepAsync(piece));
        Assert.Equal((1, true, false), (older.As.Value, older.MayInsist, older.InsideOnly));
        Assert.Equal(3, Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece, insist: true)).Number.Value);

        await studio.TakeAsync(piece, Poster(9));
        await studio.TakeAsync(piece, Poster(1));
        Assert.False(Assert.IsType<KeepResult.Same>(await studio.KeepAsync(piece, insist: true)).MayInsist);
    }

    [Fact]
    public async Task A_file_that_was_only_saved_again_has_the_same_inside()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Samples.OpenRaster(60, 60, new DateTime(2026, 3, 2), Sky, Moon));
        await studio.TakeAsync(piece, Samples.OpenRaster(60, 60, new DateTime(2026, 3, 3), Sky, Moon));
        var same = Assert.IsType<KeepResult.Same>(await studio.KeepAsync(piece));
        Assert.Equal((true, true), (same.InsideOnly, same.MayInsist));
        Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece, insist: true));
    }

    [Fact]
    public async Task A_number_is_never_used_again_even_when_its_version_is_gone()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        await studio.VersionAsync(piece, Poster(2));
        await studio.Do<StudioDb>(db => db.Saves.Where(s => s.Number == 2).ExecuteDeleteAsync());
        Assert.Equal(3, (await studio.VersionAsync(piece, Poster(3))).Number.Value);
    }

    [Fact]
    public async Task Many_who_keep_at_once_get_a_number_each_and_the_later_are_told()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var saves = new List<Guid>();
        for (byte i = 10; i < 18; i++)
            saves.Add((await studio.TakeAsync(piece, Poster(i))).Save.Id);

        var results = await Task.WhenAll(
            saves.Select((s, i) => Task.Run(() => studio.KeepAsync(piece, s, by: i % 2 == 0 ? studio.Ilse : studio.Odo)))
        );
        var kept = results.Cast<KeepResult.Kept>().OrderBy(k => k.Number).ToList();
        Assert.Equal(Enumerable.Range(2, 8), kept.Select(k => k.Number.Value));
        Assert.Null(kept[0].NewerThanBase);
        Assert.All(kept.Skip(1), k => Assert.Equal(new VersionNumber(k.Number.Value - 1), k.NewerThanBase));
    }

    [Fact]
    public async Task Two_who_keep_the_same_save_keep_it_once()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(9));
        var save = (await studio.TakeAsync(piece, Poster(1))).Save.Id;
        var results = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Task.Run(() => studio.KeepAsync(piece, save))));
        Assert.Single(results.OfType<KeepResult.Kept>());
        Assert.Equal(5, results.OfType<KeepResult.Already>().Count());
    }

    [Fact]
    public async Task A_save_that_cannot_be_read_is_stored_and_waits_at_a_question()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var cut = Poster(2)[..900];
        await studio.TakeAsync(piece, cut);
        Assert.Equal(
            FileFaultCode.ContainerUnreadable,
            Assert.Single(Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece)).Doubts).Fault!.Code
        );
        var save = (await studio.SavesAsync(piece))[^1];
        Assert.Null(save.Number);
        Assert.Equal(cut, await studio.Do((IContentStore store) => Task.FromResult(ReadAll(store.OpenRead(save.MainHash)))));
        Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece, insist: true));
    }

    [Fact]
    public async Task Lost_layers_and_another_kind_of_file_are_asked_about()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        await studio.TakeAsync(piece, Samples.OpenRaster(60, 60, Sky));
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.Flattened, 2, 1)],
            Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece)).Doubts
        );
        await studio.TakeAsync(piece, Samples.Png(60, 60), "poster.png");
        Assert.Contains(
            new SaveDoubt(SaveDoubtCode.OtherKind) { KindBefore = ".ora", KindNow = ".png" },
            Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece)).Doubts
        );
    }

    [Fact]
    public async Task What_is_expected_from_now_on_is_not_asked_about_again_until_somebody_says_so()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var flat = await studio.TakeAsync(piece, Samples.OpenRaster(60, 60, Sky));
        var kept = await studio.Do((SaveQuestion question) => question.ExpectAsync(studio.Ilse, piece.Id, flat.Save.Id));
        Assert.Equal(2, Assert.IsType<KeepResult.Kept>(kept.Result).Number.Value);
        await studio.VersionAsync(piece, Poster(3));
        await studio.VersionAsync(piece, Samples.OpenRaster(60, 60, Sky with { Red = 4 }));
        // What else is unlike is asked about all the same, and what is damaged always.
        await studio.TakeAsync(piece, Samples.OpenRaster(90, 60, Sky));
        Assert.Equal(
            [SaveDoubtCode.OtherSize],
            Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece)).Doubts.Select(d => d.Code)
        );
        var cut = await studio.TakeAsync(piece, Poster(5)[..900]);
        var still = await studio.Do((SaveQuestion question) => question.ExpectAsync(studio.Ilse, piece.Id, cut.Save.Id));
        Assert.IsType<KeepResult.Question>(still.Result);

        await studio.Do((SaveQuestion question) => question.AskAgainAsync(studio.Ilse, piece.Id));
        await studio.VersionAsync(piece, Poster(6), insist: true);
        await studio.TakeAsync(piece, Samples.OpenRaster(60, 60, Sky with { Red = 7 }));
        Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece));
    }

    [Fact]
    public async Task A_flat_copy_that_came_for_a_piece_is_taken_as_an_output_and_can_be_taken_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var flat = (await studio.TakeAsync(piece, Samples.Png(60, 60), "moonpull for the web.png")).Save;
        var placed = await studio.Do((SaveQuestion question) => question.TakeAsOutputAsync(studio.Ilse, piece.Id, flat.Id));
        Assert.Equal("outputs/moonpull for the web.png", placed.Result!.Entry.Path.Text);
        Assert.Equal(flat.MainHash, placed.Result!.Content.Hash);
        Assert.Single(await studio.SavesAsync(piece));
        Assert.IsType<Refusal.NoSuchSave>(
            (await studio.Do((SaveQuestion question) => question.TakeAsOutputAsync(studio.Ilse, piece.Id, flat.Id))).Refusal
        );
        await studio.Do((Remove remove) => remove.TakeBackSaveAsync(studio.Ilse, flat.Id));
        Assert.Equal(2, (await studio.SavesAsync(piece)).Count);
    }

    [Fact]
    public async Task What_was_kept_is_counted_against_the_version_before()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var count = (await studio.VersionAsync(piece, Poster(1, new Samples.OraLayer("Gulls", 9, 9, Red: 3)))).Count!;
        Assert.Equal((2, 3), (count.Before!.LayerCount, count.Now!.LayerCount));
        Assert.Equal((1, 1), (count.Files, count.FilesBefore));
        Assert.InRange(count.NewBytes!.Value, 1, count.Bytes);
    }

    [Fact]
    public async Task Every_save_is_measured_against_the_version_that_was_newest_when_it_came()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var loose = (await studio.TakeAsync(piece, Poster(2))).Save;
        await studio.SettledAsync();
        var digest = await studio.Do(
            (StudioDb db) => db.Comparisons.Where(c => c.After == loose.Identity).Select(c => c.Digest).SingleAsync()
        );
        Assert.Equal("Sky", Assert.Single(RecordJson.Read<Comparison>(digest!).Parts).Name);
    }

    [Fact]
    public async Task An_empty_file_is_stored_but_takes_no_number_by_itself()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var taken = await studio.TakeAsync(piece, []);
        Assert.Equal(FileFaultCode.Empty, Assert.Single(Assert.IsType<KeepResult.Question>(taken.Keep).Doubts).Fault!.Code);
        Assert.IsType<KeepResult.Question>(await studio.KeepAsync(piece));
        Assert.Single(await studio.SavesAsync(piece));
    }

    [Theory]
    [InlineData("TIM_moonpull-poster_key_OB_007.ora", 7, null)]
    [InlineData("TIM_moonpull-poster_key_OB_001.ora", 2, 1)]
    [InlineData("TIM_other_key_OB_007.ora", 2, null)]
    [InlineData("TIM_moonpull-poster_key_OB_007 (2).ora", 2, null)]
    public async Task A_file_numbered_by_hand_takes_its_number_only_above_the_highest(string name, int number, int? notTaken)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        var taken = await studio.TakeAsync(piece, Poster(2), name);
        Assert.Equal((notTaken, number), (taken.NotTaken?.Value, taken.Next.Value));
        Assert.Equal(number, Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece)).Number.Value);
    }

    [Fact]
    public async Task There_is_nothing_to_keep_on_a_piece_that_is_only_reserved()
    {
        await using var studio = await StudioInUse.OpenAsync();
        Assert.IsType<KeepResult.Nothing>(await studio.KeepAsync(await studio.PieceAsync()));
    }

    [Fact]
    public async Task A_save_of_another_piece_cannot_be_kept_here()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var second = await studio.BegunAsync("Other");
        var other = await studio.TakeAsync(second, Poster(1));
        Assert.IsType<KeepResult.Nothing>(await studio.KeepAsync(piece, other.Save.Id));
    }

    [Fact]
    public async Task How_much_changed_is_measured_against_the_version_before()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var first = await studio.VersionAsync(piece, Poster(1));
        var second = await studio.VersionAsync(piece, Samples.OpenRaster(60, 60, Sky with { Red = 1, Patch = (0, 0, 30, 60) }, Moon));
        await studio.SettledAsync();
        await studio.SettledAsync();
        var saves = await studio.SavesAsync(piece);
        var measured = (await studio.Do((StudioDb db) => CompareSaves.KnownAsync(db, saves[0].Identity, saves[1].Identity)))!;
        Assert.Equal(1800.0 / 4000, measured.Change!.Value, 6);
    }

    [Fact]
    public async Task A_piece_kept_at_every_change_numbers_by_itself_but_not_what_is_doubted()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Poster(1));
        await studio.Do<SetKeepSetting>(d => d.DoAsync(studio.Ilse, piece.Id, KeepSetting.EveryChange));
        foreach (var content in new[] { Poster(2), Poster(3)[..700], Samples.OpenRaster(60, 60, Sky), Poster(4) })
        {
            await studio.TakeAsync(piece, content);
            await studio.SettledAsync();
        }
        Assert.Equal([1, 2, null, null, 3], (await studio.SavesAsync(piece)).Select(s => s.Number));
    }

    [Fact]
    public async Task A_piece_kept_once_a_sitting_numbers_the_last_save_when_the_sitting_is_over()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.Do<SetKeepSetting>(d => d.DoAsync(studio.Ilse, piece.Id, KeepSetting.OncePerSitting));
        await studio.VersionAsync(piece, Poster(1));
        studio.Time.Advance(TimeSpan.FromMinutes(44));
        await studio.TakeAsync(piece, Poster(2));
        await studio.TakeAsync(piece, Poster(3));
        studio.Time.Advance(TimeSpan.FromMinutes(44));
        Assert.Equal(0, await studio.Do((KeepBySetting d) => d.AskAfterSittingsAsync()));
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        Assert.Equal(1, await studio.Do((KeepBySetting d) => d.AskAfterSittingsAsync()));
        await studio.SettledAsync();
        Assert.Equal(0, await studio.Do((KeepBySetting d) => d.AskAfterSittingsAsync()));
        Assert.Equal([1, null, 2], (await studio.SavesAsync(piece)).Select(s => s.Number));
    }

    [Fact]
    public async Task What_waits_for_an_answer_after_a_sitting_is_not_asked_for_again()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.Do<SetKeepSetting>(d => d.DoAsync(studio.Ilse, piece.Id, KeepSetting.OncePerSitting));
        await studio.VersionAsync(piece, Poster(1));
        // A layer is gone; and then one that equals the version.
        foreach (var content in new[] { Samples.OpenRaster(60, 60, Sky), Poster(1) })
        {
            await studio.TakeAsync(piece, content);
            await studio.SettledAsync();
            studio.Time.Advance(TimeSpan.FromHours(1));
            Assert.Equal(0, await studio.Do((KeepBySetting d) => d.AskAfterSittingsAsync()));
        }
        Assert.Equal([1, null, null], (await studio.SavesAsync(piece)).Select(s => s.Number));
    }

    private static byte[] ReadAll(Stream stream)
    {
        using (stream)
        {
            using var memory = new MemoryStream();
            stream.CopyTo(memory);
            return memory.ToArray();
        }
    }
}
