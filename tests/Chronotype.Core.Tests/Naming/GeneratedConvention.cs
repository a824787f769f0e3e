using Chronotype.Core.Naming;

namespace Chronotype.Core.Tests.Naming;

/// <summary>Conventions and values at random, of every kind.</summary>
internal static class GeneratedConvention
{
    public static Convention Of(Random random)
    {
        var lists = Enumerable
            .Range(0, 2)
            .ToDictionary(
                i => $"list{i}",
                _ =>
                    CodeList.Of(
                        Enumerable
                            .Range(0, random.Next(1, 6))
                            .Select(_ => Letters(random, "abAB1", 1, 3))
                            .DistinctBy(c => c.ToLowerInvariant())
                    )
            );
        var slots = Enumerable
            .Range(0, random.Next(1, 7))
            .Select(i => new Slot($"slot{i}", Rule(random), Mark(random), random.Next(5) == 0))
            .ToList();
        var all = slots.Select(s => s.Label).ToList();
        var forms = new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Working] = all };
        if (random.Next(2) == 0)
            forms[NameForm.Output] = [.. all.Where(_ => random.Next(3) > 0).DefaultIfEmpty(all[0])];
        if (random.Next(3) == 0)
            forms[NameForm.Folder] = [.. all.Where(_ => random.Next(3) > 0).DefaultIfEmpty(all[^1])];
        return new Convention(slots, forms, lists, random.Next(2) == 0 ? "" : "tbd");
    }

    public static Dictionary<string, string> Values(Convention convention, NameForm form, Random random) =>
        convention
            .Form(form)
            .Where(s => !s.MayBeAbsent || random.Next(2) == 0)
            .ToDictionary(
                s => s.Label,
                s =>
                    !s.Rule.MayBeAbsent && convention.Filler.Length > 0 && random.Next(10) == 0
                        ? convention.Filler
                        : Value(convention, s.Rule, random)
            );

    public static string Letters(Random random, string alphabet, int least, int most) =>
        string.Concat(Enumerable.Range(0, random.Next(least, most + 1)).Select(_ => alphabet[random.Next(alphabet.Length)]));

    private static string Mark(Random random) => ConventionRules.Marks[Math.Min(3, random.Next(8) / 2)];

    private static SlotRule Rule(Random random) =>
        random.Next(12) switch
        {
            0 or 1 => new CodeRule($"list{random.Next(2)}"),
            2 or 3 => new WordsRule(
                random.Next(1, 12),
                Mark(random),
                (WordCase)random.Next(3),
                random.Next(3) == 0 ? (Scripts)random.Next((int)Scripts.Any + 1) : Scripts.None
            ),
            4 => new VersionRule(random.Next(1, 5), random.Next(2), random.Next(2) == 0 ? "" : "v"),
            5 => new MilestoneRule(random.Next(1, 4), random.Next(2) == 0 ? "M" : "ms"),
            11 => new CountRule(random.Next(1, 4), random.Next(2) == 0 ? "" : "sc", random.Next(1, 20)),
            6 => new LineRule(random.Next(1, 8)),
            7 => new DateRule(new[] { "yyyyMMdd", "yyMMdd", "dd-MM-yyyy", "yyyy.MM", "MM_dd_yy" }[random.Next(5)]),
            8 => new HandRule(),
            9 => new SizeRule(),
            _ => new StateRule("MASTER"),
        };

    private static string Value(Convention convention, SlotRule rule, Random random) =>
        rule switch
        {
            CodeRule code => convention.Lists[code.List].Codes[random.Next(convention.Lists[code.List].Codes.Count)].Code,
            WordsRule or LineRule => Letters(random, "abcXYZ019", 1, 1) + Letters(random, "abc XYZ-é019ЖжßΣς海の한ไท", 0, 10),
            NumberRule number => $"{random.NextInt64(number.Start, random.Next(2) == 0 ? 20 : 1_000_000_000)}",
            DateRule date => DateOnly
                .FromDayNumber(new DateOnly(2000, 1, 1).DayNumber + random.Next(36524))
                .ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd"),
            HandRule => Letters(random, "ABCDEFGHIJKLMNOPQRSTUVWXYZ", 2, 4),
            SizeRule => random.Next(3) switch
            {
                0 => SizeRule.Papers[random.Next(SizeRule.Papers.Count)],
                1 => $"{random.Next(1, 10000)}x{random.Next(1, 10000)}px",
                _ => $"{random.Next(1, 100)}.{random.Next(1, 99)}x{random.Next(1, 100)}in",
            },
            StateRule state => state.Mark,
            _ => throw new NotSupportedException(),
        };
}
