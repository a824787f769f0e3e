using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Lines;

/// <summary>An alt that was begun.</summary>
/// <param name="First">Its first save, with the content of the version at which it left its line.</param>
public sealed record BegunAlt(Piece Piece, Line Alt, Save First);

/// <summary>
/// Begins an alt at a version, to try something: either the line is left and work goes on there, or a copy is set aside and work stays where
/// it is. Nothing of the line that it leaves changes.
/// </summary>
public sealed class LeaveLine(DeedRunner deeds)
{
    /// <summary>The longest name of an alt, in characters, where the convention does not say otherwise.</summary>
    public const int MostCharacters = 20;

    /// <param name="pieceId">The piece that the version is of.</param>
    /// <param name="saveId">The version, of any line.</param>
    /// <param name="name">What the alt is called; it stands in the names of its versions.</param>
    /// <param name="goesOn">Work goes on there: the current file is the alt's from now on. Else it stays where it is.</param>
    public Task<Outcome<BegunAlt>> DoAsync(
        Actor actor,
        Guid pieceId,
        Guid saveId,
        string name,
        bool goesOn,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<BegunAlt>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                var version = await db
                    .Saves.Include(s => s.Files)
                    .Include(s => s.Faces)
                    .AsSplitQuery()
                    .Include(s => s.Piece)
                        .ThenInclude(p => p.Lines)
                    .Include(s => s.Piece)
                        .ThenInclude(p => p.Project)
                    .FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId, cancel);
                if (version is null)
                    return new Refusal.NoSuchSave();
                if (version.Number is not { } number)
                    return new Refusal.LeavesAtVersion();
                var piece = version.Piece;
                var called = NameOf(piece, name);
                if (called.Length == 0)
                    return new Refusal.AltNameNotLegal();
                if (await db.Lines.WithDeleted().FirstOrDefaultAsync(l => l.PieceId == pieceId && l.Name == called, cancel) is { } taken)
                    return new Refusal.AltNameTaken(
                        called,
                        taken.DroppedAt is not null && await db.Saves.WithDeleted().AnyAsync(s => s.LineId == taken.Id, cancel)
                    );
                var alt = new Line
                {
                    PieceId = pieceId,
                    Name = called,
                    LeftLineId = version.LineId,
                    LeftAt = number,
                    StartedAt = deed.Now,
                    StartedById = deed.Actor.PersonId,
                };
                db.Lines.Add(alt);
                await db.SaveChangesAsync(cancel);
                var first = await BringBack.OnTopOfAsync(deed, piece, version, cancel, line: alt);
                first.BroughtBackFrom = number;
                if (goesOn)
                    await GoOnAsync(deed, piece, alt, cancel);
                return new BegunAlt(piece, alt, first);
            },
            cancel
        );

    /// <summary>A name as an alt has it: small letters, words joined as the convention of the project joins them.</summary>
    /// <returns>Empty where nothing of it can stand in a name.</returns>
    public static string NameOf(Piece piece, string typed)
    {
        var rule =
            ConventionStore.Read(piece.Project.Convention).Slots.Select(s => s.Rule).OfType<LineRule>().FirstOrDefault()
            ?? new LineRule(MostCharacters);
        return rule.Write("alt", TypedText.Line(typed)).Text ?? "";
    }

    /// <summary>Has work go on on another line: the current file is that line's.</summary>
    internal static async Task GoOnAsync(Deed deed, Piece piece, Line line, CancellationToken cancel)
    {
        // One at a time, as the records allow only one.
        foreach (var other in piece.Lines.Where(l => l.IsCurrent && l != line))
            other.IsCurrent = false;
        await deed.Db.SaveChangesAsync(cancel);
        line.IsCurrent = true;
        piece.PutAwayAt = null;
        await deed.Db.SaveChangesAsync(cancel);
        await FileLinks.OfPieceAsync(deed.Db, piece.Id, piece.ProjectId, cancel);
    }
}
