using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Naming;

public class NamingTests
{
    private static readonly Dictionary<string, string> Poster = new()
    {
        ["client"] = "TIM",
        ["subject"] = "Moonpull poster",
        ["function"] = "key",
        ["hand"] = "IK",
        ["version"] = "14",
        ["milestone"] = "2",
    };

    [Theory]
    [InlineData(NameForm.Current, "TIM_moonpull-poster_key.ora")]
    [InlineData(NameForm.Working, "TIM_moonpull-poster_key_IK_014.ora")]
    [InlineData(NameForm.Milestone, "TIM_moonpull-poster_key_M02.ora")]
    public void Each_form_has_its_own_slots(NameForm form, string expected) =>
        Assert.Equal(expected, Convention.ForPlans().Format(form, Poster, ".ora").Name!.ToString());

    [Theory]
    [InlineData("999", "999")]
    [InlineData("1000", "1000")]
    public void A_version_grows_past_its_width_and_never_wraps(string number, string expected) =>
        Assert.EndsWith(
            "_" + expected,
            Convention.ForPlans().Format(NameForm.Working, new Dictionary<string, string>(Poster) { ["version"] = number }).Name!.Stem
        );

    [Theory]
    [InlineData("client", "T_M")]
    [InlineData("client", "SEVENTEENLETTERSX")]
    [InlineData("subject", "🌊🌊")]
    [InlineData("hand", "ik")]
    [InlineData("version", "-1")]
    [InlineData("version", "one")]
    [InlineData("version", "0")]
    [InlineData("version", "9999999999")]
    [InlineData("function", "")]
    public void What_a_slot_cannot_hold_is_a_fault_of_that_slot(string slot, string value)
    {
        var result = Convention.ForPlans().Format(NameForm.Working, new Dictionary<string, string>(Poster) { [slot] = value });
        Assert.Null(result.Name);
        Assert.Equal(slot, Assert.Single(result.Faults).Slot);
    }

    [Fact]
    public void Every_fault_is_told_at_once() =>
        Assert.Equal(
            ["subject", "hand"],
            Convention
                .ForPlans()
                .Format(NameForm.Working, new Dictionary<string, string>(Poster) { ["subject"] = "—", ["hand"] = "x" })
                .Faults.Select(f => f.Slot)
        );

    private static string Folded(string typed, int most) => new WordsRule(most).Write("subject", typed).Text ?? "";

    [Theory]
    [InlineData("Moon pull, the Poster!", "moon-pull-the-poster")]
    [InlineData("Café Straße øre", "cafe-strasse-ore")]
    [InlineData("the client's  “big” idea", "the-clients-big-idea")]
    [InlineData("  --  ", "")]
    [InlineData("ﬁnal №3", "final-no3")]
    public void Words_fold_to_plain_letters(string typed, string expected) => Assert.Equal(expected, Folded(typed, 40));

    [Fact]
    public void Long_words_are_cut_at_a_words_end()
    {
        Assert.Equal("high-water", Folded("high water mark", 12));
        Assert.Equal("high-water", Folded("high water mark", 10));
        Assert.Equal("unbrok", Folded("unbroken", 6));
    }

