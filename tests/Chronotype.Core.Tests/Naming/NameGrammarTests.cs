using Chronotype.Core.Naming;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Naming;

public class NameGrammarTests
{
    private static readonly NameGrammar Plans = Convention.ForPlans().GrammarOf(NameForm.Working);

    [Property(MaxTest = 600)]
    public void What_was_formatted_reads_back_and_what_is_refused_really_has_two_readings(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var convention = GeneratedConvention.Of(random);
        if (convention.Grammar.FindAmbiguity() is { } twice)
        {
            foreach (var reading in new[] { twice.First, twice.Second })
                Assert.Equal(twice.Name, convention.Format(reading.Form, reading.Values(), reading.Extension).Name!.ToString());
            Assert.NotEqual(twice.First.ToString(), twice.Second.ToString());
            return;
        }
        foreach (var form in convention.Forms)
        {
            var values = GeneratedConvention.Values(convention, form, random);
            var (name, faults) = convention.Format(form, values, form == NameForm.Folder || random.Next(2) == 0 ? "" : ".ora");
            if (name is null)
            {
                Assert.Empty(values);
                Assert.NotEmpty(faults);
                continue;
            }
            var reading = convention.Grammar.Read(name.ToString());
            if (name.ToString().Length > NameGrammar.MaxLength)
            {
                Assert.Null(reading);
                continue;
            }
            Assert.Equal(name.Segments, reading!.Segments);
            Assert.Equal(name.Extension, reading.Extension);
            Assert.Contains(form, reading.Forms);
            Assert.Equal(name.ToString(), convention.Format(form, reading.Values(), reading.Extension).Name!.ToString());
        }
    }

    [Theory]
    [InlineData("TIM_moonpull-poster_key_IK_14")]
    [InlineData("TIM_moonpull-poster_key_IK_0014")]
    [InlineData("TIM_moonpull-poster_key_IK_000")]
    [InlineData("TIM_moonpull-poster_key_ik_014")]
    [InlineData("TIM_Moonpull_key_IK_014")]
    [InlineData("TIM_moonpull--poster_key_IK_014")]
    [InlineData("TIM_moonpull-_key_IK_014")]
    [InlineData("TIM_moonpull_key_IK_014 ")]
    [InlineData("TIM_moonpull_key_IK_014.")]
    [InlineData("TIM_moonpull_key_IK_014.o!")]
    [InlineData("TIM_mœonpull_key_IK_014")]
    [InlineData("")]
    public void What_is_not_of_the_form_is_not_read(string name) => Assert.Null(Plans.Read(name));

    [Fact]
    public void Only_the_codes_of_a_list_are_read_where_the_studio_keeps_one()
    {
        var grammar = Convention
            .ForPlans()
            .With(new Dictionary<string, CodeList> { ["function"] = CodeList.Of("key", "sketch") })
            .GrammarOf(NameForm.Current);
        Assert.Equal("sketch", grammar.Read("TIM_tide_sketch.ora")!["function"]);
        Assert.Null(grammar.Read("TIM_tide_ske"));
        Assert.Null(grammar.Read("TIM_tide_keys"));
    }

    [Fact]
    public void A_reading_says_the_form_the_values_and_what_stands_open()
    {
        var reading = Convention.ForPlans().Grammar.Read("TIM_moon_tbd_IK_1014.ora")!;
        Assert.Equal([NameForm.Working], reading.Forms);
        Assert.Equal("1014", reading.Values()["version"]);
        Assert.Equal(["function"], reading.Pending);
        Assert.Equal(".ora", reading.Extension);
        Assert.Equal(17, reading.Segments[^1].At + 1);
        Assert.Equal(NameForm.Milestone, Convention.ForPlans().Grammar.Read("TIM_moon_key_M02")!.Form);
    }

    [Fact]
    public void A_name_of_a_million_letters_is_refused_at_once() => Assert.Null(Plans.Read(new string('a', 1_000_000)));

    [Fact]
    public void The_plans_convention_reads_every_name_in_one_way() => Assert.Null(Convention.ForPlans().Grammar.FindAmbiguity());

    [Fact]
    public void Two_slots_of_words_joined_by_their_own_joiner_are_shown_with_both_readings()
    {
        var found = Grammar([new Slot("subject", new WordsRule(), ""), new Slot("detail", new WordsRule(), "-")]).FindAmbiguity()!;
        Assert.Equal(5, found.Name.Length);
        Assert.NotEqual(found.First.Segments, found.Second.Segments);
    }

    [Fact]
    public void Codes_that_run_into_one_another_without_a_mark_are_found()
    {
        Slot[] slots = [new Slot("first", new CodeRule("a"), ""), new Slot("second", new CodeRule("b"), "")];
        NameGrammar With(params string[] second) => Grammar(slots, new() { ["a"] = CodeList.Of("TI", "TIM"), ["b"] = CodeList.Of(second) });
        Assert.Equal("TIMAP", With("MAP", "AP").FindAmbiguity()!.Name);
        Assert.Null(With("AP", "OP").FindAmbiguity());
    }

    [Fact]
    public void Words_that_may_end_like_an_extension_are_found()
    {
        var found = Grammar([new Slot("subject", new WordsRule(), ""), new Slot("detail", new WordsRule(), ".", Optional: true)])
            .FindAmbiguity()!;
        Assert.Equal(3, found.Name.Length);
        Assert.Contains(".", found.First.Extension + found.Second.Extension);
    }

