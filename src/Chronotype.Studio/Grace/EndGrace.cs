using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Grace;

/// <summary>
/// Lets go of what was deleted longer ago than the grace period, a piece or a save at a time. Its content is let go by the next
/// compaction, where nothing else holds it.
/// </summary>
public sealed class EndGrace(IDbContextFactory<StudioDb> contexts, TimeProvider time, ILogger<EndGrace> log) : IJobWork
{
    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var before = time.GetUtcNow() - GracePeriod.Length;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var pieces = await db.Pieces.WithDeleted().Where(p => p.DeletedAt < before).Select(p => p.Id).ToListAsync(cancel);
        var saves = await db.Saves.WithDeleted().Where(s => s.DiscardedAt < before).Select(s => s.Id).ToListAsync(cancel);
        var projects = await db.Projects.WithDeleted().Where(p => p.DeletedAt < before).Select(p => p.Id).ToListAsync(cancel);
        var files =
            await db.Entries.AnyAsync(e => e.DeletedAt < before && (e.PieceId == null || e.Kind == EntryKind.Companion), cancel)
            || await db.SharedFiles.WithDeleted().AnyAsync(f => f.DeletedAt < before, cancel);
        var (done, total) = (0, pieces.Count + saves.Count + projects.Count + (files ? 1 : 0));
        foreach (var piece in pieces)
            await StepAsync(d => EndPieceAsync(d, piece, before, cancel));
        foreach (var save in saves)
            await StepAsync(d => EndSaveAsync(d, save, before, cancel));
        if (files)
            await StepAsync(d => EndFilesAsync(d, before, cancel));
        foreach (var project in projects)
            await StepAsync(d => EndProjectAsync(d, project, before, cancel));
        if (total > 0)
            log.LogInformation(
                "The grace period of {Projects} projects, {Pieces} pieces and {Saves} loose saves has ended.",
                projects.Count,
                pieces.Count,
                saves.Count
            );
        return null;

