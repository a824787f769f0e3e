using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Uploads;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Shared;

/// <summary>A bar of a card's small strip.</summary>
public sealed record SmallBar(double Height, bool IsMilestone, bool IsNewest);

/// <summary>A piece as a picture with its name and standing.</summary>
public sealed record PieceCard(
    Guid Id,
    string Project,
    string ProjectTitle,
    string CurrentName,
    string Extension,
    PieceStanding Standing,
    VersionNumber Next,
    Guid? NewestSave,
    ContentHash? NewestContent,
    bool NewestIsLoose,
    FileFormat Format,
    bool Drawn,
    DateTimeOffset LastAt,
    string LastBy,
    long Size,
    IReadOnlyList<SmallBar> Bars
)
{
    public string Address => $"/projects/{Uri.EscapeDataString(Project)}/{Uri.EscapeDataString(CurrentName)}";

    public string Picture => PreviewAddress.Of(NewestSave!.Value, NewestContent!.Value, 480);

    /// <summary>Whether the piece has a picture of itself, or a waveform.</summary>
    public bool HasFace => Drawn && Format != FileFormat.Other && NewestSave is not null;
}

/// <summary>Loads cards, for one project or the whole studio.</summary>
public static class PieceCards
{
    private const int Bars = 22;

    /// <summary>Those of some pieces that have a save after their newest version whose content no version holds.</summary>
    public static IQueryable<Piece> AtRisk(IQueryable<Piece> pieces) =>
        pieces.Where(p =>
            p.Saves.Any(s =>
                s.Number == null
                && s.Sequence
                    > p.Saves.Where(v => v.LineId == s.LineId && v.Number == s.Line.HighestNumber).Select(v => v.Sequence).FirstOrDefault()
                && !p.Saves.Any(v => v.Number != null && v.Identity == s.Identity)
            )
        );

    public static async Task<IReadOnlyList<PieceCard>> LoadAsync(StudioDb db, IQueryable<Piece> pieces, CancellationToken cancel)
    {
        var found = await pieces
            .AsNoTracking()
            .Include(p => p.Lines)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .ToListAsync(cancel);
        // Where a piece stands is told by its last versions and by what came loose after the newest, however long its history is.
        var saves = await db
            .Saves.AsNoTracking()
            .Where(s =>
                pieces.Any(p => p.Id == s.PieceId)
                && (
                    s.Number >= s.Line.HighestNumber - Bars
                    || (
                        s.Number == null
                        && s.Sequence
                            > s.Piece.Saves.Where(v => v.LineId == s.LineId && v.Number == s.Line.HighestNumber)
                                .Select(v => v.Sequence)
                                .FirstOrDefault()
                    )
                )
            )
            .Select(s => new
            {
                s.Id,
                s.PieceId,
                s.Sequence,
                s.Number,
                s.Identity,
                s.MainHash,
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
        var newestContents = byPiece.Select(p => p.MaxBy(s => s.Sequence)!.MainHash).Distinct().ToList();
        var facts = (
            await ContentReader
                .Current(db)
                .Where(f => newestContents.Contains(f.Content))
                .Select(f => new
                {
                    f.Content,
                    f.Format,
                    f.State,
                })
                .ToListAsync(cancel)
        ).ToDictionary(f => f.Content);
        var identities = saves.Where(s => s.Number is not null).Select(s => s.Identity).Distinct().ToList();
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
        var initials = await db.Users.ToDictionaryAsync(u => u.Id, u => u.Initials, cancel);
        return found.ConvertAll(piece =>
        {
            var all = byPiece[piece.Id].OrderBy(s => s.Sequence).ToList();
            var newest = all.LastOrDefault();
            var kept = all.Where(s => s.Number is not null).OrderBy(s => s.Number).ToList();
            var known = newest is null ? null : facts.GetValueOrDefault(newest.MainHash);
            return new PieceCard(
                piece.Id,
                piece.Project.Code,
                piece.Project.Title,
                piece.CurrentName,
                piece.Extension,
                PieceStanding.Of(all.Select(s => new SaveMark(s.Sequence, s.Identity, s.ArrivedAt, s.Number, s.IsKept))),
                PieceNames.Of(piece).Next(piece.Line.HighestNumber, newest is { Number: null } ? newest.ReceivedName : null),
                newest?.Id,
                newest?.MainHash,
                newest is { Number: null },
                known?.Format ?? FileFormat.Other,
                known?.State == FactsState.Read,
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
                    .ToList()
            );
        });
    }
}
