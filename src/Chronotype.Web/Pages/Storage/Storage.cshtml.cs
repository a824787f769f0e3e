using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Backup;
using Chronotype.Storage.Content;
using Chronotype.Storage.Records;
using Chronotype.Studio.Care;
using Chronotype.Web.Pages.Pieces;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Storage;

public sealed class StorageModel(StudioDb db, StorageReports reports, CareRunner runner, ContentStore store, DataFolder data, TimeProvider time) : PageModel
{
    private const int ShownChecks = 6, ShownDamage = 200;

    // Less than a compaction would touch is not worth a button.
    private const long WorthFreeing = 1_000_000;

    public StorageReport Report { get; private set; } = null!;
    public CareView? Running { get; private set; }
    public IReadOnlyList<StoreCheck> Checks { get; private set; } = [];
    public IReadOnlyList<DamagedVersion> Damaged { get; private set; } = [];
    public Said? Said { get; private set; }
    public DateTimeOffset Now { get; private set; }

    public string Folder => store.Folder;
    public string Root => data.Root;

    /// <summary>Bytes that compacting may free; 0 where it is not worth it.</summary>
    public long Free => Report.Stat.FreeBytes is > WorthFreeing and var free ? free : 0;

    public StoreCheck? Last => Checks.Count > 0 ? Checks[0] : null;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Now = time.Here();
        Said = Said.Take(TempData) ?? (runner.Said is { } said ? new Said(SaidKind.Done, said) : null);
        Running = CareView.Of(runner.Running, time);
        Report = await reports.MakeAsync(cancel);
        Checks = await db.StoreChecks.AsNoTracking().Include(c => c.Damaged).OrderByDescending(c => c.EndedAt).Take(ShownChecks).ToListAsync(cancel);
        Damaged = await DamagedAsync(cancel);
        LastBackup = BackupRecord.Read(Path.Combine(data.Root, BackupRecord.InStudio));
    }

    /// <summary>How far the running work is, for a page that waits for its end.</summary>
    public IActionResult OnGetRunning()
    {
        if (CareView.Of(runner.Running, time) is { } running) return Partial("_Running", running);
        Response.Headers["HX-Refresh"] = "true";
        return new NoContentResult();
    }

    public BackupRecord? LastBackup { get; private set; }

    public IActionResult OnPostVerify() => Start(CareKind.Verify);

    public IActionResult OnPostCompact() => Start(CareKind.Compact);

    public async Task<IActionResult> OnPostStopAsync()
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        runner.Stop();
        // Until it has stopped, so that the page that follows says so; it looks often.
        await Task.WhenAny(runner.WaitAsync(), Task.Delay(2000));
        return RedirectToPage();
    }

    private IActionResult Start(CareKind kind)
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        if (!runner.TryStart(kind, User.PersonId())) Said.Put(TempData, new Said(SaidKind.Ask, "Something is going on already; it is shown here until it ends."));
        return RedirectToPage();
    }

    private async Task<IReadOnlyList<DamagedVersion>> DamagedAsync(CancellationToken cancel)
    {
        var found = await FoundDamage.NowAsync(db, cancel);
        var unreadable = found.GroupBy(d => d.Hash).ToDictionary(g => g.Key, g => g.Last().UnreadableBytes);
        var hashes = unreadable.Keys.ToList();
        var touched = await db.SaveFiles.Where(f => hashes.Contains(f.Hash)).Join(db.Saves, f => f.SaveId, s => s.Id, (f, s) => new
        {
            f.Hash, f.Path, f.Size, s.Number, s.ReceivedName, s.ExactName, Files = s.Files.Count, Piece = s.Piece.CurrentName, Project = s.Piece.Project.Code, s.Sequence,
        }).OrderBy(t => t.Project).ThenBy(t => t.Piece).ThenByDescending(t => t.Sequence).Take(ShownDamage).ToListAsync(cancel);
        return [.. touched.Select(t => new DamagedVersion(t.Project, t.Piece, t.Number is { } n ? new VersionNumber(n).ToString() : "loose", t.ExactName ?? t.ReceivedName, t.Files > 1 ? t.Path : null, t.Size, unreadable[t.Hash]))];
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
public sealed record CareView(string What, StoreProgress Progress, TimeSpan? Left)
{
    public static CareView? Of(CareState? state, TimeProvider time)
    {
        if (state is null) return null;
        var (done, total) = (state.Progress.Done, state.Progress.Total);
        var taken = time.GetUtcNow() - state.StartedAt;
        TimeSpan? left = done > 0 && taken > TimeSpan.FromSeconds(1) ? taken * ((total - done) / (double)done) : null;
        return new CareView(state.Kind switch { CareKind.Compact => "Freeing", CareKind.Sample => "Verifying a sample", _ => "Verifying" }, state.Progress, left);
    }
}
