using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Uploads;

/// <summary>Where several files were dropped, and what they are called.</summary>
/// <param name="Project">The code of the project whose page it is; null for the whole studio.</param>
/// <param name="Piece">The current name of the piece whose page it is; null for any.</param>
public sealed record FilesToPlace(string? Project, string? Piece, IReadOnlyList<string>? Files);

/// <summary>One place where a file may go.</summary>
/// <param name="Address">Where it is sent.</param>
/// <param name="Slots">The fields that are sent with it, for a new piece.</param>
/// <param name="Piece">The current name of the piece that it is, or would be; equal for files of one new piece.</param>
/// <param name="Says">The place, as a person chooses it.</param>
/// <param name="Why">What speaks for it; empty for nothing.</param>
/// <param name="SavesAddress">Where the next save of it is sent.</param>
public sealed record PlaceChoice(
    string Address,
    IReadOnlyDictionary<string, string> Slots,
    string Piece,
    string Says,
    string Why,
    string SavesAddress,
    bool IsNew
);

/// <summary>Says for many files at once where each belongs, before anything of them is sent.</summary>
public sealed class PlaceEndpoint(StudioDb db, PlaceFile placeFile, IAntiforgery antiforgery)
{
    /// <summary>More are sent in several goes.</summary>
    public const int MostFiles = 2000;

    private const int MostProjects = 12;

    /// <summary>With less of its name, a file is not taken for a save of a piece without being asked about.</summary>
    private const double LeastSure = 0.75;

    // More than any name says.
    private static readonly (double, int) Dropped = (2, 0);

    public static void Map(IEndpointRouteBuilder routes) =>
        routes.MapPost(
            "/place",
            (HttpContext context, PlaceEndpoint place, FilesToPlace asked, CancellationToken cancel) =>
                place.AnswerAsync(context, asked, cancel)
        );

    private async Task<IResult> AnswerAsync(HttpContext context, FilesToPlace asked, CancellationToken cancel)
    {
        if (!await antiforgery.IsRequestValidAsync(context))
            return Results.BadRequest();
        if (asked.Files is not { Count: > 0 and <= MostFiles } files || files.Any(f => f is null))
            return Results.UnprocessableEntity();
        var ids = await db
            .Projects.Where(p => asked.Project == null ? p.PutAwayAt == null : p.Code == asked.Project)
            .OrderByDescending(p => p.Pieces.SelectMany(i => i.Saves).Max(s => (DateTimeOffset?)s.ArrivedAt) ?? p.StartedAt)
            .Take(MostProjects)
            .Select(p => p.Id)
            .ToListAsync(cancel);
        var projects = new List<ProjectPlaces>();
        foreach (var id in ids)
            projects.Add(await placeFile.LoadAsync(id, cancel));
        var hand = context.User.Initials();
        return Results.Json(new { files = files.Select(f => Choices(projects, asked.Piece, f, hand)) });
    }

    private static List<PlaceChoice> Choices(List<ProjectPlaces> projects, string? piece, string file, string hand)
    {
        var name = FileNames.Received(file);
        var proposals = projects.ConvertAll(p => (Places: p, Proposal: p.Propose(name, hand)));
        var saves = proposals
            .SelectMany(p => p.Proposal.Places.Select(place => (p.Places.Project, Place: place)))
            .OrderByDescending(p => p.Place.Share)
            .ThenBy(p => p.Place.Unsaid)
            .Take(5)
            .Select(p =>
                Save(
                    p.Project,
                    p.Place.CurrentName,
                    string.Join("; ", p.Place.Reasons.Select(NameWords.Of)),
                    (p.Place.Share, -p.Place.Unsaid)
                )
            )
            .ToList();
        // On a piece's own page it is that piece's, unless its name is another's own.
        if (piece is not null && projects.Count == 1)
        {
            var isAnothers = saves.Exists(s => s.Choice.Piece != piece && s.Fit.Share >= 1);
            saves.RemoveAll(s => s.Choice.Piece == piece);
            saves.Insert(isAnothers ? 1 : 0, Save(projects[0].Project, piece, isAnothers ? "" : "dropped here", Dropped));
        }
        // A name that only some of the piece's words stand in, or that speaks for two pieces alike, may be a new piece's as well.
        var sure = saves is [var first, ..] && first.Fit.Share >= LeastSure && !saves.Skip(1).Any(s => s.Fit == first.Fit) ? 1 : 0;
        // The project whose words the name speaks comes first; else the one that was worked on last.
        var best = saves.Count > 0 ? saves[0].Choice.Address : "";
        var fresh = proposals
            .OrderByDescending(p => best.StartsWith(Places.Of(p.Places.Project) + "/", StringComparison.Ordinal))
            .ThenByDescending(p => SpeaksFor(p.Places.Project, name))
            .Select(p => New(p.Places.Project, p.Proposal, name))
            .OfType<PlaceChoice>()
            .ToList();
        return [.. saves.Take(sure).Select(s => s.Choice), .. fresh.Take(1), .. saves.Skip(sure).Select(s => s.Choice), .. fresh.Skip(1)];
    }

    private static bool SpeaksFor(Project project, string name)
    {
        var words = name.ToLowerInvariant().Split('_', '-', '.', ' ');
        return words.Contains(project.Code.ToLowerInvariant()) || words.Contains(project.Client.Code.ToLowerInvariant());
    }

    private static (PlaceChoice Choice, (double Share, int Said) Fit) Save(
        Project project,
        string piece,
        string why,
        (double Share, int Said) fit
    ) =>
        (
            new PlaceChoice(
                $"{Places.OfPiece(project.Code, piece)}/saves",
                new Dictionary<string, string>(),
                piece,
                $"a save of {piece}",
                why,
                $"{Places.OfPiece(project.Code, piece)}/saves",
                false
            ),
            fit
        );

    // What the name does not say, the plan and the name's own words do: a person sees the whole name before anything is sent.
    private static PlaceChoice? New(Project project, Proposal proposal, string file)
    {
        var convention = ConventionStore.Read(project.Convention);
        var slots = proposal.Slots.ToDictionary(s => s.Key, s => s.Value);
        foreach (var slot in convention.Form(NameForm.Current))
        {
            if (slots.GetValueOrDefault(slot.Label, "").Length > 0 || !ConventionStore.OwnSlots(convention).Contains(slot))
                continue;
            if (slot.Rule is WordsRule)
                slots[slot.Label] = FileNames.Stem(file);
            else if (slot.Rule is CodeRule && PlanStore.Of(project).Functions is [var first, ..])
                slots[slot.Label] = first.Code;
        }
        if (PieceNames.Of(project, slots).Current().Name is not { } name)
            return null;
        return new PlaceChoice(
            $"{Places.Of(project)}/pieces",
            slots.ToDictionary(s => SlotFields.Prefix + s.Key, s => s.Value),
            name.Stem,
            $"a new piece {name.Stem} in {project.Code}",
            "",
            $"{Places.OfPiece(project.Code, name.Stem)}/saves",
            true
        );
    }
}
