using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Arrivals;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Jobs;

/// <summary>
/// Brings the queue to where the records are: what a stop cut off waits again, and what was never read, or by an older reader, is asked
/// for.
/// </summary>
public sealed class JobStart(
    IDbContextFactory<StudioDb> contexts,
    JobQueue queue,
    Previews previews,
    TileStore tiles,
    SoundStore sounds,
    HeldUploads uploads
)
{
    private const int Batch = 500;

    public async Task RunAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        // Nothing runs yet, so what says that it does was cut off. What was only looked at is forgotten when its turn comes; it is not
        // deleted here, where somebody may have asked for it since the start.
        await db
            .Jobs.Where(j => j.State == JobState.Running)
            .ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Waiting), cancel);
        previews.DropOlder();
        tiles.DropOlder();
        sounds.DropOlder();
        uploads.DropOld();
        foreach (var part in (await UnreadAsync(db, cancel)).Concat(await UnmeasuredAsync(db, cancel)).Chunk(Batch))
            await queue.AddAsync(part, cancel: cancel);
    }

    private static async Task<IEnumerable<JobRequest>> UnreadAsync(StudioDb db, CancellationToken cancel)
    {
        var unread = await db
            .Saves.Where(s => !ContentReader.Current(db).Any(f => f.Content == s.MainHash))
            .Select(s => new
            {
                Hash = s.MainHash,
                s.PieceId,
                s.ArrivedAt,
            })
            .Concat(
                db.Saves.Where(s => s.FaceHash != null && !ContentReader.Current(db).Any(f => f.Content == s.FaceHash))
                    .Select(s => new
                    {
                        Hash = s.FaceHash!.Value,
                        s.PieceId,
                        s.ArrivedAt,
                    })
            )
            .Concat(
                db.FileContents.Where(c => !ContentReader.Current(db).Any(f => f.Content == c.Hash))
                    .Select(c => new
                    {
                        c.Hash,
                        PieceId = c.EntryId,
                        ArrivedAt = c.At,
                    })
            )
            .ToListAsync(cancel);
        // The newest work first: that is what is looked at.
        return unread
            .OrderByDescending(s => s.ArrivedAt)
            .DistinctBy(s => s.Hash)
            .Select(s => JobRequest.Read(s.Hash, s.PieceId, JobPriority.Background));
    }

    private static async Task<IEnumerable<JobRequest>> UnmeasuredAsync(StudioDb db, CancellationToken cancel)
    {
        var kept = await db
            .Saves.Where(s => s.Number != null)
            .OrderBy(s => s.LineId)
            .ThenBy(s => s.Number)
            .Select(s => new
            {
                s.LineId,
                s.PieceId,
                s.Identity,
            })
            .ToListAsync(cancel);
        var measured = (await CompareSaves.Current(db).Select(c => new { c.Before, c.After }).ToListAsync(cancel))
            .Select(c => (c.Before, c.After))
            .ToHashSet();
        var missing = new List<JobRequest>();
        for (var i = 1; i < kept.Count; i++)
        {
            var (before, after) = (kept[i - 1], kept[i]);
            if (before.LineId == after.LineId && before.Identity != after.Identity && !measured.Contains((before.Identity, after.Identity)))
                missing.Add(JobRequest.Compare(before.Identity, after.Identity, after.PieceId, JobPriority.Background));
        }
        return missing;
    }
}
