using System.Text.RegularExpressions;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Conventions;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <param name="Code">2 to 12 letters, digits and hyphens; unique in the studio without regard to case.</param>
/// <param name="ClientCode">As it stands in names; a known one stands for its client, whatever <paramref name="ClientName"/> says.</param>
/// <param name="FirstNumber">0 or 1.</param>
public sealed record NewProject(string Code, string Title, string ClientName, string ClientCode, string Plan, int FirstNumber = 1);

/// <summary>Starts a job for a client: its folder plan laid out, its convention fixed.</summary>
public sealed partial class StartProject(StudioDb db, StudioConvention studio, TimeProvider time)
{
    public async Task<Outcome<Project>> DoAsync(NewProject asked, Guid personId, CancellationToken cancel = default)
    {
        var code = asked.Code.Trim().ToUpperInvariant();
        var title = TypedText.Line(asked.Title);
        var clientCode = asked.ClientCode.Trim().ToUpperInvariant();
        if (!ProjectCode().IsMatch(code)) return Refuse("A project's code has 2 to 12 letters, digits or hyphens, and begins with a letter.", nameof(asked.Code));
        if (code == "NEW") return Refuse("“NEW” is an address of this program. Choose another code.", nameof(asked.Code));
        if (title.Length is < 1 or > 120) return Refuse("A title has 1 to 120 characters.", nameof(asked.Title));
        if (!ClientCodes().IsMatch(clientCode)) return Refuse("A client's code has 2 to 6 letters or digits: it begins every name.", nameof(asked.ClientCode));
        if (asked.FirstNumber is not (0 or 1)) return Refuse("Numbers begin at 0 or at 1.", nameof(asked.FirstNumber));
        if (FolderPlan.All.FirstOrDefault(p => p.Key == asked.Plan) is not { } plan) return Refuse("Choose a folder plan.", nameof(asked.Plan));

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await db.Projects.FirstOrDefaultAsync(p => p.Code == code, cancel) is { } taken)
            return Refuse($"{taken.Code} is the code of “{taken.Title}”. Choose another.", nameof(asked.Code));

        var conflict = await studio.ConflictAsync(cancel);
        var client = await db.Clients.FirstOrDefaultAsync(c => c.Code == clientCode, cancel);
        if (client is null)
        {
            var name = TypedText.Line(asked.ClientName);
            if (name.Length is < 1 or > 120) return Refuse("A client's name has 1 to 120 characters.", nameof(asked.ClientName));
            client = new Client { Code = clientCode, Name = name };
            db.Clients.Add(client);
        }
        var project = new Project
        {
            Code = code,
            Title = title,
            Client = client,
            Plan = plan.Key,
            Convention = StudioConvention.Write(StudioConvention.Read(await studio.JsonAsync(cancel)).StartingAt(asked.FirstNumber)),
            Keep = plan.Keep,
            StartedAt = time.GetUtcNow(),
            StartedById = personId,
            Folders = plan.Folders.Select((f, i) => new ProjectFolder { Order = i, Path = f.Path, Role = f.Role, Purpose = f.Purpose }).ToList(),
        };
        db.Projects.Add(project);
        await AddCodes(plan, cancel);
        await db.SaveChangesAsync(cancel);
        // New codes must go with the convention that names are read by.
        if (conflict is null && await studio.ConflictAsync(cancel) is { } now) return Refuse($"With these codes the studio's convention would not hold. {now}", nameof(asked.Code));
        await transaction.CommitAsync(cancel);
        return project;
    }

    private async Task AddCodes(FolderPlan plan, CancellationToken cancel)
    {
        var known = await db.Codes.Where(c => c.List == "function").Select(c => c.Code).ToListAsync(cancel);
        db.Codes.AddRange(plan.Functions.Where(f => !known.Contains(f.Code))
            .Select(f => new CodeEntry { List = "function", Code = f.Code, Meaning = f.Meaning }));
    }

    private static Outcome<Project> Refuse(string sentence, string field) => Outcome<Project>.Refused(sentence, field);

    [GeneratedRegex("^[A-Z][A-Z0-9-]{1,11}$")]
    private static partial Regex ProjectCode();

    [GeneratedRegex("^[A-Z0-9]{2,6}$")]
    private static partial Regex ClientCodes();
}
