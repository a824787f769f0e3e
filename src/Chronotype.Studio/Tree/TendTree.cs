using Chronotype.Core.Content;
using Chronotype.Core.Naming.Checking;
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

/// <summary>What was deleted.</summary>
/// <param name="Files">How many files, those in folders among them.</param>
public sealed record DeletedEntries(IReadOnlyList<TreeEntry> Entries, int Files);

/// <summary>
/// Makes, moves, renames, deletes and takes back what stands in a project's tree. The names of versions and their copies are the
/// convention's.
/// </summary>
public sealed class TendTree(DeedRunner deeds)
{
    /// <summary>Makes a folder, of the role of the one that it lies in.</summary>
    public Task<Outcome<TreeEntry>> MakeFolderAsync(Actor actor, Guid projectId, ProjectPath path, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                if (!await deed.Db.Projects.AnyAsync(p => p.Id == projectId, cancel))
                    return new Refusal.NoSuchProject();
                if (NameFault(path.Name) is { } why)
                    return new Refusal.FileNameNotLegal(path.Name, why);
                var tree = new ProjectTree(deed.Db, projectId);
                if (await tree.FindAsync(path, cancel) is { } there)
                    return new Refusal.PathTaken(there.Path);
                var (role, refusal) = await RoleInAsync(tree, path.Folder, cancel);
                return refusal is not null
                    ? refusal
                    : await tree.PlaceAsync(
                        new TreeEntry
                        {
                            Kind = EntryKind.Folder,
                            Path = path,
                            PathKey = "",
                            Role = role,
                            Order = int.MaxValue,
                        },
                        cancel
                    );
            },
            cancel
        );

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
                // What the convention names goes along with its folder.
                var moves = before
                    .Where(b => b.Kind is not (EntryKind.Version or EntryKind.MilestoneCopy))
                    .Select(b => (b.Id, b.Path))
                    .ToList();
                return await MoveWithinAsync(deed, moves, cancel);
            },
            cancel
        );

    private static async Task<Outcome<MovedEntries>> MoveWithinAsync(
        Deed deed,
        IReadOnlyList<(Guid Entry, ProjectPath To)> moves,
        CancellationToken cancel
    )
    {
        var entries = new List<TreeEntry>();
        foreach (var (id, to) in moves)
        {
            if (await FindAsync(deed, id, cancel) is not { } entry || (entries.Count > 0 && entries[0].ProjectId != entry.ProjectId))
                return new Refusal.NoSuchEntry();
            if (entry.Kind is EntryKind.Version or EntryKind.MilestoneCopy)
                return new Refusal.NamedByConvention(entry.Path);
            if (entry.Kind == EntryKind.CurrentFile && to.Name != entry.Path.Name)
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
        foreach (var (owner, companion) in await CompanionsAsync(tree, entries, cancel))
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
            if (entry.Kind == EntryKind.CurrentFile && !role.IsWorking())
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

    /// <summary>Deletes a file or a folder with what is in it. It can be taken back; its content and its past stay until then.</summary>
    public async Task<Outcome<TreeEntry>> DeleteAsync(Actor actor, Guid entryId, CancellationToken cancel = default)
    {
        var outcome = await DeleteAsync(actor, [entryId], cancel);
        return outcome.Done ? outcome.Result.Entries[0] : outcome.Refusal;
    }

    /// <summary>Deletes several at once: all of them, or none.</summary>
    public Task<Outcome<DeletedEntries>> DeleteAsync(Actor actor, IReadOnlyList<Guid> entryIds, CancellationToken cancel = default) =>
        deeds.DoAsync<DeletedEntries>(
            actor,
            Right.Work,
            async deed =>
            {
                var (entries, files) = (new List<TreeEntry>(), 0);
                foreach (var id in entryIds)
                {
                    if (await FindAsync(deed, id, cancel) is not { } entry)
                        return new Refusal.NoSuchEntry();
                    if (entry.PieceId is not null)
                        return new Refusal.HoldsPieces(entry.Path);
                    var within =
                        entry.Kind == EntryKind.Folder
                            ? await new ProjectTree(deed.Db, entry.ProjectId).Under(entry.Path).ToListAsync(cancel)
                            : [];
                    if (within.Exists(e => e.PieceId is not null))
                        return new Refusal.HoldsPieces(entry.Path);
                    entries.Add(entry);
                    // Companions go where their file goes.
                    foreach (var (_, companion) in await CompanionsAsync(new ProjectTree(deed.Db, entry.ProjectId), [entry], cancel))
                        within.Add(companion);
                    foreach (var gone in within.Append(entry).Where(e => e.DeletedAt is null))
                    {
                        (gone.DeletedAt, gone.DeletedById) = (deed.Now, actor.PersonId);
                        files += gone.Kind == EntryKind.Folder ? 0 : 1;
                    }
                }
                return new DeletedEntries(entries, files);
            },
            cancel
        );

    /// <summary>Takes back what was deleted in one go, each with all that went with it.</summary>
    public async Task<Outcome<TreeEntry>> RestoreAsync(Actor actor, IReadOnlyList<Guid> entryIds, CancellationToken cancel = default)
    {
        Outcome<TreeEntry> first = new Refusal.NoSuchEntry();
        foreach (var id in entryIds)
        {
            var outcome = await RestoreAsync(actor, id, cancel);
            // What lay in a folder that went, too, is back with it.
            if (!outcome.Done && outcome.Refusal is not Refusal.NoSuchEntry)
                return outcome;
            first = first.Done ? first : outcome;
        }
        return first;
    }

    /// <summary>Takes back what was deleted, with all that went with it: where it stood, or at the next free name beside that.</summary>
    public Task<Outcome<TreeEntry>> RestoreAsync(Actor actor, Guid entryId, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                var entry = await deed.Db.Entries.FirstOrDefaultAsync(e => e.Id == entryId && e.DeletedAt != null, cancel);
                if (entry is null)
                    return new Refusal.NoSuchEntry();
                // What went with a piece comes back with it.
                if (entry.PieceId is not null)
                    return new Refusal.HoldsPieces(entry.Path);
                var tree = new ProjectTree(deed.Db, entry.ProjectId);
                var (when, from) = (entry.DeletedAt, entry.Path);
                var gone = await deed
                    .Db.Entries.Where(e => e.ProjectId == entry.ProjectId && e.DeletedAt == when && e.Id != entryId && e.PieceId == null)
                    .ToListAsync(cancel);
                await MakeWayAsync(tree, from.Folder, cancel);
                (entry.DeletedAt, entry.DeletedById) = (null, null);
                await tree.MoveAsync(entry, from, cancel);
                foreach (var inner in gone.Where(e => entry.Kind == EntryKind.Folder && e.Path.IsIn(from)).OrderBy(e => e.Path.Depth))
                {
                    (inner.DeletedAt, inner.DeletedById) = (null, null);
                    await tree.MoveAsync(inner, ProjectPath.Parse(entry.Path.Text + inner.Path.Text[from.Text.Length..]), cancel);
                }
                return entry;
            },
            cancel
        );

    /// <summary>A folder, which is made where it is not there yet, with those that lead to it.</summary>
    /// <returns>Null where a file stands where one of them would.</returns>
    internal static async Task<TreeEntry?> ReachAsync(ProjectTree tree, ProjectPath folder, CancellationToken cancel)
    {
        if (await tree.FindAsync(folder, cancel) is { } there)
            return there;
        var role = FolderRole.Documents;
        if (folder.Folder is { } around)
        {
            if (await ReachAsync(tree, around, cancel) is not { Kind: EntryKind.Folder } above)
                return null;
            (role, folder) = (Inherited(above.Role), above.Path.Append(folder.Name));
        }
        return await tree.PlaceAsync(
            new TreeEntry
            {
                Kind = EntryKind.Folder,
                Path = folder,
                PathKey = "",
                Role = role,
                Order = int.MaxValue,
            },
            cancel
        );
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

    // What belongs to files of their own that are dealt with, and is not chosen itself.
    private static async Task<List<(TreeEntry Owner, TreeEntry Companion)>> CompanionsAsync(
        ProjectTree tree,
        List<TreeEntry> entries,
        CancellationToken cancel
    )
    {
        var found = new List<(TreeEntry, TreeEntry)>();
        foreach (var folder in entries.Where(e => e.Kind == EntryKind.OwnFile).GroupBy(e => e.FolderKey))
        {
            var key = folder.Key;
            var beside = tree.Entries.Where(e => e.FolderKey == key && e.Kind == EntryKind.OwnFile);
            var likely = new List<TreeEntry>();
            foreach (var extension in Companions.Usual)
                likely.AddRange(await beside.Where(e => e.PathKey.EndsWith(extension)).ToListAsync(cancel));
            likely.RemoveAll(e => entries.Exists(o => o.Id == e.Id));
            if (likely.Count == 0)
                continue;
            var names = (await beside.Select(e => e.Path).ToListAsync(cancel)).ConvertAll(p => p.Name);
            foreach (var companion in likely)
            {
                var name = companion.Path.Name;
                if (
                    Companions.OwnerOf(name, [.. names.Where(n => n != name)], Companions.Usual) is { } owner
                    && folder.FirstOrDefault(e => e.Path.Name == owner) is { } file
                )
                    found.Add((file, companion));
            }
        }
        return found;
    }

    private static string? NameFault(string name)
    {
        var faults = new List<NameFault>();
        FileSystemRules.Check(name, null, faults);
        return faults.FirstOrDefault()?.Message;
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

    private static Task<TreeEntry?> FindAsync(Deed deed, Guid entryId, CancellationToken cancel) =>
        deed.Db.Entries.FirstOrDefaultAsync(e => e.Id == entryId && e.DeletedAt == null, cancel);

    private static async Task<(FolderRole Role, Refusal? Refusal)> RoleInAsync(
        ProjectTree tree,
        ProjectPath? folder,
        CancellationToken cancel
    )
    {
        if (folder is null)
            return (FolderRole.Documents, null);
        return await tree.FindAsync(folder, cancel) is { Kind: EntryKind.Folder } there
            ? (Inherited(there.Role), null)
            : (default, new Refusal.NoSuchFolder(folder));
    }

    // What current files and versions stand in is one folder each; a folder within it is for work.
    private static FolderRole Inherited(FolderRole role) => role.IsWorking() ? FolderRole.Working : role;

    // The folders that led to it may be gone, too, or a file may stand where one was.
    private static async Task MakeWayAsync(ProjectTree tree, ProjectPath? folder, CancellationToken cancel)
    {
        if (folder is null || await tree.FindAsync(folder, cancel) is { Kind: EntryKind.Folder })
            return;
        await MakeWayAsync(tree, folder.Folder, cancel);
        var (role, _) = await RoleInAsync(tree, folder.Folder, cancel);
        await tree.PlaceAsync(
            new TreeEntry
            {
                Kind = EntryKind.Folder,
                Path = folder,
                PathKey = "",
                Role = role,
                Order = int.MaxValue,
            },
            cancel
        );
    }
}
