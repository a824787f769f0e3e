using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A file that one of two saves, or both, saw.</summary>
/// <param name="Name">Where the later of them saw it; as it is written, where it was not found.</param>
/// <param name="EntryId">Null where it was never found.</param>
/// <param name="Before">What the earlier saw in it; null where it did not see it.</param>
/// <param name="After">As <paramref name="Before"/>, the later.</param>
/// <param name="Kind">What became of it from one to the other.</param>
public sealed record SeenChange(string Name, Guid? EntryId, ContentHash? Before, ContentHash? After, PartChangeKind Kind)
{
    /// <summary>The places of the two among the file's contents, from 1; null where the file is no more, or is a piece's.</summary>
    public (int Before, int After)? Contents { get; init; }
}

/// <summary>Tells what became, from one save of a piece to another, of the files that it refers to.</summary>
public static class SeenChanges
{
    private sealed record Seen(string Name, Guid? EntryId, ContentHash? Hash);

    /// <summary>By name; those that both saw as the same come last.</summary>
    public static async Task<IReadOnlyList<SeenChange>> BetweenAsync(
        StudioDb db,
        Guid before,
        Guid after,
        CancellationToken cancel = default
    )
    {
        var links = await db
            .Links.AsNoTracking()
            .Where(l => l.SaveId == before || l.SaveId == after)
            .OrderBy(l => l.Id)
            .ToListAsync(cancel);
        var (first, second) = (Of(before), Of(after));
        // A file that was moved is the same file; what was not found is told by where it should stand.
        var byEntry = first.Where(f => f.EntryId is not null).GroupBy(f => f.EntryId).ToDictionary(g => g.Key!.Value, g => g.First());
        var byName = first.GroupBy(f => f.Name).ToDictionary(g => g.Key, g => g.First());
        var taken = new HashSet<Seen>();
        var pairs = new List<(Seen? Was, Seen? Now)>();
        foreach (var now in second)
        {
            var was = now.EntryId is { } id ? byEntry.GetValueOrDefault(id) : null;
            if (was is null && byName.GetValueOrDefault(now.Name) is { } named && (named.EntryId is null || now.EntryId is null))
                was = named;
            pairs.Add((was is not null && taken.Add(was) ? was : null, now));
        }
        pairs.AddRange(first.Where(f => !taken.Contains(f)).Select(was => ((Seen?)was, (Seen?)null)));
        var changes = pairs
            .ConvertAll(p => new SeenChange(
                (p.Now ?? p.Was)!.Name,
                (p.Now ?? p.Was)!.EntryId,
                p.Was?.Hash,
                p.Now?.Hash,
                p.Was is null ? PartChangeKind.Added
                    : p.Now is null ? PartChangeKind.Removed
                    : p.Was.Hash == p.Now.Hash ? PartChangeKind.Same
                    : PartChangeKind.Changed
            ))
            .OrderBy(c => c.Kind == PartChangeKind.Same)
            .ThenBy(c => c.Name, StringComparer.Ordinal)
            .ToList();
        var changed = changes.Where(c => c is { Kind: PartChangeKind.Changed, EntryId: not null }).Select(c => c.EntryId).ToList();
        var held = (
            await db
                .FileContents.AsNoTracking()
                .Where(c => changed.Contains(c.EntryId) && db.Entries.Any(e => e.Id == c.EntryId && e.DeletedAt == null))
                .Select(c => new
                {
                    c.EntryId,
                    c.Hash,
                    c.Sequence,
                })
                .ToListAsync(cancel)
        ).ToLookup(c => (c.EntryId, (ContentHash?)c.Hash), c => c.Sequence);
        return changes.ConvertAll(c =>
            c.EntryId is { } id && held[(id, c.Before)].Any() && held[(id, c.After)].Any()
                ? c with
                {
                    Contents = (held[(id, c.Before)].First(), held[(id, c.After)].Last()),
                }
                : c
        );

        // What came in the saves themselves is compared with them.
        List<Seen> Of(Guid save) =>
            [
                .. links
                    .Where(l => l.SaveId == save && (l.SeenEntryId is not null || l.SeenHash is null))
                    .Select(l => new Seen(l.SeenPath?.Text ?? l.Written, l.SeenEntryId, l.SeenHash))
                    .Distinct(),
            ];
    }
}
