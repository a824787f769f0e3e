using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
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
    /// <summary>It came, and was matched; it was not made here.</summary>
    public bool IsReceived => Record.Recipe.Length == 0;

    /// <summary>Why it was taken to be of its version; null where it was made here, or a person said so.</summary>
    public MatchReasons? Reasons => Record.Reasons is { } json ? RecordJson.Read<MatchReasons>(json) : null;

    /// <summary>The layers that it was made of alone; none for all.</summary>
    public IReadOnlyList<string> Layers { get; } = IsOfLayers(Record.Recipe) ? RecipeFile.Read(Record.Recipe).Recipe?.Layers ?? [] : [];

    private static bool IsOfLayers(string recipe) => recipe.Contains("\"layers\"", StringComparison.Ordinal);

    /// <summary>Its version is not the newest any more.</summary>
    public bool IsStale => Number != Newest;
}

/// <summary>An output that is not of the newest version, where nothing newer was made by its recipe.</summary>
/// <param name="Piece">The piece's current name.</param>
/// <param name="Newest">The newest version of the line.</param>
public sealed record StaleOutput(ShownOutput Output, string Piece, Guid Newest);

/// <summary>What was made of pieces.</summary>
public static class PieceOutputs
{
    /// <summary>The outputs of a piece that are there, the newest first.</summary>
    public static Task<IReadOnlyList<ShownOutput>> OfAsync(StudioDb db, Guid pieceId, CancellationToken cancel = default) =>
        OfAsync(db, db.Outputs.Where(o => o.PieceId == pieceId), cancel);

    /// <summary>The outputs of a project that are not of the newest version any more, the newest of each recipe.</summary>
    /// <param name="pieceId">Those of one piece; null for all.</param>
    public static async Task<IReadOnlyList<StaleOutput>> StaleAsync(
        StudioDb db,
        Guid projectId,
        Guid? pieceId = null,
        CancellationToken cancel = default
    )
    {
        var pieces = await db
            .Pieces.Where(p => p.ProjectId == projectId && (pieceId == null || p.Id == pieceId))
            .Select(p => new { p.Id, p.CurrentName })
            .ToDictionaryAsync(p => p.Id, p => p.CurrentName, cancel);
        var outputs = await OfAsync(
            db,
            db.Outputs.Where(o =>
                db.Pieces.Any(p => p.Id == o.PieceId && p.ProjectId == projectId) && (pieceId == null || o.PieceId == pieceId)
            ),
            cancel
        );
        // What came from elsewhere has no recipe to tell it from others of its piece: each file speaks for itself.
        var stale = outputs
            .GroupBy(o => (o.Record.PieceId, o.Record.RecipeKey, string.Join('/', o.Layers), o.IsReceived ? o.Entry.Id : Guid.Empty))
            .Select(g => g.MaxBy(o => o.Number)!)
            .Where(o => o.IsStale && pieces.ContainsKey(o.Record.PieceId))
            .ToList();
        var saves = stale.Select(s => s.Record.SaveId).ToList();
        var newest = await db
            .Saves.Where(s => saves.Contains(s.Id))
            .Select(s => new
            {
                s.Id,
                Newest = db
                    .Saves.Where(n => n.LineId == s.LineId && n.Number != null)
                    .OrderByDescending(n => n.Number)
                    .Select(n => n.Id)
                    .First(),
            })
            .ToDictionaryAsync(s => s.Id, s => s.Newest, cancel);
        return [.. stale.Select(s => new StaleOutput(s, pieces[s.Record.PieceId], newest[s.Record.SaveId]))];
    }

    private static async Task<IReadOnlyList<ShownOutput>> OfAsync(StudioDb db, IQueryable<Output> outputs, CancellationToken cancel)
    {
        var made = await (
            from output in outputs.AsNoTracking()
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
