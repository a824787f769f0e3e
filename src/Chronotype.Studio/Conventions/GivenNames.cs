using System.Globalization;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Renaming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>A name that something of a piece has.</summary>
/// <param name="SaveId">The version, or the version that a milestone copy is of; null for a current file.</param>
/// <param name="Hand">The initials of who kept the version as they are now; empty for a current file.</param>
/// <param name="Number">The version's.</param>
/// <param name="Alt">The alt that the version is of; empty for the main line.</param>
/// <param name="Day">When it was kept, in the studio's own time.</param>
internal sealed record GivenName(
    NamedThing Thing,
    Piece Piece,
    Guid? SaveId,
    string Name,
    string Hand = "",
    VersionNumber Number = default,
    DateOnly? Day = null,
    string Alt = ""
)
{
    public (NamedThing, Guid, Guid?) Key => (Thing, Piece.Id, SaveId);

    public NameForm Form =>
        Thing switch
        {
            NamedThing.Current => NameForm.Current,
            NamedThing.Version => NameForm.Working,
            NamedThing.MasterCopy => NameForm.Master,
            _ => NameForm.Milestone,
        };

    public RenamedName To(string name) =>
        new()
        {
            ProjectId = Piece.ProjectId,
            PieceId = Piece.Id,
            SaveId = SaveId,
            Thing = Thing,
            From = Name,
            To = name,
        };
}

/// <summary>The names that pieces have, and giving them others, in the records and in the tree.</summary>
internal static class GivenNames
{
    /// <summary>Of each piece: its current file's, its versions' and its milestone copies'.</summary>
    /// <param name="pieces">With their project and its client.</param>
    public static async Task<IReadOnlyList<GivenName>> LoadAsync(
        StudioDb db,
        StudioClock clock,
        IReadOnlyList<Piece> pieces,
        CancellationToken cancel
    )
    {
        var hands = await db.Users.ToDictionaryAsync(p => p.Id, p => p.Initials, cancel);
        var ids = pieces.Select(p => p.Id).ToList();
        var kept = (
            await db
                .Saves.AsNoTracking()
                .Where(s => ids.Contains(s.PieceId) && s.Number != null)
                .OrderBy(s => s.Number)
                .Select(s => new
                {
                    s.Id,
                    s.PieceId,
                    s.ExactName,
                    s.Number,
                    s.KeptById,
                    s.KeptAt,
                    Alt = s.Line.Name,
                    Copy = s.Milestone == null ? null : s.Milestone.ExactName,
                    Master = s.Master == null ? null : s.Master.ExactName,
                    MarkedAt = s.Master == null ? (DateTimeOffset?)null : s.Master.MarkedAt,
                })
                .ToListAsync(cancel)
        ).ToLookup(s => s.PieceId);
        var all = new List<GivenName>();
        foreach (var piece in pieces)
        {
            all.Add(new(NamedThing.Current, piece, null, piece.CurrentName));
            foreach (var version in kept[piece.Id])
            {
                var day = clock.DayOf(version.KeptAt!.Value);
                var hand = version.KeptById is { } by ? hands.GetValueOrDefault(by, "") : "";
                var number = new VersionNumber(version.Number!.Value);
                all.Add(new(NamedThing.Version, piece, version.Id, version.ExactName!, hand, number, day, version.Alt));
                if (version.Copy is { } copy)
                    all.Add(new(NamedThing.MilestoneCopy, piece, version.Id, copy, hand, number, day));
                if (version is { Master: { } master, MarkedAt: { } marked })
                    all.Add(new(NamedThing.MasterCopy, piece, version.Id, master, hand, number, clock.DayOf(marked)));
            }
        }
        return all;
    }

