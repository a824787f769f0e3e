using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>Whose a recipe is.</summary>
public enum RecipeOwner
{
    /// <summary>One project's.</summary>
    Project,

    /// <summary>The studio's, for all projects.</summary>
    Studio,

    /// <summary>One that every studio has.</summary>
    Ours,
}

/// <summary>A recipe as it holds in a project, or in the studio.</summary>
public sealed record ShownRecipe(Recipe Recipe, RecipeOwner Owner);

/// <summary>
/// The recipes of the studio and of its projects, and the colour profiles that were handed in for them. A project's stands before the
/// studio's of the same key, and that before ours.
/// </summary>
public sealed class RecipeBook(DeedRunner deeds, IContentStore store)
{
    /// <summary>The most that a project has of its own, or the studio.</summary>
    public const int Most = 200;

    /// <param name="projectId">Null for what holds in all projects.</param>
    /// <returns>The project's, the studio's, and ours, each key once.</returns>
    public static async Task<IReadOnlyList<ShownRecipe>> OfAsync(StudioDb db, Guid? projectId, CancellationToken cancel = default)
    {
        var own = await db
            .Recipes.AsNoTracking()
            .Where(r => r.ProjectId == null || r.ProjectId == projectId)
            .OrderBy(r => r.At)
            .ThenBy(r => r.Id)
            .ToListAsync(cancel);
        return
        [
            .. own.OrderBy(r => r.ProjectId is null)
                .Select(r => (r.ProjectId, Recipe: RecipeFile.Read(r.File).Recipe))
                .Where(r => r.Recipe is not null)
                .Select(r => new ShownRecipe(r.Recipe!, r.ProjectId is null ? RecipeOwner.Studio : RecipeOwner.Project))
                .Concat(OurRecipes.All.Select(r => new ShownRecipe(r, RecipeOwner.Ours)))
                .DistinctBy(r => r.Recipe.Key),
        ];
    }

    /// <returns>Null where there is none of that key.</returns>
    public static async Task<Recipe?> FindAsync(StudioDb db, Guid? projectId, string key, CancellationToken cancel = default) =>
        (await OfAsync(db, projectId, cancel)).FirstOrDefault(r => r.Recipe.Key == key)?.Recipe;

    /// <summary>Sets a recipe, in the place of that of its key.</summary>
    /// <param name="projectId">Null for one of the studio's, which its owners set.</param>
    public Task<Outcome<RecipeEntry>> SetAsync(Actor actor, Guid? projectId, Recipe recipe, CancellationToken cancel = default) =>
        deeds.DoAsync<RecipeEntry>(
            actor,
            projectId is null ? Right.SetConvention : Right.Work,
            async deed =>
            {
                var db = deed.Db;
                recipe = recipe with { Name = TypedText.Line(recipe.Name) };
                if (RecipeRules.Check(recipe) is { Count: > 0 } faults)
                    return new Refusal.RecipeFaults([.. faults.Select(f => f.Message)]);
                if (projectId is not null && !await db.Projects.AnyAsync(p => p.Id == projectId, cancel))
                    return new Refusal.NoSuchProject();
                if (recipe.Picture?.Profile is { } profile && !await db.ColourProfiles.AnyAsync(p => p.Hash == profile.Hash, cancel))
                    return new Refusal.NoSuchProfile(profile.Name);
                var entry = await db.Recipes.FirstOrDefaultAsync(r => r.ProjectId == projectId && r.Key == recipe.Key, cancel);
                if (entry is null)
                {
                    if (await db.Recipes.CountAsync(r => r.ProjectId == projectId, cancel) >= Most)
                        return new Refusal.Length("recipe", 0, Most);
                    db.Recipes.Add(
                        entry = new RecipeEntry
                        {
                            ProjectId = projectId,
                            Key = recipe.Key,
                            File = "",
                        }
                    );
                }
                (entry.File, entry.At, entry.ById) = (RecipeFile.Write(recipe), deed.Now, actor.PersonId);
                return entry;
            },
            cancel
        );

    /// <summary>Takes a recipe of the project's or the studio's away. What was made by it stays, and says how.</summary>
    public Task<Outcome<RecipeEntry>> RemoveAsync(Actor actor, Guid? projectId, string key, CancellationToken cancel = default) =>
        deeds.DoAsync<RecipeEntry>(
            actor,
            projectId is null ? Right.SetConvention : Right.Work,
            async deed =>
            {
                if (await deed.Db.Recipes.FirstOrDefaultAsync(r => r.ProjectId == projectId && r.Key == key, cancel) is not { } entry)
                    return new Refusal.NoSuchRecipe(key);
                deed.Db.Recipes.Remove(entry);
                return entry;
            },
            cancel
        );

    /// <summary>Takes in a colour profile. One of the same name gives way to it; recipes go on with the one that they were set for.</summary>
    /// <param name="name">The file's.</param>
    /// <exception cref="StorageFullException">The disk is full; nothing was taken.</exception>
    public async Task<Outcome<ColourProfileEntry>> HandInAsync(Actor actor, string name, Stream profile, CancellationToken cancel = default)
    {
        using var held = new MemoryStream();
        var buffer = new byte[1 << 16];
        for (int read; held.Length <= ColourProfile.MaxBytes && (read = await profile.ReadAsync(buffer, cancel)) > 0; )
            held.Write(buffer, 0, read);
        if (ColourProfile.Space(held.GetBuffer().AsSpan(0, (int)held.Length)) is not { } space)
            return new Refusal.NoProfile(name);
        held.Position = 0;
        using var staged = await store.StageAsync(held, cancel);
        await store.CommitAsync([staged], cancel);
        return await deeds.DoAsync<ColourProfileEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                var called = TypedText.Line(FileNames.Stem(FileNames.Received(name)));
                called = called.Length == 0 ? "profile" : called[..Math.Min(called.Length, 80)];
                var entry = await deed.Db.ColourProfiles.FirstOrDefaultAsync(p => p.Name == called, CancellationToken.None);
                // What recipes were set for stays: another of its name stands beside it.
                if (entry is not null && entry.Hash != staged.Hash)
                {
                    var n = 2;
                    while (await deed.Db.ColourProfiles.AnyAsync(p => p.Name == $"{called} ({n})", CancellationToken.None))
                        n++;
                    (called, entry) = ($"{called} ({n})", null);
                }
                if (entry is not null)
                    return entry;
                entry = new ColourProfileEntry
                {
                    Name = called,
                    Space = space,
                    Hash = staged.Hash,
                    Size = staged.Size,
                    At = deed.Now,
                    ById = actor.PersonId,
                };
                deed.Db.ColourProfiles.Add(entry);
                return entry;
            },
            CancellationToken.None
        );
    }
}
