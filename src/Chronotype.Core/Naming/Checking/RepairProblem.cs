using System.Globalization;
using System.Text;

namespace Chronotype.Core.Naming.Checking;

/// <summary>A name that is to be repaired, cut into what its repairs may treat as one.</summary>
internal sealed partial class RepairProblem
{
    /// <summary>At most so many parts can be moved; names have far fewer.</summary>
    public const int MaxParts = 24;

    /// <summary>
    /// A whole part: what may be moved, replaced or left out together. <c>From</c> to <c>To</c> takes one mark beside it along.
    /// </summary>
    public readonly record struct Part(int At, int End, int From, int To);

    /// <summary>Text that a slot may read as another.</summary>
    /// <param name="End">Where the text ends, in UTF-16 units.</param>
    /// <param name="Node">Of the slot that reads it.</param>
    /// <param name="Value">What the slot reads it as.</param>
    /// <param name="Cost">Under <see cref="RepairCosts"/>.</param>
    /// <param name="Op">The step that it is told as.</param>
    /// <param name="Next">The next one that begins at the same place; -1 after the last.</param>
    public readonly record struct Replacement(int End, int Node, string Value, int Cost, RepairOp Op, int Next);

    /// <summary>What one character costs, and what begins with it.</summary>
    /// <param name="Length">In UTF-16 units.</param>
    /// <param name="Plain">The plain letters of an accented one; empty where it has none.</param>
    /// <param name="IsSeparator">Whether it may stand between two slots.</param>
    /// <param name="DropCost">When it is left out.</param>
    /// <param name="JoinCost">Of a mark put in before it.</param>
    /// <param name="PartFrom">
    /// The part that begins here with its mark; -1 for none.
    /// </param>
    /// <param name="PartAt">The part that begins here without its mark; -1 for none.</param>
    /// <param name="Marks">Whether any copy mark, date or word before a number begins here.</param>
    /// <param name="Replacements">The first one that begins here; -1 for none.</param>
    public record struct Letter(
        int Length,
        string Plain,
        bool IsSeparator,
        int DropCost,
        int JoinCost,
        int PartFrom,
        int PartAt,
        bool Marks,
        int Replacements
    );

    private readonly byte[] held;

    // By node, the part that it costs least to hold, and the least that another costs.
    private readonly (int Part, int Others)[] leastHolders;
    private readonly Letter[] letters;
    private readonly List<Replacement> replacements = [];

    public RepairProblem(RepairSlots slots, HeldTexts texts, string name, NameKnowledge known)
    {
        Slots = slots;
        Extension = ExtensionOf(slots, name);
        name = name[..^Extension.Length];
        Name = name;
        Marks = [.. NameMarks.Find(name)];
        letters = new Letter[name.Length + 1];
        Parts = CutParts();
        ReadLetters();
        var nodes = slots.Nodes.Length;
        Known = new string?[nodes];
        held = new byte[Parts.Length * nodes];
        LeastHeld = new int[nodes];
        leastHolders = new (int, int)[nodes];
        texts.Begin();
        var stands = new int[Parts.Length];
        for (var p = 0; p < Parts.Length; p++)
            stands[p] = texts.After(Name.AsSpan(Parts[p].At..Parts[p].End));
        for (var n = 0; n < nodes; n++)
        {
            LeastHeld[n] = RepairSlots.Never;
            leastHolders[n] = (-1, RepairSlots.Never);
            if (slots.Nodes[n].Node.Slot is null)
                continue;
            if (known.Values.Count > 0 || known.FileDate is not null)
                Known[n] = KnownValue(slots.Nodes[n], known);
            for (var p = 0; p < Parts.Length; p++)
            {
                var how = held[p * nodes + n] = texts.How(stands[p], n);
                if (how != HeldTexts.NotHeld)
                    Hold(n, p, CostOf(how));
            }
        }
        for (var n = 0; n < nodes; n++)
            FillReplacements(n);
        if (slots.LongestMeaning > 0)
            FillMeanings();
    }

