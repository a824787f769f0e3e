using System.Globalization;
using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>A piece that names can be shown on: a real one of the studio's where there is one.</summary>
/// <param name="Of">Which piece it is, for people; null for a made-up one.</param>
/// <param name="Values">By label, what it is called by.</param>
public sealed record ExamplePiece(
    string? Of,
    string Client,
    string Project,
    IReadOnlyDictionary<string, string> Values,
    string Hand,
    int Version,
    int Milestone,
    DateOnly Day,
    string Extension
)
{
    /// <summary>The piece that was kept last, or a made-up one in a studio without any.</summary>
    public static async Task<ExamplePiece> LoadAsync(StudioDb db, string hand, DateOnly today, CancellationToken cancel = default)
    {
        var newest = await db
            .Saves.Where(s => s.Number != null && db.Pieces.Any(p => p.Id == s.PieceId))
            .OrderByDescending(s => s.KeptAt)
            .Select(s => new
            {
                s.PieceId,
                s.Number,
                s.KeptById,
                s.KeptAt,
            })
            .FirstOrDefaultAsync(cancel);
        if (newest is null)
            return new(
                null,
                "SMT",
                "TIDES",
                new Dictionary<string, string> { ["subject"] = "tide-poster", ["function"] = "key" },
                hand,
                14,
                2,
                today,
                ".ora"
            );
        var piece = await db
            .Pieces.AsNoTracking()
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstAsync(p => p.Id == newest.PieceId, cancel);
        var kept = await db.Users.Where(p => p.Id == newest.KeptById).Select(p => p.Initials).FirstOrDefaultAsync(cancel) ?? hand;
        return new(
            $"{piece.CurrentName}, in {piece.Project.Code}",
            piece.Project.Client.Code,
            piece.Project.Code,
            PieceNames.SlotsOf(piece),
            kept,
            newest.Number!.Value,
            Math.Max(1, piece.HighestMilestone),
            today,
            piece.Extension
        );
    }

    /// <summary>Its name in a form; null where a slot can hold nothing that is known of it.</summary>
    public FormattedName? Name(Convention convention, NameForm form)
    {
        var values = convention.Form(form).ToDictionary(s => s.Label, s => Value(convention, s, form));
        return convention.Format(form, values, form == NameForm.Folder ? "" : Extension).Name;
    }

    private string Value(Convention convention, Slot slot, NameForm form)
    {
        var value = slot.Rule switch
        {
            CodeRule { List: ConventionStore.ClientList } => Client,
            CodeRule { List: ConventionStore.ProjectList } => Project,
            HandRule => Hand,
            VersionRule => Version.ToString(CultureInfo.InvariantCulture),
            MilestoneRule => Milestone.ToString(CultureInfo.InvariantCulture),
            DateRule date => Day.ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd", CultureInfo.InvariantCulture),
            LineRule => "",
            // A state marks the form that is for it.
            StateRule state => form is NameForm.Current or NameForm.Working or NameForm.Milestone ? "" : state.Mark,
            _ => Values.GetValueOrDefault(slot.Label, ""),
        };
        if (value.Length > 0 || slot.MayBeAbsent)
            return Fits(convention, slot, value) ? value : convention.Filler;
        if (slot.Rule is CodeRule rule && convention.Lists.GetValueOrDefault(rule.List)?.Codes is [var first, ..])
            return first.Code;
        return slot.Rule switch
        {
            WordsRule => slot.Label,
            SizeRule => "a2",
            CountRule count => count.Step.ToString(CultureInfo.InvariantCulture),
            CodeRule => convention.Filler.Length > 0 ? convention.Filler : "abc",
            _ => convention.Filler,
        };
    }

    private static bool Fits(Convention convention, Slot slot, string value) =>
        value.Length == 0
        || (
            slot.Rule.Write(slot.Label, value).Text is { } text
            && (slot.Rule is not CodeRule rule || convention.Lists.GetValueOrDefault(rule.List)?.Has(text) != false)
        );
}
