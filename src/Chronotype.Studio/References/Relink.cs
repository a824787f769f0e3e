using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Readers;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A reference that is to lead to another file.</summary>
/// <param name="Written">As it stands in the file.</param>
/// <param name="TargetId">The entry that it is to lead to.</param>
public sealed record NewTarget(string Written, Guid TargetId);

/// <summary>
/// Makes references lead to other files: as a new loose save on top of the newest. What was kept is never changed, and nothing but the
/// references is.
/// </summary>
public sealed class Relink(
    Rewriting rewriting,
    TendFiles tendFiles,
    FileReader reader,
    IDbContextFactory<StudioDb> contexts,
    IContentStore store
)
{
    /// <exception cref="IOException">The content could not be read from where it is kept, or the new one not be written.</exception>
    public async Task<Outcome<ReceivedSave>> DoAsync(
        Actor actor,
        Guid pieceId,
        IReadOnlyList<NewTarget> targets,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await db.Pieces.AsNoTracking().FirstOrDefaultAsync(p => p.Id == pieceId, cancel) is not { } piece)
            return new Refusal.NoSuchPiece();
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Where(s => s.PieceId == pieceId && s.IsCurrent)
            .FirstOrDefaultAsync(cancel);
        if (save is null)
            return new Refusal.NoContent();
        if (save.Files.Count > 1)
            return await FolderAsync(actor, db, piece, save, targets, cancel);
        var format = (await reader.ReadAsync(save.MainHash, cancel: cancel)).Format;
        if (!RewrittenReference.IsPossible(format))
            return new Refusal.NotRelinked(piece.CurrentName);
        var folder = await new TreeThen(db, piece.ProjectId).FolderOfAsync(pieceId, cancel);
        var from = folder.Length == 0 ? null : ProjectPath.Parse(folder);
        if (await ChangesAsync(db, piece.ProjectId, from, format, targets, cancel) is not { } changes)
            return new Refusal.NoSuchEntry();
        return await rewriting.SaveAsync(
            actor,
            piece,
            save,
            await JobAsync(db, changes, save.Files[0].Path, cancel),
            () => [store.OpenRead(save.MainHash)],
            cancel
        );
    }

    /// <summary>
    /// As <see cref="DoAsync"/>, by where the file stands: a piece's current file, or an asset or a document, which is given the changed
    /// content on top of what it held.
    /// </summary>
    public async Task<Outcome<Done>> OfEntryAsync(
        Actor actor,
        Guid entryId,
        IReadOnlyList<NewTarget> targets,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var entry = await db
            .Entries.AsNoTracking()
            .Include(e => e.Contents)
            .FirstOrDefaultAsync(e => e.Id == entryId && e.DeletedAt == null, cancel);
        if (entry is null)
            return new Refusal.NoSuchEntry();
        if (entry is { Kind: EntryKind.CurrentFile, PieceId: { } piece })
            return await DoAsync(actor, piece, targets, cancel) is { Done: false } no ? no.Refusal : Done.It;
        if (!entry.MayReplace)
            return new Refusal.NeverChanged(entry.Path);
        var now = entry.Contents.MaxBy(c => c.Sequence)!;
        var format = (await reader.ReadAsync(now.Hash, cancel: cancel)).Format;
        if (!RewrittenReference.IsPossible(format))
            return new Refusal.NotRelinked(entry.Path.Name);
        if (await ChangesAsync(db, entry.ProjectId, entry.Path.Folder, format, targets, cancel) is not { } changes)
            return new Refusal.NoSuchEntry();
        var (made, _) = await rewriting.MakeAsync(
            await JobAsync(db, changes, entry.Path.Name, cancel),
            () => [store.OpenRead(now.Hash)],
            cancel
        );
        if (made is null)
            return new Refusal.NotRelinked(entry.Path.Name);
        using (made)
        {
            await using var bytes = File.OpenRead(made.Path);
            var content = new ArrivingContent(now.ReceivedName, bytes);
            var placed = await tendFiles.ReceiveAsync(actor, entry.ProjectId, entry.Path.Folder, content, entry.Id, cancel);
            return placed.Done ? Done.It : placed.Refusal;
        }
    }

    private static async Task<ReaderJob> JobAsync(StudioDb db, List<RewrittenReference> changes, string name, CancellationToken cancel) =>
        new()
        {
            Kind = ReaderJobKind.Relink,
            Rewritten = changes,
            Patterns = [.. (await ReferencePatterns.OfAsync(db, cancel)).Where(p => p.Ending == FileNames.Extension(name))],
        };

    // Of a folder each file is written anew that refers so to what is not in the folder itself.
    private async Task<Outcome<ReceivedSave>> FolderAsync(
        Actor actor,
        StudioDb db,
        Piece piece,
        Save save,
        IReadOnlyList<NewTarget> targets,
        CancellationToken cancel
    )
    {
        var folder = await new TreeThen(db, piece.ProjectId).FolderOfAsync(piece.Id, cancel);
        var mount = ReferenceBase.Mount(folder, piece.CurrentName);
        var own = save.Files.Select(f => FileIndex<StandingFile>.Key($"{mount}/{f.Path}")).ToHashSet();
        var written = targets.Select(t => t.Written).ToList();
        var links = (
            await db.Links.AsNoTracking().Where(l => l.SaveId == save.Id && written.Contains(l.Written)).ToListAsync(cancel)
        ).FindAll(l => l.TargetKey is null || !own.Contains(l.TargetKey));
        var made = new Dictionary<string, MadeFile>();
        try
        {
            foreach (var file in save.Files)
            {
                var asked = targets.Where(t => links.Exists(l => l.SaveFileId == file.Id && l.Written == t.Written)).ToList();
                if (asked.Count == 0)
                    continue;
                var format = (await reader.ReadAsync(file.Hash, cancel: cancel)).Format;
                var from = ProjectPath.Parse(ReferenceBase.Of(folder, piece.CurrentName, isFolder: true, file.Path));
                if (!RewrittenReference.IsPossible(format))
                    return new Refusal.NotRelinked(file.Path);
                if (await ChangesAsync(db, piece.ProjectId, from, format, asked, cancel) is not { } changes)
                    return new Refusal.NoSuchEntry();
                var (one, _) = await rewriting.MakeAsync(
                    await JobAsync(db, changes, file.Path, cancel),
                    () => [store.OpenRead(file.Hash)],
                    cancel
                );
                if (one is null)
                    return new Refusal.NotRelinked(file.Path);
                made[file.Path] = one;
            }
            return made.Count == 0
                ? new Refusal.NotRelinked(piece.CurrentName)
                : await rewriting.InFolderAsync(actor, save.Id, made, cancel);
        }
        finally
        {
            foreach (var one in made.Values)
                one.Dispose();
        }
    }

    /// <returns>Null where one of them is to lead to what is not there.</returns>
    private static async Task<List<RewrittenReference>?> ChangesAsync(
        StudioDb db,
        Guid projectId,
        ProjectPath? from,
        FileFormat format,
        IReadOnlyList<NewTarget> targets,
        CancellationToken cancel
    )
    {
        var syntax = ReferenceSyntaxes.Of(format);
        var changes = new List<RewrittenReference>();
        foreach (var target in targets)
        {
            var path = await db
                .Entries.Where(e =>
                    e.Id == target.TargetId && e.ProjectId == projectId && e.DeletedAt == null && e.Kind != EntryKind.Folder
                )
                .Select(e => e.Path)
                .FirstOrDefaultAsync(cancel);
            if (path is null)
                return null;
            var tail = WrittenReference.Read(target.Written, syntax).Tail;
            changes.Add(new(target.Written, RelativePath.Write(from, path, syntax, tail)));
        }
        return changes;
    }
}
