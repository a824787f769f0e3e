using Chronotype.Core.Naming;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests;

public class NameReaderTests
{
    private static readonly Func<string, IReadOnlyCollection<string>?> AnyCode = _ => null;

    private static NameReader Reader(NameForm form) => new(Convention.ForPlans().Form(form), AnyCode);

    [Property(MaxTest = 300)]
    public void What_was_formatted_reads_back(string? subject, NonNegativeInt number, bool milestone)
    {
        var form = milestone ? NameForm.Milestone : NameForm.Working;
        var values = new Dictionary<string, string> { ["client"] = "TIM", ["subject"] = subject ?? "", ["function"] = "key", ["hand"] = "IK", ["version"] = $"{number.Get}", ["milestone"] = $"{number.Get}" };
        if (Convention.ForPlans().Format(form, values).Name is not { } name) return;
        Assert.Equal(name.Segments, Reader(form).Read(name.Stem)!.Segments);
    }

    [Theory]
    [InlineData("TIM_moonpull-poster_key_IK_14")]
    [InlineData("TIM_moonpull-poster_key_IK_0014")]
    [InlineData("TIM_moonpull-poster_key_ik_014")]
    [InlineData("TIM_Moonpull_key_IK_014")]
    [InlineData("TIM_moonpull--poster_key_IK_014")]
    [InlineData("TIM_moonpull-_key_IK_014")]
    [InlineData("TIM_moonpull_key_IK_014 ")]
    [InlineData("TIM_mœonpull_key_IK_014")]
    [InlineData("")]
    public void What_is_not_of_the_form_is_not_read(string name) => Assert.Null(Reader(NameForm.Working).Read(name));

    [Fact]
    public void Only_the_codes_of_a_list_are_read_where_the_studio_keeps_one()
    {
        var reader = new NameReader(Convention.ForPlans().Form(NameForm.Current), list => list == "function" ? ["key", "sketch"] : null);
        Assert.Equal("sketch", reader.Read("TIM_tide_sketch")!["function"]);
        Assert.Null(reader.Read("TIM_tide_ske"));
        Assert.Null(reader.Read("TIM_tide_keys"));
    }

    [Fact]
    public void A_name_of_a_million_letters_is_refused_at_once() => Assert.Null(Reader(NameForm.Working).Read(new string('a', 1_000_000)));

    [Fact]
    public void The_plans_convention_reads_every_name_in_one_way()
    {
        foreach (var form in Enum.GetValues<NameForm>()) Assert.Null(Reader(form).FindAmbiguity());
    }

    [Fact]
    public void Two_slots_of_words_joined_by_their_own_joiner_are_shown_with_both_readings()
    {
        var found = new NameReader([new Slot("subject", new WordsRule(), ""), new Slot("detail", new WordsRule(), "-")], AnyCode).FindAmbiguity()!;
        Assert.Equal(5, found.Name.Length);
        Assert.NotEqual(found.First.Segments, found.Second.Segments);
    }

    [Fact]
    public void Codes_that_run_into_one_another_without_a_mark_are_found()
    {
        Slot[] slots = [new Slot("first", new CodeRule("a"), ""), new Slot("second", new CodeRule("b"), "")];
        var found = new NameReader(slots, list => list == "a" ? ["TI", "TIM"] : ["MAP", "AP"]).FindAmbiguity()!;
        Assert.Equal("TIMAP", found.Name);
        Assert.Null(new NameReader(slots, list => list == "a" ? ["TI", "TIM"] : ["AP", "OP"]).FindAmbiguity());
    }

    // Conventions small enough to try every short name of: the proof and the trial must agree.
    [Property(MaxTest = 150)]
    public void The_proof_agrees_with_trying_every_short_name(int seed)
    {
        var random = new Random(seed);
        string Code() => string.Concat(Enumerable.Range(0, random.Next(1, 4)).Select(_ => "ab"[random.Next(2)]));
        var lists = Enumerable.Range(0, 3).Select(_ => Enumerable.Range(0, random.Next(1, 4)).Select(_ => Code()).Distinct().ToList()).ToList();
        var words = random.Next(6);
        var slots = Enumerable.Range(0, 3).Select(i => new Slot($"s{i}", i == words ? new WordsRule(2) : new CodeRule($"{i}"), i > 0 && random.Next(3) == 0 ? "a" : "")).ToList();
        var reader = new NameReader(slots, list => lists[int.Parse(list)]);

        var readings = new Dictionary<string, HashSet<string>>();
        foreach (var texts in EveryName(slots, lists))
        {
            var name = string.Concat(slots.Select((s, i) => (i == 0 ? "" : s.Join) + texts[i]));
            (readings.TryGetValue(name, out var known) ? known : readings[name] = []).Add(string.Join('|', texts));
        }
        var twice = readings.Where(r => r.Value.Count > 1).ToList();
        var found = reader.FindAmbiguity();
        if (found is null)
        {
            Assert.Empty(twice);
            Assert.All(readings, r => Assert.Equal(r.Value.Single(), string.Join('|', reader.Read(r.Key)!.Segments.Select(s => s.Text))));
        }
        else
        {
            Assert.Equal(twice.Min(t => t.Key.Length), found.Name.Length);
            Assert.Superset(new HashSet<string> { Texts(found.First), Texts(found.Second) }, readings[found.Name]);
            Assert.NotEqual(Texts(found.First), Texts(found.Second));
        }

        static string Texts(NameReading reading) => string.Join('|', reading.Segments.Select(s => s.Text));
    }

    private static IEnumerable<string[]> EveryName(IReadOnlyList<Slot> slots, List<List<string>> lists)
    {
        var letters = "abcdefghijklmnopqrstuvwxyz0123456789".Select(c => $"{c}").ToList();
        IEnumerable<string> Of(Slot slot) => slot.Rule is CodeRule code ? lists[int.Parse(code.List)] : letters.Concat(letters.SelectMany(a => letters.Select(b => a + b)));
        return from a in Of(slots[0]) from b in Of(slots[1]) from c in Of(slots[2]) select new[] { a, b, c };
    }
}
