using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

// The save that is shown, and the one that it is compared with.
public sealed partial class PieceView
{
    private async Task LoadShownAsync(CancellationToken cancel)
    {
        var b = Find(Asked.B) ?? Current;
        if (b is null)
            return;
        B = await ShowAsync(b, cancel);
        if (b.Number is { } kept)
            MasterName = Names
                .Master(
                    new VersionNumber(kept),
                    b.KeptBy ?? "",
                    DateOnly.FromDateTime(Now.DateTime),
                    FileNames.Extension(B.Record.ExactName!)
                )
                .Name.ToString();
        Outputs = await PieceOutputs.OfAsync(db, Piece.Id, cancel);
        if (B.Facts?.References.Count > 0)
            References = await new PieceReferences(db).OfAsync(Piece, b.Id, cancel);
        if ((Find(Asked.A) ?? await FindElsewhereAsync(cancel)) is { } a && a.Id != b.Id)
            A = await ShowAsync(a, cancel);
        Against =
            A?.Row
            ?? Saves
                .Where(s => s.Number is not null && s.Id != b.Id && (b.Number is { } n ? s.Number < n : s.Sequence < b.Sequence))
                .MaxBy(s => s.Number)
            ?? await LeftAtAsync(cancel);
        if (Against is null || Against.Id == b.Id)
            return;
        Comparison = await CompareSaves.KnownAsync(db, Against.Identity, b.Identity, cancel);
        if (References.Count > 0 || A?.Facts?.References.Count > 0)
            Seen = await SeenChanges.BetweenAsync(db, Against.Id, b.Id, cancel);
    }

    // An alt's first version changed what the version held at which it left.
    private async Task<SaveRow?> LeftAtAsync(CancellationToken cancel)
    {
        if (Line.LeftAt is null)
            return null;
        var rows = await new SaveRows(db, clock).LoadAsync(
            db.Saves.Where(s => s.LineId == Line.LeftLineId && s.Number == Line.LeftAt),
            cancel
        );
        return rows.Count == 0
            ? null
            : rows[0] with
            {
                Elsewhere = Piece.Lines.Find(l => l.Id == Line.LeftLineId) is { } from ? OtherLine.NameOf(from) : "line",
            };
    }

    // A save of another piece is asked for by its own key.
    private async Task<SaveRow?> FindElsewhereAsync(CancellationToken cancel)
    {
        if (!Guid.TryParse(Asked.A, out var id))
            return null;
        var rows = await new SaveRows(db, clock).LoadAsync(db.Saves.Where(s => s.Id == id), cancel);
        var piece = await db
            .Saves.Where(s => s.Id == id)
            .Join(db.Pieces, s => s.PieceId, p => p.Id, (s, p) => p.CurrentName)
            .FirstOrDefaultAsync(cancel);
        if (rows.Count == 0 || piece is null)
            return null;
        var line = OtherLines.FirstOrDefault(l => l.Versions.Any(v => v.Save == id));
        return rows[0] with { Elsewhere = line?.Called ?? piece };
    }

    private SaveRow? Find(string? key) => key is null ? null : Saves.Concat(Beside).FirstOrDefault(s => s.Key == key);

    private async Task<ShownSave> ShowAsync(SaveRow row, CancellationToken cancel)
    {
        var record = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Faces)
            .Include(s => s.Companions)
            .AsSplitQuery()
            .Include(s => s.Milestone)
            .Include(s => s.Master)
            .FirstAsync(s => s.Id == row.Id, cancel);
        var facts = await ContentReader.KnownAsync(db, record.SeenHash, cancel);
        var pages = facts?.Document?.Pages ?? Math.Min(facts?.Picture?.Pages ?? 1, Previews.MostPages);
        return new ShownSave(row, record, facts, Math.Clamp(Asked.Page, 1, pages) - 1);
    }
}
