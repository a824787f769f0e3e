using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Shared;

/// <summary>A bar of a card's small strip.</summary>
public sealed record SmallBar(double Height, bool IsMilestone, bool IsNewest);

/// <summary>A piece as a picture with its name and standing.</summary>
/// <param name="Alt">On which of its alts work goes on; empty for its main line.</param>
public sealed record PieceCard(
    Guid Id,
    string Project,
    string ProjectTitle,
    string CurrentName,
    string Extension,
    PieceStanding Standing,
    VersionNumber Next,
    Guid? NewestSave,
    Guid? FaceSave,
    ContentHash? FaceContent,
    FileFormat Format,
    bool Drawn,
    bool IsNewestFaulty,
    bool IsByFace,
    DateTimeOffset LastAt,
    string LastBy,
    long Size,
    IReadOnlyList<SmallBar> Bars,
    string Alt
)
{
    public string Address => Places.OfPiece(Project, CurrentName);

    /// <summary>What the newest save changed since the newest version, in a few words; empty where that is not known.</summary>
    public string Changed { get; init; } = "";

    public string Picture => PreviewAddress.Of(FaceSave!.Value, FaceContent!.Value, 480);

    /// <summary>Whether its picture is a waveform.</summary>
    public bool IsSound => FaceRule.IsSound(Format);

    /// <summary>Whether the piece has a picture of itself, or a waveform: that of its newest save that could be read.</summary>
    public bool HasFace => Drawn && Format is not (FileFormat.Other or FileFormat.Text or FileFormat.Pdf) && FaceSave is not null;
}

/// <summary>Loads cards, for one project or the whole studio.</summary>
public static class PieceCards
{
    private const int Bars = 22;

    public static async Task<IReadOnlyList<PieceCard>> LoadAsync(StudioDb db, IQueryable<Piece> pieces, CancellationToken cancel) =>
        await LoadAsync(db, await pieces.Select(p => p.Id).ToListAsync(cancel), withBars: true, cancel);

