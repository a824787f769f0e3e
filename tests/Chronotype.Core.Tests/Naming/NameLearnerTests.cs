using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Learning;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Naming;

public class NameLearnerTests
{
    private static readonly string[] Subjects =
    [
        "moonpull-poster",
        "tide-table",
        "gull",
        "shore-walk",
        "harbour-light",
        "low-water",
        "kelp",
        "storm-warning",
    ];

    private static string Shape(Convention convention) =>
        string.Join(" ", convention.Slots.Select(s => $"{s.Join}{s.Label}:{s.Rule.Kind}"));

    private static IEnumerable<string> Studio(Random random, int count)
    {
        for (var i = 0; i < count; i++)
            yield return $"{Pick("TIM", "HAV", "LIG")}_{Pick(Subjects)}_{Pick("key", "sketch", "mix", "icon")}_{Pick("IK", "OB", "TV")}_"
                + $"{random.Next(1, 120):D3}.{Pick("ora", "svg", "wav")}";

        string Pick(params string[] of) => of[random.Next(of.Length)];
    }

    [Fact]
    public void A_studios_names_give_its_slots_with_their_labels()
    {
        var names = Studio(new Random(1), 400).Distinct().ToList();
        var learned = NameLearner.Learn(names);
        Assert.Equal("client:code _subject:words _function:code _hand:hand _version:version", Shape(learned.Convention!));
        Assert.Equal(1, learned.Coverage);
        Assert.Equal(["HAV", "LIG", "TIM"], learned.Convention!.Lists["client"].Codes.Select(c => c.Code));
        Assert.Equal(new VersionRule(), learned.Convention.Slots[^1].Rule);
        Assert.Equal(learned.Convention.Slots.Select(s => s.Label), learned.Why.Keys);
    }

    // Scenes by their lead or without one, before the version or behind it, and versions that climb to different heights.
    [Theory]
    [InlineData("HBR_{0}_sc{1:D2}0_anim{2}_v{3:D3}", "sc", 10, "client subject scene function hand version")]
    [InlineData("HBR_{0}_{1:D2}_anim{2}_{3:D3}", "", 1, "client subject number function hand version")]
    [InlineData("HBR_{0}_anim{2}_{3:D3}_{1:D2}", "", 1, "client subject function hand version number")]
    [InlineData("HBR_{0}_tr{1:D2}_mix{2}_r{3:D2}", "tr", 1, "client subject track function hand version")]
    public void The_version_is_the_number_that_climbs_and_the_other_forms_are_proposed(string working, string lead, int step, string labels)
    {
        var random = new Random(3);
        var names = new List<string>();
        string Name(string subject, int scene, string hand, int version) => string.Format(null, working, subject, scene, hand, version);
        foreach (var subject in Subjects)
        {
            for (var scene = 1; scene <= 9; scene++)
            {
                var last = random.Next(1, 8);
                for (var version = 1; version <= last; version++)
                    names.Add(Name(subject, scene, random.Next(2) == 0 ? "_IK" : "_OB", version) + ".ora");
                // What stands before the version, and its milestone copies.
                var current = Name(subject, scene, "", 999);
                current = System.Text.RegularExpressions.Regex.Replace(current, "_[vr]?0*999", "");
                names.Add(current + ".ora");
                if (last > 4)
                    names.Add(current + "_ms01.ora");
            }
        }
        var learned = NameLearner.Learn(names.OrderBy(_ => random.Next()));
        Assert.Equal(1, learned.Coverage);
        Assert.Equal(labels + " milestone", string.Join(' ', learned.Convention!.Slots.Select(s => s.Label)));
        var count = Assert.IsType<CountRule>(Assert.Single(learned.Convention.Slots, s => s.Rule is CountRule).Rule);
        Assert.Equal((lead, step), (count.Lead, count.Step));
        Assert.Equal([NameForm.Current, NameForm.Working, NameForm.Milestone], learned.Convention.Forms.Order());
        Assert.DoesNotContain(learned.Convention.Form(NameForm.Current), s => s.Rule is VersionRule or HandRule);
    }

    [Fact]
    public void Subjects_in_another_script_are_learned_with_their_letters()
    {
        string[] subjects = ["海の日", "灯台", "plakat", "夜の港"];
        var names = subjects.SelectMany(s => Enumerable.Range(1, 9).Select(v => $"TIM_{s}_key_IK_{v:D3}.ora")).ToList();
        var learned = NameLearner.Learn(names);
        Assert.Equal(1, learned.Coverage);
        var words = Assert.IsType<WordsRule>(learned.Convention!.Slots[1].Rule);
        Assert.Equal(Scripts.Han | Scripts.Kana, words.Letters);
    }

