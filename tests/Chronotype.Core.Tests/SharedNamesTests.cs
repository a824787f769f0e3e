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
