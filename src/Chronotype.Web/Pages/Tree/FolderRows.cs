using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tree;

/// <summary>A file of a folder as its list shows it.</summary>
/// <param name="Picture">Its preview; null where there is nothing to see.</param>
/// <param name="Users">How many files refer to it now.</param>
/// <param name="Past">How many contents it has had.</param>
/// <param name="Link">The page of a piece; null for a file of its own, which is looked at beside the list.</param>
/// <param name="Reserved">A piece without any content yet.</param>
/// <param name="Again">It can be made again from others.</param>
/// <param name="Off">What of it is off the project's spec, in words; empty for nothing.</param>
public sealed record FileRow(
    Guid Id,
    EntryKind Kind,
    ProjectPath Path,
    FolderRole Role,
    string? Picture,
    bool IsSound,
    long Size,
    DateTimeOffset At,
    string By,
    int Users,
    int Past,
    string? Link,
    bool Reserved,
    string Off,
    bool Again
)
{
    /// <summary>Where a file of its own is had.</summary>
    public string? Download => Link is null ? $"/files/{Id}" : null;
}

/// <summary>The versions, or the milestone copies, of one piece, which the convention names: one line, however many there are.</summary>
public sealed record SeriesRow(string Piece, Guid PieceId, EntryKind Kind, int Count, long Size, string Link);

/// <summary>What stands in a folder.</summary>
/// <param name="Count">How many files of its own and current files there are in all.</param>
public sealed record FolderRows(IReadOnlyList<FileRow> Files, IReadOnlyList<SeriesRow> Series, int Count, int Part, int Parts);

/// <summary>Loads a folder's list, a part at a time.</summary>
public sealed class FolderList(StudioDb db, StudioClock clock)
{
    private const int PerPart = 200;

    /// <param name="folder">Null for the project's top.</param>
    /// <param name="part">From 1.</param>
    public async Task<FolderRows> LoadAsync(Project project, ProjectPath? folder, int part, CancellationToken cancel)
    {
        var key = folder?.Key ?? "";
        var there = db
            .Entries.AsNoTracking()
            .Where(e => e.ProjectId == project.Id && e.FolderKey == key && e.DeletedAt == null && e.Kind != EntryKind.Folder);
        var listed = there.Where(e =>
            e.Kind == EntryKind.OwnFile || e.Kind == EntryKind.CurrentFile || e.Kind == EntryKind.AltFile || e.Kind == EntryKind.Companion
        );
        var count = await listed.CountAsync(cancel);
        var parts = Math.Max(1, (count + PerPart - 1) / PerPart);
        part = Math.Clamp(part, 1, parts);
        var entries = await listed.OrderBy(e => e.PathKey).Skip((part - 1) * PerPart).Take(PerPart).ToListAsync(cancel);
        return new FolderRows(await RowsAsync(project, entries, cancel), await SeriesAsync(project, there, cancel), count, part, parts);
    }

