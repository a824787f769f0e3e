using Chronotype.Storage;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Adds or mends the note of a version. A version's content never changes; its note may.</summary>
public sealed class WriteNote(StudioDb db)
{
    /// <returns>False when there is no such version.</returns>
    public async Task<bool> DoAsync(Guid saveId, string? note, CancellationToken cancel = default)
    {
        var clean = Clean(note);
        return await db.Saves.Where(s => s.Id == saveId && s.Number != null)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.Note, clean), cancel) == 1;
    }

    /// <summary>Cleaned, at most <see cref="KeepSave.MaxNote"/> characters; null when nothing is left.</summary>
    public static string? Clean(string? note)
    {
        var text = TypedText.Cut(TypedText.Lines(note), KeepSave.MaxNote);
        return text.Length == 0 ? null : text;
    }
}
