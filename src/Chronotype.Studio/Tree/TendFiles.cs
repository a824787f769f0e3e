using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>What became of a file that arrived in a folder.</summary>
/// <param name="IsNew">A place of its own; false where it is the next content of a file that was there, or what that holds already.</param>
public sealed record PlacedFile(TreeEntry Entry, FileContent Content, bool IsNew);

/// <summary>
/// Files of a project's own, by their folder's role: an original is never changed, and a second of its name stands beside it; an
/// asset or a document is given other content and keeps its past; in a working folder there are only pieces.
/// </summary>
public sealed class TendFiles(DeedRunner deeds, IContentStore store, HeldContent held)
{
    /// <param name="folder">
    /// The folder that it is to stand in; null for the project's top. What of it is not there yet is made, of the role of what is around.
    /// </param>
    /// <param name="replaces">The asset or document that it is the next content of, whatever it is called; null for one of its name.</param>
    /// <exception cref="StorageFullException">The disk is full; nothing was taken, and nothing older is touched.</exception>
    public async Task<Outcome<PlacedFile>> ReceiveAsync(
        Actor actor,
        Guid projectId,
        ProjectPath? folder,
        ArrivingContent content,
        Guid? replaces = null,
        CancellationToken cancel = default
    )
    {
        var name = FileNames.Received(content.Name);
        var staged = await store.StageAsync(content.Bytes, cancel);
        Outcome<PlacedFile> placed;
        using (staged)
        {
            await store.CommitAsync([staged], cancel);
            placed = await deeds.DoAsync(
                actor,
                Right.Work,
                deed => RecordAsync(deed, projectId, folder, name, (staged.Hash, staged.Size), replaces, CancellationToken.None),
                CancellationToken.None
            );
        }
        if (!placed.Done)
            await held.RefusedAsync([staged.Hash]);
        return placed;
    }

    /// <summary>Makes an earlier content of an asset or a document what it holds now. Nothing is overwritten.</summary>
    public Task<Outcome<FileContent>> BringBackAsync(Actor actor, Guid entryId, int sequence, CancellationToken cancel = default) =>
        deeds.DoAsync<FileContent>(
            actor,
            Right.Work,
            async deed =>
            {
                var entry = await deed
                    .Db.Entries.Include(e => e.Contents)
                    .FirstOrDefaultAsync(
                        e => e.Id == entryId && (e.Kind == EntryKind.OwnFile || e.Kind == EntryKind.Companion) && e.DeletedAt == null,
                        cancel
                    );
                if (entry is null || entry.Contents.FirstOrDefault(c => c.Sequence == sequence) is not { } old)
                    return new Refusal.NoSuchEntry();
                if (!entry.MayReplace)
                    return new Refusal.NeverChanged(entry.Path);
                var now = entry.Contents.MaxBy(c => c.Sequence)!;
                if (now.Hash == old.Hash)
                    return new Refusal.HoldsItAlready(null);
                var back = new FileContent
                {
                    EntryId = entryId,
                    Sequence = now.Sequence + 1,
                    Hash = old.Hash,
                    Size = old.Size,
                    ReceivedName = old.ReceivedName,
                    At = deed.Now,
                    ById = actor.PersonId,
                    BroughtBackFrom = sequence,
                };
                deed.Db.FileContents.Add(back);
                await LinkAsync(deed.Db, back, cancel);
                if (entry.Kind == EntryKind.Companion)
                    await PieceCompanions.PutAsync(deed, entry, back, cancel);
                return back;
            },
            cancel
        );

    /// <summary>Puts what a save of one file holds into the project's first folder for outputs, as part of a deed that does more.</summary>
    internal static async Task<Outcome<PlacedFile>> PlaceOutputAsync(Deed deed, Guid projectId, Save save, CancellationToken cancel)
    {
        var folder = await new ProjectTree(deed.Db, projectId)
            .Entries.Where(e => e.Kind == EntryKind.Folder && e.Role == FolderRole.Outputs)
            .OrderBy(e => e.Order)
            .ThenBy(e => e.PathKey)
            .Select(e => e.Path)
            .FirstOrDefaultAsync(cancel);
        if (folder is null)
            return new Refusal.NoFolderForOutputs();
        var file = save.Files[0];
        return await RecordAsync(deed, projectId, folder, FileNames.Received(save.ReceivedName), (file.Hash, file.Size), null, cancel);
    }

