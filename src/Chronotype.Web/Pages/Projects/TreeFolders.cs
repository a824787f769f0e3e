using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Uploads;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

/// <summary>A file as it stands in the tree.</summary>
/// <param name="Link">Where it opens.</param>
public sealed record TreeFile(string Name, long Size, string Link);

/// <summary>The versions, or the milestone copies, of one piece: folded, and loaded when they are asked for.</summary>
public sealed record TreeSeries(string Name, Guid Piece, EntryKind Kind, int Count, long Size, string Link);

/// <summary>A folder with what is in it.</summary>
/// <param name="Depth">How many folders it lies in.</param>
public sealed record TreeFolder(
    string Name,
    int Depth,
    FolderRole Role,
    string Purpose,
    IReadOnlyList<TreeFile> Files,
    IReadOnlyList<TreeSeries> Series
)
{
    public long Size => Files.Sum(f => f.Size) + Series.Sum(s => s.Size);

    /// <summary>What a folder is for, in a word.</summary>
    public static string RoleName(FolderRole role) => (role.IsWorking() ? FolderRole.Working : role).ToString().ToLowerInvariant();
}

/// <summary>Shows a project's tree: its folders in the plan's order, each with what stands in it.</summary>
public static class TreeFolders
{
    public static async Task<IReadOnlyList<TreeFolder>> LoadAsync(StudioDb db, Project project, CancellationToken cancel)
    {
        var there = db.Entries.AsNoTracking().Where(e => e.ProjectId == project.Id && e.DeletedAt == null);
        var entries = await there
            .Where(e => e.Kind == EntryKind.Folder || e.Kind == EntryKind.CurrentFile || e.Kind == EntryKind.OwnFile)
            .ToListAsync(cancel);
        var sound = db.Saves.Sound(db);
        var pieces = await db
            .Pieces.AsNoTracking()
            .Where(p => p.ProjectId == project.Id)
            .Select(p => new
            {
                p.Id,
                p.CurrentName,
                Size = sound.Where(s => s.PieceId == p.Id).OrderByDescending(s => s.Sequence).Select(s => (long?)s.Size).FirstOrDefault(),
            })
            .ToDictionaryAsync(p => p.Id, cancel);
        // Versions are named by the convention and stand together; however many there are, a piece's are one line.
        var grouped = await there
            .Where(e => e.Kind == EntryKind.Version || e.Kind == EntryKind.MilestoneCopy)
            .Join(
                db.Saves,
                e => e.SaveId,
                s => s.Id,
                (e, s) =>
                    new
                    {
                        e.PieceId,
                        e.Kind,
                        e.PathKey,
                        s.Size,
                    }
            )
            .GroupBy(e => new { e.PieceId, e.Kind })
            .Select(g => new
            {
                g.Key.PieceId,
                g.Key.Kind,
                Count = g.Count(),
                Size = g.Sum(e => e.Size),
                First = g.Min(e => e.PathKey),
            })
            .ToListAsync(cancel);
        var series = grouped
            .Where(g => pieces.ContainsKey(g.PieceId!.Value))
            .ToLookup(g => g.First![..Math.Max(0, g.First!.LastIndexOf('/'))], g => SeriesOf(g.PieceId!.Value, g.Kind, g.Count, g.Size));
        var own = await db
            .FileContents.AsNoTracking()
            .Where(c => db.Entries.Any(e => e.Id == c.EntryId && e.ProjectId == project.Id && e.DeletedAt == null))
            .GroupBy(c => c.EntryId)
            .Select(g => new { g.Key, Size = g.OrderByDescending(c => c.Sequence).Select(c => c.Size).First() })
            .ToDictionaryAsync(g => g.Key, g => g.Size, cancel);
        var within = entries.Where(e => e.Kind != EntryKind.Folder).ToLookup(e => e.Path.Folder?.Key ?? "");
        var folders = entries
            .Where(e => e.Kind == EntryKind.Folder)
            .OrderBy(e => e.Order)
            .ThenBy(e => e.PathKey, StringComparer.Ordinal)
            .ToList();
        // A folder of people's own comes behind the folder that it lies in.
        var ordered = new List<TreeEntry>();
        foreach (var folder in folders)
        {
            var at =
                folder.Order == int.MaxValue
                    ? ordered.FindLastIndex(f => folder.Path.Folder is { } parent && (f.Path == parent || f.Path.IsIn(parent)))
                    : -1;
            ordered.Insert(at < 0 ? ordered.Count : at + 1, folder);
        }
        TreeFolder[] top =
            within[""].Any() || series[""].Any()
                ? [new TreeFolder(project.Code, 0, FolderRole.Documents, "at the project’s top", [.. Files(within[""])], [.. Series("")])]
                : [];
        return
        [
            .. top,
            .. ordered.Select(f => new TreeFolder(
                f.Path.Name,
                f.Path.Depth,
                f.Role,
                f.Purpose,
                [.. Files(within[f.PathKey])],
                [.. Series(f.PathKey)]
            )),
        ];

        IEnumerable<TreeFile> Files(IEnumerable<TreeEntry> here) =>
            here.Where(e => e.PieceId is not { } piece || pieces.ContainsKey(piece))
                .OrderBy(e => e.PathKey, StringComparer.Ordinal)
                .Select(e =>
                    e.PieceId is { } id
                        ? new TreeFile(e.Path.Name, pieces[id].Size ?? 0, Places.OfPiece(project.Code, pieces[id].CurrentName))
                        : new TreeFile(e.Path.Name, own.GetValueOrDefault(e.Id), $"/files/{e.Id}")
                );

        TreeSeries SeriesOf(Guid piece, EntryKind kind, int count, long size) =>
            new(pieces[piece].CurrentName, piece, kind, count, size, Places.OfPiece(project.Code, pieces[piece].CurrentName));

        IEnumerable<TreeSeries> Series(string folder) => series[folder].OrderBy(s => s.Name, StringComparer.Ordinal);
    }

