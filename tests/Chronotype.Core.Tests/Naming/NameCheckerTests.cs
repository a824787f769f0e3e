using System.Diagnostics;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Naming;

public class NameCheckerTests
{
    private static readonly Convention Studio = Convention
        .ForPlans()
        .With(
            new Dictionary<string, CodeList>
            {
                ["client"] = new([new("TIM", "Tidal Museum"), new("HAV", "Harbour Office")]),
                ["function"] = new([new("key", "key art"), new("sketch", "first sketch"), new("mix", "sound mix")]),
            }
        );

    private static NameCheck Check(string name, NameForm form = NameForm.Working, NameKnowledge? known = null) =>
        new NameChecker(Studio.GrammarOf(form)).Check(name, known);

    [Theory]
    [InlineData("TIM_moonpull-poster_key_IK_014.ora")]
    [InlineData("HAV_x_tbd_tbd_tbd")]
    public void A_legal_name_has_no_fault(string name)
    {
        var check = Check(name);
        Assert.True(check.IsLegal);
        Assert.NotNull(check.Reading);
        Assert.Empty(check.Repairs);
    }

    [Theory]
    [InlineData("TIM_moonpull_key_IK_14.ora", "number@20+2", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_v14.ora", "number@20+3", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_Moonpull_key_IK_014.ora", "case@4+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_MOONPULL-POSTER_key_IK_014.ora", "case@4+15", "TIM_moonpull-poster_key_IK_014.ora")]
    [InlineData("TIM_Moon Pull (Poster)_key_IK_014.ora", "value@4+18", "TIM_moon-pull-poster_key_IK_014.ora")]
    [InlineData("tim_moonpull_key_ik_014.ora", "case@0+3,case@17+2", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM-moonpull_key_IK_014.ora", "join@3+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_kee_IK_014.ora", "not-on-list@13+3", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_sketh_IK_014.ora", "not-on-list@13+5", "TIM_moonpull_sketch_IK_014.ora")]
    [InlineData("TIM_moonpull_key-art_IK_014.ora", "not-on-list@13+7", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_Sound Mix_IK_014.ora", "not-on-list@13+9", "TIM_moonpull_mix_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_014 (2).ora", "copy-mark@23+4", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_014 - Copy.ora", "copy-mark@23+7", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_014_FINAL_final.ora", "copy-mark@23+6,copy-mark@29+6", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("Copy of TIM_moonpull_key_IK_014.ora", "copy-mark@0+8", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_IK_key_014.ora", "order@13+2,order@16+3", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_kye_IK_014.ora", "not-on-list@13+3", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("IK_moonpull_key_TIM_014.ora", "order@0+2,order@16+3", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_014_old.ora", "copy-mark@23+4", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("014_TIM_moonpull_key_IK.ora", "order@0+3", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_2026-03-12_014.ora", "extra@19+11", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM__moonpull_key_IK_014.ora", "extra@3+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_014.ora", "missing@16+0", "TIM_moonpull_key_tbd_014.ora")]
    [InlineData("TIM_café_key_IK_014.ora", "accent@7+1", "TIM_cafe_key_IK_014.ora")]
    [InlineData("TIM_cafe\u0301_key_IK_014.ora", "combining-mark@8+1", "TIM_cafe_key_IK_014.ora")]
    [InlineData("TIM_moon\npull_key_IK_014.ora", "line-break@8+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moon\u202Epull_key_IK_014.ora", "direction-mark@8+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moon:pull_key_IK_014.ora", "refused-character@8+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_014.ora.", "ends-in-dot@27+1", "TIM_moonpull_key_IK_014.ora")]
    [InlineData("TIM_moonpull_key_IK_014.ora ", "ends-in-space@27+1", "TIM_moonpull_key_IK_014.ora")]
    public void Every_fault_has_its_place_and_the_repair_is_the_one_a_person_would_make(string name, string faults, string repaired)
    {
        var check = Check(name);
        Assert.Equal(faults, string.Join(',', check.Faults.Select(f => $"{f.Code}@{f.At}+{f.Length}")));
        Assert.Equal(repaired, Assert.Single(check.Repairs).Name);
        Assert.NotEmpty(check.Repairs[0].Reasons);
        Assert.All(check.Faults, f => Assert.EndsWith(".", f.Message));
        var quick = new NameChecker(Studio.GrammarOf(NameForm.Working)).Check(name, repair: false).Faults;
        Assert.Equal(faults, string.Join(',', quick.Select(f => $"{f.Code}@{f.At}+{f.Length}")));
    }

    // No attribute can hold half of a character.
    [Fact]
    public void Half_of_a_character_is_a_fault_with_its_place()
    {
        var check = Check("TIM_moon\uD83Cpull_key_IK_014.ora");
        Assert.Equal((NameFaultCodes.HalfCharacter, 8, 1), check.Faults.Select(f => (f.Code, f.At, f.Length)).Single());
        Assert.Equal("TIM_moonpull_key_IK_014.ora", Assert.Single(check.Repairs).Name);
    }

    [Fact]
    public void What_is_known_stands_in_for_what_is_missing()
    {
        var known = new NameKnowledge(
            new Dictionary<string, string>
            {
                ["client"] = "TIM",
                ["hand"] = "IK",
                ["version"] = "15",
                ["function"] = "key",
            }
        );
        var repair = Assert.Single(Check("Moonpull poster final2.ora", known: known).Repairs);
        Assert.Equal("TIM_moonpull-poster_key_IK_015.ora", repair.Name);
        Assert.Contains("“final2” is a copy mark, and is left out", repair.Reasons);
        Assert.Contains("the hand is known to be “IK”", repair.Reasons);
    }

    [Fact]
    public void A_files_date_stamps_what_has_none_and_a_written_date_comes_first()
    {
        var convention = new Convention(
            [new("subject", new WordsRule(), ""), new("date", new DateRule())],
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Master] = ["subject", "date"] }
        );
        var checker = new NameChecker(convention.Grammar);
        var known = new NameKnowledge(new Dictionary<string, string>(), new DateOnly(2026, 11, 24));
        Assert.Equal("poster_20261124.ora", Assert.Single(checker.Check("poster.ora", known).Repairs).Name);
        Assert.Equal("poster_20250131.ora", Assert.Single(checker.Check("poster 31.01.2025.ora", known).Repairs).Name);
    }

    [Fact]
    public void A_date_that_can_be_read_in_two_ways_is_left_to_the_person()
    {
        var convention = new Convention(
            [new("subject", new WordsRule(), ""), new("date", new DateRule())],
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Master] = ["subject", "date"] }
        );
        var repairs = new NameChecker(convention.Grammar).Check("poster_03-04-2026.ora").Repairs;
        Assert.Equal(["poster_20260304.ora", "poster_20260403.ora"], repairs.Select(r => r.Name));
        Assert.Equal(repairs[0].Cost, repairs[1].Cost);
    }

    [Fact]
    public void Two_codes_that_are_equally_near_are_both_told()
    {
        var convention = Studio.With(new Dictionary<string, CodeList> { ["function"] = CodeList.Of("kay", "key") });
        Assert.Equal(
            ["TIM_moon_kay.ora", "TIM_moon_key.ora"],
            new NameChecker(convention.GrammarOf(NameForm.Current)).Check("TIM_moon_kiy.ora").Repairs.Select(r => r.Name)
        );
    }

    [Theory]
    [InlineData("con", "device-name")]
    [InlineData("aux.ora", "device-name")]
    [InlineData("LPT¹.txt", "device-name")]
    public void Device_names_are_faults_even_where_the_convention_has_them(string name, string code)
    {
        var convention = new Convention(
            [new("subject", new WordsRule(), "")],
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Current] = ["subject"] }
        );
        Assert.Contains(new NameChecker(convention.Grammar).Check(name).Faults, f => f.Code == code);
    }

    [Fact]
    public void Long_names_are_cut_at_a_words_end_and_longer_ones_refused_at_once()
    {
        var check = Check($"TIM_{string.Join("-", Enumerable.Repeat("water", 60))}_key_IK_014.ora");
        Assert.Contains(check.Faults, f => f.Code == NameFaultCodes.NameTooLong);
        Assert.Equal("TIM_water-water-water-water-water-water_key_IK_014.ora", Assert.Single(check.Repairs).Name);

        var start = Stopwatch.GetTimestamp();
        Assert.Equal(NameFaultCodes.NameTooLong, Assert.Single(Check(new string('月', 1_000_000)).Faults).Code);
        Assert.True(Stopwatch.GetElapsedTime(start) < TimeSpan.FromSeconds(1));
    }

    [Fact]
    public void A_folder_makes_a_path_too_long() =>
        Assert.Equal(
            NameFaultCodes.PathTooLong,
            Assert.Single(new NameChecker(Studio.Grammar).Check("TIM_moonpull_key_IK_014.ora", folder: new string('d', 240)).Faults).Code
        );

    [Fact]
    public void Neighbours_that_file_systems_may_not_tell_apart_are_faults_of_both()
    {
        var checker = new NameChecker(Studio.Grammar);
        var checks = NameChecker.WithNeighbours([
            .. new[] { "café.txt", "cafe\u0301.txt", "A.txt", "a.txt", "b.txt" }.Select(n => checker.Check(n)),
        ]);
        Assert.Equal(
            ["neighbour-form", "neighbour-form", "neighbour-case", "neighbour-case", ""],
            checks.Select(c => c.Faults.FirstOrDefault(f => f.Code.StartsWith("neighbour"))?.Code ?? "")
        );
    }

    [Property(MaxTest = 300)]
    public void Any_text_is_checked_every_fault_lies_within_it_and_every_repair_is_legal(string? text, DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var name = (text ?? "") + GeneratedConvention.Letters(random, "TIMkey_- 014.()\u202Eé\uD83C\n月ﬁ", 0, 40);
        var checker = new NameChecker(Studio.Grammar);
        var check = checker.Check(name);
        Assert.All(check.Faults, f => Assert.InRange(f.At + f.Length, f.At, name.Length));
        Assert.All(check.Repairs, r => Assert.True(checker.Check(r.Name).IsLegal, r.Name));
        Assert.Equal(check.IsLegal, checker.Check(name, repair: false).IsLegal);
    }

    public static TheoryData<string, Func<string[], Random, string>> Slips =>
        new()
        {
            { "another mark", (p, r) => r.Next(1, p.Length) is var at ? Join(p[..at]) + " -."[r.Next(3)] + Join(p[at..]) : "" },
            { "another case", (p, r) => With(p, r.Next(p.Length), t => t.Any(char.IsLower) ? t.ToUpperInvariant() : t.ToLowerInvariant()) },
            {
                "two slots swapped",
                (p, r) =>
                    r.Next(p.Length) is var a && r.Next(p.Length) is var b
                        ? Join([
                            .. p.Select(
                                (t, i) =>
                                    p[
                                        i == a ? b
                                        : i == b ? a
                                        : i
                                    ]
                            ),
                        ])
                        : ""
            },
            { "a copy mark", (p, r) => Join(p) + new[] { " (2)", " copy", " - Copy", "_final", "_FINAL", " copy 2", "_old" }[r.Next(7)] },
            { "a lost zero", (p, _) => With(p, 4, t => t.TrimStart('0')) },
            {
                "a code's letter changed",
                (p, r) => With(p, r.Next(2) * 2, t => r.Next(t.Length) is var k ? t[..k] + "QZxj"[r.Next(4)] + t[(k + 1)..] : "")
            },
            { "a code's letter lost", (p, r) => With(p, r.Next(2) * 2, t => t.Remove(r.Next(t.Length), 1)) },
            {
                "a code's letters swapped",
                (p, r) => With(p, r.Next(2) * 2, t => r.Next(t.Length - 1) is var k ? t[..k] + t[k + 1] + t[k] + t[(k + 2)..] : "")
            },
        };

    // Each of these leaves enough to know the name by.
    [Theory]
    [MemberData(nameof(Slips))]
    public void A_name_with_one_slip_is_repaired_to_the_one_it_was_made_from(string slip, Func<string[], Random, string> spoil)
    {
        var convention = Convention
            .ForPlans()
            .With(
                new Dictionary<string, CodeList>
                {
                    ["client"] = CodeList.Of("TIM", "HAV", "GRO", "LUX", "BEC", "ORN", "SAL", "FYR"),
                    ["function"] = CodeList.Of("key", "sketch", "mix", "poster", "cover", "anim", "layout", "edit"),
                }
            );
        var random = new Random(7);
        string[] subjects = ["moonpull", "salt-lake", "harbour-walk", "a-long-way-down", "night-ferry"];
        string Code(string list) => convention.Lists[list].Codes[random.Next(8)].Code;
        var checker = new NameChecker(convention.GrammarOf(NameForm.Working));
        var (faulty, back) = (0, 0);
        for (var n = 0; n < 300; n++)
        {
            string[] parts =
            [
                Code("client"),
                subjects[random.Next(subjects.Length)],
                Code("function"),
                random.Next(2) == 0 ? "IK" : "OD",
                $"{random.Next(1, 99):D3}",
            ];
            var check = checker.Check(spoil(parts, random) + ".ora");
            if (check.IsLegal)
                continue;
            faulty++;
            back += check.Repairs is [{ Name: var only }] && only == Join(parts) + ".ora" ? 1 : 0;
        }
        Assert.True(faulty > 100 && back >= 0.9 * faulty, $"{slip}: {back} of {faulty} were repaired to what they were.");
    }

    private static string Join(string[] parts) => string.Join('_', parts);

    private static string With(string[] parts, int at, Func<string, string> change) =>
        Join([.. parts.Select((p, i) => i == at ? change(p) : p)]);

    // Conventions and names small enough to try every repair in the order of its cost.
    [Property(MaxTest = 2000)]
    public void No_legal_name_is_cheaper_and_all_that_tie_are_told(DoNotSize<int> seed) => AssertCheapest(seed.Item);

    // Two that tie, of which the bound once hid one.
    [Fact]
    public void A_tie_is_told_also_where_the_bound_falls_on_the_way() => AssertCheapest(1212567391);

    private static void AssertCheapest(int seed)
    {
        var random = new Random(seed);
        var lists = Enumerable
            .Range(0, 2)
            .ToDictionary(
                i => $"{i}",
                _ =>
                    CodeList.Of(
                        Enumerable
                            .Range(0, random.Next(1, 4))
                            .Select(_ => GeneratedConvention.Letters(random, "abAB", 1, 3))
                            .DistinctBy(c => c.ToLowerInvariant())
                    )
            );
        SlotRule Rule() =>
            random.Next(4) switch
            {
                0 => new WordsRule(random.Next(2, 5), random.Next(2) == 0 ? "-" : ""),
                1 => new VersionRule(random.Next(1, 3), random.Next(2)),
                _ => new CodeRule($"{random.Next(2)}"),
            };
        var slots = Enumerable
            .Range(0, random.Next(1, 4))
            .Select(i => new Slot($"s{i}", Rule(), new[] { "_", "_", "-", "" }[random.Next(4)], random.Next(5) == 0))
            .ToList();
        var grammar = new NameGrammar([(NameForm.Folder, slots)], lists, "zz");
        var texts = slots.ConvertAll(s =>
            s.Rule is CodeRule code
                ? lists[code.List].Codes[0].Code
                : GeneratedConvention.Letters(random, s.Rule is VersionRule ? "01" : "ab", 1, 3)
        );
        if (random.Next(3) == 0)
            texts.Reverse();
        var name = string.Join(slots.Count > 1 ? slots[1].Join : "", texts);
        for (var n = random.Next(1, 4); n > 0; n--)
        {
            var at = random.Next(name.Length + 1);
            name =
                random.Next(2) == 0 || at == name.Length
                    ? name.Insert(at, GeneratedConvention.Letters(random, "abAB01_- ", 1, 1))
                    : name.Remove(at, 1);
        }
        // The plain repair knows no dates, and six digits may be one.
        if (name.Length is 0 or > 9 || grammar.Read(name) is not null || NameMarks.Find(name).Count > 0)
            return;

        var check = new NameChecker(grammar).Check(name);
        var told =
            $"{name} under {string.Join(" ", slots)} with "
            + $"{string.Join(" ", lists.Values.Select(l => string.Join("|", l.Codes.Select(c => c.Code))))}";
        if (new PlainRepair(slots, lists, "zz", name).Find(14) is not var (cost, names))
        {
            Assert.True(check.Repairs.Count == 0 || check.Repairs[0].Cost > 14, told);
            return;
        }
        Assert.True(
            check.Repairs.Count > 0 && check.Repairs[0].Cost == cost,
            $"{told}: {cost} for {string.Join(", ", names)}, told {string.Join(", ", check.Repairs)}"
        );
        Assert.True(
            names.Take(NameChecker.MostRepairs).SequenceEqual(check.Repairs.Select(r => r.Name)),
            $"{told}: {cost} for {string.Join(", ", names)}, told {string.Join(", ", check.Repairs.Select(r => r.Name))}"
        );
        Assert.Equal(names.Count > NameChecker.MostRepairs, check.MoreRepairs);
    }
}