    [Fact]
    public void One_name_of_two_forms_has_one_reading_where_both_read_the_same_slots_in_it()
    {
        Slot[] slots = [new("client", new CodeRule("client"), ""), new("detail", new WordsRule()), new("other", new WordsRule())];
        Convention With(string second) =>
            new(
                slots,
                new Dictionary<NameForm, IReadOnlyList<string>>
                {
                    [NameForm.Current] = ["client", "detail"],
                    [NameForm.Output] = ["client", second],
                }
            );
        Assert.Null(With("detail").Grammar.FindAmbiguity());
        Assert.Equal(
            ["detail", "other"],
            With("other").Grammar.FindAmbiguity() is { } found
                ? new[] { found.First.Segments[1].Label, found.Second.Segments[1].Label }.Order()
                : []
        );
    }

    [Theory]
    [InlineData("yyyyMMdd", "20240229", true)]
    [InlineData("yyyyMMdd", "20230229", false)]
    [InlineData("yyyyMMdd", "19000229", false)]
    [InlineData("yyyyMMdd", "20000229", true)]
    [InlineData("dd-MM-yyyy", "29-02-2024", true)]
    [InlineData("dd-MM-yyyy", "29-02-2100", false)]
    [InlineData("MM_dd_yy", "04_31_24", false)]
    [InlineData("yyyy.MM", "2024.13", false)]
    [InlineData("yyyyMMdd", "18991231", false)]
    public void A_date_is_one_of_the_calendar(string pattern, string name, bool legal) =>
        Assert.Equal(legal, Grammar([new Slot("date", new DateRule(pattern), "")]).Read(name) is not null);

    [Property(MaxTest = 300)]
    public void Every_size_that_is_written_is_read(PositiveInt a, PositiveInt b, int unit)
    {
        var text = $"{a.Get}x{b.Get}{SizeRule.Units[Math.Abs(unit % 4)]}";
        var grammar = Grammar([new Slot("size", new SizeRule(), "")]);
        Assert.Equal(SizeRule.IsSize(text), grammar.Read(text) is not null);
        Assert.All(SizeRule.Papers, paper => Assert.NotNull(grammar.Read(paper)));
        Assert.Null(grammar.Read("8.5x11px"));
        Assert.NotNull(grammar.Read("8.5x11in"));
    }

    // Conventions small enough to try every short name of: the proof and the trial must agree.
    [Property(MaxTest = 300)]
    public void The_proof_agrees_with_trying_every_short_name(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var lists = Enumerable
            .Range(0, 3)
            .ToDictionary(
                i => $"{i}",
                _ =>
                    CodeList.Of(
                        Enumerable.Range(0, random.Next(1, 4)).Select(_ => GeneratedConvention.Letters(random, "ab", 1, 3)).Distinct()
                    )
            );
        var words = random.Next(6);
        var slots = Enumerable
            .Range(0, 3)
            .Select(i => new Slot(
                $"s{i}",
                i == words ? new WordsRule(2) : new CodeRule($"{i}"),
                i > 0 && random.Next(3) == 0 ? "a" : "",
                random.Next(4) == 0
            ))
            .ToList();
        var grammar = new NameGrammar([(NameForm.Folder, slots)], lists);

        var readings = new Dictionary<string, HashSet<string>>();
        foreach (var texts in EveryName(slots, lists))
        {
            var there = slots.Zip(texts).Where(x => x.Second.Length > 0).ToList();
            var name = string.Concat(there.Select((x, i) => (i == 0 ? "" : x.First.Join) + x.Second));
            if (name.Length > 0)
                (readings.TryGetValue(name, out var known) ? known : readings[name] = []).Add(string.Join('|', texts));
        }
        var twice = readings.Where(r => r.Value.Count > 1).ToList();
        var found = grammar.FindAmbiguity();
        if (found is null)
        {
            Assert.Empty(twice);
            Assert.All(readings, r => Assert.Equal(r.Value.Single(), Texts(grammar.Read(r.Key)!)));
        }
        else
        {
            Assert.Equal(twice.Min(t => t.Key.Length), found.Name.Length);
            Assert.Superset(new HashSet<string> { Texts(found.First), Texts(found.Second) }, readings[found.Name]);
            Assert.NotEqual(Texts(found.First), Texts(found.Second));
        }

        string Texts(NameReading reading) => string.Join('|', slots.Select(s => reading[s.Label] ?? ""));
    }

    private static NameGrammar Grammar(IReadOnlyList<Slot> slots, Dictionary<string, CodeList>? lists = null) =>
        new([(NameForm.Working, slots)], lists ?? []);

    private static IEnumerable<string[]> EveryName(IReadOnlyList<Slot> slots, Dictionary<string, CodeList> lists)
    {
        var letters = "abcdefghijklmnopqrstuvwxyz0123456789".Select(c => $"{c}").ToList();
        IEnumerable<string> Of(Slot slot) =>
            (
                slot.Rule is CodeRule code
                    ? lists[code.List].Codes.Select(c => c.Code)
                    : letters.Concat(letters.SelectMany(a => letters.Select(b => a + b)))
            ).Concat(slot.Optional ? [""] : []);
        return from a in Of(slots[0]) from b in Of(slots[1]) from c in Of(slots[2]) select new[] { a, b, c };
    }
}
