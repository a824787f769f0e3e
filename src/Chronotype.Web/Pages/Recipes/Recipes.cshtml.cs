using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Recipes;

/// <summary>What a recipe makes of a real version.</summary>
/// <param name="Recipe">Null where what is typed is none.</param>
/// <param name="Save">With its piece; null where there is none that it makes anything of.</param>
/// <param name="Losses">Null where it makes nothing of it.</param>
public sealed record RecipeExample(
    Recipe? Recipe,
    IReadOnlyList<SettingFault> Faults,
    Save? Save,
    FileFacts? Facts,
    FormattedName? Name,
    IReadOnlyList<GivenUp>? Losses
)
{
    public PictureFrame? Frame => Recipe is null || Facts is null || Losses is null ? null : MakeOutputs.FrameOf(Facts, Recipe);
}

/// <summary>The recipes of the studio or of a project, each with what it makes of a real version.</summary>
public sealed class RecipesModel(StudioDb db, FindPiece findPiece, RecipeBook recipeBook, MakeOutputs makeOutputs) : PageModel
{
    // So many of the newest versions are looked through for an example.
    private const int MostLooked = 400;

    [BindProperty(SupportsGet = true)]
    public RecipeForm Form { get; set; } = new();

    /// <summary>The recipe that is open, by its key; null for a new one.</summary>
    [BindProperty(SupportsGet = true, Name = "key")]
    public string? Key { get; set; }

    /// <summary>Of a new recipe, what it makes.</summary>
    [BindProperty(SupportsGet = true, Name = "kind")]
    public RecipeKind? Kind { get; set; }

    /// <summary>The version that it is shown on; null for the newest that it makes anything of.</summary>
    [BindProperty(SupportsGet = true, Name = "on")]
    public Guid? On { get; set; }

    /// <summary>Null for the studio's.</summary>
    public Project? Project { get; private set; }

    public IReadOnlyList<ShownRecipe> Recipes { get; private set; } = [];
    public IReadOnlyList<ColourProfileEntry> Profiles { get; private set; } = [];
    public ShownRecipe? Open { get; private set; }
    public RecipeExample Example { get; private set; } = null!;

    /// <summary>Versions that it can be shown on, by their names.</summary>
    public IReadOnlyList<(Guid Id, string Name)> Others { get; private set; } = [];

    public Notice? Notice { get; private set; }

    public string Address => Project is null ? "/recipes" : $"/recipes/{Uri.EscapeDataString(Project.Code)}";

    /// <summary>Whether who looks may set recipes here.</summary>
    public bool MaySet => Project is not null || User.IsOwner();

