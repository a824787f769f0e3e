using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <param name="Code">2 to 12 letters, digits and hyphens; unique in the studio without regard to case.</param>
/// <param name="ClientCode">As it stands in names; a known one stands for its client, whatever <paramref name="ClientName"/> says.</param>
/// <param name="Plan">The key of a plan that the studio has.</param>
/// <param name="FirstNumber">0 or 1; null for the one that the convention begins at.</param>
/// <param name="From">An earlier project, and what comes along from it; null for none.</param>
public sealed record NewProject(
    string Code,
    string Title,
    string ClientName,
    string ClientCode,
    string Plan,
    int? FirstNumber = null,
    EarlierProject? From = null
);

/// <summary>What comes along from an earlier project.</summary>
/// <param name="Folders">Its folders and functions as they are now, in place of a plan's.</param>
/// <param name="Assets">What its assets hold now.</param>
/// <param name="Spec">What its files must be, in place of what the plan says.</param>
/// <param name="Convention">Its convention, in place of the plan's or the studio's.</param>
/// <param name="Pieces">The newest save of each is the first version of a piece of the new project.</param>
public sealed record EarlierProject(Guid ProjectId, bool Folders, bool Assets, bool Spec, bool Convention, IReadOnlyList<Guid> Pieces);

/// <summary>
/// Starts a job for a client: its folder plan laid out, its convention fixed, the names of its plan reserved, and what comes along from
/// an earlier one at its place.
/// </summary>
public sealed class StartProject(DeedRunner deeds, StartFrom startFrom)
{
    public async Task<Outcome<Project>> DoAsync(Actor actor, NewProject asked, CancellationToken cancel = default)
    {
        var code = asked.Code.Trim().ToUpperInvariant();
        var title = TypedText.Line(asked.Title);
        var clientCode = asked.ClientCode.Trim().ToUpperInvariant();
        if (ProjectDetails.Fault(code, title, clientCode) is { } fault)
            return fault;
        if (asked.FirstNumber is not (null or 0 or 1))
            return new Refusal.FirstNumberNotLegal();
        return await deeds.DoAsync(actor, Right.Work, deed => WithinAsync(deed, code, title, clientCode, asked, cancel), cancel);
    }

    private async Task<Outcome<Project>> WithinAsync(
        Deed deed,
        string code,
        string title,
        string clientCode,
        NewProject asked,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var studio = new ConventionStore(db);
        var (plan, planFile, noPlan) = await PlanAsync(db, asked, cancel);
        if (plan is null)
            return noPlan!;
        if (await ProjectDetails.TakenAsync(db, code, null, cancel) is { } taken)
            return taken;
        var conflict = await studio.ConflictAsync(cancel);
        var (client, refusal) = await ProjectDetails.ClientAsync(db, clientCode, asked.ClientName, cancel);
        if (client is null)
            return refusal!;
        var convention = plan.Convention ?? ConventionStore.Read(await studio.JsonAsync(cancel));
        var project = new Project
        {
            Code = code,
            Title = title,
            Client = client,
            Plan = plan.Key,
            PlanFile = planFile,
            Spec = plan.Spec.IsEmpty ? null : RecordJson.Write(plan.Spec),
            Convention = ConventionStore.Write(asked.FirstNumber is { } first ? convention.StartingAt(first) : convention),
            Keep = plan.Keep,
            StartedAt = deed.Now,
            StartedById = deed.Actor.PersonId,
            Entries = plan
                .Folders.Select(
                    (f, i) =>
                        new TreeEntry
                        {
                            Kind = EntryKind.Folder,
                            Order = i,
                            Path = f.Path,
                            PathKey = f.Path.Key,
                            Role = f.Role,
                            Purpose = f.Purpose,
                        }
                )
                .ToList(),
        };
        db.Projects.Add(project);
        SetAccess.Began(deed, project);
        await AddCodesAsync(db, plan, cancel);
        await db.SaveChangesAsync(cancel);
        // New codes must go with the convention that names are read by.
        if (conflict is null && await studio.ConflictAsync(cancel) is { } now)
            return new Refusal.CodesBreakConvention(now, nameof(asked.Code));
        foreach (var reserved in plan.Reserved)
        {
            var started = await StartPiece.WithinAsync(deed, project.Id, reserved.Slots, false, null, cancel);
            if (!started.Done)
                return new Refusal.PieceOfPlanNotLegal(string.Join(" ", reserved.Slots.Values), started.Refusal);
            await db.SaveChangesAsync(cancel);
        }
        return asked.From is { } from && await BringAlongAsync(deed, project, from, cancel) is { } no ? no : project;
    }

