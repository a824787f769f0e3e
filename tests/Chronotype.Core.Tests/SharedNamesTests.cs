using Chronotype.Core.Share;

namespace Chronotype.Core.Tests;

public class SharedNamesTests
{
    [Theory]
    [InlineData("TIM_moonpull-poster_key.ora", SharedNameKind.Work)]
    [InlineData("notes.new draft.txt", SharedNameKind.Work)]
    [InlineData("tilde~inside.png", SharedNameKind.Work)]
    [InlineData(".DS_Store", SharedNameKind.Litter)]
    [InlineData("._TIM_moonpull-poster_key.ora", SharedNameKind.Litter)]
    [InlineData("THUMBS.DB", SharedNameKind.Litter)]
    [InlineData(".Trash-1000", SharedNameKind.Litter)]
    [InlineData("~$poster.ora", SharedNameKind.Lock)]
    [InlineData(".~lock.poster.odt#", SharedNameKind.Lock)]
    [InlineData("poster.ora.lck", SharedNameKind.Lock)]
    [InlineData("poster.ora.tmp", SharedNameKind.Passing)]
    [InlineData(".goutputstream-X7K2Q1", SharedNameKind.Passing)]
    [InlineData("~WRD0003.tmp", SharedNameKind.Passing)]
    [InlineData("poster.ora~", SharedNameKind.Backup)]
    [InlineData("poster.ora.bak", SharedNameKind.Backup)]
    public void A_name_tells_what_a_program_means_by_it(string name, SharedNameKind kind) => Assert.Equal(kind, SharedNames.Of(name));

    [Theory]
    [InlineData("poster.ora~", null, "poster.ora")]
    [InlineData("poster.ora.bak", null, "poster.ora")]
    [InlineData("poster.bak", null, "poster.ora")]
    [InlineData("POSTER.ORA.BAK2", null, "poster.ora")]
    [InlineData("poster.ora.~3~", null, "poster.ora")]
    [InlineData("poster.ora.2", null, "poster.ora")]
    [InlineData("#poster.ora#", null, "poster.ora")]
    [InlineData("poster_autosave3.ora", null, "poster.ora")]
    [InlineData("poster (recovered).ora", null, "poster.ora")]
    [InlineData("poster-backup-2026-11-27.ora", null, "poster.ora")]
    [InlineData("poster-large_0007.ora", "Auto-Save", "poster-large.ora")]
    [InlineData("poster.ora", "backups", "poster.ora")]
    [InlineData("poster.ora", null, null)]
    [InlineData("poster.ora", "working", null)]
    [InlineData("poster_IK_004.ora", null, null)]
    [InlineData("poster 2.ora", null, null)]
    [InlineData("gull.ora.bak", null, null)]
    [InlineData("poster-autosave.svg", null, null)]
    // By its name it could be of either.
    [InlineData("guide.bak", null, null)]
    public void A_copy_that_a_program_makes_tells_of_which_file_it_is(string name, string? folder, string? of) =>
        Assert.Equal(of, SharedNames.BackupOf(name, folder, ["poster.ora", "poster-large.ora", "guide.wav", "guide.ora"]));

    [Fact]
    public void A_key_is_new_each_time_and_counts_however_it_is_typed()
    {
        var keys = Enumerable.Range(0, 1_000).Select(_ => KeySecret.New()).ToHashSet();
        Assert.Equal(1_000, keys.Count);
        Assert.All(keys, k => Assert.Matches("^([a-z2-9]{5}-){5}[a-z2-9]{5}$", k));
        Assert.Equal(KeySecret.HashOf("abcde-fghjk"), KeySecret.HashOf(" ABCDE-FGHJK "));
        Assert.NotEqual(KeySecret.HashOf("abcde-fghjk"), KeySecret.HashOf("abcde-fghjm"));
    }
}
