namespace Chronotype.Core.Naming;

/// <summary>What one slot of a name may hold. Each rule writes a value as it stands in a name, and reads it back.</summary>
public abstract record SlotRule
{
    /// <summary>The kind's word in a convention file and on screens.</summary>
    public abstract string Kind { get; }

    /// <summary>Whether a name of the form may lack the slot by the nature of its kind: no line on the main line, no state mark.</summary>
    public virtual bool MayBeAbsent => false;

    /// <summary>Writes <paramref name="value"/> as it stands in a name, or says why it cannot stand there.</summary>
    /// <returns>The text (never empty) and no fault, or no text and a sentence that begins with the slot's label.</returns>
    public abstract SlotText Write(string label, string value);

    /// <summary>The value of a text that <see cref="Write"/> wrote: the inverse, so that writing it again gives the same text.</summary>
    public virtual string Read(string text) => text;

    /// <summary>What the slot may hold, to end the sentence "It may hold …".</summary>
    public abstract string Holds { get; }
}

/// <summary>The text of one slot, or the sentence that says what is wrong with its value.</summary>
/// <param name="Text">Null where the value cannot stand.</param>
/// <param name="Fault">Null where it can.</param>
/// <param name="Cut">How many characters the slot has room for, where words of the value were left out for want of it; else 0.</param>
public readonly record struct SlotText(string? Text, string? Fault, int Cut = 0)
{
    /// <summary>A text that may stand.</summary>
    public static SlotText Of(string text) => new(text, null);

    /// <summary>What is wrong with a value.</summary>
    public static SlotText Wrong(string fault) => new(null, fault);
}

/// <summary>One of a list of codes that the studio keeps, such as its clients or the functions of its pieces.</summary>
/// <param name="List">The list's name. Whether a code is on it is for the convention to say, which holds the lists.</param>
public sealed record CodeRule(string List) : SlotRule
{
    /// <summary>The longest code, in characters.</summary>
    public const int MaxLength = 16;

    /// <inheritdoc />
    public override string Kind => "code";

    /// <inheritdoc />
    public override string Holds => $"a code of the list {List}";

    /// <summary>1 to 16 ASCII letters and digits, with single hyphens inside.</summary>
    public static bool IsCode(string value) =>
        value.Length is >= 1 and <= MaxLength
        && value.All(c => char.IsAsciiLetterOrDigit(c) || c == '-')
        && value[0] != '-'
        && value[^1] != '-'
        && !value.Contains("--", StringComparison.Ordinal);

    /// <inheritdoc />
    public override SlotText Write(string label, string value) =>
        IsCode(value)
            ? SlotText.Of(value)
            : SlotText.Wrong($"The {label} is a code of 1 to {MaxLength} letters and digits, without accents, spaces or marks.");
}

/// <summary>The case that free words are folded to.</summary>
public enum WordCase
{
    /// <summary>Small letters throughout.</summary>
    Lower,

    /// <summary>Capitals throughout.</summary>
    Upper,

    /// <summary>Each word begins with a capital or a digit.</summary>
    Title,
}