    /// <summary>Puts content that is stored already at a place of a tree, as part of a deed that does more.</summary>
    internal static async Task<Outcome<PlacedFile>> RecordAsync(
        Deed deed,
        Guid projectId,
        ProjectPath? folder,
        string name,
        (ContentHash Hash, long Size) held,
        Guid? replaces,
        CancellationToken cancel
    )
    {
        if (!await deed.Db.Projects.AnyAsync(p => p.Id == projectId, cancel))
            return new Refusal.NoSuchProject();
        var tree = new ProjectTree(deed.Db, projectId);
        var role = FolderRole.Documents;
        if (folder is not null)
        {
            if (await TendTree.ReachAsync(tree, folder, cancel) is not { Kind: EntryKind.Folder } at)
                return new Refusal.NoSuchFolder(folder);
            if (at.Role.IsWorking() && replaces is null)
                return new Refusal.WorkingFolder(at.Path);
            (role, folder) = (at.Role, at.Path);
        }
        var safe = ProjectPath.TryParse(name, out _, out _) ? name : "file" + FileNames.Extension(name);
        var path = folder is null ? ProjectPath.Parse(safe) : folder.Append(safe);
        var content = new FileContent
        {
            Sequence = 1,
            Hash = held.Hash,
            Size = held.Size,
            ReceivedName = name,
            At = deed.Now,
            ById = deed.Actor.PersonId,
        };
        var standing = await tree
            .Entries.Include(e => e.Contents)
            .FirstOrDefaultAsync(
                e =>
                    replaces == null
                        ? e.Kind == EntryKind.OwnFile && e.PathKey == path.Key
                        : (e.Kind == EntryKind.OwnFile || e.Kind == EntryKind.Companion) && e.Id == replaces,
                cancel
            );
        if (replaces is not null)
        {
            if (standing is null)
                return new Refusal.NoSuchEntry();
            if (!standing.MayReplace)
                return new Refusal.NeverChanged(standing.Path);
            role = standing.Role;
        }
        if (standing?.Contents.MaxBy(c => c.Sequence) is { } there && there.Hash == content.Hash)
            return new PlacedFile(standing, there, false);
        if (standing is { MayReplace: true })
        {
            // Of a lane of its own: many files at once are read beside one another.
            await deed.QueueAsync(JobRequest.Read(content.Hash, standing.Id), cancel);
            (content.EntryId, content.Sequence) = (standing.Id, standing.Contents.Max(c => c.Sequence) + 1);
            deed.Db.FileContents.Add(content);
            await LinkAsync(deed.Db, content, cancel);
            if (standing.Kind == EntryKind.Companion)
                await PieceCompanions.PutAsync(deed, standing, content, cancel);
            return new PlacedFile(standing, content, false);
        }
        var entry = await tree.PlaceAsync(
            new TreeEntry
            {
                Kind = EntryKind.OwnFile,
                Path = path,
                PathKey = "",
                Role = role,
                Contents = [content],
            },
            cancel
        );
        await deed.QueueAsync(JobRequest.Read(content.Hash, entry.Id), cancel);
        if (role == FolderRole.Outputs)
            await deed.QueueAsync(JobRequest.Match(entry.Id), cancel);
        await LinkAsync(deed.Db, content, cancel);
        return new PlacedFile(entry, content, true);
    }

    // Of content that was read before, under any name, it is known at once what it refers to.
    private static async Task LinkAsync(StudioDb db, FileContent content, CancellationToken cancel)
    {
        if (await ContentReader.KnownAsync(db, content.Hash, cancel) is not { } facts)
            return;
        await db.SaveChangesAsync(cancel);
        await FileLinks.OfFileAsync(db, content, facts, cancel);
    }
}
