using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>Makes a convention the studio's own: new projects begin with it. Projects that are there hold what they have.</summary>
public sealed class SetConvention(StudioDb db, StudioConvention studio)
{
    /// <param name="convention">With the lists that came with it; codes that the studio does not keep yet are added.</param>
    public async Task<Outcome<StudioRecord>> DoAsync(Convention convention, CancellationToken cancel = default)
    {
        if (ConventionRules.CheckForStudio(convention) is { Count: > 0 } faults) return Outcome<StudioRecord>.Refused(string.Join(" ", faults.Select(f => f.Message)));
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await AddCodes(convention, cancel);
        var lists = await studio.ListsAsync(convention.Slots, cancel);
        Convention whole;
        try
        {
            whole = convention.With(lists);
        }
        catch (ArgumentException e)
        {
            return Outcome<StudioRecord>.Refused($"The studio's codes do not fit it: {e.Message}");
        }
        if (whole.Grammar.FindAmbiguity() is { } twice) return Outcome<StudioRecord>.Refused($"“{twice.Name}” would have two readings: {twice.First}; or {twice.Second}.");
        var record = await db.Studio.SingleAsync(cancel);
        var json = StudioConvention.Write(convention);
        var before = await studio.JsonAsync(cancel);
        if (json != before) (record.Convention, record.ConventionBefore) = (json, before);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return record;
    }

    /// <summary>Takes the last change back: the convention before it is the studio's again.</summary>
    public async Task<Outcome<StudioRecord>> UndoAsync(CancellationToken cancel = default)
    {
        var before = await db.Studio.Select(s => s.ConventionBefore).SingleAsync(cancel);
        return before is null ? Outcome<StudioRecord>.Refused("There is no convention before this one.") : await DoAsync(StudioConvention.Read(before), cancel);
    }

    private async Task AddCodes(Convention convention, CancellationToken cancel)
    {
        foreach (var (list, codes) in convention.Lists)
        {
            // Projects and people come with their own records.
            if (list is StudioConvention.ProjectList or Convention.HandList) continue;
            var known = list == StudioConvention.ClientList
                ? await db.Clients.Select(c => c.Code).ToListAsync(cancel)
                : await db.Codes.Where(c => c.List == list).Select(c => c.Code).ToListAsync(cancel);
            foreach (var (code, meaning) in codes.Codes.Where(c => !known.Contains(c.Code, StringComparer.OrdinalIgnoreCase)))
            {
                if (list == StudioConvention.ClientList) db.Clients.Add(new Client { Code = code, Name = meaning.Length > 0 ? meaning : code });
                else db.Codes.Add(new CodeEntry { List = list, Code = code, Meaning = meaning });
            }
        }
        await db.SaveChangesAsync(cancel);
    }
}
