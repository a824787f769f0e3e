using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Me;

/// <summary>One's own page: what one is called, how things look, one's password, and where one is signed in.</summary>
public sealed class MeModel(StudioDb db, Accounts accounts, Sessions sessions, DeviceKeys deviceKeys, SignInNow signIn, StudioClock clock)
    : PageModel
{
    public Person Record { get; private set; } = null!;
    public IReadOnlyList<Session> Open { get; private set; } = [];

    /// <summary>One's device keys that count.</summary>
    public IReadOnlyList<DeviceKey> Keys { get; private set; } = [];

    /// <summary>The key that was just made: it is shown this once.</summary>
    public MadeKey? Made { get; private set; }

    /// <summary>Where the share is, as this browser reached the studio.</summary>
    public string ShareAddress => $"{Request.Scheme}://{Request.Host}/share/";
    public Notice? Notice { get; private set; }
    public string? Fault { get; private set; }
    public string? Field { get; private set; }
    public StudioClock Clock => clock;

    /// <summary>Whether the fault is one of the profile's form, or of the password's.</summary>
    public bool IsProfile { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
    }

    public async Task<IActionResult> OnPostProfileAsync(
        string? name,
        string? initials,
        Theme theme,
        DateStyle dates,
        CancellationToken cancel
    )
    {
        if (!Enum.IsDefined(theme) || !Enum.IsDefined(dates))
            return BadRequest();
        var outcome = await accounts.ChangeProfileAsync(User.Actor(), new Profile(name ?? "", initials ?? "", theme, dates), cancel);
        if (!outcome.Done)
        {
            IsProfile = true;
            return await RefusedAsync(RefusalWords.Of(outcome.Refusal), outcome.Refusal.Field, cancel);
        }
        var before = User.Initials();
        await signIn.RenewAsync(User, outcome.Result);
        return Back(
            outcome.Result.Initials == before
                ? "It is changed."
                : $"You are {outcome.Result.Initials} from now on, also where you sign in. What you kept as {before} keeps its name."
        );
    }

    public async Task<IActionResult> OnPostPasswordAsync(string? current, string? next, string? again, CancellationToken cancel)
    {
        if (next != again)
            return await RefusedAsync("The new password was typed in two different ways. Nothing was changed.", "again", cancel);
        var outcome = await accounts.ChangePasswordAsync(User.Actor(), current ?? "", next ?? "", cancel);
        if (!outcome.Done)
            return await RefusedAsync(RefusalWords.Of(outcome.Refusal), outcome.Refusal.Field, cancel);
        // All sessions ended with the old password; this browser begins a new one.
        await signIn.DoAsync(HttpContext, outcome.Result);
        return Back("Your password is changed. Wherever else you were signed in, you are signed out now.");
    }

    /// <param name="session">One of one's own; null for all others than this.</param>
    public async Task<IActionResult> OnPostEndAsync(Guid? session, CancellationToken cancel)
    {
        var own = User.PersonId();
        var ended = 0;
        foreach (var open in await sessions.OfAsync(own, cancel))
        {
            if (open.Id != User.SessionId() && (session is null || open.Id == session) && await sessions.EndAsync(own, open.Id, cancel))
                ended++;
        }
        return Back(
            ended == 0 ? "It had ended already." : $"{DisplayText.Count(ended, "session is", "sessions are")} ended. This one goes on."
        );
    }

    public async Task<IActionResult> OnPostKeyAsync(string? key, CancellationToken cancel)
    {
        var outcome = await deviceKeys.MakeAsync(User.Actor(), key ?? "", cancel);
        if (!outcome.Done)
            Notice = Notice.About(outcome.Refusal);
        Made = outcome.Result;
        await LoadAsync(cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostRevokeAsync(Guid key, CancellationToken cancel)
    {
        var outcome = await deviceKeys.RevokeAsync(User.Actor(), key, cancel);
        if (outcome.Done)
            return Back($"The key for {outcome.Result.Name} is revoked: whatever has it is a stranger from now on. What it saved stays.");
        Notice.Put(TempData, Notice.About(outcome.Refusal));
        return RedirectToPage(new { handler = "" });
    }

    /// <summary>What a browser says of itself, in the words that a person would use; as it says it where these are not found.</summary>
    public static string BrowserName(string browser)
    {
        string[] kinds = ["Firefox", "Edg", "OPR", "Chrome", "Safari"],
            systems = ["Android", "iPhone", "iPad", "Windows", "Mac OS", "Linux"];
        var kind = Array.Find(kinds, k => browser.Contains(k, StringComparison.Ordinal));
        var system = Array.Find(systems, s => browser.Contains(s, StringComparison.Ordinal));
        var known = kind switch
        {
            "Edg" => "Edge",
            "OPR" => "Opera",
            _ => kind,
        };
        return known is null ? (browser.Length == 0 ? "A program without a name" : TypedText.Cut(browser, 60))
            : system is null ? known
            : $"{known} on {(system == "Mac OS" ? "macOS" : system)}";
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Record = await db.Users.AsNoTracking().FirstAsync(p => p.Id == User.PersonId(), cancel);
        Open = await sessions.OfAsync(Record.Id, cancel);
        Keys = await deviceKeys.OfAsync(Record.Id, cancel);
    }

    private async Task<PageResult> RefusedAsync(string sentence, string? field, CancellationToken cancel)
    {
        (Fault, Field) = (sentence, field);
        await LoadAsync(cancel);
        return Page();
    }

    private RedirectToPageResult Back(string sentence)
    {
        Notice.Put(TempData, Notice.Done(sentence));
        return RedirectToPage(new { handler = "" });
    }
}