    public async Task<IActionResult> OnGetAsync(string? project, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel))
            return NotFound();
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
        Open = Kind is null ? Recipes.FirstOrDefault(r => r.Recipe.Key == Key) ?? Recipes[0] : null;
        Form = Open is null ? new RecipeForm { Kind = Kind!.Value } : RecipeForm.Of(Open.Recipe);
        Example = await ShowAsync(Open is null ? Form.ForExample.Read(Profiles) : new(Open.Recipe, []), cancel);
        return Page();
    }

    /// <summary>What comes of a recipe while it is being typed.</summary>
    public async Task<IActionResult> OnGetExampleAsync(string? project, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel))
            return NotFound();
        await LoadAsync(cancel);
        return Partial("_Example", await ShowAsync(Form.ForExample.Read(Profiles), cancel));
    }

    public async Task<IActionResult> OnPostAsync(string? project, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel))
            return NotFound();
        await LoadAsync(cancel);
        var read = Form.Read(Profiles);
        var outcome = read.Recipe is { } recipe ? await recipeBook.SetAsync(User.Actor(), Project?.Id, recipe, cancel) : null;
        if (outcome is { Done: true })
        {
            Notice.Put(
                TempData,
                Notice.Done(
                    $"{read.Recipe!.Name} is set, {(Project is null ? "for all projects" : $"for {Project.Code}")}. "
                        + "What was made before stays as it is."
                )
            );
            return Redirect($"{Address}?key={Uri.EscapeDataString(read.Recipe.Key)}");
        }
        Notice = outcome is null
            ? new Notice(NoticeKind.Bad, string.Join(" ", read.Faults.Select(f => f.Message)))
            : Notice.About(outcome.Refusal!);
        Open = Recipes.FirstOrDefault(r => r.Recipe.Key == Form.Key);
        Kind = Open is null ? Form.Kind : null;
        Example = await ShowAsync(read, cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostRemoveAsync(string? project, string remove, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel))
            return NotFound();
        var outcome = await recipeBook.RemoveAsync(User.Actor(), Project?.Id, remove, cancel);
        Notice.Put(
            TempData,
            outcome.Done ? Notice.Done($"The recipe {remove} is taken away. What was made by it stays.") : Notice.About(outcome.Refusal)
        );
        return Redirect(Address);
    }

    /// <summary>A recipe as a file, which another studio or the shell reads.</summary>
    public async Task<IActionResult> OnGetFileAsync(string? project, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel) || await RecipeBook.FindAsync(db, Project?.Id, Key ?? "", cancel) is not { } recipe)
            return NotFound();
        return File(Encoding.UTF8.GetBytes(RecipeFile.Write(recipe)), "application/json", $"{recipe.Key}.recipe.json");
    }

    /// <summary>Shows what a recipe's file says. Nothing is set by it.</summary>
    public async Task<IActionResult> OnPostImportAsync(string? project, IFormFile? file, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel))
            return NotFound();
        await using var bytes = file?.OpenReadStream() ?? Stream.Null;
        var read = RecipeFile.Read(SettingText.Read(bytes, 4 * RecipeFile.MaxLength) ?? "");
        if (read.Recipe is not { } recipe)
        {
            var faults = string.Join(" ", read.Faults.Take(5).Select(f => f.ToString()));
            Notice.Put(TempData, new Notice(NoticeKind.Bad, $"This file holds no recipe, and nothing was set. {faults}"));
            return Redirect(Address);
        }
        await LoadAsync(cancel);
        // What the form holds came with no request: what it shows is what the file says.
        ModelState.Clear();
        (Form, Kind) = (RecipeForm.Of(recipe), RecipeForm.Of(recipe).Kind);
        var missing = recipe.Picture?.Profile is { } profile && Profiles.All(p => p.Hash != profile.Hash) ? profile.Name : null;
        var takes = Recipes.FirstOrDefault(r => r.Recipe.Key == recipe.Key);
        Notice = new Notice(
            missing is null ? NoticeKind.Done : NoticeKind.Bad,
            "This is what the file says. Nothing is set yet."
                + (takes is null ? "" : $" Set it, and it stands in the place of “{takes.Recipe.Name}”, which has the same key.")
                + (missing is null ? "" : $" It needs the colour profile {missing}, which was not handed in here.")
        );
        Example = await ShowAsync(new(recipe, []), cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostProfileAsync(string? project, IFormFile? file, CancellationToken cancel)
    {
        if (!await FindAsync(project, cancel))
            return NotFound();
        if (file is null)
        {
            Notice.Put(TempData, new Notice(NoticeKind.Bad, "No file came. Choose the profile’s file, and send it."));
            return Redirect(Address);
        }
        await using var bytes = file.OpenReadStream();
        var outcome = await recipeBook.HandInAsync(User.Actor(), file.FileName, bytes, cancel);
        Notice.Put(
            TempData,
            outcome.Done
                ? Notice.Done($"The colour profile {outcome.Result.Name} ({outcome.Result.Space}) is here: recipes can be set for it.")
                : Notice.About(outcome.Refusal)
        );
        return Redirect($"{Address}?key={Uri.EscapeDataString(Key ?? "")}");
    }

    private async Task<bool> FindAsync(string? project, CancellationToken cancel)
    {
        if (project is null)
            return true;
        Project = await findPiece.ProjectAsync(project, cancel) is { } id
            ? await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == id, cancel)
            : null;
        return Project is not null;
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Recipes = await RecipeBook.OfAsync(db, Project?.Id, cancel);
        Profiles = await db.ColourProfiles.AsNoTracking().OrderBy(p => p.Name).ToListAsync(cancel);
    }

    private async Task<RecipeExample> ShowAsync(ReadRecipe read, CancellationToken cancel)
    {
        if (read.Recipe is not { } recipe)
            return new RecipeExample(null, read.Faults, null, null, null, null);
        // The newest version of each piece that the recipe makes anything of.
        var newest = await db
            .Saves.AsNoTracking()
            .Where(s => s.Number != null && s.Line.IsCurrent && (Project == null || s.Piece.ProjectId == Project.Id))
            .Where(s => !db.Saves.Any(n => n.LineId == s.LineId && n.Number > s.Number))
            .OrderByDescending(s => s.KeptAt)
            .Take(MostLooked)
            .Select(s => new
            {
                s.Id,
                s.ExactName,
                Facts = ContentReader.Current(db).Where(f => f.Content == s.MainHash).Select(f => f.Facts).FirstOrDefault(),
            })
            .ToListAsync(cancel);
        var fit = newest
            .Where(s => s.Facts is not null)
            .Select(s => (s.Id, s.ExactName, Facts: RecordJson.Read<FileFacts>(s.Facts!)))
            .Where(s => s.Facts.Fault is null && GivenUp.Of(s.Facts, recipe) is not null)
            .ToList();
        Others = [.. fit.Select(s => (s.Id, s.ExactName!))];
        var chosen = fit.Find(s => s.Id == On);
        if (chosen.Facts is null && fit.Count > 0)
            chosen = fit[0];
        if (chosen.Facts is null)
            return new RecipeExample(recipe, [], null, null, null, null);
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Piece)
                .ThenInclude(p => p.Project)
                    .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(s => s.Id == chosen.Id, cancel);
        if (save is null)
            return new RecipeExample(recipe, [], null, null, null, null);
        var hand = await db.Users.Where(u => u.Id == save.KeptById).Select(u => u.Initials).FirstOrDefaultAsync(cancel) ?? "";
        return new RecipeExample(
            recipe,
            [],
            save,
            chosen.Facts,
            makeOutputs.NameOf(save.Piece, save, hand, chosen.Facts, recipe),
            GivenUp.Of(chosen.Facts, recipe)
        );
    }
}
