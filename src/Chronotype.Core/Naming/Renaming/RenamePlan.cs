using Chronotype.Core.Naming.Checking;

namespace Chronotype.Core.Naming.Renaming;

/// <summary>A name that is to become another.</summary>
public sealed record Rename(string From, string To);

/// <summary>Why a plan cannot be carried out.</summary>
/// <param name="Names">The names that stand in one another's way, or the one that has no new name.</param>
/// <param name="Message">A sentence for a person.</param>
public sealed record RenameObstacle(IReadOnlyList<string> Names, string Message);

/// <summary>
/// Renames within one folder, in an order that is safe: no step meets a name that is there, not even one that differs only in case
/// or in how its accents are stored. Chains go from their end, and cycles through a name of their own. It is carried out as a
/// whole or not at all: whatever step it is stopped at, the steps so far undone in reverse give the old names.
/// </summary>
/// <param name="Steps">In order; none where an obstacle stands.</param>
/// <param name="Obstacles">Every one of them; none for a plan that can be carried out.</param>
public sealed record RenamePlan(IReadOnlyList<Rename> Steps, IReadOnlyList<RenameObstacle> Obstacles)
{
    private const string Passing = "renaming-";

    /// <param name="wanted">Each name that is to change, once, with what it becomes; those that become themselves stay.</param>
    /// <param name="staying">The other names of the folder.</param>
    public static RenamePlan Of(IEnumerable<Rename> wanted, IEnumerable<string> staying)
    {
        var all = wanted.ToList();
        var renames = all.Where(r => r.From != r.To).ToList();
        var stay = staying.Concat(all.Where(r => r.From == r.To).Select(r => r.From)).ToList();
        var obstacles = Collisions(renames, stay);
        if (obstacles.Count > 0)
            return new([], obstacles);

        var there = stay.Concat(renames.Select(r => r.From)).Select(NameChecker.Folded).ToHashSet();
        var targets = renames.Select(r => NameChecker.Folded(r.To)).ToHashSet();
        var byFrom = renames.ToDictionary(r => NameChecker.Folded(r.From));
        var done = new HashSet<Rename>();
        var steps = new List<Rename>();
        var passing = 0;
        foreach (var rename in renames)
        {
            if (done.Contains(rename))
                continue;
            // Along the chain, until a name that is free or until it comes round again.
            var chain = new List<Rename> { rename };
            var isRound = false;
            while (byFrom.TryGetValue(NameChecker.Folded(chain[^1].To), out var next) && !done.Contains(next))
            {
                if (next == rename)
                {
                    isRound = true;
                    break;
                }
                // A chain that runs into a round: the round goes first, when its own turn comes.
                if (chain.Contains(next))
                {
                    chain = chain[chain.IndexOf(next)..];
                    isRound = true;
                    break;
                }
                chain.Add(next);
            }
            var aside = isRound ? NewName() : null;
            if (aside is not null)
                steps.Add(new(chain[0].From, aside));
            for (var i = chain.Count - 1; i >= (aside is null ? 0 : 1); i--)
                steps.Add(chain[i]);
            if (aside is not null)
                steps.Add(new(aside, chain[0].To));
            done.UnionWith(chain);
        }
        return new(steps, []);

        string NewName()
        {
            while (true)
            {
                var name = $"{Passing}{++passing}.tmp";
                if (!there.Contains(NameChecker.Folded(name)) && !targets.Contains(NameChecker.Folded(name)))
                    return name;
            }
        }
    }

    /// <summary>The plan that gives the old names back.</summary>
    public RenamePlan Reversed() => this with { Steps = [.. Steps.Reverse().Select(s => new Rename(s.To, s.From))] };

    private static List<RenameObstacle> Collisions(List<Rename> renames, List<string> staying)
    {
        var obstacles = new List<RenameObstacle>();
        foreach (var twice in renames.GroupBy(r => NameChecker.Folded(r.From)).Where(g => g.Count() > 1))
            obstacles.Add(
                new(
                    [.. twice.Select(r => r.From)],
                    $"{Listed(twice.Select(r => r.From))} are one file to some file systems, so neither can be renamed safely."
                )
            );
        foreach (var one in renames.GroupBy(r => NameChecker.Folded(r.To)).Where(g => g.Count() > 1))
        {
            var targets = one.Select(r => r.To).Distinct().ToList();
            obstacles.Add(new([.. one.Select(r => r.From)], $"{Listed(one.Select(r => r.From))} would {Clash(targets)}."));
        }
        var stays = staying.GroupBy(NameChecker.Folded).ToDictionary(g => g.Key, g => g.First());
        foreach (var rename in renames)
        {
            if (stays.TryGetValue(NameChecker.Folded(rename.To), out var there))
                obstacles.Add(
                    new(
                        [rename.From, there],
                        $"“{rename.From}” would be “{rename.To}”, and {(there == rename.To ? "a file of that name" : $"“{there}”")} "
                            + $"stays where it is."
                    )
                );
            if (stays.TryGetValue(NameChecker.Folded(rename.From), out var twin))
                obstacles.Add(
                    new(
                        [rename.From, twin],
                        $"“{rename.From}” and “{twin}” are one file to some file systems, so it cannot be renamed safely."
                    )
                );
        }
        return obstacles;
    }

    private static string Listed(IEnumerable<string> names) => string.Join(" and ", names.Select(n => $"“{n}”"));

    private static string Clash(List<string> targets) =>
        targets.Count == 1 ? $"both be “{targets[0]}”" : $"be {Listed(targets)}, which some file systems take for one name";
}