    /// <summary>The files of a series, the newest first.</summary>
    public static async Task<IReadOnlyList<TreeFile>> SeriesAsync(
        StudioDb db,
        Project project,
        Guid piece,
        EntryKind kind,
        CancellationToken cancel
    )
    {
        var name = await db.Pieces.Where(p => p.Id == piece).Select(p => p.CurrentName).FirstOrDefaultAsync(cancel);
        var files = await db
            .Entries.AsNoTracking()
            .Where(e => e.ProjectId == project.Id && e.PieceId == piece && e.Kind == kind && e.DeletedAt == null)
            .Join(
                db.Saves,
                e => e.SaveId,
                s => s.Id,
                (e, s) =>
                    new
                    {
                        e.Path,
                        s.Size,
                        s.Number,
                    }
            )
            .OrderByDescending(f => f.Number)
            .ToListAsync(cancel);
        return files.ConvertAll(f => new TreeFile(f.Path.Name, f.Size, $"{Places.OfPiece(project.Code, name ?? "")}?b={f.Number}"));
    }
}

/// <summary>A slot that a person fills when a piece is started.</summary>
/// <param name="Codes">What may be chosen; null where it is typed.</param>
/// <param name="IsNeeded">Whether the current file's name needs it; else it may stand open.</param>
public sealed record AskedSlot(Slot Slot, IReadOnlyList<CodeMeaning>? Codes, bool IsNeeded)
{
    public string Field => SlotFields.Prefix + Slot.Label;
    public string Title => char.ToUpperInvariant(Slot.Label[0]) + Slot.Label[1..].Replace('-', ' ');

    /// <summary>The slots that a project's convention asks for, words first; the codes of its plan stand first on their list.</summary>
    public static async Task<IReadOnlyList<AskedSlot>> LoadAsync(StudioDb db, Project project, CancellationToken cancel)
    {
        var convention = ConventionStore.Read(project.Convention);
        var needed = convention.Form(NameForm.Current);
        var order = FolderPlan.Of(project.Plan).Functions.Select((f, i) => (f.Code, i)).ToDictionary(f => f.Code, f => f.i);
        var codes = (await db.Codes.AsNoTracking().ToListAsync(cancel)).ToLookup(c => c.List);
        return
        [
            .. ConventionStore
                .OwnSlots(convention)
                .Select(slot => new AskedSlot(
                    slot,
                    slot.Rule is CodeRule { List: var list }
                        ?
                        [
                            .. codes[list]
                                .OrderBy(c => order.GetValueOrDefault(c.Code, int.MaxValue))
                                .ThenBy(c => c.Code, StringComparer.Ordinal)
                                .Select(c => new CodeMeaning(c.Code, c.Meaning)),
                        ]
                        : null,
                    needed.Contains(slot) && !slot.MayBeAbsent
                ))
                .OrderBy(a => a.Slot.Rule is not WordsRule)
                .ThenBy(a => !a.IsNeeded),
        ];
    }
}
