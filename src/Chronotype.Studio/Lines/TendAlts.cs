using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Lines;

/// <param name="Came">The save of the main line that holds what the alt held.</param>
/// <param name="Kept">What came of keeping it.</param>
public sealed record CameHome(Piece Piece, Save Came, KeepResult Kept);

/// <summary>What becomes of a piece's alts: work goes on on one of its lines, an alt comes home, or is dropped and taken back.</summary>
public sealed class TendAlts(DeedRunner deeds, KeepSave keepSave)
{
    /// <summary>Has work go on on a line: the current file is that line's from now on, and what arrives is a save of it.</summary>
    /// <param name="lineId">The main line, or an alt.</param>
    public Task<Outcome<Line>> GoOnAsync(Actor actor, Guid pieceId, Guid lineId, CancellationToken cancel = default) =>
        deeds.DoAsync<Line>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await FindAsync(deed, pieceId, cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                if (piece.Lines.Find(l => l.Id == lineId) is not { } line)
                    return new Refusal.NoSuchAlt();
                if (!line.IsCurrent)
                    await LeaveLine.GoOnAsync(deed, piece, line, cancel);
                return line;
            },
            cancel
        );

    /// <summary>
    /// Brings what an alt holds now back to the main line, as its next version; work goes on there. The alt stays as it is, and loose saves
    /// of the main line stay loose.
    /// </summary>
    public Task<Outcome<CameHome>> BringHomeAsync(Actor actor, Guid pieceId, Guid altId, CancellationToken cancel = default) =>
        deeds.DoAsync<CameHome>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                if (await FindAsync(deed, pieceId, cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                if (piece.Lines.Find(l => l.Id == altId && l.Name.Length > 0) is not { } alt)
                    return new Refusal.NoSuchAlt();
                if (await CurrentSaves.OfLineAsync(db, altId, cancel) is not { } newest)
                    return new Refusal.NoSuchSave();
                var main = piece.Lines.Single(l => l.Name.Length == 0);
                var old = await db.Saves.Include(s => s.Files).Include(s => s.Faces).AsSplitQuery().FirstAsync(s => s.Id == newest, cancel);
                if (
                    await db
                        .Saves.Where(s => s.LineId == main.Id && s.Number != null)
                        .OrderByDescending(s => s.Number)
                        .Select(s => new { s.Identity, s.Number })
                        .FirstOrDefaultAsync(cancel)
                        is { } last
                    && last.Identity == old.Identity
                )
                    return new Refusal.MainHoldsIt(new VersionNumber(last.Number!.Value));
                var came = await BringBack.OnTopOfAsync(deed, piece, old, cancel, line: main);
                if (!main.IsCurrent)
                    await LeaveLine.GoOnAsync(deed, piece, main, cancel);
                var note = $"From alt {alt.Name}{(old.Number is { } number ? $" {new VersionNumber(number)}" : "")}";
                var kept = await keepSave.WithinAsync(deed, pieceId, came.Id, note, insist: true, inOrder: true, cancel);
                return kept.Done ? new CameHome(piece, came, kept.Result) : kept.Refusal;
            },
            cancel
        );

    /// <summary>Drops an alt, with all of its saves; they wait in the grace period. It is not one on which work goes on.</summary>
    public Task<Outcome<Line>> DropAsync(Actor actor, Guid pieceId, Guid altId, CancellationToken cancel = default) =>
        deeds.DoAsync<Line>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                if (await FindAsync(deed, pieceId, cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                if (piece.Lines.Find(l => l.Id == altId && l.Name.Length > 0) is not { } alt)
                    return new Refusal.NoSuchAlt();
                if (alt.IsCurrent)
                    return new Refusal.AltIsCurrent(alt.Name);
                var saves = await db
                    .Saves.Include(s => s.Milestone)
                    .Include(s => s.Master)
                    .Where(s => s.LineId == altId)
                    .ToListAsync(cancel);
                if (await HoldsAsync(db, altId, saves, cancel) is { } holds)
                    return new Refusal.AltIsNeeded(alt.Name, holds);
                foreach (var save in saves)
                    (save.DiscardedAt, save.DiscardedById) = (deed.Now, deed.Actor.PersonId);
                var ids = saves.ConvertAll(s => (Guid?)s.Id);
                var files = db.Entries.Where(e => (ids.Contains(e.SaveId) || e.LineId == altId) && e.DeletedAt == null);
                foreach (var entry in await files.ToListAsync(cancel))
                    (entry.DeletedAt, entry.DeletedById) = (deed.Now, deed.Actor.PersonId);
                (alt.DroppedAt, alt.DroppedById) = (deed.Now, deed.Actor.PersonId);
                return alt;
            },
            cancel
        );

    /// <summary>Takes a dropped alt back, with the saves that went with it. What was discarded before stays so.</summary>
    public Task<Outcome<Line>> TakeBackAsync(Actor actor, Guid altId, CancellationToken cancel = default) =>
        deeds.DoAsync<Line>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                if (
                    await db.Lines.WithDeleted().FirstOrDefaultAsync(l => l.Id == altId && l.DroppedAt != null, cancel) is not { } alt
                    || await db.Pieces.FirstOrDefaultAsync(p => p.Id == alt.PieceId, cancel) is not { } piece
                )
                    return new Refusal.NoSuchAlt();
                var when = alt.DroppedAt;
                (alt.DroppedAt, alt.DroppedById) = (null, null);
                var saves = await db.Saves.WithDeleted().Where(s => s.LineId == altId && s.DiscardedAt == when).ToListAsync(cancel);
                foreach (var save in saves)
                    (save.DiscardedAt, save.DiscardedById) = (null, null);
                var ids = saves.ConvertAll(s => (Guid?)s.Id);
                var tree = new Tree.ProjectTree(db, piece.ProjectId);
                var files = db.Entries.Where(e => (ids.Contains(e.SaveId) || e.LineId == altId) && e.DeletedAt == when);
                foreach (var entry in await files.ToListAsync(cancel))
                {
                    (entry.DeletedAt, entry.DeletedById) = (null, null);
                    await tree.MoveAsync(entry, entry.Path, cancel);
                }
                return alt;
            },
            cancel
        );

    private static Task<Piece?> FindAsync(Deed deed, Guid pieceId, CancellationToken cancel) =>
        deed
            .Db.Pieces.Include(p => p.Lines)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(p => p.Id == pieceId, cancel);

    // Never dropped: a milestone, a master, and what an output, another piece or an alt came from.
    private static async Task<AltHolds?> HoldsAsync(StudioDb db, Guid altId, List<Save> saves, CancellationToken cancel)
    {
        var ids = saves.ConvertAll(s => s.Id);
        return saves.Exists(s => s.Milestone is not null) ? AltHolds.Milestone
            : saves.Exists(s => s.Master is not null) ? AltHolds.Master
            : await db.Outputs.AnyAsync(o => ids.Contains(o.SaveId), cancel) ? AltHolds.Output
            : await db.Pieces.AnyAsync(p => p.FromSaveId != null && ids.Contains(p.FromSaveId.Value), cancel) ? AltHolds.Piece
            : await db.Lines.AnyAsync(l => l.LeftLineId == altId, cancel) ? AltHolds.Alt
            : null;
    }
}

/// <summary>What an alt is not dropped for.</summary>
public enum AltHolds
{
    Milestone,
    Master,
    Output,
    Piece,
    Alt,
}
