using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>Adds a code to one of the studio's lists, says what it means, or takes it off while nothing is called by it.</summary>
public sealed class SetCode(DeedRunner deeds)
{
    private static readonly string[] Elsewhere = [ConventionStore.ProjectList, Convention.HandList];

    public async Task<Outcome<CodeMeaning>> AddAsync(
        Actor actor,
        string list,
        string code,
        string meaning,
        CancellationToken cancel = default
    )
    {
        var (name, text, means) = (list.Trim(), code.Trim(), TypedText.Line(meaning));
        if (Elsewhere.Contains(name))
            return new Refusal.ListKeptElsewhere(name);
        if (
            name.Length is 0 or > ConventionRules.MaxLabel
            || !name.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-')
        )
            return new Refusal.ListNotLegal();
        if (!CodeRule.IsCode(text))
            return new Refusal.CodeNotLegal(CodeRule.MaxLength);
        if (means.Length > ConventionRules.MaxMeaning)
            return new Refusal.Length("meaning", 0, ConventionRules.MaxMeaning);
        if (name == ConventionStore.ClientList && means.Length == 0)
            return new Refusal.ClientNeedsName();
        return await deeds.DoAsync(actor, Right.SetConvention, deed => AddWithinAsync(deed.Db, name, text, means, cancel), cancel);
    }

    private static async Task<Outcome<CodeMeaning>> AddWithinAsync(
        StudioDb db,
        string name,
        string text,
        string means,
        CancellationToken cancel
    )
    {
        var studio = new ConventionStore(db);
        var conflict = await studio.ConflictAsync(cancel);
        if (name == ConventionStore.ClientList)
            db.Clients.Add(new Client { Code = text, Name = means });
        else
            db.Codes.Add(
                new CodeEntry
                {
                    List = name,
                    Code = text,
                    Meaning = means,
                }
            );
        var convention = ConventionStore.Read(await studio.JsonAsync(cancel));
        var before = await studio.ListsAsync(convention.Slots, cancel);
        if (before.GetValueOrDefault(name)?.Codes.FirstOrDefault(c => c.Code.Equals(text, StringComparison.OrdinalIgnoreCase)) is { } there)
            return new Refusal.CodeIsThere(text, there.Code);
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e) when (DeedRunner.IsTwice(e))
        {
            return new Refusal.CodeIsThere(text, text);
        }
        if (conflict is null && await studio.ConflictAsync(cancel) is { } now)
            return new Refusal.CodesBreakConvention(now, "code");
        return new CodeMeaning(text, means);
    }

    public async Task<Outcome<CodeMeaning>> MeanAsync(
        Actor actor,
        string list,
        string code,
        string meaning,
        CancellationToken cancel = default
    )
    {
        var means = TypedText.Line(meaning);
        if (means.Length > ConventionRules.MaxMeaning)
            return new Refusal.Length("meaning", 0, ConventionRules.MaxMeaning);
        if (list == ConventionStore.ClientList && means.Length == 0)
            return new Refusal.ClientNeedsName();
        return await deeds.DoAsync<CodeMeaning>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var db = deed.Db;
                var changed =
                    list == ConventionStore.ClientList
                        ? await db.Clients.Where(c => c.Code == code).ExecuteUpdateAsync(u => u.SetProperty(c => c.Name, means), cancel)
                        : await db
                            .Codes.Where(c => c.List == list && c.Code == code)
                            .ExecuteUpdateAsync(u => u.SetProperty(c => c.Meaning, means), cancel);
                return changed == 1 ? new CodeMeaning(code, means) : new Refusal.NoSuchCode(list, code);
            },
            cancel
        );
    }

    public Task<Outcome<CodeMeaning>> RemoveAsync(Actor actor, string list, string code, CancellationToken cancel = default) =>
        deeds.DoAsync<CodeMeaning>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var db = deed.Db;
                var uses = await UsesAsync(db, list, code, cancel);
                if (uses.Count > 0)
                    return new Refusal.CodeInUse(code, uses[0], uses.Count - 1);
                var removed =
                    list == ConventionStore.ClientList
                        ? await db.Clients.Where(c => c.Code == code).ExecuteDeleteAsync(cancel)
                        : await db.Codes.Where(c => c.List == list && c.Code == code).ExecuteDeleteAsync(cancel);
                return removed == 1 ? new CodeMeaning(code) : new Refusal.NoSuchCode(list, code);
            },
            cancel
        );

    /// <summary>The current names of the pieces that are called by a code, and the codes of a client's projects.</summary>
    private static async Task<IReadOnlyList<string>> UsesAsync(StudioDb db, string list, string code, CancellationToken cancel)
    {
        if (list == ConventionStore.ClientList)
            return await db.Projects.Where(p => p.Client.Code == code).OrderBy(p => p.Code).Select(p => p.Code).ToListAsync(cancel);
        var pieces = await db.Pieces.AsNoTracking().Include(p => p.Project).OrderBy(p => p.CurrentName).ToListAsync(cancel);
        return
        [
            .. pieces
                .Where(p =>
                    ConventionStore
                        .Read(p.Project.Convention)
                        .Slots.Any(s =>
                            s.Rule is CodeRule rule && rule.List == list && PieceNames.SlotsOf(p).GetValueOrDefault(s.Label) == code
                        )
                )
                .Select(p => p.CurrentName),
        ];
    }
}
