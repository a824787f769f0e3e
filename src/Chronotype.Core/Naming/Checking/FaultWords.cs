namespace Chronotype.Core.Naming.Checking;

/// <summary>The sentences that tell a fault of a name.</summary>
internal static class FaultWords
{
    public static string Misfit(string label, string shown, string holds) => $"The {label} holds {shown}. It may hold {holds}.";

    public static string Case(string label, string shown, string holds) =>
        $"The {label} holds {shown} in the wrong case. It may hold {holds}.";

    public static string Accent(string label, string shown) =>
        $"The {label} holds {shown}. Letters with accents are written plain, so that every file system takes them.";

    public static string Mark(string label, string shown, string joiner) =>
        $"{shown} stands between words of the {label}, which are joined by “{joiner}”.";

    public static string TooLong(string label, int length, string holds) => $"The {label} has {length:N0} characters. It may hold {holds}.";

    public static string Character(string label, string shown, string holds) =>
        $"{shown} cannot stand in the {label}. It may hold {holds}.";

    public static string OneTooMany(string shown) => $"{shown} is one too many here.";

    public static string CopyMark(string shown) => $"{shown} is a copy mark. Copies are told apart by their version.";

    public static string StrayDate(string shown) => $"{shown} is a date, and has no place here.";

    public static string StrayPart(string shown) => $"{shown} belongs to no slot of this form.";

    public static string OtherJoin(string label, string shown, string join) =>
        $"{shown} stands before the {label}, which is joined by “{join}”.";

    public static string NoJoin(string label, string join) => $"“{join}” is missing before the {label}.";

    public static string Order(string label, string shown) => $"{shown} is the {label}, and stands in the wrong place.";

    public static string Missing(string label, string holds) => $"The {label} is missing. It may hold {holds}.";

    /// <summary>The code of what a slot cannot hold.</summary>
    public static string CodeFor(Slot? slot) =>
        slot?.Rule switch
        {
            CodeRule or HandRule => NameFaultCodes.NotOnList,
            NumberRule => NameFaultCodes.Number,
            DateRule => NameFaultCodes.Date,
            _ => NameFaultCodes.Value,
        };

    /// <summary>A part of a name in quotation marks; what a person cannot see is named, so that the sentence can be read.</summary>
    public static string Shown(ReadOnlySpan<char> text)
    {
        foreach (var c in text)
        {
            if (FileSystemRules.IsUnseen(c))
                return $"“{string.Concat(text.ToString().Select(c => FileSystemRules.IsUnseen(c) ? $"[U+{(int)c:X4}]" : c.ToString()))}”";
        }
        return text is " " ? "A space"
            : text.Length <= 60 ? $"“{text}”"
            : $"“{text[..60]}…”";
    }
}