    /// <param name="withBars">Whether the last versions are loaded, too, to draw them; without, a card is told by its newest alone.</param>
    public static async Task<IReadOnlyList<PieceCard>> LoadAsync(
        StudioDb db,
        IReadOnlyCollection<Guid> ids,
        bool withBars,
        CancellationToken cancel
    )
    {
        if (ids.Count == 0)
            return [];
        var bars = withBars ? Bars : 0;
        var found = await db.Pieces.AsNoTracking().Where(p => ids.Contains(p.Id)).Include(p => p.Lines).ToListAsync(cancel);
        // Many pieces are of one project, whose convention is a long text.
        var ofProjects = found.Select(p => p.ProjectId).Distinct().ToList();
        var projects = await db
            .Projects.AsNoTracking()
            .Include(p => p.Client)
            .Where(p => ofProjects.Contains(p.Id))
            .ToDictionaryAsync(p => p.Id, cancel);
        // Somebody may have deleted it in this very moment.
        found.RemoveAll(p => !projects.ContainsKey(p.ProjectId));
        foreach (var piece in found)
            piece.Project = projects[piece.ProjectId];
        // Where a piece stands is told by its last versions and by what came loose after the newest, however long its history is.
        var last =
            from line in db.Lines
            where ids.Contains(line.PieceId)
            join save in db.Saves on line.Id equals save.LineId
            where save.Number >= line.HighestNumber - bars
            select save;
        var loose = db.Saves.Where(s =>
            ids.Contains(s.PieceId)
            && s.Number == null
            && s.Aside == null
            // What an alt began with is the version at which it left its line.
            && (s.Line.LeftAt == null || s.BroughtBackFrom != s.Line.LeftAt)
            && s.Sequence
                > db.Saves.Where(v => v.LineId == s.LineId && v.Number == s.Line.HighestNumber).Select(v => v.Sequence).FirstOrDefault()
        );
        var saves = await last.Concat(loose)
            .Select(s => new
            {
                s.Id,
                s.PieceId,
                s.LineId,
                s.Sequence,
                s.Number,
                s.Identity,
                Seen = s.FaceHash ?? s.MainHash,
                IsByFace = s.FaceHash != null,
                s.ArrivedAt,
                s.KeptAt,
                s.Size,
                s.ReceivedName,
                By = s.KeptById ?? s.ArrivedById,
                IsKept = s.Number == null && s.Piece.Saves.Any(v => v.Number != null && v.Identity == s.Identity),
                IsMilestone = s.Milestone != null,
            })
            .ToListAsync(cancel);
        var byPiece = saves.ToLookup(s => s.PieceId);
        var facts = await StatesAsync(db, byPiece.Select(p => p.MaxBy(s => s.Sequence)!.Seen), cancel);
        // Where the newest save cannot be read, or was not yet, the one before it is still the piece's face.
        var unsure = byPiece
            .Where(p => facts.GetValueOrDefault(p.MaxBy(s => s.Sequence)!.Seen).State != FactsState.Read)
            .SelectMany(p => p.Select(s => s.Seen))
            .Where(h => !facts.ContainsKey(h));
        foreach (var (content, known) in await StatesAsync(db, unsure, cancel))
            facts[content] = known;
        var identities = bars == 0 ? [] : saves.Where(s => s.Number is not null).Select(s => s.Identity).Distinct().ToList();
        var changes = (
            await CompareSaves
                .Current(db)
                .Where(c => identities.Contains(c.After))
                .Select(c => new
                {
                    c.Before,
                    c.After,
                    c.Change,
                })
                .ToListAsync(cancel)
        ).ToDictionary(c => (c.Before, c.After), c => c.Change);
        var told = await ChangedAsync(db, withBars ? ids : [], cancel);
        var initials = await db.Users.Select(u => new { u.Id, u.Initials }).ToDictionaryAsync(u => u.Id, u => u.Initials, cancel);
        return found.ConvertAll(piece =>
        {
            var all = byPiece[piece.Id].Where(s => s.LineId == piece.Line.Id).OrderBy(s => s.Sequence).ToList();
            var marks = byPiece[piece.Id]
                .ToLookup(s => s.LineId, s => new SaveMark(s.Sequence, s.Identity, s.ArrivedAt, s.Number, s.IsKept));
            var newest = all.LastOrDefault();
            var face = all.LastOrDefault(s => IsRead(s.Seen)) ?? all.LastOrDefault(s => !IsFaulty(s.Seen)) ?? newest;
            var kept = all.Where(s => s.Number is not null).OrderBy(s => s.Number).ToList();
            return new PieceCard(
                piece.Id,
                piece.Project.Code,
                piece.Project.Title,
                piece.CurrentName,
                piece.Extension,
                PieceStanding.Of(marks[piece.Line.Id], marks.Where(l => l.Key != piece.Line.Id)),
                PieceNames
                    .Of(piece)
                    .On(piece.Line.Name)
                    .Next(piece.Line.HighestNumber, newest is { Number: null } ? newest.ReceivedName : null),
                newest?.Id,
                face?.Id,
                face?.Seen,
                face is null ? FileFormat.Other : facts.GetValueOrDefault(face.Seen).Format,
                face is not null && IsRead(face.Seen),
                newest is not null && IsFaulty(newest.Seen),
                face is { IsByFace: true },
                newest is null ? piece.StartedAt : newest.KeptAt ?? newest.ArrivedAt,
                initials.GetValueOrDefault(newest?.By ?? piece.StartedById, ""),
                newest?.Size ?? 0,
                kept.Select(
                        (s, i) =>
                            new SmallBar(
                                Math.Sqrt(i == 0 ? 1 : changes.GetValueOrDefault((kept[i - 1].Identity, s.Identity)) ?? 0.2),
                                s.IsMilestone,
                                s == kept[^1]
                            )
                    )
                    .Skip(Math.Max(0, kept.Count - Bars))
                    .ToList(),
                piece.Line.Name
            )
            {
                Changed = newest is { Number: null }
                    ? told.GetValueOrDefault((kept.LastOrDefault()?.Identity ?? default, newest.Identity), "")
                    : "",
            };
        });

        bool IsRead(ContentHash content) => facts.TryGetValue(content, out var f) && f.State == FactsState.Read;

        bool IsFaulty(ContentHash content) => facts.TryGetValue(content, out var f) && f.State == FactsState.Faulty;
    }

    private static async Task<Dictionary<(ContentHash Before, ContentHash After), string>> ChangedAsync(
        StudioDb db,
        IReadOnlyCollection<Guid> pieces,
        CancellationToken cancel
    )
    {
        var newest = db.Saves.Where(s => pieces.Contains(s.PieceId) && s.IsCurrent && s.Number == null).Select(s => s.Identity);
        var found = await CompareSaves
            .Current(db)
            .Where(c => newest.Contains(c.After) && c.Digest != null)
            .Select(c => new
            {
                c.Before,
                c.After,
                c.Digest,
            })
            .ToListAsync(cancel);
        return found.ToDictionary(c => (c.Before, c.After), c => ChangeSummary.Of(RecordJson.Read<Comparison>(c.Digest!)));
    }

    private static async Task<Dictionary<ContentHash, (FactsState? State, FileFormat Format)>> StatesAsync(
        StudioDb db,
        IEnumerable<ContentHash> contents,
        CancellationToken cancel
    )
    {
        var wanted = contents.Distinct().ToList();
        if (wanted.Count == 0)
            return [];
        var found = await ContentReader
            .Current(db)
            .Where(f => wanted.Contains(f.Content))
            .Select(f => new
            {
                f.Content,
                f.Format,
                f.State,
            })
            .ToListAsync(cancel);
        return found.ToDictionary(f => f.Content, f => ((FactsState?)f.State, f.Format));
    }
}
