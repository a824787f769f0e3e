using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A reference of a save, as it was seen and as it is.</summary>
/// <param name="Then">What became of it when the save was kept, or came.</param>
/// <param name="ThenPath">Where it led then.</param>
/// <param name="Now">What becomes of it in the tree as it is.</param>
/// <param name="Target">What it leads to now; null where that is nothing.</param>
public sealed record ShownReference(
    string Written,
    string Place,
    int Times,
    ReferenceState Then,
    ProjectPath? ThenPath,
    ContentHash? ThenHash,
    ReferenceState Now,
    SpellingDifference Difference,
    StandingFile? Target
)
{
    /// <summary>It leads to a file of the project that holds something else than what the save saw.</summary>
    public bool IsChanged => ThenHash is { } then && Target?.Hash is { } now && then != now;

    /// <summary>It led to something then, and leads to nothing now.</summary>
    public bool IsGone => ThenHash is not null && Target is null;
}

/// <summary>Tells what a save refers to.</summary>
public sealed class PieceReferences(StudioDb db)
{
    /// <summary>The references of a save, in the order of its files.</summary>
    public async Task<IReadOnlyList<ShownReference>> OfAsync(Piece piece, Guid saveId, CancellationToken cancel = default)
    {
        var links = await db
            .Links.AsNoTracking()
            .Where(l => l.SaveId == saveId)
            .OrderBy(l => l.Id)
            .Join(db.SaveFiles, l => l.SaveFileId, f => f.Id, (l, f) => new { Link = l, FilePath = f.Path })
            .ToListAsync(cancel);
        if (links.Count == 0)
            return [];
        var folder = await new TreeThen(db, piece.ProjectId).FolderOfAsync(piece.Id, cancel);
        var isFolder = await db.SaveFiles.CountAsync(f => f.SaveId == saveId, cancel) > 1;
        var written = links.ConvertAll(l =>
        {
            var from = ReferenceBase.Of(folder, piece.CurrentName, isFolder, l.FilePath);
            var syntax = FileLinks.SyntaxOf(l.FilePath);
            return (l.Link, From: from, Reference: WrittenReference.Read(l.Link.Written, syntax));
        });
        var keys = written.SelectMany(w => FileLinks.Keys(w.From, [w.Reference]));
        var files = await new TreeThen(db, piece.ProjectId).AtAsync(keys, cancel);
        return written.ConvertAll(w =>
        {
            var (link, from, reference) = w;
            // What came in the save itself is there for as long as the save.
            if (link is { SeenHash: not null, SeenEntryId: null })
                return Shown(link, link.State, default, null);
            var now = ReferenceResolver.Resolve(files, from, reference);
            return Shown(link, now.State, now.Difference, now.Target);
        });
    }

    private static ShownReference Shown(Link link, ReferenceState now, SpellingDifference difference, StandingFile? target) =>
        new(
            link.Written,
            link.Place,
            link.Times,
            link.State,
            link.SeenPath,
            link.SeenEntryId is null ? null : link.SeenHash,
            now,
            difference,
            target
        );
}
