using System.Runtime.CompilerServices;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Core.Naming.Checking;

/// <summary>A legal name that a name may be repaired to.</summary>
/// <param name="Name">The repaired name, with its extension.</param>
/// <param name="Cost">The sum of its steps under <see cref="RepairCosts"/>; no legal name costs less.</param>
/// <param name="Reasons">Each step in a few words, in the order of the name.</param>
public sealed record NameRepair(string Name, int Cost, IReadOnlyList<string> Reasons);

/// <summary>What was found about one name.</summary>
/// <param name="Name">As it was given.</param>
/// <param name="Reading">Null when the convention has no such name.</param>
/// <param name="Faults">In the order of their places; none for a legal name.</param>
/// <param name="Repairs">The cheapest repair; several where they cost the same; none for a legal name, and where none was found.</param>
/// <param name="MoreRepairs">Whether more than these cost the same.</param>
public sealed record NameCheck(
    string Name,
    NameReading? Reading,
    IReadOnlyList<NameFault> Faults,
    IReadOnlyList<NameRepair> Repairs,
    bool MoreRepairs = false
)
{
    /// <summary>Whether nothing is wrong with the name.</summary>
    public bool IsLegal => Faults.Count == 0;
}

/// <summary>Checks names against a grammar, and repairs them. Not for two threads at once.</summary>
public sealed class NameChecker
{
    /// <summary>The longest name that is looked at closely, in UTF-16 units; a longer one has one fault, its length.</summary>
    public const int LongestChecked = 1024;

    /// <summary>At most so many repairs are told where several cost the same.</summary>
    public const int MostRepairs = 5;

    // Made once for a grammar, however many check with it.
    private static readonly ConditionalWeakTable<NameGrammar, RepairSlots> AllSlots = [];

    private readonly NameGrammar grammar;
    private readonly RepairSlots slots;
    private readonly RepairSearch search = new();
    private readonly HeldTexts texts;
    private readonly PartAlignment alignment;

    /// <summary>A checker of the names of one grammar.</summary>
    public NameChecker(NameGrammar grammar)
    {
        this.grammar = grammar;
        slots = AllSlots.GetValue(grammar, g => new RepairSlots(g));
        texts = new HeldTexts(slots);
        alignment = new PartAlignment(slots, texts);
    }

    /// <summary>Finds every fault of a name, and the repairs that cost least.</summary>
    /// <param name="name">With its extension, as it stands in its folder; any text at all.</param>
    /// <param name="known">What is known beside the name; null where nothing is.</param>
    /// <param name="folder">The path of its folder; null where it is not known.</param>
    /// <param name="repair">
    /// False where only the faults are wanted, which is much quicker: they are told by laying the name's words along the slots.
    /// </param>
    public NameCheck Check(string name, NameKnowledge? known = null, string? folder = null, bool repair = true)
    {
        if (name.Length > LongestChecked)
            return new(
                name,
                null,
                [
                    new(
                        null,
                        0,
                        name.Length,
                        NameFaultCodes.NameTooLong,
                        $"The name has {name.Length:N0} characters; file systems take {FileSystemRules.MaxBytes} bytes."
                    ),
                ],
                []
            );
        var faults = new List<NameFault>();
        FileSystemRules.Check(name, folder, faults);
        var reading = grammar.Read(name);
        if (reading is not null || name.Length == 0)
            return new(name, reading, faults, []);

        if (!repair && alignment.Faults(name) is { Count: > 0 } aligned)
            return new(name, null, Placed(faults, aligned), []);

        var problem = new RepairProblem(slots, texts, name, known ?? NameKnowledge.Nothing);
        if (!search.Run(problem, repair))
        {
            faults.Add(new(null, 0, name.Length, NameFaultCodes.Value, "This is no name of the convention, and nothing near it is."));
            return new(name, null, faults, []);
        }
        if (!repair)
            return new(name, null, Placed(faults, new RepairStory(problem, search.Path()).Faults), []);

        var names = search.Names(MostRepairs, out var more).Where(n => IsTaken(n + problem.Extension)).ToList();
        var stories = names.ConvertAll(n => new RepairStory(problem, search.Path(n)));
        var told = stories.Count > 0 ? stories[0] : new RepairStory(problem, search.Path());
        return new(
            name,
            null,
            Placed(faults, told.Faults),
            [.. names.Zip(stories, (n, s) => new NameRepair(n + problem.Extension, search.Cost, s.Reasons))],
            more
        );
    }

    /// <summary>Adds to the checks of one folder's names those faults that they have beside one another.</summary>
    public static IReadOnlyList<NameCheck> WithNeighbours(IReadOnlyList<NameCheck> folder)
    {
        var alike = new Dictionary<string, List<int>>();
        for (var i = 0; i < folder.Count; i++)
        {
            if (folder[i].Name.Length > LongestChecked)
                continue;
            var key = Folded(folder[i].Name);
            if (!alike.TryGetValue(key, out var group))
                alike[key] = group = [];
            group.Add(i);
        }
        var all = folder.ToArray();
        foreach (var group in alike.Values.Where(g => g.Count > 1))
        {
            foreach (var i in group)
                all[i] = all[i] with { Faults = [.. all[i].Faults, Beside(all[i].Name, all[group.First(other => other != i)].Name)] };
        }
        return all;
    }

    /// <summary>Names with the same folded form are one name to some file systems.</summary>
    public static string Folded(string name) => Plain(name).ToUpperInvariant();

    private static string Plain(string name) => UnicodeText.Normalized(name, NormalizationForm.FormC);

    private static NameFault Beside(string name, string other)
    {
        if (name == other)
            return new(null, 0, name.Length, NameFaultCodes.NeighbourSame, "The same name stands here twice.");
        var form = Plain(name) == Plain(other);
        return new(
            null,
            0,
            name.Length,
            form ? NameFaultCodes.NeighbourForm : NameFaultCodes.NeighbourCase,
            form
                ? $"“{other}” beside it differs only in how its accents are stored, so some file systems take the two for one."
                : $"“{other}” beside it differs only in case, so Windows and macOS take the two for one."
        );
    }

    private static bool IsTaken(string name) =>
        !name.Contains('\0') && Encoding.UTF8.GetByteCount(name) <= FileSystemRules.MaxBytes && !FileSystemRules.IsDevice(name);

    // A character that no file system takes is told as that, not once more as something that its slot cannot hold.
    private static List<NameFault> Placed(List<NameFault> outer, IReadOnlyList<NameFault> inner)
    {
        var told = outer.Where(f => f.Length is 1 or 2).ToList();
        outer.AddRange(
            inner.Where(f =>
                f.Length == 0
                || !(
                    f.Code is NameFaultCodes.Character or NameFaultCodes.Extra
                    && Enumerable.Range(f.At, f.Length).All(at => told.Any(o => at >= o.At && at < o.At + o.Length))
                )
            )
        );
        return [.. outer.OrderBy(f => f.At)];
    }
}
