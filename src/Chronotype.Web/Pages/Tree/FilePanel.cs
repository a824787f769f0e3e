using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Share;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tree;

/// <summary>A content that a file held from a moment on.</summary>
/// <param name="Until">When another took its place; null for what it holds now.</param>
/// <param name="Needs">The versions that saw it, piece by piece: a piece's name, and its numbers.</param>
public sealed record PastContent(
    FileContent Record,
    DateTimeOffset At,
    string By,
    DateTimeOffset? Until,
    IReadOnlyList<(string Piece, string Numbers)> Needs
);

/// <summary>A file of a project's own, with its past and who uses it.</summary>
/// <param name="Facts">What is inside it; null where it was not read yet.</param>
/// <param name="References">What it refers to itself.</param>
public sealed record FilePanel(
    Project Project,
    TreeEntry Entry,
    FileFacts? Facts,
    IReadOnlyList<PastContent> Past,
    FileUsers Users,
    IReadOnlyList<Link> References,
    IReadOnlyList<(string Piece, string Numbers)> Milestones
)
{
    /// <summary>Of what it was made, and how; null for what was not made here.</summary>
    public ShownOutput? Made { get; init; }

    /// <summary>It stands among the outputs, and was not made here.</summary>
    public bool IsReceivedOutput => Entry is { Role: FolderRole.Outputs, Kind: EntryKind.OwnFile } && Made is null or { IsReceived: true };

    /// <summary>The versions that an output that came may be of, the likeliest first.</summary>
    public IReadOnlyList<ShownMatch> Matches { get; init; } = [];

    /// <summary>The piece whose file it goes with, or that it was made of; null for any other.</summary>
    public string? Piece { get; init; }

    /// <summary>Where it stood before it was moved here from another project, and until when; null for any other.</summary>
    public (string Project, ProjectPath Path, DateTimeOffset Until)? CameFrom { get; init; }

    public PastContent Now => Past[0];

    public bool IsOriginal => Entry.Role == FolderRole.Originals;
    public bool IsCompanion => Entry.Kind == EntryKind.Companion;
    public bool MayReplace => Entry.MayReplace;

    /// <summary>What of it is not as the project's files must be.</summary>
    public IReadOnlyList<SpecPoint> OffSpec =>
        Facts is { Fault: null } ? PlanStore.SpecOf(Project).FaultsOf(FileMeasures.Of(Facts), Entry.Role) : [];

    /// <summary>How many versions, of how many in the project that were read, saw it.</summary>
    public int Needed => Users.Versions.Count;

    /// <summary>What it is, in a sentence.</summary>
    public string What(DateTimeOffset now) =>
        (Entry.Role, Past.Count) switch
        {
            _ when Entry.Kind == EntryKind.Companion =>
                $"It is named, moved, kept and handed off with that piece’s file. This content since {DisplayText.Moment(Now.At, now)}, "
                    + $"{Now.By}.",
            (FolderRole.Originals, _) => $"An original, as received {DisplayText.Moment(Now.At, now)}, {Now.By}. It is never changed.",
            (FolderRole.Outputs, _) when Made is { IsReceived: true } came =>
                $"An output of {came.Number}, made elsewhere, here since {DisplayText.Moment(Now.At, now)}, {Now.By}."
                    + (came.IsStale ? $" {came.Newest} is the newest by now." : ""),
            (FolderRole.Outputs, _) when Made is { } made =>
                $"An output, made from {made.Number} {DisplayText.Moment(Now.At, now)}, {Now.By}."
                    + (made.IsStale ? $" {made.Newest} is the newest by now." : ""),
            (FolderRole.Outputs, _) => $"An output, here since {DisplayText.Moment(Now.At, now)}, {Now.By}.",
            (var role, 1) => $"{A(role)}, here since {DisplayText.Moment(Now.At, now)}, {Now.By}.",
            (var role, var n) => $"{A(role)}. Replaced {(n == 2 ? "once" : n == 3 ? "twice" : $"{n - 1} times")}; this content since "
                + $"{DisplayText.Moment(Now.At, now)}, {Now.By}.",
        };

    private static string A(FolderRole role) => role == FolderRole.Assets ? "An asset" : "A document";

    public static async Task<FilePanel?> LoadAsync(
        StudioDb db,
        WhoUses whoUses,
        StudioClock clock,
        Project project,
        Guid id,
        CancellationToken cancel
    )
    {
        var entry = await db
            .Entries.AsNoTracking()
            .Include(e => e.Contents)
            .FirstOrDefaultAsync(
                e =>
                    e.Id == id
                    && e.ProjectId == project.Id
                    && (e.Kind == EntryKind.OwnFile || e.Kind == EntryKind.Companion)
                    && e.DeletedAt == null,
                cancel
            );
        if (entry is null)
            return null;
        var piece = await db.Outputs.Where(o => o.EntryId == id).Select(o => (Guid?)o.PieceId).FirstOrDefaultAsync(cancel);
        var made = piece is { } of ? (await PieceOutputs.OfAsync(db, of, cancel)).FirstOrDefault(o => o.Record.EntryId == id) : null;
        var isReceived = entry is { Role: FolderRole.Outputs, Kind: EntryKind.OwnFile } && made is null or { IsReceived: true };
        var madeOf = made?.Record.PieceId ?? entry.PieceId;
        var users = await whoUses.OfAsync(entry, cancel);
        var hands = await db.Users.ToDictionaryAsync(u => u.Id, u => u.Initials, cancel);
        var contents = entry.Contents.OrderByDescending(c => c.Sequence).ToList();
        var past = contents
            .Select(
                (c, i) =>
                    new PastContent(
                        c,
                        clock.At(c.At),
                        hands.GetValueOrDefault(c.ById, ""),
                        i == 0 ? null : clock.At(contents[i - 1].At),
                        Numbers(users.Versions.Where(v => v.Saw == c.Hash && IsFirst(contents, c)))
                    )
            )
            .ToList();
        var newest = contents[0].Id;
        var from = await ShareFiles.CameFromAsync(db, entry, cancel);
        var where = await db.Projects.Where(p => from != null && p.Id == from.ProjectId).Select(p => p.Code).FirstOrDefaultAsync(cancel);
        return new FilePanel(
            project,
            entry,
            await ContentReader.KnownAsync(db, contents[0].Hash, cancel),
            past,
            users,
            await db.Links.AsNoTracking().Where(l => l.FileContentId == newest).OrderBy(l => l.Id).ToListAsync(cancel),
            [
                .. users
                    .Versions.Where(v => v.Milestone is not null)
                    .GroupBy(v => v.Piece)
                    .Select(g => (g.Key, string.Join(", ", g.Select(v => $"M{v.Milestone:00}")))),
            ]
        )
        {
            Made = made,
            CameFrom = where is null ? null : (where, from!.Path, clock.At(from.Until)),
            Matches = isReceived ? await MatchOutputs.RankAsync(db, id, cancel) : [],
            Piece = await db.Pieces.Where(p => p.Id == madeOf).Select(p => p.CurrentName).FirstOrDefaultAsync(cancel),
        };
    }

    // Of a content that came back, the newest time that it stood here tells who saw it.
    private static bool IsFirst(List<FileContent> contents, FileContent content) => contents.First(c => c.Hash == content.Hash) == content;

    private static IReadOnlyList<(string Piece, string Numbers)> Numbers(IEnumerable<NeededBy> versions) =>
        [
            .. versions
                .GroupBy(v => (v.Piece, v.Line))
                .Select(g =>
                    (g.Key.Line.Length == 0 ? g.Key.Piece : $"{g.Key.Piece}, {g.Key.Line}", RangeWords.Of(g.Select(v => v.Number)))
                ),
        ];
}
