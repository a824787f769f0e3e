using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>
/// The files that go with a piece's file: they stand beside the current file under its name, move with it, and every save holds what they
/// held with it.
/// </summary>
public static class PieceCompanions
{
    /// <summary>Which of a piece's companions went with a save, or go with it now.</summary>
    /// <param name="asThen">As they were with the save; else as they are.</param>
    public static async Task<IReadOnlyList<SaveCompanion>> OfAsync(
        StudioDb db,
        Save save,
        bool asThen,
        CancellationToken cancel = default
    ) =>
        asThen
            ? await db.Companions.AsNoTracking().Where(c => c.SaveId == save.Id).OrderBy(c => c.Tail).ToListAsync(cancel)
            : [.. (await StandingAsync(db, save.PieceId, cancel)).Select(s => s.With(save))];

    /// <summary>Takes a file that arrived for a piece as its companion, where it is called as companions are and the piece is of another kind.</summary>
    /// <param name="newest">Of the piece's saves.</param>
    /// <returns>Null where it is none.</returns>
    internal static async Task<PlacedFile?> TakeAsync(
        Deed deed,
        Piece piece,
        Save newest,
        string name,
        SaveContent content,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        if (
            content.Files.Count > 1
            || FileNames.Extension(name) == piece.Extension
            || Companions.Split(name, await CompanionFiles.EndingsAsync(db, cancel)) is not { } split
            || await CurrentAsync(db, piece.Id, cancel) is not { } current
        )
            return null;
        var isOfWhole = piece.Extension.Length > 0 && FileNames.Extension(split.Of) == piece.Extension;
        var tail = ((isOfWhole ? piece.Extension : "") + split.Tail).ToLowerInvariant();
        // A name that would be too long for a path is kept as a save, which has no such name.
        if (!ProjectPath.TryParse($"{current.Path.Folder}/{piece.CurrentName}{tail}".TrimStart('/'), out var path, out _))
            return null;
        var standing = await FindAsync(db, piece, path, cancel);
        var older = await NamedAsync(db, newest, isOfWhole ? FileNames.Stem(split.Of) : split.Of, cancel);
        if (standing is null)
        {
            var first = Content(deed, 1, content.Main.Hash, content.Main.Size, name);
            var entry = await PlaceAsync(db, piece, current, path, first, cancel);
            await GiveAsync(deed, older ?? newest, entry, first, tail, cancel);
            await deed.QueueAsync(JobRequest.Read(first.Hash, entry.Id), cancel);
            return new PlacedFile(entry, first, true);
        }
        var now = standing.Contents.MaxBy(c => c.Sequence)!;
        if (older is null && now.Hash == content.Main.Hash)
        {
            await GiveAsync(deed, newest, standing, now, tail, cancel);
            return new PlacedFile(standing, now, false);
        }
        var next = Content(deed, now.Sequence + 1, content.Main.Hash, content.Main.Size, name);
        next.EntryId = standing.Id;
        db.FileContents.Add(next);
        await db.SaveChangesAsync(cancel);
        await GiveAsync(deed, older ?? newest, standing, next, tail, cancel);
        // What belongs to an older version is in the past at once; what stands now goes on standing.
        if (older is not null)
            await BringBackAsync(deed, standing, now, cancel);
        await deed.QueueAsync(JobRequest.Read(next.Hash, standing.Id), cancel);
        return new PlacedFile(standing, next, false);
    }

    /// <summary>A new content of a companion, as part of a deed: of what is brought back, or was put in its place by hand.</summary>
    internal static async Task PutAsync(Deed deed, TreeEntry companion, FileContent content, CancellationToken cancel)
    {
        await deed.Db.SaveChangesAsync(cancel);
        var newest = await deed.Db.Saves.Where(s => s.PieceId == companion.PieceId && s.IsCurrent).FirstOrDefaultAsync(cancel);
        if (newest is not null && await OwnerOfAsync(deed.Db, companion, cancel) is { } current)
            await GiveAsync(deed, newest, companion, content, Companions.TailOf(companion.Path.Name, current.Path.Name), cancel);
    }

