using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Formats;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>
/// Marks a kept version as its piece's master: the finished native, which everything else is made from. A piece that is opened again
/// keeps its master, and may get another.
/// </summary>
public sealed class MarkMaster(DeedRunner deeds, StudioClock clock)
{
    /// <param name="lineId">The line that it is meant on, whatever line work goes on by now; null for that one.</param>
    public Task<Outcome<Master>> DoAsync(
        Actor actor,
        Guid pieceId,
        VersionNumber number,
        CancellationToken cancel = default,
        Guid? lineId = null
    ) =>
        deeds.DoAsync<Master>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                var piece = await db
                    .Pieces.Include(p => p.Lines)
                    .Include(p => p.Project)
                        .ThenInclude(p => p.Client)
                    .FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
                if (piece is null)
                    return new Refusal.NoSuchPiece();
                var version = await db
                    .Saves.Include(s => s.Master)
                    .FirstOrDefaultAsync(
                        s => s.PieceId == pieceId && s.LineId == (lineId ?? piece.Line.Id) && s.Number == number.Value,
                        cancel
                    );
                if (version is null)
                    return new Refusal.NoSuchVersion(number);
                if (version.Master is { } already)
                    return new Refusal.MasterAlready(number, already.ExactName);
                var (fault, most) = await CheckAsync(db, version, cancel);
                if (fault is { } why)
                    return new Refusal.NoMaster(number, why, most?.Number is { } n ? new VersionNumber(n) : default, most?.Layers ?? 0);

                var names = PieceNames.Of(piece);
                var hand = await db.Users.Where(p => p.Id == version.KeptById).Select(p => p.Initials).FirstOrDefaultAsync(cancel) ?? "";
                var (name, folder) = names.Master(number, hand, clock.DayOf(deed.Now), FileNames.Extension(version.ExactName!));
                var master = new Master
                {
                    SaveId = version.Id,
                    ExactName = name.ToString(),
                    MarkedAt = deed.Now,
                    MarkedById = deed.Actor.PersonId,
                };
                var entry = await new ProjectTree(db, piece.ProjectId).PlaceMasterAsync(
                    master.ExactName,
                    folder,
                    pieceId,
                    version.Id,
                    cancel
                );
                // A second master of one day has a number of its own behind its name.
                master.ExactName = entry.Path.Name;
                db.Masters.Add(master);
                return master;
            },
            cancel
        );

    /// <summary>Takes the mark off; the version stays as it is.</summary>
    public Task<Outcome<Done>> TakeOffAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                var master = await db.Masters.FirstOrDefaultAsync(
                    m => m.SaveId == saveId && db.Saves.Any(s => s.Id == saveId && s.PieceId == pieceId),
                    cancel
                );
                if (master is null)
                    return new Refusal.NoSuchSave();
                db.Masters.Remove(master);
                foreach (
                    var entry in await db
                        .Entries.Where(e => e.SaveId == saveId && e.Kind == EntryKind.MasterCopy && e.DeletedAt == null)
                        .ToListAsync(cancel)
                )
                    (entry.DeletedAt, entry.DeletedById) = (deed.Now, deed.Actor.PersonId);
                return Done.It;
            },
            cancel
        );

    /// <summary>Why a version cannot be the master, and which version before it had the most layers.</summary>
    public static async Task<(MasterFault? Fault, (int? Number, int Layers)? Most)> CheckAsync(
        StudioDb db,
        Save version,
        CancellationToken cancel = default
    )
    {
        var facts = await ContentReader.KnownAsync(db, version.MainHash, cancel);
        var note = FormatNotes.Of(
            version.ExactName ?? version.ReceivedName,
            facts?.Format ?? FileFormat.Other,
            await StudioFormats.OfAsync(db, cancel)
        );
        (int? Number, int Layers)? most = null;
        if (facts is { Fault: null, LayerCount: <= 1 })
        {
            var before = await db
                .Saves.Where(s => s.LineId == version.LineId && s.Number < version.Number)
                .OrderByDescending(s => s.Number)
                .Select(s => new { s.Number, s.MainHash })
                .ToListAsync(cancel);
            foreach (var save in before)
            {
                if (
                    await ContentReader.KnownAsync(db, save.MainHash, cancel) is { LayerCount: > 1 } had
                    && had.LayerCount > (most?.Layers ?? 0)
                )
                    most = (save.Number, had.LayerCount);
            }
        }
        return (MasterRule.Check(facts, note, most?.Layers ?? 0), most);
    }
}
