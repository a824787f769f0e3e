using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.References;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>What was moved.</summary>
/// <param name="Entries">In the order in which they were asked for, as they stand now.</param>
/// <param name="At">When; by it all of them are moved back.</param>
public sealed record MovedEntries(IReadOnlyList<TreeEntry> Entries, DateTimeOffset At);

/// <content>Moving and renaming, one or several, and back.</content>
public sealed partial class TendTree
{
    /// <summary>Moves or renames an entry, and all that lies in it where it is a folder.</summary>
    /// <param name="to">Its new path; the folder that it leads into must be there.</param>
    public async Task<Outcome<TreeEntry>> MoveAsync(Actor actor, Guid entryId, ProjectPath to, CancellationToken cancel = default)
    {
        var outcome = await MoveAsync(actor, [(entryId, to)], cancel);
        return outcome.Done ? outcome.Result.Entries[0] : outcome.Refusal;
    }

    /// <summary>Moves or renames several at once: all of them, or none.</summary>
    /// <param name="moves">Entries of one project, each with its new path.</param>
    public Task<Outcome<MovedEntries>> MoveAsync(
        Actor actor,
        IReadOnlyList<(Guid Entry, ProjectPath To)> moves,
        CancellationToken cancel = default
    ) => deeds.DoAsync(actor, Right.Work, deed => MoveWithinAsync(deed, moves, cancel), cancel);

    /// <summary>Gives everything that was moved or renamed in one go its old place again.</summary>
    /// <param name="at">When that was: <see cref="MovedEntries.At"/>.</param>
    public Task<Outcome<MovedEntries>> MoveBackAsync(Actor actor, Guid projectId, DateTimeOffset at, CancellationToken cancel = default) =>
        deeds.DoAsync(
            actor,
            Right.Work,
            async deed =>
            {
                var before = await deed
                    .Db.PastPlaces.Where(p => p.ProjectId == projectId && p.Until == at)
                    .Join(
                        deed.Db.Entries.Where(e => e.StandsSince == at && e.DeletedAt == null && e.ProjectId == projectId),
                        p => p.EntryId,
                        e => e.Id,
                        (p, e) =>
                            new
                            {
                                e.Id,
                                e.Kind,
                                p.Path,
                            }
                    )
                    .ToListAsync(cancel);
                // What the convention names goes along with its folder, and a companion with its file.
                var moves = before
                    .Where(b => b.Kind is EntryKind.Folder or EntryKind.OwnFile or EntryKind.CurrentFile or EntryKind.AltFile)
                    .Select(b => (b.Id, b.Path))
                    .ToList();
                return await MoveWithinAsync(deed, moves, cancel);
            },
            cancel
        );

