using System.Text.RegularExpressions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>What a project is called by, and whom it is for: the same rules when it is started and when it is renamed.</summary>
internal static partial class ProjectDetails
{
    private const int MostCharacters = 120;

    /// <param name="code">In capitals.</param>
    /// <param name="clientCode">In capitals.</param>
    public static Refusal? Fault(string code, string title, string clientCode)
    {
        if (!ProjectCode().IsMatch(code))
            return new Refusal.ProjectCodeNotLegal();
        if (code == "NEW")
            return new Refusal.ProjectCodeIsAddress(code);
        if (title.Length is < 1 or > MostCharacters)
            return new Refusal.Length("Title", 1, MostCharacters);
        return ClientCodes().IsMatch(clientCode) ? null : new Refusal.ClientCodeNotLegal();
    }

    /// <summary>Whether another project has the code, also one that was deleted and can be taken back.</summary>
    public static async Task<Refusal?> TakenAsync(StudioDb db, string code, Guid? except, CancellationToken cancel) =>
        await db.Projects.IgnoreQueryFilters().FirstOrDefaultAsync(p => p.Code == code && p.Id != except, cancel) is { } taken
            ? new Refusal.ProjectCodeTaken(taken.Code, taken.Title, taken.DeletedAt is not null)
            : null;

    /// <summary>The client of a code, made where there is none yet.</summary>
    public static async Task<(Client? Client, Refusal? Refusal)> ClientAsync(
        StudioDb db,
        string clientCode,
        string clientName,
        CancellationToken cancel
    )
    {
        if (await db.Clients.FirstOrDefaultAsync(c => c.Code == clientCode, cancel) is { } there)
            return (there, null);
        var name = TypedText.Line(clientName);
        if (name.Length is < 1 or > MostCharacters)
            return (null, new Refusal.Length("ClientName", 1, MostCharacters));
        var client = new Client { Code = clientCode, Name = name };
        db.Clients.Add(client);
        return (client, null);
    }

    [GeneratedRegex("^[A-Z][A-Z0-9-]{1,11}$")]
    private static partial Regex ProjectCode();

    [GeneratedRegex("^[A-Z0-9]{2,6}$")]
    private static partial Regex ClientCodes();
}