    public RepairSlots Slots { get; }

    /// <summary>What is repaired: the name without its <see cref="Extension"/>.</summary>
    public string Name { get; }

    /// <summary>The extension that stays as it is, with its dot; empty where what stands behind a dot may be something else.</summary>
    public string Extension { get; }

    /// <summary>By node, whether a name that is read to its end may end there.</summary>
    public bool[] Ends => Extension.Length > 0 ? Slots.EndsBeforeExtension : Slots.EndsBare;

    public NameMark[] Marks { get; }
    public Part[] Parts { get; }

    /// <summary>By node, what is known to stand there; null where nothing is.</summary>
    public string?[] Known { get; }

    /// <summary>
    /// By node, the least that it costs to hold any of the parts; <see cref="RepairSlots.Never"/> where it can hold none.
    /// </summary>
    public int[] LeastHeld { get; }

    /// <summary>Whether a slot holds another part as it is.</summary>
    public bool HoldsOther(int part, int node) => (leastHolders[node].Part == part ? leastHolders[node].Others : LeastHeld[node]) == 0;

    /// <summary>
    /// Whether a part may give its place in a slot to another: it may be moved, and is not at home there. Words hold nearly anything, so
    /// that being held there says little.
    /// </summary>
    public bool MayExchange(int part, int node) =>
        MayMove(part) && (Slots.Nodes[node].IsWords || held[part * Known.Length + node] != HeldTexts.AsItIs);

    /// <summary>The characters, and behind them the end.</summary>
    public Letter[] Letters => letters;

    public Replacement ReplacementOf(int number) => replacements[number];

    /// <summary>Whether the separator here may stand between words: not where it only sets a copy mark apart.</summary>
    public bool MayJoinWords(int at)
    {
        foreach (var mark in Marks)
        {
            if (mark.Kind == NameMarkKind.Copy && mark.At <= at && at < mark.TextAt)
                return false;
        }
        return true;
    }

    public static int MarkCost(NameMarkKind kind) =>
        kind switch
        {
            NameMarkKind.Copy => RepairCosts.CopyMark,
            NameMarkKind.Date => RepairCosts.Date,
            _ => RepairCosts.NumberWord,
        };

    /// <summary>Whether a slot may hold a part, in its own case or another, and what that costs.</summary>
    public bool IsHeldBy(int part, int node, out int cost)
    {
        var how = held[part * Known.Length + node];
        cost = CostOf(how);
        return how != HeldTexts.NotHeld;
    }

    /// <summary>A part's text as a slot that may hold it does.</summary>
    public string TextHeldBy(int part, int node)
    {
        var text = Name[Parts[part].At..Parts[part].End];
        return held[part * Known.Length + node] switch
        {
            HeldTexts.InLower => string.Concat(text.Select(WordLetters.Lower)),
            HeldTexts.InUpper => string.Concat(text.Select(WordLetters.Upper)),
            _ => text,
        };
    }

    /// <summary>
    /// Whether a part would be at home in any slot, so that it may have been put in the wrong place; a copy mark never is.
    /// </summary>
    public bool MayMove(int part) =>
        !IsOfCopy(Parts[part].At) && held.AsSpan(part * Known.Length, Known.Length).ContainsAnyExcept(HeldTexts.NotHeld);

    private void Hold(int node, int part, int cost)
    {
        if (IsOfCopy(Parts[part].At))
            return;
        if (cost < LeastHeld[node])
            (LeastHeld[node], leastHolders[node]) = (cost, (part, LeastHeld[node]));
        else
            leastHolders[node].Others = Math.Min(leastHolders[node].Others, cost);
    }

    private static int CostOf(byte how) => how is HeldTexts.InLower or HeldTexts.InUpper ? RepairCosts.Case : 0;

