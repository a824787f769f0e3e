using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Renaming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>What moving a project to another convention would rename.</summary>
/// <param name="Names">Every name that changes, with what it names.</param>
/// <param name="Obstacles">Why it cannot be done; none when it can.</param>
/// <param name="Total">How many names the project has.</param>
public sealed record MovePlan(IReadOnlyList<RenamedName> Names, IReadOnlyList<RenameObstacle> Obstacles, int Total);

/// <summary>
/// Moves a project to another convention: all its names are renamed by a plan, as a whole or not at all. The old names stay
/// findable, and the move can be undone.
/// </summary>
public sealed class MoveProject(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, StudioClock clock)
{
    /// <summary>The plan, without doing anything.</summary>
    public async Task<MovePlan> PlanAsync(Guid projectId, Convention to, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var project = await db.Projects.AsNoTracking().Include(p => p.Client).FirstAsync(p => p.Id == projectId, cancel);
        return await Plan(db, project, ConventionStore.Read(project.Convention), to, null, cancel);
    }

    /// <param name="to">A convention without lists of codes, as records hold it.</param>
    public Task<Outcome<RenameRun>> DoAsync(Actor actor, Guid projectId, Convention to, CancellationToken cancel = default) =>
        deeds.DoAsync<RenameRun>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var db = deed.Db;
                var project = await db.Projects.Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == projectId, cancel);
                if (project is null)
                    return new Refusal.NoSuchProject();
                var json = ConventionStore.Write(to);
                if (json == project.Convention)
                    return new Refusal.HoldsConventionAlready(project.Code);
                var plan = await Plan(db, project, ConventionStore.Read(project.Convention), to, null, cancel);
                if (plan.Obstacles.Count > 0)
                    return new Refusal.CannotRename(plan.Obstacles[0].Message);
                var run = new RenameRun
                {
                    ProjectId = projectId,
                    At = deed.Now,
                    ById = deed.Actor.PersonId,
                    Before = project.Convention,
                    After = json,
                    Names = [.. plan.Names],
                };
                await GivenNames.GiveAsync(db, new ProjectTree(db, project.Id), plan.Names, cancel);
                project.Convention = json;
                db.RenameRuns.Add(run);
                return run;
            },
            cancel
        );

    /// <summary>Gives the old names back. What was named since the move is named under the old convention too.</summary>
    public Task<Outcome<RenameRun>> UndoAsync(Actor actor, Guid runId, CancellationToken cancel = default) =>
        deeds.DoAsync<RenameRun>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var db = deed.Db;
                var run = await db
                    .RenameRuns.Include(r => r.Names)
                    .FirstOrDefaultAsync(r => r.Id == runId && r.Cause == RenameCause.Convention && r.UndoneAt == null, cancel);
                if (run is null)
                    return new Refusal.MoveUndoneAlready();
                if (await db.Projects.Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == run.ProjectId, cancel) is not { } project)
                    return new Refusal.NoSuchProject();
                if (project.Convention != run.After)
                    return new Refusal.MovedAgainSince(project.Code);
                var plan = await Plan(db, project, ConventionStore.Read(run.After), ConventionStore.Read(run.Before), run.Names, cancel);
                if (plan.Obstacles.Count > 0)
                    return new Refusal.CannotRename(plan.Obstacles[0].Message);
                await GivenNames.GiveAsync(db, new ProjectTree(db, project.Id), plan.Names, cancel);
                project.Convention = run.Before;
                run.UndoneAt = deed.Now;
                // Names that were given since the move stay findable too.
                var told = run.Names.Select(n => (n.Thing, n.PieceId, n.SaveId)).ToHashSet();
                run.Names.AddRange(plan.Names.Where(n => !told.Contains((n.Thing, n.PieceId, n.SaveId))));
                return run;
            },
            cancel
        );

    /// <param name="back">The names of a run that is undone; null for a new one.</param>
    private async Task<MovePlan> Plan(
        StudioDb db,
        Project project,
        Convention from,
        Convention to,
        IReadOnlyList<RenamedName>? back,
        CancellationToken cancel
    )
    {
        var old = back?.ToDictionary(n => (n.Thing, n.PieceId, n.SaveId), n => n.From) ?? [];
        var names = new List<RenamedName>();
        var obstacles = new List<RenameObstacle>();
        var pieces = await db.Pieces.AsNoTracking().Where(p => p.ProjectId == project.Id).ToListAsync(cancel);
        foreach (var piece in pieces)
            piece.Project = project;
        var given = await GivenNames.LoadAsync(db, clock, pieces, cancel);
        var newNames = pieces.ToDictionary(p => p.Id, p => PieceNames.Of(p, to));
        foreach (var folder in given.GroupBy(n => n.Thing))
        {
            var all = folder.ToList();
            var known = all.ToLookup(n => n.Name, n => newNames[n.Piece.Id].Known(n.Hand, n.Number, n.Day));
            // What stands behind a name for want of a place in it is no part of the convention.
            var alts = all.Where(n => n.Alt.Length > 0 && !old.ContainsKey(n.Key))
                .ToDictionary(n => n.Key, n => GivenNames.Become(n, from, newNames[n.Piece.Id]));
            obstacles.AddRange(alts.Values.Select(a => a.Obstacle).OfType<RenameObstacle>());
            var translation = NameTranslation.Between(
                from,
                to,
                all.Where(n => !old.ContainsKey(n.Key) && !alts.ContainsKey(n.Key)).Select(n => n.Name),
                n => known[n].First()
            );
            obstacles.AddRange(translation.Obstacles);
            var becomes = translation.Renames.ToDictionary(r => r.From, r => r.To);
            var changed = all.ConvertAll(n =>
                (
                    Named: n,
                    To: old.GetValueOrDefault(n.Key) ?? alts.GetValueOrDefault(n.Key).Name ?? becomes.GetValueOrDefault(n.Name, n.Name)
                )
            );
            obstacles.AddRange(RenamePlan.Of(changed.Select(c => new Rename(c.Named.Name, c.To)), []).Obstacles);
            names.AddRange(changed.Where(c => c.To != c.Named.Name).Select(c => c.Named.To(c.To)));
        }
        return new MovePlan(obstacles.Count > 0 ? [] : names, obstacles, given.Count);
    }
}
