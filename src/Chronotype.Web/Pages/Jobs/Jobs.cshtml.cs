using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Jobs;

/// <summary>What a job is done with, as people know it.</summary>
/// <param name="Address">Where it is seen; null for nothing of its own.</param>
public sealed record JobSubject(string Name, string? Address);

/// <param name="AskedBy">Initials; null for the studio itself.</param>
/// <param name="Ended">In the studio's own time; null before.</param>
public sealed record JobRow(Job Job, JobSubject? Subject, string? AskedBy, DateTimeOffset? Ended);

public sealed class JobsModel(StudioDb db, JobRunner runner, TendJobs tend, JobLine line, StudioClock clock) : PageModel
{
    private const int ShownWaiting = 60,
        ShownOver = 40;

    public IReadOnlyList<JobRow> Running { get; private set; } = [];
    public IReadOnlyList<JobRow> Waiting { get; private set; } = [];
    public IReadOnlyList<JobRow> Over { get; private set; } = [];
    public IReadOnlyList<(JobKind Kind, int Count)> Kinds { get; private set; } = [];
    public int AllWaiting { get; private set; }
    public Notice? Notice { get; private set; }
    public DateTimeOffset Now { get; private set; }

    public bool IsActive => Running.Count > 0 || AllWaiting > 0;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Now = clock.Now;
        Notice = Notice.Take(TempData);
        var now = runner.Now;
        var ids = now.Select(j => j.Id).ToList();
        var waiting = db.Jobs.AsNoTracking().Where(j => j.State == JobState.Waiting && !ids.Contains(j.Id));
        Kinds = (await waiting.GroupBy(j => j.Kind).Select(g => new { g.Key, Count = g.Count() }).ToListAsync(cancel)).ConvertAll(g =>
            (g.Key, g.Count)
        );
        AllWaiting = Kinds.Sum(k => k.Count);
        var first = await waiting.OrderByDescending(j => j.Priority).ThenBy(j => j.Id).Take(ShownWaiting).ToListAsync(cancel);
        var over = await db
            .Jobs.AsNoTracking()
            .Where(j =>
                j.State == JobState.Failed || j.State == JobState.Stopped || (j.State == JobState.Done && j.Kind == JobKind.CompactStore)
            )
            .OrderBy(j => j.State != JobState.Failed)
            .ThenByDescending(j => j.EndedAt)
            .Take(ShownOver)
            .ToListAsync(cancel);
        now = await JobSight.SeenAsync(db, now, cancel);
        first = [.. await JobSight.SeenAsync(db, first, cancel)];
        over = [.. await JobSight.SeenAsync(db, over, cancel)];
        var subjects = await SubjectsAsync([.. now, .. first, .. over], cancel);
        var people = await db.Users.ToDictionaryAsync(p => p.Id, p => p.Initials, cancel);
        IReadOnlyList<JobRow> Rows(IEnumerable<Job> jobs) =>
            [
                .. jobs.Select(j => new JobRow(
                    j,
                    subjects.GetValueOrDefault(j.Id),
                    j.AskedById is { } by ? people.GetValueOrDefault(by) : null,
                    j.EndedAt is { } at ? clock.At(at) : null
                )),
            ];
        (Running, Waiting, Over) = (Rows(now), Rows(first), Rows(over));
    }

    public async Task<IActionResult> OnGetLineAsync() => Partial("/Pages/Jobs/_Line.cshtml", await line.LoadAsync());

    public async Task<IActionResult> OnPostStopAsync(long id, CancellationToken cancel) =>
        Back(await tend.StopAsync(User.Actor(), id, cancel), "Stopped. What it did so far stays.");

    public async Task<IActionResult> OnPostAgainAsync(long id, CancellationToken cancel) =>
        Back(await tend.TryAgainAsync(User.Actor(), id, cancel), "It is tried again.");

    public async Task<IActionResult> OnPostForgetAsync(long id, CancellationToken cancel) =>
        Back(await tend.ForgetAsync(User.Actor(), id, cancel), "Out of sight. What it was about is untouched.");

    private IActionResult Back(Outcome<Done> outcome, string done)
    {
        if (outcome.Refusal is Refusal.NotAllowed)
            return StatusCode(StatusCodes.Status403Forbidden);
        Notice.Put(TempData, outcome.Done ? Notice.Done(done) : Notice.About(outcome.Refusal));
        return RedirectToPage(new { handler = "" });
    }

    private static bool IsResidue(Job job) =>
        job.Kind == JobKind.PrepareSound && job.Subject.StartsWith("residue/", StringComparison.Ordinal);

    // By a save that has the content: any of them will do, the newest best.
    private async Task<Dictionary<long, JobSubject>> SubjectsAsync(IReadOnlyList<Job> jobs, CancellationToken cancel)
    {
        var contents = jobs.Where(j => j.Kind is JobKind.ReadContent or JobKind.DrawPreview)
            .Select(j => (j.Id, Content: ContentHash.Parse(j.Subject.Split('/')[0])))
            .Concat(jobs.Where(j => j.Kind == JobKind.CutTiles).Select(j => (j.Id, PictureView.Parse(j.Subject.Split('/')[^1]).Content)))
            .Concat(
                jobs.Where(j => j.Kind == JobKind.PrepareSound && !IsResidue(j))
                    .Select(j => (j.Id, Content: ContentHash.Parse(j.Subject.Split('/')[1])))
            )
            .ToDictionary(j => j.Id, j => j.Content);
        var identities = jobs.Where(j => j.Kind == JobKind.CompareContents || IsResidue(j))
            .ToDictionary(j => j.Id, j => ContentHash.Parse(j.Subject.Split('/')[^1]));
        var saves = jobs.Where(j => j.Kind == JobKind.KeepBySetting).ToDictionary(j => j.Id, j => Guid.Parse(j.Subject));
        var (c, i, s) = (contents.Values.Distinct().ToList(), identities.Values.Distinct().ToList(), saves.Values.ToList());
        var found = await db
            .Saves.AsNoTracking()
            .Where(x =>
                c.Contains(x.MainHash) || (x.FaceHash != null && c.Contains(x.FaceHash.Value)) || i.Contains(x.Identity) || s.Contains(x.Id)
            )
            .OrderBy(x => x.ArrivedAt)
            .Select(x => new
            {
                x.Id,
                x.MainHash,
                x.FaceHash,
                x.Identity,
                Name = x.ExactName ?? x.ReceivedName,
                Project = x.Piece.Project.Code,
                Piece = x.Piece.CurrentName,
            })
            .ToListAsync(cancel);
        var subjects = new Dictionary<long, JobSubject>();
        foreach (var job in jobs)
        {
            var save =
                contents.TryGetValue(job.Id, out var hash) ? found.LastOrDefault(x => x.MainHash == hash || x.FaceHash == hash)
                : identities.TryGetValue(job.Id, out var identity) ? found.LastOrDefault(x => x.Identity == identity)
                : saves.TryGetValue(job.Id, out var id) ? found.LastOrDefault(x => x.Id == id)
                : null;
            if (save is not null)
                subjects[job.Id] = new JobSubject(
                    save.Name,
                    $"/projects/{Uri.EscapeDataString(save.Project)}/{Uri.EscapeDataString(save.Piece)}"
                );
        }
        return subjects;
    }
}
