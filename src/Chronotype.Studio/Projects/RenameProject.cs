using Chronotype.Core.Content;
using Chronotype.Core.Naming.Renaming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>What a project is to be called by, and whom it is for.</summary>
/// <param name="ClientName">Of a client that is new; a known code stands for its client.</param>
public sealed record ProjectChange(string Code, string Title, string ClientCode, string ClientName = "");

/// <summary>By what a project is found, as a run of renames records it.</summary>
public sealed record ProjectPlace(string Code, Guid Client);

/// <summary>
/// Gives a project another code, title or client: where names hold these, all of the project's names follow, as a whole or not at all.
/// The old code and the old names stay findable.
/// </summary>
public sealed class RenameProject(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, StudioClock clock)
{
    /// <summary>The names that would change, without doing anything.</summary>
    public async Task<Outcome<MovePlan>> PlanAsync(Guid projectId, ProjectChange asked, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var project = await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == projectId, cancel);
        if (project is null)
            return new Refusal.NoSuchProject();
        var (code, title, clientCode) = Typed(asked);
        if (ProjectDetails.Fault(code, title, clientCode) is { } fault)
            return fault;
        if (await ProjectDetails.TakenAsync(db, code, projectId, cancel) is { } taken)
            return taken;
        return await PlanAsync(
            db,
            project,
            new Project
            {
                Id = project.Id,
                Code = code,
                Title = title,
                Client = new Client { Code = clientCode, Name = asked.ClientName },
                Plan = project.Plan,
                PlanFile = project.PlanFile,
                Convention = project.Convention,
            },
            null,
            cancel
        );
    }

    public Task<Outcome<Project>> DoAsync(Actor actor, Guid projectId, ProjectChange asked, CancellationToken cancel = default) =>
        deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                var project = await db.Projects.Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == projectId, cancel);
                if (project is null)
                    return new Refusal.NoSuchProject();
                var (code, title, clientCode) = Typed(asked);
                if (ProjectDetails.Fault(code, title, clientCode) is { } fault)
                    return fault;
                if (await ProjectDetails.TakenAsync(db, code, projectId, cancel) is { } taken)
                    return taken;
                var (client, refusal) = await ProjectDetails.ClientAsync(db, clientCode, asked.ClientName, cancel);
                if (client is null)
                    return refusal!;
                if (project.Code == code && project.Title == title && project.ClientId == client.Id)
                    return new Refusal.CalledSoAlready(code);
                project.Title = title;
                if (project.Code == code && project.ClientId == client.Id)
                    return project;
                return await GiveAsync(deed, project, code, client, null, cancel);
            },
            cancel
        );

    /// <summary>Gives the old code, the old client and the old names back. The title stays.</summary>
    public Task<Outcome<Project>> UndoAsync(Actor actor, Guid projectId, Guid runId, CancellationToken cancel = default) =>
        deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                var run = await db
                    .RenameRuns.Include(r => r.Names)
                    .FirstOrDefaultAsync(
                        r => r.Id == runId && r.ProjectId == projectId && r.Cause == RenameCause.Project && r.UndoneAt == null,
                        cancel
                    );
                var project = await db.Projects.Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == projectId, cancel);
                if (run is null || project is null)
                    return new Refusal.MoveUndoneAlready();
                if (new ProjectPlace(project.Code, project.ClientId) != RecordJson.Read<ProjectPlace>(run.After))
                    return new Refusal.RenamedAgainSince(project.Code);
                var back = RecordJson.Read<ProjectPlace>(run.Before);
                if (await ProjectDetails.TakenAsync(db, back.Code, projectId, cancel) is { } taken)
                    return taken;
                var client = await db.Clients.FirstAsync(c => c.Id == back.Client, cancel);
                return await GiveAsync(deed, project, back.Code, client, run, cancel);
            },
            cancel
        );

    private static (string Code, string Title, string ClientCode) Typed(ProjectChange asked) =>
        (asked.Code.Trim().ToUpperInvariant(), TypedText.Line(asked.Title), asked.ClientCode.Trim().ToUpperInvariant());

    /// <param name="back">The run that is undone; null for a new one.</param>
    private async Task<Outcome<Project>> GiveAsync(
        Deed deed,
        Project project,
        string code,
        Client client,
        RenameRun? back,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var studio = new ConventionStore(db);
        var conflict = await studio.ConflictAsync(cancel);
        var before = new ProjectPlace(project.Code, project.ClientId);
        var plan = await PlanAsync(
            db,
            project,
            new Project
            {
                Id = project.Id,
                Code = code,
                Title = project.Title,
                Client = client,
                Plan = project.Plan,
                Convention = project.Convention,
            },
            back?.Names,
            cancel
        );
        if (plan.Obstacles.Count > 0)
            return new Refusal.CannotRename(plan.Obstacles[0].Message);
        await GivenNames.GiveAsync(db, new ProjectTree(db, project.Id), plan.Names, cancel);
        (project.Code, project.Client, project.ClientId) = (code, client, client.Id);
        // The new code must go with the convention that names are read by.
        await db.SaveChangesAsync(cancel);
        if (conflict is null && await studio.ConflictAsync(cancel) is { } now)
            return new Refusal.CodesBreakConvention(now, "Code");
        var former = new RenamedName
        {
            ProjectId = project.Id,
            PieceId = project.Id,
            Thing = NamedThing.Project,
            From = before.Code,
            To = code,
        };
        if (back is not null)
        {
            back.UndoneAt = deed.Now;
            var told = back.Names.Select(n => (n.Thing, n.SaveId)).ToHashSet();
            back.Names.AddRange(plan.Names.Where(n => n.SaveId is null || !told.Contains((n.Thing, n.SaveId))).Append(former));
            return project;
        }
        db.RenameRuns.Add(
            new RenameRun
            {
                ProjectId = project.Id,
                Cause = RenameCause.Project,
                At = deed.Now,
                ById = deed.Actor.PersonId,
                Before = RecordJson.Write(before),
                After = RecordJson.Write(new ProjectPlace(code, client.Id)),
                Names = [.. plan.Names, .. before.Code == code ? Array.Empty<RenamedName>() : [former]],
            }
        );
        return project;
    }

    private async Task<MovePlan> PlanAsync(
        StudioDb db,
        Project from,
        Project to,
        IReadOnlyList<RenamedName>? back,
        CancellationToken cancel
    )
    {
        var pieces = await db.Pieces.AsNoTracking().Where(p => p.ProjectId == from.Id).OrderBy(p => p.CurrentName).ToListAsync(cancel);
        foreach (var piece in pieces)
            piece.Project = from;
        var convention = ConventionStore.Read(from.Convention);
        var names = pieces.ToDictionary(p => p.Id, p => PieceNames.Of(to, PieceNames.SlotsOf(p)));
        var old = back?.Where(n => n.Thing != NamedThing.Project).ToDictionary(n => (n.Thing, n.PieceId, n.SaveId), n => n.From) ?? [];
        var renamed = new List<RenamedName>();
        var obstacles = new List<RenameObstacle>();
        var given = await GivenNames.LoadAsync(db, clock, pieces, cancel);
        foreach (var one in given)
        {
            var (name, obstacle) = old.TryGetValue(one.Key, out var former)
                ? (former, null)
                : GivenNames.Become(one, convention, names[one.Piece.Id]);
            if (name is null)
                obstacles.Add(obstacle!);
            else if (name != one.Name)
                renamed.Add(one.To(name));
        }
        foreach (var folder in renamed.GroupBy(n => n.Thing))
            obstacles.AddRange(
                RenamePlan
                    .Of(
                        folder.Select(n => new Rename(n.From, n.To)),
                        given.Where(g => g.Thing == folder.Key).Select(g => g.Name).Except(folder.Select(n => n.From))
                    )
                    .Obstacles
            );
        return new MovePlan(obstacles.Count > 0 ? [] : renamed, obstacles, given.Count);
    }
}
