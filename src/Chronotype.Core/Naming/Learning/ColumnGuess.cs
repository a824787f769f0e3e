namespace Chronotype.Core.Naming.Learning;

/// <summary>What a column of many names' texts most likely is.</summary>
/// <param name="Rule">Of a code, <see cref="CodeRule.List"/> is empty until the column has its label.</param>
/// <param name="Holds">Whether a text fits.</param>
/// <param name="Bits">What the rule and all the texts under it cost to write down.</param>
/// <param name="Codes">The codes of a list; null for any other kind.</param>
/// <param name="Slips">Texts that do not fit, but are nearly one of the codes.</param>
internal sealed record ColumnGuess(
    SlotRule Rule,
    Func<string, bool> Holds,
    double Bits,
    IReadOnlyList<string>? Codes = null,
    IReadOnlySet<string>? Slips = null
)
{
    // A letter of a word, a letter of a code, and any character of a name that fits nothing, in bits.
    private const double WordLetter = 4.7,
        CodeLetter = 5.2,
        Misfit = 8;

    // What a slip costs: which code it is, and what happened to it.
    private const double Slip = 24;

    private const int LongestCode = 8,
        MostCodes = 500;

    private static readonly string[] DatePatterns =
    [
        "yyyyMMdd",
        "yyyy-MM-dd",
        "yyyy_MM_dd",
        "yyyy.MM.dd",
        "yyMMdd",
        "ddMMyyyy",
        "dd-MM-yyyy",
        "dd.MM.yyyy",
        "MM-dd-yyyy",
        "MMddyyyy",
        "yyyy-MM",
        "yyyyMM",
    ];

    // Rules that columns are held against again and again.
    private static readonly System.Collections.Concurrent.ConcurrentDictionary<SlotRule, SlotAutomaton> Automata = [];

    /// <summary>Weighs every kind by how shortly it tells the column (Rissanen, "Modeling by shortest data description", 1978).</summary>
    /// <param name="texts">The column's texts, with how often each stands in it.</param>
    public static ColumnGuess Of(IReadOnlyDictionary<string, int> texts)
    {
        var all = texts.Values.Sum();
        return Candidates(texts, all)
            .MinBy(guess =>
                guess.Bits
                + texts
                    .Where(t => !guess.Holds(t.Key))
                    .Sum(t => t.Value * (guess.Slips?.Contains(t.Key) == true ? Slip : Slip + BitsOf(t.Key)))
            )!;
    }

    // Texts that come again are written once, each at what its kind makes it cost, and pointed to.
    private static double Cost(IReadOnlyDictionary<string, int> texts, int all, double each) =>
        texts.Count * each + all * Math.Log2(texts.Count + 1);

    private static IEnumerable<ColumnGuess> Candidates(IReadOnlyDictionary<string, int> texts, int all)
    {
        yield return Words(texts);
        if (ListOf(texts, all) is { } codes)
            yield return codes;
        if (Numbers(texts) is { } numbers)
            yield return numbers;
        foreach (var pattern in DatePatterns)
        {
            var rule = new DateRule(pattern);
            var automaton = AutomatonOf(rule);
            // A date costs what it says: a day of some twenty years.
            if (texts.Keys.Any(t => IsLikelyDate(t, rule, automaton)))
                yield return new(rule, t => IsLikelyDate(t, rule, automaton), 20 + Cost(texts, all, 13));
        }
        if (texts.Keys.Any(SizeRule.IsSize))
            yield return new(new SizeRule(), SizeRule.IsSize, 10 + Cost(texts, all, 24));
    }

    internal static SlotAutomaton AutomatonOf(SlotRule rule) => Automata.GetOrAdd(rule, r => SlotLanguages.Of(r, null, ""));

    // Numbers of four to six digits are dates only of the years that files have.
    private static bool IsLikelyDate(string text, DateRule rule, SlotAutomaton automaton) =>
        automaton.Holds(text)
        && int.Parse(rule.Read(text).AsSpan(0, 4), System.Globalization.CultureInfo.InvariantCulture) is >= 1985 and <= 2060;

    private static ColumnGuess Words(IReadOnlyDictionary<string, int> texts)
    {
        var letters = texts.Keys.Sum(t => t.Length);
        var most = Math.Clamp((texts.Keys.Select(t => t.Length).DefaultIfEmpty(1).Max() + 9) / 10 * 10, 40, 100);
        var scripts = texts.Keys.Aggregate(Scripts.None, (all, t) => all | WordLetters.ScriptsOf(t));
        WordsRule Of(WordCase wordCase, string joiner) => new(most, joiner, wordCase, scripts);
        var best = (Rule: Of(WordCase.Lower, "-"), Count: -1);
        foreach (
            var rule in new[]
            {
                Of(WordCase.Lower, "-"),
                Of(WordCase.Title, ""),
                Of(WordCase.Upper, "-"),
                Of(WordCase.Title, "-"),
                Of(WordCase.Lower, "."),
            }
        )
        {
            var automaton = AutomatonOf(rule);
            var count = texts.Sum(t => automaton.Holds(t.Key) ? t.Value : 0);
            if (count > best.Count)
                best = (rule, count);
        }
        var held = AutomatonOf(best.Rule);
        // Words say least of all kinds, so any other that does as well is likelier.
        var all = texts.Values.Sum();
        return new(
            best.Rule,
            t => held.Holds(t),
            30 + 2.0 * all + Cost(texts, all, (double)letters / Math.Max(1, texts.Count) * WordLetter)
        );
    }

    private static ColumnGuess? ListOf(IReadOnlyDictionary<string, int> texts, int all)
    {
        var rare = all >= 50;
        var (seen, held) = (0, 0);
        var codes = new List<string>();
        var slips = new HashSet<string>();
        foreach (var (text, count) in texts.OrderByDescending(t => t.Value).ThenBy(t => t.Key, StringComparer.Ordinal))
        {
            if (text.Length > LongestCode || !text.All(char.IsAsciiLetterOrDigit) || text.All(char.IsAsciiDigit))
                continue;
            // What differs from a code only in case, or stands once beside a code of nearly the same letters, is a slip.
            if (
                codes.Any(c =>
                    c.Equals(text, StringComparison.OrdinalIgnoreCase) || (rare && count == 1 && c.Length >= 3 && HandSlip.MayBe(text, c))
                )
            )
                slips.Add(text);
            else
            {
                // Behind nearly all of a long column come single strays.
                if (rare && seen > all * 0.97 && count * 20 < seen / codes.Count)
                    break;
                codes.Add(text);
                held += count;
            }
            seen += count;
            if (codes.Count > MostCodes)
                return null;
        }
        if (codes.Count == 0)
            return null;
        var known = codes.ToHashSet();
        var (upper, lower) = (codes.Count(c => c.Any(char.IsAsciiLetterUpper)), codes.Count(c => c.Any(char.IsAsciiLetterLower)));
        // A list is short, comes again and again, and keeps to one case.
        if (codes.Count > Math.Max(3, held / 3) || (upper > 0 && lower > 0 && Math.Min(upper, lower) > codes.Count / 5))
            return null;
        return new(
            new CodeRule(""),
            known.Contains,
            codes.Sum(c => c.Length * CodeLetter) + held * Math.Log2(codes.Count + 1),
            codes,
            slips
        );
    }

    private static ColumnGuess? Numbers(IReadOnlyDictionary<string, int> texts)
    {
        // The commonest lead, and the commonest width under it.
        var leads = texts
            .Where(t => char.IsAsciiDigit(t.Key[^1]))
            .GroupBy(t => t.Key.TrimEnd("0123456789".ToCharArray()))
            .Where(g => g.Key.Length <= ConventionRules.MaxLead && g.Key.All(char.IsAsciiLetter))
            .MaxBy(g => g.Sum(t => t.Value));
        if (leads is null)
            return null;
        var lead = leads.Key;
        var widths = leads
            .Where(t => t.Key.Length - lead.Length <= NumberRule.MaxDigits)
            .GroupBy(t => t.Key.Length - lead.Length)
            .OrderBy(g => g.Key)
            .ToList();
        if (widths.Count == 0)
            return null;
        var width = widths
            .Where(g => g.Any(t => t.Key[lead.Length] == '0' && g.Key > 1) || g == widths[0])
            .MaxBy(g => g.Sum(t => t.Value))!
            .Key;
        var start = texts.Keys.Any(t =>
            t.Length == lead.Length + width
            && t.AsSpan(lead.Length).IndexOfAnyExcept('0') < 0
            && t.StartsWith(lead, StringComparison.Ordinal)
        )
            ? 0
            : 1;
        NumberRule rule = lead.ToUpperInvariant() is "M" or "MS" or "MILE"
            ? new MilestoneRule(width, lead)
            : new VersionRule(width, start, lead);
        var automaton = AutomatonOf(rule);
        var most = leads
            .Where(t => automaton.Holds(t.Key))
            .Select(t => double.Parse(t.Key.AsSpan(lead.Length), System.Globalization.CultureInfo.InvariantCulture))
            .DefaultIfEmpty(1)
            .Max();
        return new(
            rule,
            t => automaton.Holds(t),
            10 + lead.Length * CodeLetter + Cost(texts, texts.Values.Sum(), Math.Log2(Math.Max(most, 9) + 1))
        );
    }

    /// <summary>What a text that nothing explains costs.</summary>
    public static double BitsOf(string text) => text.Length * Misfit;
}
