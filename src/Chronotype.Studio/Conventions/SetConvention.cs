using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>Makes a convention the studio's own: new projects begin with it. Projects that are there hold what they have.</summary>
public sealed class SetConvention(DeedRunner deeds)
{
    /// <param name="convention">With the lists that came with it; codes that the studio does not keep yet are added.</param>
    public Task<Outcome<StudioRecord>> DoAsync(Actor actor, Convention convention, CancellationToken cancel = default) =>
        deeds.DoAsync(actor, Right.SetConvention, deed => WithinAsync(deed.Db, convention, cancel), cancel);

    /// <summary>Takes the last change back: the convention before it is the studio's again.</summary>
    public Task<Outcome<StudioRecord>> UndoAsync(Actor actor, CancellationToken cancel = default) =>
        deeds.DoAsync(
            actor,
            Right.SetConvention,
            async deed =>
                await deed.Db.Studio.Select(s => s.ConventionBefore).SingleAsync(cancel) is { } before
                    ? await WithinAsync(deed.Db, ConventionStore.Read(before), cancel)
                    : new Refusal.NoConventionBefore(),
            cancel
        );

    private static async Task<Outcome<StudioRecord>> WithinAsync(StudioDb db, Convention convention, CancellationToken cancel)
    {
        if (ConventionRules.CheckForStudio(convention) is { Count: > 0 } faults)
            return new Refusal.ConventionFaults([.. faults.Select(f => f.Message)]);
        var studio = new ConventionStore(db);
        await AddCodesAsync(db, convention, cancel);
        var lists = await studio.ListsAsync(convention.Slots, cancel);
        Convention whole;
        try
        {
            whole = convention.With(lists);
        }
        catch (ArgumentException e)
        {
            return new Refusal.CodesBreakConvention(e.Message, null);
        }
        if (whole.Grammar.FindAmbiguity() is { } twice)
            return new Refusal.TwoReadings(twice.Name, twice.First.ToString()!, twice.Second.ToString()!);
        var record = await db.Studio.SingleAsync(cancel);
        var json = ConventionStore.Write(convention);
        var before = await studio.JsonAsync(cancel);
        if (json != before)
            (record.Convention, record.ConventionBefore) = (json, before);
        return record;
    }

    private static async Task AddCodesAsync(StudioDb db, Convention convention, CancellationToken cancel)
    {
        foreach (var (list, codes) in convention.Lists)
        {
            // Projects and people come with their own records.
            if (list is ConventionStore.ProjectList or Convention.HandList)
                continue;
            var known =
                list == ConventionStore.ClientList
                    ? await db.Clients.Select(c => c.Code).ToListAsync(cancel)
                    : await db.Codes.Where(c => c.List == list).Select(c => c.Code).ToListAsync(cancel);
            foreach (var (code, meaning) in codes.Codes.Where(c => !known.Contains(c.Code, StringComparer.OrdinalIgnoreCase)))
            {
                if (list == ConventionStore.ClientList)
                    db.Clients.Add(new Client { Code = code, Name = meaning.Length > 0 ? meaning : code });
                else
                    db.Codes.Add(
                        new CodeEntry
                        {
                            List = list,
                            Code = code,
                            Meaning = meaning,
                        }
                    );
            }
        }
        await db.SaveChangesAsync(cancel);
    }
}