/// <summary>Free words, folded to plain letters of one case and joined by a mark of their own.</summary>
/// <param name="MaxLength">The most characters that stand in a name, 1 to 100; longer words are cut at a word's end.</param>
/// <param name="Joiner">Stands between two words: <c>-</c>, <c>_</c>, <c>.</c> or none.</param>
/// <param name="Case">How the letters are written.</param>
/// <param name="Letters">The scripts whose letters stand as they are; all others are folded to plain ones or left out.</param>
public sealed record WordsRule(int MaxLength = 40, string Joiner = "-", WordCase Case = WordCase.Lower, Scripts Letters = Scripts.None)
    : SlotRule
{
    /// <inheritdoc />
    public override string Kind => "words";

    /// <inheritdoc />
    public override string Holds =>
        (Case, Joiner) switch
        {
            (WordCase.Lower, _) => "lower-case letters and digits",
            (WordCase.Upper, _) => "capitals and digits",
            _ => "words that begin with a capital",
        }
        + (Letters == Scripts.None ? "" : $" of {WordLetters.Told(Letters)}")
        + (Joiner.Length == 0 ? " run together" : $" with “{Joiner}” between words")
        + $", at most {MaxLength} characters";

    /// <inheritdoc />
    public override SlotText Write(string label, string value)
    {
        // Capitals are all that tells words apart that run together, so what has them already is left as it is.
        var isWritten =
            Case == WordCase.Title
            && Joiner.Length == 0
            && value.Length > 0
            && value.Length <= MaxLength
            && value.All(c => char.IsAsciiLetterOrDigit(c) || WordLetters.IsOf(Letters, c))
            && WordLetters.Upper(value[0]) == value[0];
        var isCut = false;
        var folded = isWritten ? value : Words.Fold(value, Joiner, MaxLength, Case, Letters, out isCut);
        return folded.Length == 0 ? SlotText.Wrong(NeedsLetter(label, value, Letters))
            : isCut ? SlotText.Of(folded) with { Cut = MaxLength }
            : SlotText.Of(folded);
    }

    private static string NeedsLetter(string label, string value, Scripts scripts)
    {
        var letters = scripts == Scripts.None ? "plain letters, a to z" : $"letters of {WordLetters.Told(scripts)}";
        return value.Any(char.IsLetter)
            ? $"The {label} is written in {letters}; the convention can allow those of other scripts."
            : $"The {label} needs at least one letter or digit.";
    }
}

/// <summary>The name of an alt; the main line has none, so that no two lines ever share a name.</summary>
/// <param name="MaxLength">The most characters, 1 to 100.</param>
/// <param name="Joiner">Stands between two words, as in <see cref="WordsRule"/>.</param>
public sealed record LineRule(int MaxLength = 20, string Joiner = "-") : SlotRule
{
    /// <inheritdoc />
    public override string Kind => "line";

    /// <inheritdoc />
    public override bool MayBeAbsent => true;

    /// <inheritdoc />
    public override string Holds => $"the alt's name in lower case, at most {MaxLength} characters, or nothing on the main line";

    /// <inheritdoc />
    public override SlotText Write(string label, string value)
    {
        var folded = Words.Fold(value, Joiner, MaxLength, WordCase.Lower, Scripts.None, out var isCut);
        return isCut ? SlotText.Of(folded) with { Cut = MaxLength }
            : folded.Length > 0 ? SlotText.Of(folded)
            : SlotText.Wrong($"The {label} needs at least one letter or digit.");
    }
}

/// <summary>The initials of the person who keeps a version: 2 to 4 ASCII capitals, unique in the studio.</summary>
public sealed record HandRule : SlotRule
{
    /// <inheritdoc />
    public override string Kind => "hand";

    /// <inheritdoc />
    public override string Holds => "a person's initials, 2 to 4 capitals";

    /// <summary>Whether a text is two to four capitals.</summary>
    public static bool AreInitials(string value) => value.Length is >= 2 and <= 4 && value.All(char.IsAsciiLetterUpper);

    /// <inheritdoc />
    public override SlotText Write(string label, string value) =>
        AreInitials(value) ? SlotText.Of(value) : SlotText.Wrong($"The {label} is a person's initials: 2 to 4 capital letters, A to Z.");
}

/// <summary>A mark that is there or is not, such as the one for a master.</summary>
/// <param name="Mark">1 to 16 ASCII letters and digits.</param>
public sealed record StateRule(string Mark = "MASTER") : SlotRule
{
    /// <inheritdoc />
    public override string Kind => "state";

    /// <inheritdoc />
    public override bool MayBeAbsent => true;

    /// <inheritdoc />
    public override string Holds => $"“{Mark}” or nothing";

    /// <inheritdoc />
    public override SlotText Write(string label, string value) =>
        value == Mark ? SlotText.Of(Mark) : SlotText.Wrong($"The {label} is “{Mark}”, or is left out.");
}