    [Theory]
    [InlineData("海の日 Poster", Scripts.Any, WordCase.Lower, "海の日-poster")]
    [InlineData("Плакат для Музея", Scripts.Any, WordCase.Lower, "плакат-для-музея")]
    [InlineData("Плакат", Scripts.Cyrillic, WordCase.Upper, "ПЛАКАТ")]
    [InlineData("плакат για", Scripts.Cyrillic, WordCase.Title, "Плакат")]
    [InlineData("Cafe\u0301 й", Scripts.Cyrillic, WordCase.Lower, "cafe-й")]
    [InlineData("Cafe\u0301", Scripts.Any, WordCase.Lower, "café")]
    [InlineData("ｶﾞﾗｽ ２０", Scripts.Kana, WordCase.Lower, "ガラス-20")]
    [InlineData("ใต้ทะเล", Scripts.Thai, WordCase.Lower, "ใต้ทะเล")]
    [InlineData("Straße", Scripts.Any, WordCase.Upper, "STRAßE")]
    public void Letters_of_the_scripts_that_may_stand_are_kept_in_one_form(
        string typed,
        Scripts scripts,
        WordCase wordCase,
        string expected
    )
    {
        var rule = new WordsRule(Case: wordCase, Letters: scripts);
        Assert.Equal(expected, rule.Write("subject", typed).Text);
        var convention = new Convention(
            [new("subject", rule, ""), new("version", new VersionRule())],
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Working] = ["subject", "version"] }
        );
        var name = $"{expected}_014.ora";
        Assert.Equal(expected, convention.Grammar.Read(name)?["subject"]);
        var checker = new NameChecker(convention.Grammar);
        Assert.True(checker.Check(name).IsLegal, string.Join("; ", checker.Check(name).Faults));
        Assert.Equal(name, Assert.Single(checker.Check($"{expected} 14 (2).ora").Repairs).Name);
    }

    [Fact]
    public void Words_of_a_script_that_may_not_stand_are_refused_with_a_word_on_why()
    {
        Assert.Contains("plain letters, a to z", new WordsRule().Write("subject", "Плакат").Fault);
        Assert.Contains("letters of Han", new WordsRule(Letters: Scripts.Han).Write("subject", "Плакат").Fault);
        Assert.False(new NameChecker(Convention.ForPlans().Grammar).Check("TIM_плакат_key.ora").IsLegal);
    }

    [Fact]
    public void Two_readings_in_another_script_are_shown_in_its_letters()
    {
        var convention = new Convention(
            [
                new("first", new WordsRule(Letters: Scripts.Han, MaxLength: 3), ""),
                new("second", new WordsRule(Letters: Scripts.Han, MaxLength: 3), ""),
            ],
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Current] = ["first", "second"] }
        );
        var twice = convention.Grammar.FindAmbiguity();
        Assert.NotNull(twice);
        Assert.NotEqual(twice.First.ToString(), twice.Second.ToString());
        Assert.NotNull(convention.Grammar.Read(twice.Name));
    }

    [Fact]
    public void A_name_says_which_of_its_words_were_cut()
    {
        var values = new Dictionary<string, string>
        {
            ["client"] = "TIM",
            ["subject"] = "A poster for the opening of the new harbour baths",
            ["function"] = "key",
        };
        var cut = Assert.Single(Convention.ForPlans().Format(NameForm.Current, values).Name!.Cuts);
        Assert.Equal(new ValueCut("subject", "a-poster-for-the-opening-of-the-new", 40), cut);
        values["subject"] = "A poster";
        Assert.Empty(Convention.ForPlans().Format(NameForm.Current, values).Name!.Cuts);
    }

    [Property(MaxTest = 500)]
    public void Folded_words_are_always_fit_for_a_name(string? typed, PositiveInt most)
    {
        var folded = Folded(typed ?? "", most.Get);
        Assert.Matches("^([a-z0-9]+(-[a-z0-9]+)*)?$", folded);
        Assert.True(folded.Length <= most.Get);
        Assert.Equal(folded, Folded(folded, most.Get));
    }

    [Theory]
    [InlineData("../../etc/passwd", "passwd")]
    [InlineData(@"C:\work\poster.ora", "poster.ora")]
    [InlineData("a\0b\nc.png", "abc.png")]
    [InlineData("", "unnamed")]
    [InlineData("...", "unnamed")]
    [InlineData(null, "unnamed")]
    public void A_received_name_is_only_ever_a_name(string? sent, string expected) => Assert.Equal(expected, FileNames.Received(sent));

    [Fact]
    public void Three_hundred_emoji_are_cut_between_characters_and_keep_their_extension()
    {
        var name = FileNames.Received(string.Concat(Enumerable.Repeat("🌊", 300)) + ".ora");
        Assert.True(name.Length <= FileNames.MaxLength);
        Assert.EndsWith("🌊.ora", name);
    }

    [Property(MaxTest = 500)]
    public void Any_sent_name_becomes_a_name_that_can_stand_in_a_header_and_a_path(string? sent)
    {
        var name = FileNames.Received(sent);
        Assert.InRange(name.Length, 1, FileNames.MaxLength);
        Assert.DoesNotContain(name, c => c is '/' or '\\' || char.IsControl(c));
    }

    [Fact]
    public void A_scenes_number_stands_beside_the_version_and_is_told_from_it()
    {
        var convention = new Convention(
            [
                new("client", new CodeRule("client"), ""),
                new("subject", new WordsRule()),
                new("scene", new CountRule(3, "sc", 10)),
                new("function", new CodeRule("function")),
                new("hand", new HandRule()),
                new("version", new VersionRule(Lead: "v")),
            ],
            new Dictionary<NameForm, IReadOnlyList<string>>
            {
                [NameForm.Working] = ["client", "subject", "scene", "function", "hand", "version"],
                [NameForm.Current] = ["client", "subject", "scene", "function"],
            }
        );
        Assert.Null(convention.Grammar.FindAmbiguity());
        const string name = "HBR_lantern-walk_sc010_anim_RK_v003.ora";
        var values = convention.Grammar.Read(name)!.Values();
        Assert.Equal(("10", "3"), (values["scene"], values["version"]));
        Assert.Equal(name, convention.Format(NameForm.Working, values, ".ora").Name!.ToString());
        Assert.Equal(
            ("sc015", "sc1200"),
            (new CountRule(3, "sc", 10).Write("scene", "SC15").Text, new CountRule(3, "sc", 10).Write("scene", "1200").Text)
        );
        Assert.NotNull(new CountRule(3, "sc").Write("scene", "sc").Fault);
        Assert.Equal(
            (10, 40, 50),
            (new CountRule(Step: 10).Next([]), new CountRule(Step: 10).Next([10, 35]), new CountRule(Step: 10).Next([40]))
        );
    }
}
