using System.Globalization;

namespace Chronotype.Core.Naming;

/// <summary>Makes the automaton of what a slot may hold from its rule.</summary>
internal static class SlotLanguages
{
    private const string Small = "abcdefghijklmnopqrstuvwxyz",
        Capitals = "ABCDEFGHIJKLMNOPQRSTUVWXYZ",
        Digits = "0123456789";

    /// <summary>A file's extension without its dot: 1 to 16 ASCII letters and digits.</summary>
    public static SlotAutomaton Extension { get; } = Repeat(Small + Capitals + Digits, 1, 16).Build();

    /// <param name="rule">What the slot holds.</param>
    /// <param name="list">The codes that the slot may hold; null where any will do.</param>
    /// <param name="filler">What stands for a value that is not known yet; empty for none.</param>
    public static SlotAutomaton Of(SlotRule rule, CodeList? list, string filler)
    {
        var draft = rule switch
        {
            CodeRule or HandRule when list is not null => Texts(list.Codes.Select(c => c.Code)),
            CodeRule => Repeat(Small + Capitals + Digits, 1, CodeRule.MaxLength),
            WordsRule words => WordsOf(words.MaxLength, words.Joiner, words.Case, words.Letters),
            LineRule line => WordsOf(line.MaxLength, line.Joiner, WordCase.Lower),
            NumberRule number => Number(number),
            DateRule date => Date(date),
            HandRule => Repeat(Capitals, 2, 4),
            SizeRule => Size(),
            StateRule state => Texts([state.Mark]),
            _ => throw new NotSupportedException($"No automaton is known for {rule.GetType().Name}."),
        };
        if (filler.Length > 0 && !rule.MayBeAbsent)
            draft.AddText(filler);
        return draft.Build();
    }

    private static SlotAutomaton.Draft Texts(IEnumerable<string> texts)
    {
        var draft = new SlotAutomaton.Draft();
        draft.AddTree(texts);
        return draft;
    }

    private static SlotAutomaton.Draft Repeat(string letters, int least, int most) =>
        SlotAutomaton.Draft.Explore(0, (length, _) => length < most ? length + 1 : null, length => length >= least, letters);

    private static SlotAutomaton.Draft WordsOf(int most, string joiner, WordCase wordCase, Scripts scripts = Scripts.None)
    {
        // A letter that has no case stands for itself in every case.
        var (uncased, capitals, small) = WordLetters.LettersOf(scripts);
        (small, capitals) = (Small + small, Capitals + capitals);
        var first = (wordCase == WordCase.Lower ? small : capitals) + Digits + uncased;
        var inside =
            Digits
            + uncased
            + (
                wordCase == WordCase.Upper ? capitals
                : wordCase == WordCase.Title && joiner.Length == 0 ? small + capitals
                : small
            );
        return SlotAutomaton.Draft.Explore<(int Length, bool Inside)>(
            (0, false),
            (at, letter) =>
                at.Length == most ? null
                : at.Inside && joiner.Length > 0 && letter == joiner[0] ? (at.Length + 1, false)
                : (at.Inside ? inside : first).Contains(letter) ? (at.Length + 1, true)
                : null,
            at => at.Inside,
            small + capitals + uncased + Digits + joiner
        );
    }

    // A number has its width, with zeros before it, or it has grown past it, and then begins with no zero.
    private static SlotAutomaton.Draft Number(NumberRule rule) =>
        SlotAutomaton.Draft.Explore<(int Lead, int Digits, bool Padded, bool Zero)>(
            (0, 0, false, true),
            (at, letter) =>
            {
                if (at.Lead < rule.Lead.Length)
                    return letter == rule.Lead[at.Lead] ? (at.Lead + 1, 0, false, true) : null;
                if (!char.IsAsciiDigit(letter) || at.Digits == (at.Padded ? rule.Width : NumberRule.MaxDigits))
                    return null;
                // With a width of one, nought stands for itself and pads nothing.
                return (at.Lead, at.Digits + 1, at.Digits == 0 ? letter == '0' : at.Padded, at.Zero && letter == '0');
            },
            at => at.Digits >= rule.Width && (rule.Start == 0 || !at.Zero),
            new string([.. (rule.Lead + Digits).Distinct()])
        );

