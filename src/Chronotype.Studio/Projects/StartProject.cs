using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <param name="Code">2 to 12 letters, digits and hyphens; unique in the studio without regard to case.</param>
/// <param name="ClientCode">As it stands in names; a known one stands for its client, whatever <paramref name="ClientName"/> says.</param>
/// <param name="FirstNumber">0 or 1; null for the one that the studio's convention begins at.</param>
public sealed record NewProject(string Code, string Title, string ClientName, string ClientCode, string Plan, int? FirstNumber = null);

/// <summary>Starts a job for a client: its folder plan laid out, its convention fixed.</summary>
public sealed class StartProject(DeedRunner deeds)
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
        if (FolderPlan.All.FirstOrDefault(p => p.Key == asked.Plan) is not { } plan)
            return new Refusal.NoSuchPlan();

        return await deeds.DoAsync(actor, Right.Work, deed => WithinAsync(deed, code, title, clientCode, plan, asked, cancel), cancel);
    }

    private static async Task<Outcome<Project>> WithinAsync(
        Deed deed,
        string code,
        string title,
        string clientCode,
        FolderPlan plan,
        NewProject asked,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var studio = new ConventionStore(db);
        if (await ProjectDetails.TakenAsync(db, code, null, cancel) is { } taken)
            return taken;
        var conflict = await studio.ConflictAsync(cancel);
        var (client, refusal) = await ProjectDetails.ClientAsync(db, clientCode, asked.ClientName, cancel);
        if (client is null)
            return refusal!;
        var convention = ConventionStore.Read(await studio.JsonAsync(cancel));
        var project = new Project
        {
            Code = code,
            Title = title,
            Client = client,
            Plan = plan.Key,
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
        await AddCodesAsync(db, plan, cancel);
        await db.SaveChangesAsync(cancel);
        // New codes must go with the convention that names are read by.
        if (conflict is null && await studio.ConflictAsync(cancel) is { } now)
            return new Refusal.CodesBreakConvention(now, nameof(asked.Code));
        return project;
    }

    private static async Task AddCodesAsync(StudioDb db, FolderPlan plan, CancellationToken cancel)
    {
        var known = await db.Codes.Where(c => c.List == "function").Select(c => c.Code).ToListAsync(cancel);
        db.Codes.AddRange(
            plan.Functions.Where(f => !known.Contains(f.Code))
                .Select(f => new CodeEntry
                {
                    List = "function",
                    Code = f.Code,
                    Meaning = f.Meaning,
                })
        );
    }
}