    // Where the convention itself has dots, only a slot can tell what stands behind the last one; and ".bak" is a copy mark.
    internal static string ExtensionOf(RepairSlots slots, string name)
    {
        var dot = name.LastIndexOf('.');
        if (
            dot <= 0
            || slots.HasDots
            || !SlotLanguages.Extension.Holds(name.AsSpan(dot + 1))
            || !name.AsSpan(dot + 1).ContainsAnyExceptInRange('0', '9')
        )
            return "";
        return NameMarks.IsCopyWord(name.AsSpan(dot + 1)) ? "" : name[dot..];
    }

    private void ReadLetters()
    {
        for (var at = 0; at <= Name.Length; at++)
        {
            ref var letter = ref letters[at];
            (letter.PartFrom, letter.PartAt, letter.Replacements, letter.Plain, letter.JoinCost) = (-1, -1, -1, "", RepairCosts.Join);
            if (at == Name.Length)
                break;
            var c = Name[at];
            letter.Length = char.IsHighSurrogate(c) && at + 1 < Name.Length && char.IsLowSurrogate(Name[at + 1]) ? 2 : 1;
            letter.IsSeparator = NameMarks.IsSeparator(c);
            letter.DropCost =
                letter.IsSeparator
                    ? (
                        at > 0 && at + 1 < Name.Length && char.IsLetterOrDigit(Name[at - 1]) && char.IsLetterOrDigit(Name[at + 1])
                            ? RepairCosts.Glue
                            : RepairCosts.Separator
                    )
                : c is < ' ' or >= (char)127 && FileSystemRules.IsUnseen(c) && letter.Length == 1 ? RepairCosts.Unseen
                : RepairCosts.Character;
            if (c >= 128 && Rune.TryGetRuneAt(Name, at, out var rune))
                letter.Plain = Words.Plain(rune);
            if (
                at > 0
                && Name[at - 1] is var before
                && ((char.IsLetter(before) && char.IsLetter(c)) || (char.IsAsciiDigit(before) && char.IsAsciiDigit(c)))
            )
                letter.JoinCost = RepairCosts.JoinWithin;
        }
        foreach (var mark in Marks)
            letters[mark.At].Marks = true;
        for (var p = 0; p < Parts.Length; p++)
            (letters[Parts[p].From].PartFrom, letters[Parts[p].At].PartAt) = (p, p);
    }

    private Part[] CutParts()
    {
        var parts = new List<Part>(16);
        var end = Name.Length;
        var dot = Name.LastIndexOf('.');
        // What every file has at its end is no part.
        if (dot > 0 && SlotLanguages.Extension.Holds(Name.AsSpan(dot + 1)) && Name.AsSpan(dot + 1).ContainsAnyExceptInRange('0', '9'))
            end = dot;
        for (var i = 0; i < end && parts.Count < MaxParts; )
        {
            if (Slots.Parts.Contains(Name[i]))
            {
                i++;
                continue;
            }
            var at = i;
            while (i < end && !Slots.Parts.Contains(Name[i]))
                i++;
            parts.Add(at > 0 ? new Part(at, i, at - 1, i) : new Part(at, i, at, i < end ? i + 1 : i));
        }
        return [.. parts];
    }

    private static string? KnownValue(RepairSlots.Info info, NameKnowledge known)
    {
        if (info.Node.Slot is not { } slot)
            return null;
        var value = known.Values.GetValueOrDefault(slot.Label);
        if (value is null && slot.Rule is DateRule date && known.FileDate is { } day)
            value = day.ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd", CultureInfo.InvariantCulture);
        return value is { Length: > 0 } && slot.Rule.Write(slot.Label, value).Text is { } text && info.Node.Automaton.Holds(text)
            ? text
            : null;
    }

    private bool IsOfCopy(int at)
    {
        foreach (var mark in Marks)
        {
            if (mark.Kind == NameMarkKind.Copy && mark.At <= at && at < mark.End)
                return true;
        }
        return false;
    }
}
