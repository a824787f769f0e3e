using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Lines;

/// <summary>
/// Files of alts: an alt may stand beside the piece's current file under a name of its own, so that both are open at the same time, and what
/// is saved in either is a save of its own line.
/// </summary>
public sealed class AltFiles(DeedRunner deeds)
{
    /// <param name="current">The name of the piece's current file, with its extension.</param>
    public static string NameOf(string current, string alt) => $"{FileNames.Stem(current)}_{alt}{FileNames.Extension(current)}";

    /// <summary>Has an alt stand in the tree as a file of its own, or takes that file away; of its saves nothing changes.</summary>
    /// <returns>Where it stands, or stood.</returns>
    public Task<Outcome<ProjectPath>> HaveAsync(Actor actor, Guid pieceId, Guid altId, bool stands, CancellationToken cancel = default) =>
        deeds.DoAsync<ProjectPath>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                if (await db.Pieces.Include(p => p.Lines).FirstOrDefaultAsync(p => p.Id == pieceId, cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                if (piece.Lines.Find(l => l.Id == altId && l.Name.Length > 0) is not { } alt)
                    return new Refusal.NoSuchAlt();
                var there = await Of(db, altId).FirstOrDefaultAsync(cancel);
                if (there is not null)
                {
                    // What a program has taken off the share stands there again, and what it has written last is a save by then.
                    var off = db.SharedFiles.Where(f => f.ProjectId == piece.ProjectId && f.PathKey == there.PathKey);
                    if (
                        await off.AnyAsync(f => f.Hash != null, cancel)
                        || await Within(db, altId).AnyAsync(f => f.SettledAt == null, cancel)
                    )
                        return new Refusal.HeldBefore(there.Path);
                    await off.ExecuteDeleteAsync(cancel);
                    await Within(db, altId).ExecuteDeleteAsync(cancel);
                    if (!stands)
                        db.Entries.Remove(there);
                    return there.Path;
                }
                if (!stands)
                    return new Refusal.NoSuchEntry();
                var current = await db.Entries.FirstOrDefaultAsync(e => e.PieceId == pieceId && e.Kind == EntryKind.CurrentFile, cancel);
                var name = NameOf(piece.CurrentName + piece.Extension, alt.Name);
                var placed = await new ProjectTree(db, piece.ProjectId).PlaceAsync(
                    new TreeEntry
                    {
                        Kind = EntryKind.AltFile,
                        Path = current?.Path.Folder is { } folder ? folder.Append(name) : ProjectPath.Parse(name),
                        PathKey = "",
                        Role = current?.Role ?? Core.Structure.FolderRole.Working,
                        PieceId = pieceId,
                        LineId = altId,
                    },
                    cancel
                );
                return placed.Path;
            },
            cancel
        );

    /// <summary>The file that an alt has.</summary>
    public static IQueryable<TreeEntry> Of(StudioDb db, Guid altId) =>
        db.Entries.Where(e => e.LineId == altId && e.Kind == EntryKind.AltFile && e.DeletedAt == null);

    /// <summary>Has the files of a piece's alts be called after it.</summary>
    /// <param name="current">What the piece's current file is called now.</param>
    internal static async Task FollowAsync(StudioDb db, ProjectTree tree, Guid pieceId, string current, CancellationToken cancel)
    {
        var files = await db
            .Entries.Where(e => e.PieceId == pieceId && e.Kind == EntryKind.AltFile)
            .Join(db.Lines.WithDeleted(), e => e.LineId, l => l.Id, (Entry, Line) => new { Entry, Line.Name })
            .ToListAsync(cancel);
        foreach (var file in files)
            await tree.TakeAsync(file.Entry, NameOf(current, file.Name), cancel);
    }

    private static IQueryable<SharedFile> Within(StudioDb db, Guid altId) =>
        db.SharedFiles.Where(f => f.LineId == altId && f.Within != null);
}