        async Task StepAsync(Func<StudioDb, Task> end)
        {
            cancel.ThrowIfCancellationRequested();
            await using var own = await contexts.CreateDbContextAsync(cancel);
            own.GivesWay = true;
            await using var transaction = await Writing.BeginAsync(own, cancel);
            await end(own);
            await transaction.CommitAsync(CancellationToken.None);
            progress.Report((++done, total));
        }
    }

    // Each looks again, since somebody may have taken it back meanwhile.
    private static async Task EndPieceAsync(StudioDb db, Guid id, DateTimeOffset before, CancellationToken cancel)
    {
        var now = before + GracePeriod.Length;
        if (!await db.Pieces.WithDeleted().AnyAsync(p => p.Id == id && p.DeletedAt < before, cancel))
            return;
        await EndSavesAsync(db, db.Saves.WithDeleted().Where(s => s.PieceId == id), cancel);
        await db.RenamedNames.Where(n => n.PieceId == id).ExecuteDeleteAsync(cancel);
        // Files that could not become saves of it stand by themselves under Deleted from now on.
        await db
            .SharedFiles.Where(f => f.PieceId == id && f.SettledAt == null && f.Size > 0)
            .ExecuteUpdateAsync(
                u =>
                    u.SetProperty(f => f.PieceId, (Guid?)null)
                        .SetProperty(f => f.LineId, (Guid?)null)
                        .SetProperty(f => f.Within, (string?)null)
                        .SetProperty(f => f.SettledAt, now)
                        .SetProperty(f => f.DeletedAt, now),
                cancel
            );
        await db.SharedFiles.Where(f => f.PieceId == id).ExecuteDeleteAsync(cancel);
        await EndEntriesAsync(db, db.Entries.Where(e => e.PieceId == id), cancel);
        await db.Lines.WithDeleted().Where(l => l.PieceId == id).ExecuteDeleteAsync(cancel);
        await db.Pieces.WithDeleted().Where(p => p.Id == id).ExecuteDeleteAsync(cancel);
    }

    // A version goes with its alt alone. The alt itself stays known, so that its name is not used twice.
    private static async Task EndSaveAsync(StudioDb db, Guid id, DateTimeOffset before, CancellationToken cancel)
    {
        var dropped = db.Lines.WithDeleted().Where(l => l.DroppedAt != null);
        var ended = db
            .Saves.WithDeleted()
            .Where(s => s.Id == id && s.DiscardedAt < before && (s.Number == null || dropped.Any(l => l.Id == s.LineId)));
        await EndEntriesAsync(
            db,
            db.Entries.Where(e => e.DeletedAt != null && ended.Any(s => s.Id == e.SaveId || s.LineId == e.LineId)),
            cancel
        );
        await EndSavesAsync(db, ended, cancel);
    }

    private static async Task EndSavesAsync(StudioDb db, IQueryable<Save> saves, CancellationToken cancel)
    {
        await db.Milestones.Where(m => saves.Any(s => s.Id == m.SaveId)).ExecuteDeleteAsync(cancel);
        await db.Masters.Where(m => saves.Any(s => s.Id == m.SaveId)).ExecuteDeleteAsync(cancel);
        await db.Faces.Where(f => saves.Any(s => s.Id == f.SaveId)).ExecuteDeleteAsync(cancel);
        await db.Outputs.Where(o => saves.Any(s => s.Id == o.SaveId)).ExecuteDeleteAsync(cancel);
        await db.Companions.Where(c => saves.Any(s => s.Id == c.SaveId)).ExecuteDeleteAsync(cancel);
        await db.Links.Where(l => saves.Any(s => s.Id == l.SaveId)).ExecuteDeleteAsync(cancel);
        await db.SaveFiles.Where(f => saves.Any(s => s.Id == f.SaveId)).ExecuteDeleteAsync(cancel);
        await saves.ExecuteDeleteAsync(cancel);
    }

    // What a kept version saw of a file stays with the version; the file and its past go.
    private static async Task EndEntriesAsync(StudioDb db, IQueryable<TreeEntry> entries, CancellationToken cancel)
    {
        var contents = db.FileContents.Where(c => entries.Any(e => e.Id == c.EntryId));
        await db.Links.Where(l => contents.Any(c => c.Id == l.FileContentId)).ExecuteDeleteAsync(cancel);
        await db.Outputs.Where(o => entries.Any(e => e.Id == o.EntryId)).ExecuteDeleteAsync(cancel);
        await contents.ExecuteDeleteAsync(cancel);
        await db.PastPlaces.Where(p => entries.Any(e => e.Id == p.EntryId)).ExecuteDeleteAsync(cancel);
        await entries.ExecuteDeleteAsync(cancel);
    }

    private static async Task EndFilesAsync(StudioDb db, DateTimeOffset before, CancellationToken cancel)
    {
        await EndEntriesAsync(
            db,
            db.Entries.Where(e => e.DeletedAt < before && (e.PieceId == null || e.Kind == EntryKind.Companion)),
            cancel
        );
        await db.SharedFiles.WithDeleted().Where(f => f.DeletedAt < before).ExecuteDeleteAsync(cancel);
    }

    // Its pieces were deleted no later than it was, and have gone before it.
    private static async Task EndProjectAsync(StudioDb db, Guid id, DateTimeOffset before, CancellationToken cancel)
    {
        if (!await db.Projects.WithDeleted().AnyAsync(p => p.Id == id && p.DeletedAt < before, cancel))
            return;
        await EndEntriesAsync(db, db.Entries.Where(e => e.ProjectId == id), cancel);
        await db.Recipes.Where(r => r.ProjectId == id).ExecuteDeleteAsync(cancel);
        await db.SharedFiles.WithDeleted().Where(f => f.ProjectId == id).ExecuteDeleteAsync(cancel);
        await db.SharedProperties.Where(p => p.ProjectId == id).ExecuteDeleteAsync(cancel);
        await db.RenamedNames.Where(n => n.ProjectId == id).ExecuteDeleteAsync(cancel);
        await db.RenamedNames.Where(n => db.RenameRuns.Any(r => r.Id == n.RunId && r.ProjectId == id)).ExecuteDeleteAsync(cancel);
        await db.RenameRuns.Where(r => r.ProjectId == id).ExecuteDeleteAsync(cancel);
        await db.Projects.WithDeleted().Where(p => p.Id == id).ExecuteDeleteAsync(cancel);
    }
}
