using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tree;

/// <summary>What is to be done with files of a tree.</summary>
public enum TreeDeed
{
    Move,
    Rename,
    Delete,
}

/// <summary>One of the files that a deed would touch, as far as anything refers to it.</summary>
public sealed record TouchedFile(TreeEntry Entry, FileUsers Users)
{
    /// <summary>Kept versions by piece, as <c>moonpull-poster_key 001–014</c>.</summary>
    public IReadOnlyList<string> Versions =>
        [
            .. Users
                .Versions.GroupBy(v => (v.Piece, v.Line))
                .Select(g => $"{g.Key.Piece}{(g.Key.Line.Length > 0 ? $", {g.Key.Line}," : "")} {RangeWords.Of(g.Select(v => v.Number))}"),
        ];
}

/// <summary>What a deed in the tree would touch, before it is done.</summary>
/// <param name="Entries">What was chosen.</param>
/// <param name="Files">How many files that is, those in folders among them.</param>
/// <param name="Used">Those that something refers to, which may be fewer than there are.</param>
/// <param name="MoreUsed">How many more.</param>
/// <param name="Closed">Of so many pieces nobody knows what they refer to.</param>
public sealed record Sight(
    Project Project,
    TreeDeed Deed,
    IReadOnlyList<TreeEntry> Entries,
    int Files,
    IReadOnlyList<TouchedFile> Used,
    int MoreUsed,
    int Closed
)
{
    private const int Most = 12;

    /// <summary>Where they may go, for a move.</summary>
    public IReadOnlyList<PlanRow> Folders { get; init; } = [];

    /// <summary>The folder that is chosen already.</summary>
    public string? To { get; init; }

    /// <summary>How many kept versions saw any of them.</summary>
    public int Versions => Used.SelectMany(u => u.Users.Versions.Select(v => v.SaveId)).Distinct().Count();

    public static async Task<Sight?> LoadAsync(
        StudioDb db,
        WhoUses whoUses,
        Project project,
        TreeDeed deed,
        Guid[] ids,
        CancellationToken cancel
    )
    {
        var there = db.Entries.AsNoTracking().Where(e => e.ProjectId == project.Id && e.DeletedAt == null);
        var entries = await there.Where(e => ids.Contains(e.Id)).OrderBy(e => e.PathKey).ToListAsync(cancel);
        if (entries.Count == 0)
            return null;
        var all = entries.Where(e => e.Kind != EntryKind.Folder).ToList();
        var tree = new ProjectTree(db, project.Id);
        foreach (var folder in entries.Where(e => e.Kind == EntryKind.Folder))
            all.AddRange(await tree.Under(folder.Path).AsNoTracking().Where(e => e.Kind != EntryKind.Folder).ToListAsync(cancel));
        all = [.. all.DistinctBy(e => e.Id)];
        var used = new List<TreeEntry>();
        foreach (var part in all.Chunk(400))
        {
            var (keys, partIds) = (part.Select(e => e.PathKey).ToList(), part.Select(e => (Guid?)e.Id).ToList());
            var meant = await db
                .Links.Where(l => l.ProjectId == project.Id && l.TargetKey != null && keys.Contains(l.TargetKey))
                .Select(l => l.TargetKey!)
                .Distinct()
                .ToListAsync(cancel);
            var seen = await db.Links.Where(l => partIds.Contains(l.SeenEntryId)).Select(l => l.SeenEntryId).Distinct().ToListAsync(cancel);
            used.AddRange(part.Where(e => meant.Contains(e.PathKey) || seen.Contains(e.Id)));
        }
        var told = new List<TouchedFile>();
        foreach (var entry in used.Take(Most))
        {
            var users = await whoUses.OfAsync(entry, cancel);
            if (users.Today.Count + users.Versions.Count > 0)
                told.Add(new TouchedFile(entry, users));
        }
        return new Sight(
            project,
            deed,
            entries,
            all.Count,
            told,
            Math.Max(0, used.Count - Most),
            await whoUses.ClosedAsync(project.Id, cancel)
        );
    }
}
