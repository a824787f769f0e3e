using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Conventions;

/// <summary>One of the studio's lists.</summary>
/// <param name="Slots">The slots of the studio's convention that take their codes from it.</param>
/// <param name="Elsewhere">Where its codes are kept, when that is not here; null when it is.</param>
public sealed record ListView(
    string Name,
    IReadOnlyList<string> Slots,
    IReadOnlyList<(CodeMeaning Code, int Uses)> Codes,
    string? Elsewhere
);

public sealed class CodesModel(StudioDb db, ConventionStore studio, SetCode setCode) : PageModel
{
    public IReadOnlyList<ListView> Lists { get; private set; } = [];
    public Notice? Notice { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
    }

    public Task<IActionResult> OnPostAddAsync(string? list, string? code, string? meaning, CancellationToken cancel) =>
        DoAsync(
            () => setCode.AddAsync(User.Actor(), list ?? "", code ?? "", meaning ?? "", cancel),
            c => $"{c.Code} is on the list {list}.",
            cancel
        );

    public Task<IActionResult> OnPostMeanAsync(string? list, string? code, string? meaning, CancellationToken cancel) =>
        DoAsync(
            () => setCode.MeanAsync(User.Actor(), list ?? "", code ?? "", meaning ?? "", cancel),
            c => $"{c.Code} means “{c.Meaning}”.",
            cancel
        );

    public Task<IActionResult> OnPostRemoveAsync(string? list, string? code, CancellationToken cancel) =>
        DoAsync(() => setCode.RemoveAsync(User.Actor(), list ?? "", code ?? "", cancel), c => $"{c.Code} is off the list {list}.", cancel);

    private async Task<IActionResult> DoAsync(
        Func<Task<Outcome<CodeMeaning>>> deed,
        Func<CodeMeaning, string> says,
        CancellationToken cancel
    )
    {
        var outcome = await deed();
        if (outcome.Done)
        {
            Notice.Put(TempData, new Notice(NoticeKind.Done, says(outcome.Result)));
            return RedirectToPage(new { handler = "" });
        }
        if (outcome.Refusal is Refusal.NotAllowed)
            return StatusCode(StatusCodes.Status403Forbidden);
        Notice = Notice.About(outcome.Refusal);
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var convention = ConventionStore.Read(await studio.JsonAsync(cancel));
        var named = convention.Slots.Where(s => s.Rule is CodeRule).ToLookup(s => ((CodeRule)s.Rule).List, s => s.Label);
        var kept = await db.Codes.AsNoTracking().Select(c => c.List).Distinct().ToListAsync(cancel);
        var names = named.Select(n => n.Key).Concat(kept).Append(ConventionStore.ClientList).Distinct().ToList();
        var all = await studio.ListsAsync([.. names.Select((n, i) => new Slot($"s{i}", new CodeRule(n)))], cancel);
        var uses = await UsesAsync(cancel);
        Lists =
        [
            .. names
                .OrderByDescending(n => named.Contains(n))
                .ThenBy(n => convention.Slots.ToList().FindIndex(s => s.Rule is CodeRule rule && rule.List == n))
                .ThenBy(n => n, StringComparer.Ordinal)
                .Select(n => new ListView(
                    n,
                    [.. named[n]],
                    [.. (all.GetValueOrDefault(n)?.Codes ?? []).Select(c => (c, uses.GetValueOrDefault((n, c.Code))))],
                    n == ConventionStore.ProjectList ? "Each project brings its own code." : null
                )),
        ];
    }

    private async Task<Dictionary<(string List, string Code), int>> UsesAsync(CancellationToken cancel)
    {
        var uses = new Dictionary<(string, string), int>();
        foreach (var code in await db.Projects.Select(p => p.Client.Code).ToListAsync(cancel))
            Count(ConventionStore.ClientList, code);
        foreach (var piece in await db.Pieces.AsNoTracking().Include(p => p.Project).ToListAsync(cancel))
        {
            var own = PieceNames.SlotsOf(piece);
            foreach (var slot in ConventionStore.OwnSlots(ConventionStore.Read(piece.Project.Convention)))
            {
                if (slot.Rule is CodeRule rule && own.TryGetValue(slot.Label, out var code))
                    Count(rule.List, code);
            }
        }
        return uses;

        void Count(string list, string code) => uses[(list, code)] = uses.GetValueOrDefault((list, code)) + 1;
    }
}