    private static SlotAutomaton.Draft Size()
    {
        var draft = SlotAutomaton.Draft.Explore<(int Side, int Whole, int Fraction, string Unit)>(
            (0, 0, -1, ""),
            (at, letter) =>
            {
                if (at.Unit.Length > 0)
                    return SizeRule.Units.FirstOrDefault(u => u == at.Unit + letter) is { } unit && at.Unit.Length == 1
                        ? (1, 0, at.Fraction, unit)
                        : null;
                var complete = at.Whole > 0 && at.Fraction != 0;
                if (char.IsAsciiDigit(letter))
                {
                    return at.Fraction >= 0 ? (at.Fraction < 2 ? at with { Fraction = at.Fraction + 1 } : null)
                        : at.Whole == 6 || (at.Whole == 0 && letter == '0') ? null
                        : at with { Whole = at.Whole + 1 };
                }
                // A point on either side rules pixels out, which the second side must still know.
                if (letter == '.')
                    return at.Whole > 0 && at.Fraction < 0 ? at with { Fraction = 0 } : null;
                if (letter == 'x' && complete && at.Side is 0)
                    return (at.Fraction > 0 ? 2 : 1, 0, -1, "");
                var pixels = at.Side == 1 && at.Fraction < 0;
                return complete && at.Side > 0 && SizeRule.Units.Any(u => u[0] == letter && (u != "px" || pixels))
                    ? (1, 0, -1, $"{letter}")
                    : null;
            },
            at => at.Unit.Length == 2,
            Digits + ".x" + new string([.. string.Concat(SizeRule.Units).Distinct()])
        );
        foreach (var paper in SizeRule.Papers)
            draft.AddText(paper);
        return draft;
    }

    // What is remembered of a date is only what its last day may still depend on.
    private readonly record struct DateState(int Part, int Digits, int Value, int Leap, int Month, int Day);

    private static SlotAutomaton.Draft Date(DateRule rule)
    {
        var parts = DateRule.Split(rule.Pattern) ?? throw new ArgumentException($"“{rule.Pattern}” is no pattern of a date.");
        return SlotAutomaton.Draft.Explore(new DateState(0, 0, 0, -1, 0, 0), Step, at => at.Part == parts.Count, Digits + "-_.");

        DateState? Step(DateState at, char letter)
        {
            if (at.Part == parts.Count)
                return null;
            var part = parts[at.Part];
            if (part.Length == 1)
                return letter == part[0] ? at with { Part = at.Part + 1 } : null;
            if (!char.IsAsciiDigit(letter))
                return null;
            var value = at.Value * 10 + (letter - '0');
            if (at.Digits + 1 < part.Length)
                return at with { Digits = at.Digits + 1, Value = value };
            var done = at with { Part = at.Part + 1, Digits = 0, Value = 0 };
            switch (part[0])
            {
                case 'y':
                    var year = part.Length == 2 ? 2000 + value : value;
                    if (year is < DateRule.FirstYear or > DateRule.LastYear)
                        return null;
                    done = done with { Leap = DateTime.IsLeapYear(year) ? 1 : 0 };
                    break;
                case 'M':
                    if (value is < 1 or > 12)
                        return null;
                    done = done with { Month = value == 2 ? 29 : DateTime.DaysInMonth(2000, value) };
                    break;
                default:
                    if (value is < 1 or > 31)
                        return null;
                    done = done with { Day = Math.Max(28, value) };
                    break;
            }
            if (done.Month > 0 && done.Day > done.Month)
                return null;
            return done is { Month: 29, Day: 29, Leap: 0 } ? null : done;
        }
    }
}