    /// <summary>What a name becomes when its piece is called by something else, stands elsewhere, or both.</summary>
    /// <param name="names">The piece's names as they are to be.</param>
    /// <returns>The name, without its extension for a current file; or what stands in its way.</returns>
    public static (string? Name, RenameObstacle? Obstacle) Become(GivenName given, Convention from, PieceNames names)
    {
        if (given.Thing == NamedThing.Current)
        {
            var (current, wrong) = names.Current();
            return current is null ? (null, Obstacle(given, wrong[0].Message)) : (current.Stem, null);
        }
        if (given.Thing == NamedThing.MasterCopy)
            return (names.Master(given.Number, given.Hand, given.Day!.Value, FileNames.Extension(given.Name)).Name.ToString(), null);
        names = names.On(given.Alt);
        // A name that cannot be read says nothing that is to be kept; what is known of the version says it again.
        var said = from.Grammar.Read(given.Name)?.Values() ?? names.Known(given.Hand, given.Number, given.Day).Values;
        var kept = new Dictionary<string, string>();
        foreach (var slot in names.Convention.Form(given.Form))
        {
            // The same slot has the same label, or is the only one of its kind, whatever it is called.
            var old =
                from.Slots.FirstOrDefault(s => s.Label == slot.Label)
                ?? from.Slots.FirstOrDefault(s => s.Rule.GetType() == slot.Rule.GetType());
            if (old is not null && said.TryGetValue(old.Label, out var value))
                kept[slot.Label] = value == from.Filler ? names.Convention.Filler : value;
            else if (slot.Rule is HandRule && given.Hand.Length > 0)
                kept[slot.Label] = given.Hand;
            else if (slot.Rule is DateRule date && given.Day is { } day)
                kept[slot.Label] = day.ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd", CultureInfo.InvariantCulture);
        }
        var lost = from.Slots.FirstOrDefault(s =>
            // An alt's name stands behind all others where there is no place for it.
            s.Rule
                is VersionRule
                    or MilestoneRule
            && said.GetValueOrDefault(s.Label, "").Length > 0
            && !names.Convention.Form(given.Form).Any(t => t.Rule.GetType() == s.Rule.GetType())
        );
        if (lost is not null)
            return (null, Obstacle(given, $"the names there have no {lost.Label}, which tells versions apart."));
        var (name, faults) = names.Keeping(given.Form, kept, FileNames.Extension(given.Name));
        if (name is null)
            return (null, Obstacle(given, faults[0].Message));
        var text = name.ToString();
        return text.Length > NameGrammar.MaxLength
            ? (null, Obstacle(given, $"it would have {text.Length:N0} characters; file systems take {NameGrammar.MaxLength}."))
            : (text, null);
    }

    private static RenameObstacle Obstacle(GivenName given, string why) => new([given.Name], $"“{given.Name}” has no new name: {why}");

    /// <summary>
    /// Gives names, in the records and in the tree: those of each kind in an order in which each is free when its turn comes, also where
    /// they change places.
    /// </summary>
    /// <param name="names">No two of a kind that become one.</param>
    public static async Task GiveAsync(StudioDb db, ProjectTree tree, IReadOnlyList<RenamedName> names, CancellationToken cancel)
    {
        foreach (var kind in names.GroupBy(n => n.Thing))
        {
            var at = kind.ToDictionary(n => n.From);
            foreach (var (from, to) in RenamePlan.Of(kind.Select(n => new Rename(n.From, n.To)), []).Steps)
            {
                at[to] = at[from];
                await GiveAsync(db, tree, at[from], to, cancel);
            }
        }
    }

    private static async Task GiveAsync(StudioDb db, ProjectTree tree, RenamedName named, string to, CancellationToken cancel)
    {
        var extension = "";
        EntryKind kind;
        switch (named.Thing)
        {
            case NamedThing.Current:
                kind = EntryKind.CurrentFile;
                await db.Pieces.Where(p => p.Id == named.PieceId).ExecuteUpdateAsync(u => u.SetProperty(p => p.CurrentName, to), cancel);
                extension = await db.Pieces.Where(p => p.Id == named.PieceId).Select(p => p.Extension).FirstAsync(cancel);
                await AltFiles.FollowAsync(db, tree, named.PieceId, to + extension, cancel);
                break;
            case NamedThing.Version:
                kind = EntryKind.Version;
                await db.Saves.Where(s => s.Id == named.SaveId).ExecuteUpdateAsync(u => u.SetProperty(s => s.ExactName, to), cancel);
                break;
            case NamedThing.MasterCopy:
                kind = EntryKind.MasterCopy;
                await db.Masters.Where(m => m.SaveId == named.SaveId).ExecuteUpdateAsync(u => u.SetProperty(m => m.ExactName, to), cancel);
                break;
            default:
                kind = EntryKind.MilestoneCopy;
                await db
                    .Milestones.Where(m => m.SaveId == named.SaveId)
                    .ExecuteUpdateAsync(u => u.SetProperty(m => m.ExactName, to), cancel);
                break;
        }
        var entry = await db.Entries.FirstOrDefaultAsync(
            e => e.PieceId == named.PieceId && e.SaveId == named.SaveId && e.Kind == kind,
            cancel
        );
        if (entry is not null)
        {
            var was = entry.Path.Name;
            await tree.TakeAsync(entry, to + extension, cancel);
            if (kind == EntryKind.CurrentFile)
                await PieceCompanions.FollowAsync(db, entry, was, cancel);
        }
        await db.SaveChangesAsync(cancel);
    }
}
