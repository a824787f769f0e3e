using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>Adds a code to one of the studio's lists, says what it means, or takes it off while nothing is called by it.</summary>
public sealed class SetCode(StudioDb db, StudioConvention studio)
{
    private static readonly string[] Elsewhere = [StudioConvention.ProjectList, Convention.HandList];

    public async Task<Outcome<CodeMeaning>> AddAsync(string list, string code, string meaning, CancellationToken cancel = default)
    {
        var (name, text, means) = (list.Trim(), code.Trim(), TypedText.Line(meaning));
        if (Elsewhere.Contains(name)) return Refuse($"The codes of the list {name} come with their own records.");
        if (name.Length is 0 or > ConventionRules.MaxLabel || !name.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-')) return Refuse("A list is called by lower-case letters, digits and hyphens.", "list");
        if (!CodeRule.IsCode(text)) return Refuse($"A code has 1 to {CodeRule.MaxLength} letters and digits, with hyphens inside.", "code");
        if (means.Length > ConventionRules.MaxMeaning) return Refuse($"A meaning has at most {ConventionRules.MaxMeaning} characters.", "meaning");
        if (name == StudioConvention.ClientList && means.Length == 0) return Refuse("A client's code needs the client's name.", "meaning");

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var conflict = await studio.ConflictAsync(cancel);
        if (name == StudioConvention.ClientList) db.Clients.Add(new Client { Code = text, Name = means });
        else db.Codes.Add(new CodeEntry { List = name, Code = text, Meaning = means });
        var convention = StudioConvention.Read(await studio.JsonAsync(cancel));
        var before = await studio.ListsAsync(convention.Slots, cancel);
        if (before.GetValueOrDefault(name)?.Codes.FirstOrDefault(c => c.Code.Equals(text, StringComparison.OrdinalIgnoreCase)) is { } there)
            return Refuse(there.Code == text ? $"“{text}” is on the list already." : $"“{there.Code}” is on the list already; some file systems take “{text}” for the same.", "code");
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException)
        {
            return Refuse($"“{text}” is on the list already.", "code");
        }
        if (conflict is null && await studio.ConflictAsync(cancel) is { } now) return Refuse(now, "code");
        await transaction.CommitAsync(cancel);
        return new CodeMeaning(text, means);
    }

    public async Task<Outcome<CodeMeaning>> MeanAsync(string list, string code, string meaning, CancellationToken cancel = default)
    {
        var means = TypedText.Line(meaning);
        if (means.Length > ConventionRules.MaxMeaning) return Refuse($"A meaning has at most {ConventionRules.MaxMeaning} characters.", "meaning");
        if (list == StudioConvention.ClientList && means.Length == 0) return Refuse("A client's code needs the client's name.", "meaning");
        var changed = list == StudioConvention.ClientList
            ? await db.Clients.Where(c => c.Code == code).ExecuteUpdateAsync(u => u.SetProperty(c => c.Name, means), cancel)
            : await db.Codes.Where(c => c.List == list && c.Code == code).ExecuteUpdateAsync(u => u.SetProperty(c => c.Meaning, means), cancel);
        return changed == 1 ? new CodeMeaning(code, means) : Refuse($"There is no code “{code}” on the list {list}.");
    }

    public async Task<Outcome<CodeMeaning>> RemoveAsync(string list, string code, CancellationToken cancel = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var uses = await UsesAsync(list, code, cancel);
        if (uses.Count > 0) return Refuse($"“{code}” stays: {(uses.Count == 1 ? $"{uses[0]} is called by it" : $"{uses[0]} and {uses.Count - 1:N0} more are called by it")}. Nothing was changed.");
        var removed = list == StudioConvention.ClientList
            ? await db.Clients.Where(c => c.Code == code).ExecuteDeleteAsync(cancel)
            : await db.Codes.Where(c => c.List == list && c.Code == code).ExecuteDeleteAsync(cancel);
        await transaction.CommitAsync(cancel);
        return removed == 1 ? new CodeMeaning(code) : Refuse($"There is no code “{code}” on the list {list}.");
    }

    /// <summary>The current names of the pieces that are called by a code, and the codes of a client's projects.</summary>
    public async Task<IReadOnlyList<string>> UsesAsync(string list, string code, CancellationToken cancel = default)
    {
        if (list == StudioConvention.ClientList) return await db.Projects.Where(p => p.Client.Code == code).OrderBy(p => p.Code).Select(p => p.Code).ToListAsync(cancel);
        var pieces = await db.Pieces.AsNoTracking().Include(p => p.Project).OrderBy(p => p.CurrentName).ToListAsync(cancel);
        return [.. pieces.Where(p => StudioConvention.Read(p.Project.Convention).Slots.Any(s => s.Rule is CodeRule rule && rule.List == list && PieceNames.SlotsOf(p).GetValueOrDefault(s.Label) == code)).Select(p => p.CurrentName)];
    }

    private static Outcome<CodeMeaning> Refuse(string sentence, string? field = null) => Outcome<CodeMeaning>.Refused(sentence, field);
}
