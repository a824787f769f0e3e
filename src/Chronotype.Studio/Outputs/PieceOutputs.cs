using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>An output of a piece.</summary>
/// <param name="Entry">The file, as it stands in the tree.</param>
/// <param name="Number">The version that it was made from.</param>
/// <param name="Newest">The newest version of that one's line.</param>
public sealed record ShownOutput(Output Record, TreeEntry Entry, long Size, VersionNumber Number, VersionNumber Newest)
{
    /// <summary>Its version is not the newest any more.</summary>
    public bool IsStale => Number != Newest;
}

/// <summary>What was made of pieces.</summary>
public static class PieceOutputs
{
    /// <summary>The outputs of a piece that are there, the newest first.</summary>
    public static async Task<IReadOnlyList<ShownOutput>> OfAsync(StudioDb db, Guid pieceId, CancellationToken cancel = default)
    {
        var made = await (
            from output in db.Outputs.AsNoTracking()
            where output.PieceId == pieceId
            join entry in db.Entries on output.EntryId equals entry.Id
            where entry.DeletedAt == null
            join save in db.Saves on output.SaveId equals save.Id
            orderby output.At descending, output.Id descending
            select new
            {
                output,
                entry,
                save.Number,
                Newest = db.Saves.Where(n => n.LineId == save.LineId).Max(n => n.Number),
                Size = entry.Contents.OrderByDescending(c => c.Sequence).Select(c => c.Size).First(),
            }
        ).ToListAsync(cancel);
        return made.ConvertAll(m => new ShownOutput(
            m.output,
            m.entry,
            m.Size,
            new VersionNumber(m.Number ?? 0),
            new VersionNumber(m.Newest ?? 0)
        ));
    }
}
