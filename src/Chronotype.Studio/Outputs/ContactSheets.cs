using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>Makes contact sheets of a project's pieces, or of a piece's versions.</summary>
public sealed class ContactSheets(Rewriting rewriting, Previews previews, IDbContextFactory<StudioDb> contexts, StudioClock clock)
{
    /// <summary>So many are on a sheet at most, the newest.</summary>
    public const int Most = 480;

    private const int AtOnce = 8;

    /// <param name="projectId">The project.</param>
    /// <param name="pieceId">Of its versions; null for the project's pieces, each by its newest save.</param>
    /// <returns>The sheet, with what it is called; null where there is nothing on it.</returns>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<(MadeFile File, string Name)?> MakeAsync(Guid projectId, Guid? pieceId, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var project = await db.Projects.AsNoTracking().FirstOrDefaultAsync(p => p.Id == projectId, cancel);
        if (project is null)
            return null;
        var saves = db.Saves.AsNoTracking().Where(s => s.Piece.ProjectId == projectId);
        saves = pieceId is { } piece
            ? saves.Where(s => s.PieceId == piece && s.Number != null && s.Line.IsCurrent)
            : saves.Where(s => s.IsCurrent);
        var hands = await db.Users.ToDictionaryAsync(u => u.Id, u => u.Initials, cancel);
        var shown = await saves
            .OrderByDescending(s => s.Sequence)
            .Take(Most)
            .Select(s => new
            {
                s.PieceId,
                s.Piece.CurrentName,
                s.ExactName,
                s.Number,
                s.Sequence,
                s.KeptAt,
                s.ArrivedAt,
                By = s.KeptById ?? s.ArrivedById,
                s.Note,
                Seen = s.FaceHash ?? s.MainHash,
            })
            .ToListAsync(cancel);
        if (shown.Count == 0)
            return null;
        var ordered = pieceId is null
            ? shown.OrderBy(s => s.CurrentName, StringComparer.Ordinal).ToList()
            : [.. shown.OrderBy(s => s.Sequence)];
        // Missing previews are drawn now, several at a time.
        var drawn = new string?[ordered.Count];
        await Parallel.ForEachAsync(
            ordered.Index(),
            new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = cancel },
            async (save, stop) =>
                drawn[save.Index] = (await previews.GetAsync(save.Item.Seen, save.Item.PieceId, Previews.Sides[0], 0, stop)).Path
        );
        var (cells, pictures) = (new List<SheetCell>(), new List<string>());
        foreach (var (i, save) in ordered.Index())
        {
            int? picture = null;
            if (drawn[i] is { } path)
            {
                picture = pictures.Count;
                pictures.Add(path);
            }
            var when = clock.At(save.KeptAt ?? save.ArrivedAt);
            var number = save.Number is { } n ? new VersionNumber(n).ToString() : "loose";
            cells.Add(
                new(
                    pieceId is null ? save.CurrentName : save.ExactName!,
                    FormattableString.Invariant($"{number}, {when:d MMM yyyy HH:mm}, {hands.GetValueOrDefault(save.By, "")}")
                        + (save.Note is { } note ? $". {note}" : ""),
                    picture
                )
            );
        }
        var of = pieceId is null ? $"{project.Code}, {project.Title}" : ordered[0].CurrentName;
        var sheet = new ContactSheet(
            of,
            FormattableString.Invariant($"{cells.Count} {(pieceId is null ? "pieces" : "versions")}, {clock.Now:d MMM yyyy}"),
            cells
        );
        var (made, fault) = await rewriting.MakeAsync(
            new ReaderJob { Kind = ReaderJobKind.Sheet, Sheet = sheet },
            () => [.. pictures.Select(File.OpenRead)],
            cancel
        );
        var name = $"{(pieceId is null ? project.Code : ordered[0].CurrentName)}_contact-sheet.pdf";
        return made is null ? throw new IOException($"The contact sheet could not be made ({fault?.Code}).") : (made, name);
    }
}
