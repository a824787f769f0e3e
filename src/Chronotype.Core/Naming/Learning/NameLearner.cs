namespace Chronotype.Core.Naming.Learning;

/// <summary>What was learned from a list of names.</summary>
/// <param name="Convention">The proposal, every name of which has one reading; null where the names have nothing in common.</param>
/// <param name="Names">How many different names there were.</param>
/// <param name="LeftOut">Those that the proposal does not explain, in their order.</param>
/// <param name="Why">By label, what speaks for the slot, in a few words.</param>
public sealed record LearnedConvention(
    Convention? Convention,
    int Names,
    IReadOnlyList<string> LeftOut,
    IReadOnlyDictionary<string, string> Why
)
{
    /// <summary>How many of the names the proposal explains.</summary>
    public int Explained => Names - LeftOut.Count;

    /// <summary>The share of the names that are explained, from 0 to 1.</summary>
    public double Coverage => Names == 0 ? 0 : (double)Explained / Names;
}

/// <summary>
/// Proposes the convention that explains most of a list of names most simply: the one under which the names, and the convention
/// itself, are told in the fewest bits (Rissanen, "Modeling by shortest data description", 1978).
/// </summary>
public static class NameLearner
{
    private const int Sample = 5_000;

    /// <param name="names">With or without extensions, in any order, of any length; equal ones count once.</param>
    public static LearnedConvention Learn(IEnumerable<string> names)
    {
        var all = names.Where(n => n.Length > 0).Distinct(StringComparer.Ordinal).ToList();
        var readable = all.Where(n =>
                n.Length <= NameGrammar.MaxLength && n.All(c => c is >= ' ' and not (char)127 && WordLetters.Of(c) > 0)
            )
            .ToList();
        // A mark that most names lack joins no slots, where another does.
        var marks = "_-.".Where(mark => readable.Count(n => FileNames.Stem(n).Contains(mark)) * 3 > readable.Count).DefaultIfEmpty('_');
        // Which mark it is shows in a part of the names; its slots are then learned from all of them.
        var some =
            readable.Count <= Sample
                ? readable
                : [.. Enumerable.Range(0, Sample).Select(i => readable[(int)((long)i * readable.Count / Sample)])];
        var best = marks
            .Select(mark => (Mark: mark, Draft: Draft(some, mark)))
            .Where(d => d.Draft is not null)
            .OrderBy(d => d.Draft!.Bits)
            .Select(d => some == readable ? d.Draft : Draft(readable, d.Mark, d.Draft!.Fields))
            .FirstOrDefault();
        if (best is null)
            return new(null, all.Count, all, new Dictionary<string, string>());
        // A proposal with two readings of a name is none: the last additions go first.
        for (var layout = best.Layout; layout is not null; layout = layout.Simpler())
        {
            if (layout.Convention() is not { } convention || convention.Grammar.FindAmbiguity() is not null)
                continue;
            return new(convention, all.Count, [.. all.Where(n => convention.Grammar.Read(n) is null)], layout.Why());
        }
        return new(null, all.Count, all, new Dictionary<string, string>());
    }

    private sealed record Proposal(LearnedLayout Layout, double Bits, int Fields);

    /// <param name="names">Without their extensions.</param>
    /// <param name="mark">What separates the fields.</param>
    /// <param name="fields">How many fields the pattern has; null where the commonest numbers are all tried.</param>
    private static Proposal? Draft(IReadOnlyList<string> names, char mark, int? fields = null)
    {
        var table = new NameTable(names, mark);
        Proposal? best = null;
        // The commonest numbers of fields, each tried as the pattern that the others are told by.
        foreach (var group in table.Rows.GroupBy(r => r.Fields.Count).OrderByDescending(g => g.Count()).Take(3))
        {
            if (fields is { } only && group.Key != only)
                continue;
            if (group.Key > ConventionRules.MaxSlots || group.Count() * 5 < names.Count)
                continue;
            var layout = new LearnedLayout(mark);
            for (var field = 0; field < group.Key; field++)
            {
                var column = NameTable.Column(group, field);
                if (column.Remove("") && column.Count == 0)
                    return best;
                layout.Add(ColumnGuess.Of(column), column);
            }
            if (layout.Slots.Count == 0)
                continue;
            layout.TellNumbers([.. group]);
            layout.Settle();
            var bits = layout.Learn(table.Rows).Sum(ColumnGuess.BitsOf) + layout.Bits;
            if (best is null || bits < best.Bits)
                best = new(layout, bits, group.Key);
        }
        return best;
    }
}