    /// <summary>What arrives for a piece goes on with the companions that are there.</summary>
    internal static async Task CarryAsync(StudioDb db, Save save, CancellationToken cancel)
    {
        db.Companions.AddRange((await StandingAsync(db, save.PieceId, cancel)).Select(s => s.With(save)));
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>A save that holds what an older one held, of the same piece or of another, has the companions of that one.</summary>
    /// <param name="save">The newest of its piece.</param>
    internal static async Task BringBackAsync(Deed deed, Save save, Save old, CancellationToken cancel)
    {
        var db = deed.Db;
        var then = await OfAsync(db, old, asThen: true, cancel);
        var piece = await db.Pieces.FirstAsync(p => p.Id == save.PieceId, cancel);
        foreach (var companion in then)
        {
            if (old.PieceId != save.PieceId)
            {
                await CopyAsync(deed, piece, save, piece.CurrentName + companion.Tail, companion.Hash, companion.Size, cancel);
                continue;
            }
            var entry = await db
                .Entries.Include(e => e.Contents)
                .FirstOrDefaultAsync(e => e.Id == companion.EntryId && e.DeletedAt == null, cancel);
            if (
                entry is not null
                && entry.Contents.MaxBy(c => c.Sequence)!.Hash != companion.Hash
                && entry.Contents.LastOrDefault(c => c.Hash == companion.Hash) is { } held
            )
                await BringBackAsync(deed, entry, held, cancel);
        }
        await db.SaveChangesAsync(cancel);
        foreach (var standing in await StandingAsync(db, save.PieceId, cancel))
        {
            if (!await db.Companions.AnyAsync(c => c.SaveId == save.Id && c.EntryId == standing.Entry, cancel))
                db.Companions.Add(standing.With(save));
        }
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Gives a piece a companion that stands elsewhere, as its own.</summary>
    /// <param name="save">The piece's newest.</param>
    /// <param name="name">What it is called beside the current file.</param>
    internal static async Task CopyAsync(
        Deed deed,
        Piece piece,
        Save save,
        string name,
        ContentHash hash,
        long size,
        CancellationToken cancel
    )
    {
        if (await CurrentAsync(deed.Db, piece.Id, cancel) is not { } current)
            return;
        var path = Beside(current, name);
        var tail = Companions.TailOf(name, piece.CurrentName + piece.Extension);
        var standing = await FindAsync(deed.Db, piece, path, cancel);
        if (standing?.Contents.MaxBy(c => c.Sequence) is { } now)
        {
            var next = Content(deed, now.Sequence + 1, hash, size, name);
            next.EntryId = standing.Id;
            deed.Db.FileContents.Add(next);
            await deed.Db.SaveChangesAsync(cancel);
            await GiveAsync(deed, save, standing, next, tail, cancel);
            return;
        }
        var content = Content(deed, 1, hash, size, name);
        var entry = await PlaceAsync(deed.Db, piece, current, path, content, cancel);
        await GiveAsync(deed, save, entry, content, tail, cancel);
    }

    private static Task<TreeEntry?> FindAsync(StudioDb db, Piece piece, ProjectPath path, CancellationToken cancel) =>
        new ProjectTree(db, piece.ProjectId)
            .Entries.Include(e => e.Contents)
            .FirstOrDefaultAsync(e => e.PieceId == piece.Id && e.Kind == EntryKind.Companion && e.PathKey == path.Key, cancel);

    private static async Task<TreeEntry> PlaceAsync(
        StudioDb db,
        Piece piece,
        TreeEntry current,
        ProjectPath path,
        FileContent content,
        CancellationToken cancel
    )
    {
        var entry = await new ProjectTree(db, piece.ProjectId).PlaceAsync(
            new TreeEntry
            {
                Kind = EntryKind.Companion,
                Path = path,
                PathKey = "",
                Role = current.Role,
                PieceId = piece.Id,
                Contents = [content],
            },
            cancel
        );
        await db.SaveChangesAsync(cancel);
        return entry;
    }

    /// <summary>The current file that a companion goes with; null where its piece is deleted.</summary>
    internal static async Task<TreeEntry?> OwnerOfAsync(StudioDb db, TreeEntry companion, CancellationToken cancel) =>
        companion.PieceId is { } piece ? await CurrentAsync(db, piece, cancel) : null;

    /// <summary>Puts a piece's companions beside its current file again, under its name, those that are deleted among them.</summary>
    /// <param name="was">What the current file was called.</param>
    internal static async Task FollowAsync(StudioDb db, TreeEntry current, string was, CancellationToken cancel)
    {
        await db.SaveChangesAsync(cancel);
        foreach (
            var companion in await db.Entries.Where(e => e.PieceId == current.PieceId && e.Kind == EntryKind.Companion).ToListAsync(cancel)
        )
            await StandAsync(db, companion, current, Companions.Renamed(companion.Path.Name, was, current.Path.Name), cancel);
    }

    /// <summary>Puts a companion beside its current file.</summary>
    internal static async Task StandAsync(StudioDb db, TreeEntry companion, TreeEntry current, string name, CancellationToken cancel)
    {
        (companion.ProjectId, companion.Role) = (current.ProjectId, current.Role);
        var path = Beside(current, name);
        if (companion.DeletedAt is null)
            await new ProjectTree(db, current.ProjectId).MoveAsync(companion, path, cancel);
        else
            (companion.Path, companion.PathKey) = (path, path.Key);
        await db.SaveChangesAsync(cancel);
    }

    private sealed record Standing(Guid Entry, string Tail, ContentHash Hash, long Size, DateTimeOffset At)
    {
        public SaveCompanion With(Save save) =>
            new()
            {
                SaveId = save.Id,
                EntryId = Entry,
                Tail = Tail,
                Hash = Hash,
                Size = Size,
                CameAt = At,
            };
    }

    private static async Task<List<Standing>> StandingAsync(StudioDb db, Guid pieceId, CancellationToken cancel)
    {
        var companions = await db
            .Entries.AsNoTracking()
            .Where(e => e.PieceId == pieceId && e.Kind == EntryKind.Companion && e.DeletedAt == null)
            .Select(e => new
            {
                e.Id,
                e.Path,
                Now = e.Contents.OrderByDescending(c => c.Sequence).First(),
            })
            .ToListAsync(cancel);
        if (companions.Count == 0 || await CurrentAsync(db, pieceId, cancel) is not { } current)
            return [];
        return companions.ConvertAll(c => new Standing(
            c.Id,
            Companions.TailOf(c.Path.Name, current.Path.Name),
            c.Now.Hash,
            c.Now.Size,
            c.Now.At
        ));
    }

    // A save has what came with it, or while it was new; what comes after it was kept goes with the next.
    private static async Task GiveAsync(Deed deed, Save save, TreeEntry entry, FileContent content, string tail, CancellationToken cancel)
    {
        var db = deed.Db;
        var held = await db.Companions.FirstOrDefaultAsync(c => c.SaveId == save.Id && c.EntryId == entry.Id, cancel);
        var isOpen = held is null || save.Number is null || (held.CameAt < save.ArrivedAt && Sittings.Together(save.ArrivedAt, content.At));
        if (!isOpen)
            return;
        if (held is null)
            db.Companions.Add(
                held = new SaveCompanion
                {
                    SaveId = save.Id,
                    EntryId = entry.Id,
                    Tail = tail,
                }
            );
        (held.Tail, held.Hash, held.Size, held.CameAt) = (tail, content.Hash, content.Size, content.At);
        await db.SaveChangesAsync(cancel);
    }

    // The version that a companion is named after, where that is not the newest save.
    private static async Task<Save?> NamedAsync(StudioDb db, Save newest, string stem, CancellationToken cancel)
    {
        var named = await db
            .Saves.Where(s => s.PieceId == newest.PieceId && s.Number != null && s.Sequence < newest.Sequence)
            .Select(s => new { s.Id, s.ExactName })
            .ToListAsync(cancel);
        var found = named.FirstOrDefault(s => FileNames.Stem(s.ExactName!).Equals(stem, StringComparison.OrdinalIgnoreCase));
        return found is null ? null : await db.Saves.FirstAsync(s => s.Id == found.Id, cancel);
    }

    private static async Task BringBackAsync(Deed deed, TreeEntry entry, FileContent old, CancellationToken cancel)
    {
        var last = await deed.Db.FileContents.Where(c => c.EntryId == entry.Id).MaxAsync(c => c.Sequence, cancel);
        var back = Content(deed, last + 1, old.Hash, old.Size, old.ReceivedName);
        (back.EntryId, back.BroughtBackFrom) = (entry.Id, old.Sequence);
        deed.Db.FileContents.Add(back);
        await deed.Db.SaveChangesAsync(cancel);
    }

    private static FileContent Content(Deed deed, int sequence, ContentHash hash, long size, string name) =>
        new()
        {
            Sequence = sequence,
            Hash = hash,
            Size = size,
            ReceivedName = name,
            At = deed.Now,
            ById = deed.Actor.PersonId,
        };

    private static Task<TreeEntry?> CurrentAsync(StudioDb db, Guid pieceId, CancellationToken cancel) =>
        db.Entries.FirstOrDefaultAsync(e => e.PieceId == pieceId && e.Kind == EntryKind.CurrentFile && e.DeletedAt == null, cancel);

    private static ProjectPath Beside(TreeEntry current, string name) =>
        current.Path.Folder is { } folder ? folder.Append(name) : ProjectPath.Parse(name);
}
