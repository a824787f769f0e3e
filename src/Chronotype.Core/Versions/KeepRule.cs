using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>When a piece's saves take a number.</summary>
public enum KeepSetting
{
    /// <summary>When a person says so.</summary>
    WhenAsked,

    /// <summary>At every save that changed something.</summary>
    EveryChange,

    /// <summary>Once a sitting, with the sitting's last save.</summary>
    OncePerSitting,
}

/// <summary>A version already on the line, as far as the rule needs it.</summary>
public sealed record KeptContent(VersionNumber Number, ContentHash Identity, ContentHash? Inside);

/// <summary>The answer to "may this save take a number?".</summary>
public abstract record KeepVerdict
{
    /// <param name="Number">The number that it takes.</param>
    /// <param name="NewerThanBase">The newest version, when the save was based on an older one.</param>
    public sealed record Keep(VersionNumber Number, VersionNumber? NewerThanBase) : KeepVerdict;

    /// <summary>
    /// Equal, or equal inside, to a version. Numbered only when the person insists, and never when it is the newest, byte for byte.
    /// </summary>
    public sealed record Same(VersionNumber As, bool InsideOnly, bool MayInsist) : KeepVerdict;

    /// <summary>Something speaks against it; it waits for a person's answer.</summary>
    public sealed record Question(IReadOnlyList<SaveDoubt> Doubts) : KeepVerdict;
}

/// <summary>Decides whether a save takes a number, and which. The rules are those of the job; nothing is stored here.</summary>
public static class KeepRule
{
    /// <summary>How far above the highest a number written by hand may lie; a date or a year in its place is no number.</summary>
    public const int FarthestByHand = 1000;

    /// <summary>
    /// The number that a keep gives: the next, or the one that a person wrote into the file's name, above the highest ever used.
    /// </summary>
    public static VersionNumber Number(VersionNumber? highest, int start, VersionNumber? byHand)
    {
        var next = VersionNumber.Next(highest, start);
        return byHand is { } hand && hand >= next && hand.Value - next.Value < FarthestByHand ? hand : next;
    }

    /// <param name="identity">The save's content.</param>
    /// <param name="inside">What is inside it, where that can be told.</param>
    /// <param name="basedOn">The version the save began from; null when there was none.</param>
    /// <param name="line">Every version of the line that still has content, in any order.</param>
    /// <param name="highest">The highest number ever used on the line.</param>
    /// <param name="start">The line's first number.</param>
    /// <param name="byHand">The number in the name that the file came under; null where there is none.</param>
    /// <param name="doubts">What speaks against the save.</param>
    /// <param name="insist">The person has seen the objection and wants the number all the same.</param>
    public static KeepVerdict Decide(
        ContentHash identity,
        ContentHash? inside,
        VersionNumber? basedOn,
        IReadOnlyCollection<KeptContent> line,
        VersionNumber? highest,
        int start,
        VersionNumber? byHand,
        IReadOnlyList<SaveDoubt> doubts,
        bool insist
    )
    {
        var newest = line.MaxBy(v => v.Number);
        var equal = line.Where(v => v.Identity == identity).MaxBy(v => v.Number);
        if (equal is not null && equal == newest)
            return new KeepVerdict.Same(equal.Number, false, MayInsist: false);
        if (!insist)
        {
            // The inside of the newest is asked before older equals: "nothing changed" is the nearer truth.
            if (inside is not null && newest?.Inside == inside)
                return new KeepVerdict.Same(newest.Number, true, MayInsist: true);
            if (equal is not null)
                return new KeepVerdict.Same(equal.Number, false, MayInsist: true);
            var alike = inside is null ? null : line.Where(v => v.Inside == inside).MaxBy(v => v.Number);
            if (alike is not null)
                return new KeepVerdict.Same(alike.Number, true, MayInsist: true);
            if (doubts.Count > 0)
                return new KeepVerdict.Question(doubts);
        }
        var behind = newest is not null && basedOn is { } b && b < newest.Number;
        return new KeepVerdict.Keep(Number(highest, start, byHand), behind ? newest!.Number : null);
    }
}