    private async Task<IReadOnlyList<FileRow>> RowsAsync(Project project, List<TreeEntry> entries, CancellationToken cancel)
    {
        var own = entries.Where(e => !e.Kind.IsCurrent()).Select(e => e.Id).ToList();
        var contents = (await db.FileContents.AsNoTracking().Where(c => own.Contains(c.EntryId)).ToListAsync(cancel)).ToLookup(c =>
            c.EntryId
        );
        var pieceIds = entries.Where(e => e.Kind.IsCurrent()).Select(e => e.PieceId).OfType<Guid>().ToList();
        var cards = (await PieceCards.LoadAsync(db, pieceIds, withBars: false, cancel)).ToDictionary(c => c.Id);
        var keys = entries.ConvertAll(e => e.PathKey);
        var led = db.Links.Where(l => l.ProjectId == project.Id && l.TargetKey != null && keys.Contains(l.TargetKey));
        var users = await WhoUses
            .Current(db, led)
            .GroupBy(l => l.TargetKey!)
            .Select(g => new { g.Key, Count = g.Select(l => l.SaveFileId.ToString() + l.FileContentId.ToString()).Distinct().Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var spec = PlanStore.SpecOf(project);
        var mains = spec.IsEmpty
            ? []
            : await db
                .Saves.Where(s => pieceIds.Contains(s.PieceId))
                .Where(s => s.IsCurrent)
                .ToDictionaryAsync(s => s.PieceId, s => s.MainHash, cancel);
        var hashes = contents.Select(c => c.MaxBy(x => x.Sequence)!.Hash).Concat(mains.Values);
        var known = await ContentReader
            .Current(db)
            .Where(f => hashes.Distinct().Contains(f.Content) && f.State == FactsState.Read)
            .Select(f => new
            {
                f.Content,
                f.Format,
                f.Measures,
            })
            .ToDictionaryAsync(f => f.Content, cancel);
        string Off(ContentHash? content, FolderRole role) =>
            content is { } hash && known.GetValueOrDefault(hash) is { } facts
                ? SpecWords.Is(facts.Measures, spec.FaultsOf(facts.Measures, role))
                : "";
        var alts = await AltsAsync(entries, cancel);
        var hands = await db.Users.ToDictionaryAsync(u => u.Id, u => u.Initials, cancel);
        return entries.ConvertAll(e =>
        {
            var used = users.GetValueOrDefault(e.PathKey);
            if (e is { Kind: EntryKind.CurrentFile, PieceId: { } piece })
            {
                var card = cards.GetValueOrDefault(piece);
                return new FileRow(
                    e.Id,
                    e.Kind,
                    e.Path,
                    e.Role,
                    card is { HasFace: true } ? card.Picture : null,
                    card is { IsSound: true },
                    card?.Size ?? 0,
                    clock.At(card?.LastAt ?? e.StandsSince),
                    card?.LastBy ?? "",
                    used,
                    1,
                    card?.Address,
                    card?.NewestSave is null,
                    Off(mains.TryGetValue(piece, out var main) ? main : null, e.Role),
                    false
                );
            }
            if (e is { Kind: EntryKind.AltFile, PieceId: { } of, LineId: { } line })
                return AltRow(e, alts[line], cards.GetValueOrDefault(of), hands);
            var now = contents[e.Id].MaxBy(c => c.Sequence)!;
            var format = known.GetValueOrDefault(now.Hash)?.Format ?? FileFormat.Other;
            return new FileRow(
                e.Id,
                e.Kind,
                e.Path,
                e.Role,
                IsSeen(format) ? PreviewAddress.OfFile(e.Id, now.Hash, 480) : null,
                Chronotype.Core.Versions.FaceRule.IsSound(format),
                now.Size,
                clock.At(now.At),
                hands.GetValueOrDefault(now.ById, ""),
                used,
                contents[e.Id].Count(),
                null,
                false,
                Off(now.Hash, e.Role),
                e.CanBeMadeAgain
            );
        });
    }

    private async Task<Dictionary<Guid, (string Name, Save? Held)>> AltsAsync(List<TreeEntry> entries, CancellationToken cancel)
    {
        var alts = new Dictionary<Guid, (string, Save?)>();
        foreach (var line in entries.Where(e => e.Kind == EntryKind.AltFile).Select(e => e.LineId).OfType<Guid>())
        {
            var name = await db.Lines.WithDeleted().Where(l => l.Id == line).Select(l => l.Name).FirstAsync(cancel);
            var newest = await CurrentSaves.OfLineAsync(db, line, cancel);
            alts[line] = (name, await db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == newest, cancel));
        }
        return alts;
    }

    private FileRow AltRow(TreeEntry entry, (string Name, Save? Held) alt, PieceCard? piece, Dictionary<Guid, string> hands) =>
        new(
            entry.Id,
            entry.Kind,
            entry.Path,
            entry.Role,
            alt.Held is { } seen && piece is { HasFace: true } ? PreviewAddress.Of(seen.Id, seen.SeenHash, 480) : null,
            piece is { IsSound: true },
            alt.Held?.Size ?? 0,
            clock.At(alt.Held?.ArrivedAt ?? entry.StandsSince),
            alt.Held is { } save ? hands.GetValueOrDefault(save.ArrivedById, "") : "",
            0,
            1,
            $"{piece?.Address}?line={Uri.EscapeDataString(alt.Name)}",
            alt.Held is null,
            "",
            false
        );

    /// <summary>Whether files of a format have something to see in a list.</summary>
    public static bool IsSeen(FileFormat format) => format is not (FileFormat.Other or FileFormat.Text or FileFormat.Pdf);

    private async Task<IReadOnlyList<SeriesRow>> SeriesAsync(Project project, IQueryable<TreeEntry> there, CancellationToken cancel)
    {
        var groups = await there
            .Where(e => e.Kind == EntryKind.Version || e.Kind == EntryKind.MilestoneCopy || e.Kind == EntryKind.MasterCopy)
            .Join(
                db.Saves,
                e => e.SaveId,
                s => s.Id,
                (e, s) =>
                    new
                    {
                        e.PieceId,
                        e.Kind,
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
            })
            .Join(db.Pieces, g => g.PieceId, p => p.Id, (g, p) => new { g, p.CurrentName })
            .ToListAsync(cancel);
        return
        [
            .. groups
                .OrderBy(g => g.CurrentName, StringComparer.Ordinal)
                .Select(g => new SeriesRow(
                    g.CurrentName,
                    g.g.PieceId!.Value,
                    g.g.Kind,
                    g.g.Count,
                    g.g.Size,
                    Places.OfPiece(project.Code, g.CurrentName)
                )),
        ];
    }

    /// <summary>The files of one series, the newest first.</summary>
    public async Task<IReadOnlyList<(string Name, long Size, string Link)>> SeriesAsync(
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
        return files.ConvertAll(f => (f.Path.Name, f.Size, $"{Places.OfPiece(project.Code, name ?? "")}?b={f.Number}"));
    }
}
