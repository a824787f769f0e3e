using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

// How its files stand on the share.
public sealed partial class PieceView
{
    /// <summary>Where the alt that is looked at stands as a file of its own; null where it has none, and for the main line.</summary>
    public ProjectPath? AltFile { get; private set; }

    /// <summary>Since when its current file is off the share, as a program deleted or moved it; null where it stands there.</summary>
    public SharedFile? OffShare { get; private set; }

    /// <summary>Whose programs hold a lock on its current file on the share, so that it may be open there; none for nobody's.</summary>
    public IReadOnlyList<string> OpenBy { get; private set; } = [];

    /// <summary>Looks which programs say that they have its file open.</summary>
    public async Task LoadLocksAsync(ShareLocks locks, CancellationToken cancel)
    {
        var paths = await db
            .Entries.Where(e => e.PieceId == Piece.Id && e.DeletedAt == null)
            .Where(e => e.Kind == EntryKind.CurrentFile || e.Kind == EntryKind.AltFile)
            .Select(e => e.Path)
            .ToListAsync(cancel);
        var held = paths.SelectMany(p => locks.OfAll(Piece.ProjectId, p)).ToList();
        if (held.Count == 0)
            return;
        var people = held.Select(l => l.PersonId).ToList();
        OpenBy = await db.Users.Where(u => people.Contains(u.Id)).OrderBy(u => u.Initials).Select(u => u.Initials).ToListAsync(cancel);
    }
}