    [Fact]
    public void What_strays_is_left_out_and_does_not_bend_the_rule()
    {
        var names = Studio(new Random(2), 400).Distinct().ToList();
        string[] strays =
        [
            "final2 (3).ora",
            "TIM_gull_kye_IK_004.ora",
            "tim_kelp_key_OB_011.ora",
            "Untitled-1.svg",
            "TIM_gull_key_IK_14.ora",
            "meeting notes.txt",
            "poster fínal.ora",
        ];
        var learned = NameLearner.Learn([.. names, .. strays]);
        Assert.Equal("client:code _subject:words _function:code _hand:hand _version:version", Shape(learned.Convention!));
        Assert.Equal(strays, learned.LeftOut);
        Assert.Equal((double)names.Count / (names.Count + strays.Length), learned.Coverage, 6);
    }

    [Fact]
    public void Names_of_other_forms_become_forms()
    {
        var random = new Random(3);
        var versions = Studio(random, 300).ToList();
        var current = versions.Select(v => string.Join('_', v.Split('_')[..3]) + ".ora").Distinct().ToList();
        var milestones = current.Select((c, i) => c.Replace(".ora", $"_M{i % 3 + 1:D2}.ora")).ToList();
        var learned = NameLearner.Learn([.. versions, .. current, .. milestones]);
        Assert.Equal(1, learned.Coverage);
        Assert.Equal([NameForm.Current, NameForm.Working, NameForm.Milestone], learned.Convention!.Forms);
        Assert.Equal(["client", "subject", "function"], learned.Convention.Form(NameForm.Current).Select(s => s.Label));
        Assert.Equal(["client", "subject", "function", "milestone"], learned.Convention.Form(NameForm.Milestone).Select(s => s.Label));
        Assert.Empty(ConventionRules.CheckForStudio(learned.Convention));
    }

    [Fact]
    public void A_mark_that_is_there_or_is_not_is_a_state()
    {
        var names = Studio(new Random(4), 300)
            .Select((n, i) => i % 6 == 0 ? n.Insert(n.LastIndexOf('.'), "_MASTER") : n)
            .Distinct()
            .ToList();
        var learned = NameLearner.Learn(names);
        Assert.Equal(1, learned.Coverage);
        Assert.Equal(new StateRule("MASTER"), learned.Convention!.Slots[^1].Rule);
    }

    [Theory]
    [InlineData(
        "2026-03-12-gull-v2.wav|2026-03-13-kelp-v1.wav|2026-04-02-gull-v3.wav|2025-12-24-storm-v11.wav|"
            + "2025-11-02-shore-v9.wav|2026-01-30-tide-v1.wav",
        "date:date -subject:words -version:version"
    )]
    [InlineData(
        "moon-pull-v3.svg|gull-v1.svg|tide-table-v12.svg|kelp-v2.svg|gull-v2.svg|kelp-v4.svg|storm-v1.svg",
        "subject:words -version:version"
    )]
    [InlineData(
        "20260312_gull_1920x1080px.png|20260313_kelp_a2.png|20260318_storm_420x594mm.png|20260319_tide_a3.png|20260320_shore_800x600px.png",
        "date:date _subject:words _size:size"
    )]
    public void Other_orders_and_marks_are_learned_too(string names, string shape)
    {
        var learned = NameLearner.Learn(names.Split('|'));
        Assert.Equal(shape, Shape(learned.Convention!));
        Assert.Equal(1, learned.Coverage);
    }

    [Theory]
    [InlineData("")]
    [InlineData("a")]
    [InlineData("..|__|--|é|\n|(2)")]
    public void Nothing_in_common_proposes_nothing_untrue(string names)
    {
        var learned = NameLearner.Learn(names.Split('|'));
        Assert.Equal(
            learned.Names - learned.LeftOut.Count,
            learned.Convention is null ? 0 : names.Split('|').Distinct().Count(n => learned.Convention.Grammar.Read(n) is not null)
        );
    }

    [Property(MaxTest = 60)]
    public void Whatever_is_learned_reads_each_name_it_claims_and_no_name_twice(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var convention = GeneratedConvention.Of(random);
        var names = Enumerable
            .Range(0, 40)
            .Select(_ =>
                convention
                    .Format(NameForm.Working, GeneratedConvention.Values(convention, NameForm.Working, random), ".ora")
                    .Name?.ToString()
                ?? "x"
            )
            .ToList();
        var learned = NameLearner.Learn(names);
        if (learned.Convention is null)
            return;
        Assert.Null(learned.Convention.Grammar.FindAmbiguity());
        Assert.All(names.Except(learned.LeftOut), n => Assert.NotNull(learned.Convention.Grammar.Read(n)));
        Assert.All(learned.LeftOut, n => Assert.Null(learned.Convention.Grammar.Read(n)));
    }
}
