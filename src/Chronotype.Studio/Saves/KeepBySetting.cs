using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>
/// Keeps saves when they have been read: what a piece begins with, whatever its setting says, and what a person wants kept. A save that
/// something speaks against stays loose.
/// </summary>
public sealed class KeepBySetting(
    DeedRunner deeds,
    KeepSave keepSave,
    ContentReader reader,
    JobQueue queue,
    SavesSeen seen,
    IDbContextFactory<StudioDb> contexts,
    TimeProvider time
) : IJobWork
{
    /// <summary>Whether a save that arrives is to be kept at once.</summary>
    /// <param name="sequence">Its place among the piece's saves, from 1.</param>
    public static bool IsKeptAtOnce(KeepSetting setting, int sequence) => sequence == 1 || setting == KeepSetting.EveryChange;

    /// <summary>
    /// Asks for the last save of every sitting that is over, on pieces that are kept once a sitting. Each is a job of its own, so that
    /// none is in another's way.
    /// </summary>
    /// <returns>How many were asked for.</returns>
    public async Task<int> AskAfterSittingsAsync(CancellationToken cancel = default)
    {
        var over = time.GetUtcNow() - Sittings.Gap;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var newest = await db
            .Pieces.AsNoTracking()
            .Where(p => (p.Keep ?? p.Project.Keep) == KeepSetting.OncePerSitting)
            .Select(p =>
                p.Saves.Where(s => s.Line.IsCurrent && s.Aside == null)
                    .OrderByDescending(s => s.Sequence)
                    .Select(s => new
                    {
                        s.Id,
                        s.PieceId,
                        s.MainHash,
                        s.ArrivedAt,
                        s.Number,
                        s.IsLeftLoose,
                    })
                    .FirstOrDefault()
            )
            .ToListAsync(cancel);
        // What cannot be read waits for a person's answer, and what was left loose has had one; asking again changes nothing.
        var faulty = ContentReader.Current(db).Where(f => f.State != FactsState.Read);
        var due = newest.Where(s => s is { Number: null, IsLeftLoose: false } && s.ArrivedAt <= over).Select(s => s!).ToList();
        var unreadable = due.Count == 0 ? [] : await faulty.Select(f => f.Content).ToListAsync(cancel);
        var jobs = new List<JobRequest>();
        foreach (var save in due.Where(s => !unreadable.Contains(s.MainHash)))
        {
            // Nor what has a question open, or equals a version: a person answers that, once.
            if (
                await ContentReader.KnownAsync(db, save.MainHash, cancel) is null
                || await keepSave.AnswerAsync(save.PieceId, save.Id, cancel) is KeepResult.Pending
            )
                jobs.Add(JobRequest.KeepBySetting(save.Id, save.PieceId));
        }
        await queue.AddAsync(jobs, cancel: cancel);
        return jobs.Count;
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var id = Guid.Parse(job.Subject);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var save = await db
            .Saves.AsNoTracking()
            .Where(s => s.Id == id)
            .Select(s => new
            {
                s.PieceId,
                s.MainHash,
                s.ArrivedById,
                s.ArrivedAt,
                s.Sequence,
                s.BroughtBackFrom,
                s.Number,
                Setting = s.Piece.Keep ?? s.Piece.Project.Keep,
                IsNewest = !db.Saves.Any(n => n.LineId == s.LineId && n.Aside == null && n.Sequence > s.Sequence),
            })
            .FirstOrDefaultAsync(cancel);
        // What is brought back is equal to a version already; numbering it again is a person's wish, not a setting's.
        if (save is null or { Number: not null } || (save.BroughtBackFrom is not null && job.AskedById is null))
            return null;
        var isDue =
            job.AskedById is not null
            || IsKeptAtOnce(save.Setting, save.Sequence)
            || (save.Setting == KeepSetting.OncePerSitting && save.IsNewest && save.ArrivedAt <= time.GetUtcNow() - Sittings.Gap);
        if (!isDue)
            return null;
        await reader.ReadAsync(save.MainHash, cancel);
        await deeds.DoAsync(
            Actor.StudioFor(job.AskedById ?? save.ArrivedById),
            Right.Work,
            deed => keepSave.WithinAsync(deed, save.PieceId, id, null, insist: false, inOrder: false, cancel),
            cancel
        );
        // A page that says that the number follows shows it now.
        seen.Tell(save.PieceId, id, isDecided: true);
        return null;
    }
}
