using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>Makes contact sheets of a project's pieces, or of a piece's versions.</summary>
public sealed class ContactSheets(
    Rewriting rewriting,
    Previews previews,
    JobQueue queue,
    IDbContextFactory<StudioDb> contexts,
    StudioClock clock
)
{
    /// <summary>So many are on a sheet at most, the newest.</summary>
    public const int Most = 480;

    /// <summary>Has the pictures drawn that a sheet is to show, which takes a while where there are many.</summary>
    /// <param name="asks">False to hear only how far it is.</param>
    /// <returns>How many there are to be, and how many of them are still being drawn; null where there is nothing for a sheet.</returns>
    public async Task<(int Pictures, int Left)?> DrawAsync(Guid projectId, Guid? pieceId, bool asks, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var seen = await Shown(db, projectId, pieceId).Select(s => new { s.PieceId, Hash = s.FaceHash ?? s.MainHash }).ToListAsync(cancel);
        if (seen.Count == 0)
            return null;
        var missing = seen.DistinctBy(s => s.Hash)
            .Where(s => previews.Known(s.Hash, Side) is null)
            .Select(s => JobRequest.Draw(s.Hash, Side, s.PieceId, priority: JobPriority.Follows))
            .ToList();
        if (asks)
        {
            await queue.AddAsync(missing, cancel: cancel);
            return (seen.Count, missing.Count);
        }
        // One that could not be drawn is not waited for.
        var subjects = missing.Select(m => m.Subject).ToList();
        var left = await db.Jobs.CountAsync(
            j =>
                j.Kind == JobKind.DrawPreview
                && subjects.Contains(j.Subject)
                && j.Error == JobError.None
                && (j.State == JobState.Waiting || j.State == JobState.Running),
            cancel
        );
        return (seen.Count, left);
    }

    private static readonly int Side = Previews.Sides[0];

    private static IQueryable<Save> Shown(StudioDb db, Guid projectId, Guid? pieceId)
    {
        var saves = db.Saves.AsNoTracking().Where(s => s.Piece.ProjectId == projectId);
        return (
            pieceId is { } piece
                ? saves.Where(s => s.PieceId == piece && s.Number != null && s.Line.IsCurrent)
                : saves.Where(s => s.IsCurrent)
        )
            .OrderByDescending(s => s.Sequence)
            .Take(Most);
    }

    /// <summary>Makes a sheet of the pictures that are drawn.</summary>
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
        var hands = await db.Users.ToDictionaryAsync(u => u.Id, u => u.Initials, cancel);
        var shown = await Shown(db, projectId, pieceId)
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
        var (cells, pictures) = (new List<SheetCell>(), new List<string>());
        foreach (var save in ordered)
        {
            int? picture = null;
            if (previews.Known(save.Seen, Side)?.Path is { } path)
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
