using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A file as it stood in a project's tree at a moment.</summary>
/// <param name="SaveId">The version, or of a current file the save that it held.</param>
/// <param name="Hash">What it held; null where it held nothing yet, or what it held was let go.</param>
/// <param name="Size">Bytes.</param>
public sealed record StandingFile(
    Guid EntryId,
    EntryKind Kind,
    ProjectPath Path,
    FolderRole Role,
    Guid? PieceId,
    Guid? SaveId,
    ContentHash? Hash,
    long Size
);

/// <summary>The files of a project's tree at a moment.</summary>
/// <param name="moment">Null for now.</param>
public sealed class TreeThen(StudioDb db, Guid projectId, DateTimeOffset? moment = null)
{
    private const int Batch = 400;

    private sealed record Place(Guid EntryId, EntryKind Kind, ProjectPath Path, FolderRole Role, Guid? PieceId, Guid? SaveId);

    /// <summary>Those that stood at some paths.</summary>
    /// <param name="keys">Of the paths, as <see cref="FileIndex{T}.Key"/>.</param>
    public async Task<FileIndex<StandingFile>> AtAsync(IEnumerable<string> keys, CancellationToken cancel = default)
    {
        var index = new FileIndex<StandingFile>();
        foreach (var part in keys.Distinct(StringComparer.Ordinal).Chunk(Batch))
            await AddAsync(
                index,
                Now().Where(e => part.Contains(e.PathKey)),
                moment is null ? null : Before().Where(p => part.Contains(p.PathKey)),
                cancel
            );
        return index;
    }

    /// <summary>All of them.</summary>
    public async Task<FileIndex<StandingFile>> AllAsync(CancellationToken cancel = default)
    {
        var index = new FileIndex<StandingFile>();
        await AddAsync(index, Now(), moment is null ? null : Before(), cancel);
        return index;
    }

    /// <summary>The folder that a piece's current file stood in; empty for the top.</summary>
    public async Task<string> FolderOfAsync(Guid pieceId, CancellationToken cancel = default)
    {
        var current = await db
            .Entries.AsNoTracking()
            .Where(e => e.PieceId == pieceId && e.Kind == EntryKind.CurrentFile)
            .Select(e => new
            {
                e.Id,
                e.Path,
                e.StandsSince,
            })
            .FirstOrDefaultAsync(cancel);
        if (current is null)
            return "";
        var path = current.Path;
        if (moment is { } then && current.StandsSince > then)
            path =
                await db
                    .PastPlaces.Where(p => p.EntryId == current.Id && p.From <= then && p.Until > then)
                    .Select(p => p.Path)
                    .FirstOrDefaultAsync(cancel)
                ?? path;
        return path.Folder?.Text ?? "";
    }

    private IQueryable<TreeEntry> Now()
    {
        var entries = db.Entries.AsNoTracking().Where(e => e.ProjectId == projectId && e.Kind != EntryKind.Folder);
        return moment is { } then
            ? entries.Where(e => e.StandsSince <= then && (e.DeletedAt == null || e.DeletedAt > then))
            : entries.Where(e => e.DeletedAt == null);
    }

    private IQueryable<PastPlace> Before()
    {
        var then = moment!.Value;
        return db.PastPlaces.AsNoTracking().Where(p => p.ProjectId == projectId && p.From <= then && p.Until > then);
    }

    private async Task AddAsync(
        FileIndex<StandingFile> index,
        IQueryable<TreeEntry> now,
        IQueryable<PastPlace>? before,
        CancellationToken cancel
    )
    {
        var places = await now.Select(e => new Place(e.Id, e.Kind, e.Path, e.Role, e.PieceId, e.SaveId)).ToListAsync(cancel);
        if (before is not null)
            places.AddRange(
                await before
                    .Join(
                        db.Entries.Where(e => e.Kind != EntryKind.Folder),
                        p => p.EntryId,
                        e => e.Id,
                        (p, e) => new Place(e.Id, e.Kind, p.Path, p.Role, e.PieceId, e.SaveId)
                    )
                    .ToListAsync(cancel)
            );
        var held = await HeldAsync(places, cancel);
        foreach (var place in places)
        {
            held.TryGetValue(place.EntryId, out var content);
            index.Add(
                place.Path.Text,
                new StandingFile(
                    place.EntryId,
                    place.Kind,
                    place.Path,
                    place.Role,
                    place.PieceId,
                    place.SaveId ?? content.Save,
                    content.Hash,
                    content.Size
                )
            );
        }
    }

    private async Task<Dictionary<Guid, (ContentHash? Hash, long Size, Guid? Save)>> HeldAsync(List<Place> places, CancellationToken cancel)
    {
        var held = new Dictionary<Guid, (ContentHash? Hash, long Size, Guid? Save)>();
        foreach (var part in places.Where(p => p.Kind is EntryKind.OwnFile or EntryKind.Companion).Select(p => p.EntryId).Chunk(Batch))
        {
            var contents = db.FileContents.Where(c => part.Contains(c.EntryId));
            if (moment is { } then)
                contents = contents.Where(c => c.At <= then);
            foreach (
                var content in await contents
                    .Select(c => new
                    {
                        c.EntryId,
                        c.Sequence,
                        c.Hash,
                        c.Size,
                    })
                    .OrderBy(c => c.Sequence)
                    .ToListAsync(cancel)
            )
                held[content.EntryId] = (content.Hash, content.Size, null);
        }
        foreach (var part in places.Where(p => p.Kind == EntryKind.CurrentFile).Chunk(Batch))
        {
            var pieces = part.Select(p => p.PieceId).ToList();
            var saves = db.Saves.Where(s => pieces.Contains(s.PieceId) && s.Aside == null).Sound(db);
            // On which line work went on then is not recorded: it is the newest of any.
            saves = moment is { } then ? saves.Where(s => s.ArrivedAt <= then) : saves.Where(s => s.IsCurrent);
            var newest = await saves
                .GroupBy(s => s.PieceId)
                .Select(g =>
                    g.OrderByDescending(s => s.Sequence)
                        .Select(s => new
                        {
                            s.PieceId,
                            s.Id,
                            s.MainHash,
                            s.Size,
                        })
                        .First()
                )
                .ToDictionaryAsync(s => s.PieceId, cancel);
            foreach (var place in part)
            {
                if (newest.TryGetValue(place.PieceId!.Value, out var save))
                    held[place.EntryId] = (save.MainHash, save.Size, save.Id);
            }
        }
        foreach (var part in places.Where(p => p.Kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy).Chunk(Batch))
        {
            var ids = part.Select(p => p.SaveId).ToList();
            var saves = await db
                .Saves.Where(s => ids.Contains(s.Id))
                .Select(s => new
                {
                    s.Id,
                    s.MainHash,
                    s.Size,
                })
                .ToDictionaryAsync(s => s.Id, cancel);
            foreach (var place in part)
            {
                if (place.SaveId is { } id && saves.TryGetValue(id, out var save))
                    held[place.EntryId] = (save.MainHash, save.Size, null);
            }
        }
        return held;
    }
}
