using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
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
    private sealed record Named(NamedThing Thing, Guid PieceId, Guid? SaveId, string Name, NameKnowledge Known);

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
                await Rename(db, project.Id, plan.Names, cancel);
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
                var run = await db.RenameRuns.Include(r => r.Names).FirstOrDefaultAsync(r => r.Id == runId && r.UndoneAt == null, cancel);
                if (run is null)
                    return new Refusal.MoveUndoneAlready();
                var project = await db.Projects.Include(p => p.Client).FirstAsync(p => p.Id == run.ProjectId, cancel);
                if (project.Convention != run.After)
                    return new Refusal.MovedAgainSince(project.Code);
                var plan = await Plan(db, project, ConventionStore.Read(run.After), ConventionStore.Read(run.Before), run.Names, cancel);
                if (plan.Obstacles.Count > 0)
                    return new Refusal.CannotRename(plan.Obstacles[0].Message);
                await Rename(db, project.Id, plan.Names, cancel);
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
        var total = 0;
        foreach (var folder in (await NamesAsync(db, project, to, cancel)).GroupBy(n => n.Thing))
        {
            var all = folder.ToList();
            total += all.Count;
            var known = all.ToLookup(n => n.Name, n => n.Known);
            var translation = NameTranslation.Between(
                from,
                to,
                all.Where(n => !old.ContainsKey((n.Thing, n.PieceId, n.SaveId))).Select(n => n.Name),
                n => known[n].First()
            );
            obstacles.AddRange(translation.Obstacles);
            var becomes = translation.Renames.ToDictionary(r => r.From, r => r.To);
            var changed = all.Select(n =>
                    (Named: n, To: old.GetValueOrDefault((n.Thing, n.PieceId, n.SaveId)) ?? becomes.GetValueOrDefault(n.Name, n.Name))
                )
                .ToList();
            obstacles.AddRange(RenamePlan.Of(changed.Select(c => new Rename(c.Named.Name, c.To)), []).Obstacles);
            names.AddRange(
                changed
                    .Where(c => c.To != c.Named.Name)
                    .Select(c => new RenamedName
                    {
                        ProjectId = project.Id,
                        PieceId = c.Named.PieceId,
                        SaveId = c.Named.SaveId,
                        Thing = c.Named.Thing,
                        From = c.Named.Name,
                        To = c.To,
                    })
            );
        }
        return new MovePlan(obstacles.Count > 0 ? [] : names, obstacles, total);
    }

    private async Task<List<Named>> NamesAsync(StudioDb db, Project project, Convention to, CancellationToken cancel)
    {
        var hands = await db.Users.ToDictionaryAsync(p => p.Id, p => p.Initials, cancel);
        var pieces = await db.Pieces.AsNoTracking().Where(p => p.ProjectId == project.Id).ToListAsync(cancel);
        var kept = (
            await db
                .Saves.AsNoTracking()
                .Where(s => s.Piece.ProjectId == project.Id && s.Number != null)
                .Select(s => new
                {
                    s.Id,
                    s.PieceId,
                    s.ExactName,
                    s.Number,
                    s.KeptById,
                    s.KeptAt,
                    Copy = s.Milestone == null ? null : s.Milestone.ExactName,
                })
                .ToListAsync(cancel)
        ).ToLookup(s => s.PieceId);
        var all = new List<Named>();
        foreach (var piece in pieces)
        {
            piece.Project = project;
            var names = PieceNames.Of(piece, to);
            all.Add(new(NamedThing.Current, piece.Id, null, piece.CurrentName, names.Known("", default, null)));
            foreach (var version in kept[piece.Id])
            {
                var day = clock.DayOf(version.KeptAt!.Value);
                var known = names.Known(version.KeptById is { } by ? hands.GetValueOrDefault(by, "") : "", new(version.Number!.Value), day);
                all.Add(new(NamedThing.Version, piece.Id, version.Id, version.ExactName!, known));
                if (version.Copy is { } copy)
                    all.Add(new(NamedThing.MilestoneCopy, piece.Id, version.Id, copy, known));
            }
        }
        return all;
    }

    // Each folder's names go in the plan's own order, so that the database's unique names are never in the way.
    private static async Task Rename(StudioDb db, Guid projectId, IReadOnlyList<RenamedName> names, CancellationToken cancel)
    {
        var tree = new ProjectTree(db, projectId);
        foreach (var folder in names.GroupBy(n => n.Thing))
        {
            var at = folder.ToDictionary(n => n.From, n => n);
            foreach (var (from, to) in RenamePlan.Of(folder.Select(n => new Rename(n.From, n.To)), []).Steps)
            {
                var named = at[from];
                at[to] = named;
                var kind = named.Thing switch
                {
                    NamedThing.Current => EntryKind.CurrentFile,
                    NamedThing.Version => EntryKind.Version,
                    _ => EntryKind.MilestoneCopy,
                };
                var extension = "";
                switch (named.Thing)
                {
                    case NamedThing.Current:
                        await db
                            .Pieces.Where(p => p.Id == named.PieceId)
                            .ExecuteUpdateAsync(u => u.SetProperty(p => p.CurrentName, to), cancel);
                        extension = await db.Pieces.Where(p => p.Id == named.PieceId).Select(p => p.Extension).FirstAsync(cancel);
                        break;
                    case NamedThing.Version:
                        await db
                            .Saves.Where(s => s.Id == named.SaveId)
                            .ExecuteUpdateAsync(u => u.SetProperty(s => s.ExactName, to), cancel);
                        break;
                    default:
                        await db
                            .Milestones.Where(m => m.SaveId == named.SaveId)
                            .ExecuteUpdateAsync(u => u.SetProperty(m => m.ExactName, to), cancel);
                        break;
                }
                var entry = await db.Entries.FirstOrDefaultAsync(
                    e => e.PieceId == named.PieceId && e.SaveId == named.SaveId && e.Kind == kind,
                    cancel
                );
                if (entry is not null)
                    await tree.RenameAsync(entry, to + extension, cancel);
                await db.SaveChangesAsync(cancel);
            }
        }
    }
}
