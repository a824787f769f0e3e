using Chronotype.Storage;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Shared;

/// <summary>One of the first steps in an empty studio.</summary>
/// <param name="Does">What it is, in a few words.</param>
/// <param name="How">How it is done, for the step that is next.</param>
/// <param name="Address">Where; null where that is not there yet.</param>
public sealed record FirstStep(string Does, string How, string? Address, bool IsDone);

/// <summary>
/// Leads whoever has just founded a studio to the second version of a first piece; shown above every page until it is there, or until it
/// is hidden.
/// </summary>
public sealed class FirstSteps
{
    private const string Cookie = "chronotype-first-steps";

    // Once there is a second version there always is one, and nobody has to look again.
    private volatile bool isOver;

    public static void Map(IEndpointRouteBuilder routes) =>
        routes.MapPost(
            "/first-steps",
            async (HttpContext context, IAntiforgery antiforgery) =>
            {
                await antiforgery.ValidateRequestAsync(context);
                context.Response.Cookies.Append(
                    Cookie,
                    "off",
                    new CookieOptions
                    {
                        MaxAge = TimeSpan.FromDays(365),
                        HttpOnly = true,
                        SameSite = SameSiteMode.Strict,
                        Secure = context.Request.IsHttps,
                    }
                );
                return Results.Redirect("/");
            }
        );

    /// <returns>None where they are over or hidden.</returns>
    public async Task<IReadOnlyList<FirstStep>> LoadAsync(HttpContext context)
    {
        if (isOver || context.Request.Cookies.ContainsKey(Cookie))
            return [];
        var db = context.RequestServices.GetRequiredService<StudioDb>();
        if (await db.Saves.GroupBy(s => s.LineId).AnyAsync(l => l.Count(s => s.Number != null) > 1, context.RequestAborted))
        {
            isOver = true;
            return [];
        }
        var project = await db.Projects.OrderBy(p => p.StartedAt).Select(p => p.Code).FirstOrDefaultAsync(context.RequestAborted);
        var piece = await db
            .Pieces.Where(p => p.HighestSequence > 0)
            .OrderByDescending(p => p.HighestSequence)
            .Select(p => new
            {
                p.Project.Code,
                p.CurrentName,
                Saves = p.Saves.Count,
            })
            .FirstOrDefaultAsync(context.RequestAborted);
        var place = piece is null ? null : Places.OfPiece(piece.Code, piece.CurrentName);
        return
        [
            new("Start a project", "A code, a client and a plan of folders: half a minute.", "/projects/new", project is not null),
            new(
                "Drop in the file you work on",
                "Drop it on the project’s page. It becomes a piece, and is kept as its first version.",
                project is null ? null : Places.OfProject(project) + "#start",
                piece is not null
            ),
            new(
                "Change it, save it, drop it again",
                "Save in your own program as ever, then drop the same file on the piece’s page.",
                place,
                piece is { Saves: > 1 }
            ),
            new("Keep it as the second version", "One button, or the key K. Then look at what changed.", place, false),
        ];
    }
}
