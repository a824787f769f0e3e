using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Backup;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Readers;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Storage;

public sealed class StorageModel(
    StudioDb db,
    StorageReports reports,
    JobRunner runner,
    MaintainStorage maintain,
    ContentStore store,
    DataFolder data,
    StudioStart start,
    ReaderIsolation isolation,
    StudioClock clock
) : PageModel
{
    private const int ShownChecks = 6,
        ShownDamage = 200;

    // Less than a compaction would touch is not worth a button.
    private const long WorthFreeing = 1_000_000;

    private static readonly JobKind[] Kinds = [JobKind.VerifyStore, JobKind.VerifySample, JobKind.CompactStore];

    /// <summary>What was counted last; null before the first count of a large studio has ended.</summary>
    public StorageReport? Report { get; private set; }

    /// <summary>Nothing came or went since it was counted.</summary>
    public bool IsPresent { get; private set; }

    public RunningJob? Running { get; private set; }
    public IReadOnlyList<StoreCheck> Checks { get; private set; } = [];
    public IReadOnlyList<DamagedVersion> Damaged { get; private set; } = [];
    public Notice? Notice { get; private set; }
    public BackupRecord? LastBackup { get; private set; }
    public DateTimeOffset Now { get; private set; }

    /// <summary>Changes that this start brought back from the copies of the records; null for none.</summary>
    public PlayedBack? PlayedBack => start.PlayedBack;

    /// <summary>Foreign files are read without a network.</summary>
    public ReaderReach ReaderReach => isolation.Reach;

    /// <summary>The disk is full, so nothing can be counted anew.</summary>
    public bool IsFull { get; private set; }

    public StudioClock Clock => clock;
    public string Folder => store.Folder;
    public string Root => data.Root;

    /// <summary>Bytes that compacting may free; 0 where it is not worth it.</summary>
    public long Free => Report?.Stat.FreeBytes is > WorthFreeing and var free ? free : 0;

    public StoreCheck? Last => Checks.Count > 0 ? Checks[0] : null;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Now = clock.Now;
        Running = await FindRunningAsync(cancel);
        Notice = Notice.Take(TempData) ?? await LastAsync(cancel);
        (Report, IsPresent, IsFull) = await reports.LatestAsync(cancel);
        // The sums are the studio's; which projects there are is told of those that one sees.
        if (Report is { } all && db.Sees is not null)
        {
            var seen = await db.Projects.Select(p => p.Code).ToListAsync(cancel);
            Report = all with { Projects = [.. all.Projects.Where(p => seen.Contains(p.Code))] };
        }
        Checks = await db
            .StoreChecks.AsNoTracking()
            .Include(c => c.Damaged)
            .OrderByDescending(c => c.EndedAt)
            .Take(ShownChecks)
            .ToListAsync(cancel);
        Damaged = await DamagedAsync(cancel);
        LastBackup = BackupRecord.Read(Path.Combine(data.Root, BackupRecord.InStudio));
    }

    /// <summary>How far the running work is, for a page that waits for its end.</summary>
    public async Task<IActionResult> OnGetRunningAsync(CancellationToken cancel)
    {
        if (await FindRunningAsync(cancel) is { } running)
            return Partial("_Running", running);
        Response.Headers["HX-Refresh"] = "true";
        return new NoContentResult();
    }

    public Task<IActionResult> OnPostVerifyAsync(CancellationToken cancel) => AskAsync(JobKind.VerifyStore, cancel);

    public Task<IActionResult> OnPostCompactAsync(CancellationToken cancel) => AskAsync(JobKind.CompactStore, cancel);

    public async Task<IActionResult> OnPostStopAsync(CancellationToken cancel) => Back(await maintain.StopAsync(User.Actor(), cancel));

    private async Task<IActionResult> AskAsync(JobKind kind, CancellationToken cancel) =>
        Back(await maintain.AskAsync(User.Actor(), kind, cancel));

    private IActionResult Back(Outcome<Done> outcome)
    {
        if (outcome.Refusal is Refusal.NotAllowed)
            return StatusCode(StatusCodes.Status403Forbidden);
        if (!outcome.Done)
            Notice.Put(TempData, Notice.About(outcome.Refusal));
        return RedirectToPage();
    }

    private async Task<RunningJob?> FindRunningAsync(CancellationToken cancel)
    {
        if (runner.Now.FirstOrDefault(j => Kinds.Contains(j.Kind)) is { } now)
            return RunningJob.Of(now, clock);
        var waiting = await db
            .Jobs.AsNoTracking()
            .Where(j => Kinds.Contains(j.Kind) && (j.State == JobState.Waiting || j.State == JobState.Running))
            .OrderBy(j => j.Id)
            .FirstOrDefaultAsync(cancel);
        return waiting is null ? null : RunningJob.Of(waiting, clock);
    }

    // What the last work came to, where no record of a check says so.
    private async Task<Notice?> LastAsync(CancellationToken cancel)
    {
        var last = await db
            .Jobs.AsNoTracking()
            .Where(j => Kinds.Contains(j.Kind) && j.EndedAt != null)
            .OrderByDescending(j => j.EndedAt)
            .FirstOrDefaultAsync(cancel);
        var isNewest =
            last is not null
            && !await db.StoreChecks.AnyAsync(c => c.EndedAt > last.EndedAt, cancel)
            && clock.UtcNow - last.EndedAt < TimeSpan.FromHours(1);
        return !isNewest
            ? null
            : last! switch
            {
                { State: JobState.Done, Result: { } result } => Notice.Done(JobWords.Of(RecordJson.Read<Compacted>(result))),
                { State: JobState.Stopped, Kind: JobKind.CompactStore } => Notice.Done("Stopped. What was freed stays free."),
                { State: JobState.Stopped } => Notice.Done("Stopped before the end, so nothing is recorded."),
                { State: JobState.Failed } => new Notice(
                    NoticeKind.Bad,
                    $"{JobWords.Of(last!.Kind)} was not done: {JobWords.Of(last.Error)} {last.ErrorDetail}"
                ),
                _ => null,
            };
    }

    private async Task<IReadOnlyList<DamagedVersion>> DamagedAsync(CancellationToken cancel)
    {
        var found = await FoundDamage.NowAsync(db, cancel);
        var unreadable = found.GroupBy(d => d.Hash).ToDictionary(g => g.Key, g => g.Last().UnreadableBytes);
        var hashes = unreadable.Keys.ToList();
        var touched = await db
            .SaveFiles.Where(f => hashes.Contains(f.Hash))
            .Join(
                db.Saves,
                f => f.SaveId,
                s => s.Id,
                (f, s) =>
                    new
                    {
                        f.Hash,
                        f.Path,
                        f.Size,
                        s.Number,
                        s.ReceivedName,
                        s.ExactName,
                        Files = s.Files.Count,
                        Piece = s.Piece.CurrentName,
                        Project = s.Piece.Project.Code,
                        s.Sequence,
                    }
            )
            .OrderBy(t => t.Project)
            .ThenBy(t => t.Piece)
            .ThenByDescending(t => t.Sequence)
            .Take(ShownDamage)
            .ToListAsync(cancel);
        return
        [
            .. touched.Select(t => new DamagedVersion(
                t.Project,
                t.Piece,
                t.Number is { } n ? new VersionNumber(n).ToString() : "loose",
                t.ExactName ?? t.ReceivedName,
                t.Files > 1 ? t.Path : null,
                t.Size,
                unreadable[t.Hash]
            )),
        ];
    }
}

/// <summary>A version, or a loose save, of which something cannot be read.</summary>
/// <param name="Label">Its number, or that it has none.</param>
/// <param name="Path">Which file of it; null where it has one.</param>
/// <param name="Size">Bytes of that file.</param>
/// <param name="Unreadable">Bytes; null for all of it.</param>
public sealed record DamagedVersion(string Project, string Piece, string Label, string Name, string? Path, long Size, long? Unreadable)
{
    public string Address => $"/projects/{Uri.EscapeDataString(Project)}/{Uri.EscapeDataString(Piece)}";
}

/// <summary>Work that goes on, as it is shown.</summary>
/// <param name="What">What it does, in a word.</param>
/// <param name="Left">The time that it will still take; null before that can be told.</param>
public sealed record RunningJob(string What, long Done, long Total, TimeSpan? Left)
{
    public static RunningJob Of(Job job, StudioClock clock)
    {
        var taken = clock.UtcNow - (job.StartedAt ?? clock.UtcNow);
        TimeSpan? left = job.Done > 0 && taken > TimeSpan.FromSeconds(1) ? taken * ((job.Total - job.Done) / (double)job.Done) : null;
        return new RunningJob(JobWords.Of(job.Kind), job.Done, job.Total, left);
    }
}
