using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>What a piece is called by, as it is typed and as it is recorded.</summary>
public static class PieceSlots
{
    /// <summary>The longest value of a slot that is read at all, in characters; what stands in a name is shorter.</summary>
    public const int MaxValue = 1000;

    /// <summary>As much of a value as is read at all.</summary>
    public static string Bounded(string value) => TypedText.Cut(TypedText.Line(value), MaxValue);

    /// <summary>By label, what records hold for what was typed; what was left out stays out.</summary>
    internal static async Task<(IReadOnlyDictionary<string, string> Written, Refusal? Refusal)> WriteAsync(
        StudioDb db,
        Convention convention,
        IReadOnlyDictionary<string, string> slots,
        CancellationToken cancel
    )
    {
        var written = new Dictionary<string, string>();
        foreach (var slot in ConventionStore.OwnSlots(convention))
        {
            var value = Bounded(slots.GetValueOrDefault(slot.Label, ""));
            if (value.Length == 0)
                continue;
            if (value == convention.Filler)
            {
                written[slot.Label] = value;
                continue;
            }
            if (slot.Rule is CodeRule { List: var list } && !await db.Codes.AnyAsync(c => c.List == list && c.Code == value, cancel))
                return (written, new Refusal.SlotNeedsListedCode(slot.Label));
            var (text, fault, _) = slot.Rule.Write(slot.Label, value);
            if (text is null)
                return (written, new Refusal.SlotNotLegal(slot.Label, fault!));
            written[slot.Label] = slot.Rule.Read(text);
        }
        return (written, null);
    }
}
