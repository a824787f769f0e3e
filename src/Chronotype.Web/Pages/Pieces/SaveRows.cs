using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>Loads saves as the strip and the table show them, each with what it changed.</summary>
public sealed class SaveRows(StudioDb db, StudioClock clock)
{
    /// <param name="left">What the version held at which the line of the saves left another; null for none.</param>
    public async Task<IReadOnlyList<SaveRow>> LoadAsync(IQueryable<Save> saves, CancellationToken cancel, ContentHash? left = null)
    {
        var initials = await db.Users.ToDictionaryAsync(p => p.Id, p => p.Initials, cancel);
        var rows = await saves
            .AsNoTracking()
            .OrderBy(s => s.Sequence)
            .Select(s => new
            {
                s.Id,
                s.Sequence,
                s.Number,
                s.Identity,
                s.ArrivedAt,
                s.KeptAt,
                s.ArrivedById,
                s.KeptById,
                s.Size,
                s.Note,
                Milestone = (int?)s.Milestone!.Number,
                Reason = s.Milestone!.Reason,
                IsMaster = s.Master != null,
                State = ContentReader.Current(db).Where(f => f.Content == s.MainHash).Select(f => (FactsState?)f.State).FirstOrDefault(),
                Format = ContentReader.Current(db).Where(f => f.Content == s.MainHash).Select(f => (FileFormat?)f.Format).FirstOrDefault(),
                s.BroughtBackFrom,
                s.ReceivedName,
                IsOneFile = s.Identity == s.MainHash,
                s.IsMarkDeclined,
                s.Aside,
            })
            .ToListAsync(cancel);
        var changes = await saves
            .Join(
                CompareSaves.Current(db),
                s => s.Identity,
                c => c.After,
                (s, c) =>
                    new
                    {
                        c.Before,
                        c.After,
                        c.Change,
                        c.Digest,
                    }
            )
            .ToListAsync(cancel);
        var measured = changes.DistinctBy(c => (c.Before, c.After)).ToDictionary(c => (c.Before, c.After));
        var before = new Dictionary<Guid, ContentHash>();
        var last = left;
        foreach (var version in rows.Where(s => s.Number is not null).OrderBy(s => s.Number))
        {
            if (last is { } identity)
                before[version.Id] = identity;
            last = version.Identity;
        }
        // A loose save is told against the version that was newest when it came.
        var newest = new SortedDictionary<int, ContentHash>();
        foreach (var row in rows)
        {
            if (row.Number is { } number)
                newest[number] = row.Identity;
            else if ((newest.Count > 0 ? newest.Last().Value : left) is { } since)
                before[row.Id] = since;
        }
        return rows.ConvertAll(s => new SaveRow(
            s.Id,
            s.Sequence,
            s.Number,
            s.Identity,
            clock.At(s.ArrivedAt),
            s.KeptAt is { } kept ? clock.At(kept) : null,
            initials.GetValueOrDefault(s.ArrivedById, "?"),
            s.KeptById is { } by ? initials.GetValueOrDefault(by, "?") : null,
            s.Size,
            Change(s.Id, s.Identity, s.Number is not null),
            before.TryGetValue(s.Id, out var old) && measured.ContainsKey((old, s.Identity)),
            s.Note,
            s.Milestone,
            s.Reason,
            s.State is not null,
            s.State == FactsState.Faulty,
            s.BroughtBackFrom,
            s.ReceivedName,
            before.TryGetValue(s.Id, out var former)
            && measured.TryGetValue((former, s.Identity), out var told)
            && told.Digest is { } digest
                ? RecordJson.Read<Comparison>(digest)
                : null,
            s.IsOneFile,
            s.IsMarkDeclined,
            s.Format is { } format && FaceRule.NeedsFace(format)
        )
        {
            IsMaster = s.IsMaster,
            Aside = s.Aside,
        });

        // The first version of a line is all new.
        double? Change(Guid id, ContentHash identity, bool isVersion) =>
            !before.TryGetValue(id, out var former) ? (isVersion ? 1 : null)
            : former == identity ? 0
            : measured.GetValueOrDefault((former, identity))?.Change;
    }
}
