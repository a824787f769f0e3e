using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Adds or mends the note of a version. A version's content never changes; its note may.</summary>
public sealed class WriteNote(DeedRunner deeds)
{
    /// <param name="pieceId">The piece that the version is of.</param>
    public Task<Outcome<Done>> DoAsync(Actor actor, Guid pieceId, Guid saveId, string? note, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                var clean = Clean(note);
                return
                    await deed
                        .Db.Saves.Where(s => s.Id == saveId && s.PieceId == pieceId && s.Number != null)
                        .ExecuteUpdateAsync(u => u.SetProperty(s => s.Note, clean), cancel) == 1
                    ? Done.It
                    : new Refusal.NoSuchSave();
            },
            cancel
        );

    /// <summary>Cleaned, at most <see cref="KeepSave.MaxNote"/> characters; null when nothing is left.</summary>
    public static string? Clean(string? note)
    {
        var text = TypedText.Cut(TypedText.Lines(note), KeepSave.MaxNote);
        return text.Length == 0 ? null : text;
    }
}