    /// <returns>The plan, and what the project's record says of it: null for a usual one.</returns>
    private static async Task<(FolderPlan? Plan, string? File, Refusal? Refusal)> PlanAsync(
        StudioDb db,
        NewProject asked,
        CancellationToken cancel
    )
    {
        var plans = new PlanStore(db);
        if (asked.From is not { } from)
            return await plans.FindAsync(asked.Plan, cancel) is { } known
                ? (known.Plan, known.Record?.File, null)
                : (null, null, new Refusal.NoSuchPlan());
        var earlier = await db.Projects.FirstOrDefaultAsync(p => p.Id == from.ProjectId, cancel);
        if (earlier is null)
            return (null, null, new Refusal.NoSuchProject());
        var asItStands = await plans.AsItStandsAsync(earlier, cancel);
        var plan = from.Folders ? asItStands : (await plans.FindAsync(asked.Plan, cancel))?.Plan;
        if (plan is null)
            return (null, null, new Refusal.NoSuchPlan());
        plan = plan with
        {
            Spec =
                from.Spec ? asItStands.Spec
                : from.Folders ? new ProjectSpec()
                : plan.Spec,
            Convention =
                from.Convention ? asItStands.Convention
                : from.Folders ? null
                : plan.Convention,
        };
        return PlanRules.Check(plan) is { Count: > 0 } faults
            ? (null, null, new Refusal.PlanFaults([.. faults.Select(f => f.ToString())]))
            : (plan, PlanFile.Write(plan), null);
    }

    private async Task<Refusal?> BringAlongAsync(Deed deed, Project project, EarlierProject from, CancellationToken cancel)
    {
        var db = deed.Db;
        if (from.Assets)
        {
            var assets = await db
                .Entries.AsNoTracking()
                .Where(e =>
                    e.ProjectId == from.ProjectId && e.Kind == EntryKind.OwnFile && e.Role == FolderRole.Assets && e.DeletedAt == null
                )
                .OrderBy(e => e.PathKey)
                .Select(e => new { e.Path, Now = e.Contents.OrderByDescending(c => c.Sequence).First() })
                .ToListAsync(cancel);
            foreach (var asset in assets)
            {
                var placed = await TendFiles.RecordAsync(
                    deed,
                    project.Id,
                    asset.Path.Folder,
                    asset.Path.Name,
                    (asset.Now.Hash, asset.Now.Size),
                    null,
                    cancel
                );
                if (!placed.Done)
                    return placed.Refusal;
                await db.SaveChangesAsync(cancel);
            }
        }
        var newest = await db
            .Saves.Where(s => s.Piece.ProjectId == from.ProjectId && from.Pieces.Contains(s.PieceId))
            .Where(s => s.IsCurrent)
            .OrderBy(s => s.Piece.CurrentName)
            .Select(s => new
            {
                s.Id,
                s.PieceId,
                s.Piece,
            })
            .ToListAsync(cancel);
        foreach (var save in newest)
        {
            var slots = PieceNames.SlotsOf(save.Piece);
            var started = await startFrom.WithinAsync(deed, project.Id, slots, save.Id, cancel);
            if (!started.Done)
                return new Refusal.PieceOfPlanNotLegal(save.Piece.CurrentName, started.Refusal);
        }
        return null;
    }

    private static async Task AddCodesAsync(StudioDb db, FolderPlan plan, CancellationToken cancel)
    {
        var known = await db.Codes.Where(c => c.List == PlanStore.FunctionList).Select(c => c.Code).ToListAsync(cancel);
        db.Codes.AddRange(
            plan.Functions.Where(f => !known.Contains(f.Code))
                .Select(f => new CodeEntry
                {
                    List = PlanStore.FunctionList,
                    Code = f.Code,
                    Meaning = f.Meaning,
                })
        );
    }
}