    /// <summary>As <see cref="MoveAsync(Actor, IReadOnlyList{ValueTuple{Guid, ProjectPath}}, CancellationToken)"/>, as part of a deed that does more.</summary>
    internal static async Task<Outcome<MovedEntries>> MoveWithinAsync(
        Deed deed,
        IReadOnlyList<(Guid Entry, ProjectPath To)> moves,
        CancellationToken cancel
    )
    {
        var entries = new List<TreeEntry>();
        moves = await WithoutFollowersAsync(deed, moves, cancel);
        foreach (var (id, to) in moves)
        {
            if (await FindAsync(deed, id, cancel) is not { } entry || (entries.Count > 0 && entries[0].ProjectId != entry.ProjectId))
                return new Refusal.NoSuchEntry();
            if (entry.Kind == EntryKind.Companion)
                return new Refusal.GoesWithItsFile(entry.Path);
            if (entry.Kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy)
                return new Refusal.NamedByConvention(entry.Path);
            if (entry.Kind.IsCurrent() && to.Name != entry.Path.Name)
                return new Refusal.NamedByConvention(entry.Path);
            // What came badly named may stay so; no one gives a name that some system refuses.
            if (to.Name != entry.Path.Name && NameFault(to.Name) is { } why)
                return new Refusal.FileNameNotLegal(to.Name, why);
            entries.Add(entry);
        }
        if (entries.Count == 0)
            return new Refusal.NoSuchEntry();
        var tree = new ProjectTree(deed.Db, entries[0].ProjectId);
        var asked = moves.Select((m, i) => new TreeMove(entries[i].Path, m.To)).ToList();
        var chosen = entries.Count;
        foreach (var (owner, companion) in await CompanionFiles.OfAsync(deed.Db, tree, entries, cancel))
        {
            var to = asked[entries.IndexOf(owner)].To;
            var name = Companions.Renamed(companion.Path.Name, owner.Path.Name, to.Name);
            asked.Add(new TreeMove(companion.Path, to.Folder is { } folder ? folder.Append(name) : ProjectPath.Parse(name)));
            entries.Add(companion);
        }
        var there = await AroundAsync(tree, entries, asked, cancel);
        if (MovePlan.Make(there.ToDictionary(e => e.Path, e => e.Kind == EntryKind.Folder), asked, out var plan) is { } fault)
            return Refused(fault);
        var byPath = there.ToDictionary(e => e.Path);
        var changed = plan!.All.Select(m => (Entry: byPath[m.From], m.To)).ToList();
        var after = there.Except(changed.Select(c => c.Entry)).ToDictionary(e => e.PathKey);
        foreach (var (entry, to) in changed)
            after[to.Key] = entry;
        foreach (var (entry, move) in entries.Zip(asked))
        {
            // A folder of the plan keeps what it is for, wherever it stands; anything else is of the folder that it comes to.
            if (entry.Kind == EntryKind.Folder)
                continue;
            var role = move.To.Folder is { } folder ? Inherited(after[folder.Key].Role) : FolderRole.Documents;
            if (entry.Kind.IsCurrent() && !role.IsWorking())
                return new Refusal.OnlyInWorkingFolder(entry.Path);
            if (entry.Kind == EntryKind.OwnFile && role.IsWorking())
                return new Refusal.WorkingFolder(move.To.Folder!);
            entry.Role = role;
        }
        // The index on paths is asked row by row, so all of them go by names that nothing else has in between.
        foreach (var (entry, _) in changed)
            entry.PathKey = $"/{entry.Id:N}";
        await deed.Db.SaveChangesAsync(cancel);
        foreach (var (entry, to) in changed)
            (entry.Path, entry.PathKey) = (to, to.Key);
        await deed.Db.SaveChangesAsync(cancel);
        await FileLinks.OfMovedAsync(deed.Db, changed.ConvertAll(c => c.Entry), cancel);
        return new MovedEntries(entries[..chosen], deed.Now);
    }

    // What goes with a file that is chosen, too, goes with it.
    private static async Task<IReadOnlyList<(Guid Entry, ProjectPath To)>> WithoutFollowersAsync(
        Deed deed,
        IReadOnlyList<(Guid Entry, ProjectPath To)> moves,
        CancellationToken cancel
    )
    {
        var ids = moves.Select(m => m.Entry).ToList();
        var follow = await deed
            .Db.Entries.Where(e => ids.Contains(e.Id) && e.Kind == EntryKind.Companion)
            .Where(e => deed.Db.Entries.Any(o => o.PieceId == e.PieceId && o.Kind == EntryKind.CurrentFile && ids.Contains(o.Id)))
            .Select(e => e.Id)
            .ToListAsync(cancel);
        return follow.Count == 0 ? moves : [.. moves.Where(m => !follow.Contains(m.Entry))];
    }

    // Of the tree only what the moves can meet: what goes, and what stands where it goes to.
    private static async Task<List<TreeEntry>> AroundAsync(
        ProjectTree tree,
        List<TreeEntry> entries,
        List<TreeMove> moves,
        CancellationToken cancel
    )
    {
        var there = entries.ToDictionary(e => e.Id);
        foreach (var folder in entries.Where(e => e.Kind == EntryKind.Folder))
        {
            foreach (var inner in await tree.Under(folder.Path).ToListAsync(cancel))
                there[inner.Id] = inner;
        }
        foreach (var keys in moves.SelectMany(m => new[] { m.To.Key, m.To.Folder?.Key }).OfType<string>().Distinct().Chunk(400))
        {
            foreach (var met in await tree.Entries.Where(e => keys.Contains(e.PathKey)).ToListAsync(cancel))
                there[met.Id] = met;
        }
        return [.. there.Values];
    }

    private static Refusal Refused((MoveFault Fault, ProjectPath Path) fault) =>
        fault.Fault switch
        {
            MoveFault.Taken => new Refusal.PathTaken(fault.Path),
            MoveFault.IntoItself => new Refusal.IntoItself(fault.Path),
            MoveFault.NoFolder => new Refusal.NoSuchFolder(fault.Path),
            MoveFault.TooLong => new Refusal.PathTooLong(fault.Path),
            _ => new Refusal.NoSuchEntry(),
        };
}
