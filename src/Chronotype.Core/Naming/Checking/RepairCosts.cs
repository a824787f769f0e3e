namespace Chronotype.Core.Naming.Checking;

/// <summary>
/// What each step of a repair costs. A repair's cost is the least sum of steps that turn the name into it; what a step may do is
/// said in <c>docs/conventions.md</c>. Small whole numbers, so that two repairs that are equally good are seen to be.
/// </summary>
public static class RepairCosts
{
    /// <summary>A letter in the other case; an accent left out; another mark than the convention's.</summary>
    public const int Case = 1,
        Accent = 1,
        OtherMark = 1;

    /// <summary>The words between two marks folded as a whole.</summary>
    public const int Fold = 3;

    /// <summary>A number written in its width or with its lead; a date in the convention's order.</summary>
    public const int Rewrite = 1;

    /// <summary>
    /// What is left out: a copy mark, a word before a number, a date, a character that cannot be seen, a separator, any other.
    /// </summary>
    public const int CopyMark = 1,
        NumberWord = 1,
        Date = 2,
        Unseen = 1,
        Separator = 1,
        Character = 2;

    /// <summary>A separator left out between two letters or digits, so that two words become one.</summary>
    public const int Glue = 2;

    /// <summary>A whole part of the name left out.</summary>
    public const int Part = 6;

    /// <summary>A mark put in: where something ends in the name, or in the middle of a word.</summary>
    public const int Join = 1,
        JoinWithin = 3;

    /// <summary>A letter of a listed code put in or changed.</summary>
    public const int Letter = 3;

    /// <summary>Two neighbouring letters of a listed code that stand the wrong way round.</summary>
    public const int Transposed = 2;

    /// <summary>A part moved to where it belongs, in two halves: taken out and put in.</summary>
    public const int MoveHalf = 2;

    /// <summary>Two parts that change places.</summary>
    public const int Exchange = 4;

    /// <summary>A missing slot filled with what is known, or left open under the filler.</summary>
    public const int Known = 2,
        Open = 5;

    /// <summary>
    /// A part replaced: by the code that it means, by what is known, by the filler; words that are too long, cut at a word's end.
    /// </summary>
    public const int Meaning = 2,
        KnownInstead = 6,
        OpenInstead = 8,
        Shorten = 3;
}
