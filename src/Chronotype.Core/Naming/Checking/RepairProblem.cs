using System.Globalization;
using System.Text;

namespace Chronotype.Core.Naming;

/// <summary>What is known beside a name, for repairs.</summary>
/// <param name="Values">By label: the project's code, the piece's subject, its next number, whose hand it is.</param>
/// <param name="FileDate">When the file was last written; null where that is not known.</param>
public sealed record NameKnowledge(IReadOnlyDictionary<string, string> Values, DateOnly? FileDate = null)
{
    public static readonly NameKnowledge Nothing = new(new Dictionary<string, string>());
}

/// <summary>A name that is to be repaired, cut into what its repairs may treat as one.</summary>
internal sealed class RepairProblem
{
    /// <summary>At most so many parts can be moved; names have far fewer.</summary>
    public const int MaxParts = 24;

    /// <summary>
    /// A whole part: what may be moved, replaced or left out together. <c>From</c> to <c>To</c> takes one mark beside it along.
    /// </summary>
    public readonly record struct Part(int At, int End, int From, int To);

    /// <summary>Text that a slot may read as another.</summary>
    /// <param name="Next">The next one that begins at the same place; -1 after the last.</param>
    public readonly record struct Replacement(int End, int Node, string Value, int Cost, RepairOp Op, int Next);

    /// <summary>What one character costs, and what begins with it.</summary>
    /// <param name="Length">In UTF-16 units.</param>
    /// <param name="Plain">The plain letters of an accented one; empty where it has none.</param>
    /// <param name="DropCost">When it is left out.</param>
    /// <param name="JoinCost">Of a mark put in before it.</param>
    /// <param name="PartFrom">
    /// The part that begins here with its mark; <paramref name="PartAt"/> the one that begins here without; -1 for none.
    /// </param>
    /// <param name="Marks">Whether any copy mark, date or word before a number begins here.</param>
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

    // How a slot may hold a part.
    private const byte NotHeld = 0,
        AsItIs = 1,
        InLower = 2,
        InUpper = 3;

    private readonly byte[] held;
    private readonly Letter[] letters;
    private readonly List<Replacement> replacements = [];

    public RepairProblem(RepairSlots slots, string name, NameKnowledge known)
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
        for (var n = 0; n < nodes; n++)
        {
            LeastHeld[n] = RepairSlots.Never;
            if (slots.Nodes[n].Node.Slot is null)
                continue;
            if (known.Values.Count > 0 || known.FileDate is not null)
                Known[n] = KnownValue(slots.Nodes[n], known);
            for (var p = 0; p < Parts.Length; p++)
            {
                var how = held[p * nodes + n] = Held(Parts[p], slots.Nodes[n].Node.Automaton);
                if (how != NotHeld)
                    LeastHeld[n] = Math.Min(LeastHeld[n], CostOf(how));
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
        return how != NotHeld;
    }

    /// <summary>A part's text as a slot that may hold it does.</summary>
    public string TextHeldBy(int part, int node)
    {
        var text = Name[Parts[part].At..Parts[part].End];
        return held[part * Known.Length + node] switch
        {
            InLower => text.ToLowerInvariant(),
            InUpper => text.ToUpperInvariant(),
            _ => text,
        };
    }

    /// <summary>Whether a part would be at home in any slot, so that it may have been put in the wrong place.</summary>
    public bool IsAtHomeSomewhere(int part) => held.AsSpan(part * Known.Length, Known.Length).ContainsAnyExcept(NotHeld);

    private static int CostOf(byte how) => how is InLower or InUpper ? RepairCosts.Case : 0;

    private byte Held(Part part, SlotAutomaton automaton)
    {
        var (own, lower, upper) = (SlotAutomaton.Start, SlotAutomaton.Start, SlotAutomaton.Start);
        for (var i = part.At; i < part.End; i++)
        {
            var c = Name[i];
            if (c >= 128)
                return NotHeld;
            if (own != SlotAutomaton.None)
                own = automaton.Next(own, c);
            if (lower != SlotAutomaton.None)
                lower = automaton.Next(lower, char.IsAsciiLetterUpper(c) ? (char)(c + 32) : c);
            if (upper != SlotAutomaton.None)
                upper = automaton.Next(upper, char.IsAsciiLetterLower(c) ? (char)(c - 32) : c);
            // None is less than every state.
            if (Math.Max(own, Math.Max(lower, upper)) == SlotAutomaton.None)
                return NotHeld;
        }
        return own != SlotAutomaton.None && automaton.Accepts(own) ? AsItIs
            : lower != SlotAutomaton.None && automaton.Accepts(lower) ? InLower
            : upper != SlotAutomaton.None && automaton.Accepts(upper) ? InUpper
            : NotHeld;
    }

    // Where the convention itself has dots, only a slot can tell what stands behind the last one; and ".bak" is a copy mark.
    private static string ExtensionOf(RepairSlots slots, string name)
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

    private void FillReplacements(int node)
    {
        var info = Slots.Nodes[node];
        switch (info.Node.Slot?.Rule)
        {
            case null:
                return;
            case NumberRule number:
                Numbers(node, number);
                break;
            case DateRule date:
                Dates(node, date);
                break;
            case WordsRule or LineRule:
                FoldedWords(node);
                break;
        }
        for (var p = 0; p < Parts.Length; p++)
        {
            if (IsHeldBy(p, node, out var cost) && cost > 0)
                Add(Parts[p].At, Parts[p].End, node, TextHeldBy(p, node), RepairCosts.Case, RepairOp.WholeCase);
        }
    }

    private void Add(int at, int end, int node, string value, int cost, RepairOp op)
    {
        replacements.Add(new(end, node, value, cost, op, letters[at].Replacements));
        letters[at].Replacements = replacements.Count - 1;
    }

    private void Numbers(int node, NumberRule rule)
    {
        for (var i = 0; i < Name.Length; i++)
        {
            if (!char.IsAsciiDigit(Name[i]) || (i > 0 && char.IsAsciiDigit(Name[i - 1])))
                continue;
            var end = i;
            while (end < Name.Length && char.IsAsciiDigit(Name[end]))
                end++;
            // The number of a copy is no version.
            if (IsOfCopy(i) || end - i > 32 || rule.Write("", Name[i..end]).Text is not { } text)
                continue;
            Add(i, end, node, text, RepairCosts.Rewrite, RepairOp.Number);
            foreach (var mark in Marks)
            {
                if (mark.Kind == NameMarkKind.NumberWord && mark.End == i)
                    Add(mark.At, end, node, text, RepairCosts.Rewrite, RepairOp.Number);
            }
        }
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

    private void Dates(int node, DateRule rule)
    {
        foreach (var mark in Marks)
        {
            if (mark.Kind != NameMarkKind.Date)
                continue;
            foreach (var text in mark.Dates.Select(rule.Text).Distinct())
            {
                if (Slots.Nodes[node].Node.Automaton.Holds(text))
                    Add(mark.TextAt, mark.TextEnd, node, text, RepairCosts.Rewrite, RepairOp.Date);
            }
        }
    }

    // All the words between two marks, folded at once: what is typed with capitals, spaces and accents throughout.
    private void FoldedWords(int node)
    {
        var slot = Slots.Nodes[node].Node.Slot!;
        var most = slot.Rule is WordsRule words ? words.MaxLength : ((LineRule)slot.Rule).MaxLength;
        for (var first = 0; first < Parts.Length; first++)
        {
            if (first > 0 && IsWithinWords(Parts[first].At - 1))
                continue;
            var last = first;
            while (last + 1 < Parts.Length && IsWithinWords(Parts[last].End) && Parts[last + 1].At == Parts[last].End + 1)
                last++;
            // One part that the slot holds, in one case or the other, is written more cheaply than by folding it.
            if (first == last && IsHeldBy(first, node, out _))
                continue;
            var text = Name[Parts[first].At..Parts[last].End];
            if (slot.Rule.Write("", text).Text is not { } folded)
                continue;
            var op = text.Length > most ? RepairOp.Shorten : RepairOp.Fold;
            Add(Parts[first].At, Parts[last].End, node, folded, op == RepairOp.Fold ? RepairCosts.Fold : RepairCosts.Shorten, op);
        }
    }

    private bool IsWithinWords(int at) => Name[at] == ' ' && MayJoinWords(at);

    private void FillMeanings()
    {
        var meanings = Slots.Meanings;
        Span<char> letters = stackalloc char[Slots.LongestMeaning];
        for (var first = 0; first < Parts.Length; first++)
        {
            var count = 0;
            for (var last = first; last < Parts.Length && last < first + 3; last++)
            {
                if (!AddLetters(Parts[last], letters, ref count))
                    break;
                if (!meanings.TryGetValue(letters[..count], out var codes))
                    continue;
                foreach (var (node, code) in codes)
                    Add(Parts[first].At, Parts[last].End, node, code, RepairCosts.Meaning, RepairOp.Meaning);
            }
        }
    }

    // The part's words in plain lower-case letters, run together, as long as they have room.
    private bool AddLetters(Part part, Span<char> letters, ref int count)
    {
        var text = Name.AsSpan(part.At..part.End);
        if (!Ascii.IsValid(text))
            text = string.Concat(Words.Split(text.ToString()));
        foreach (var c in text)
        {
            if (!char.IsAsciiLetterOrDigit(c))
                continue;
            if (count == letters.Length)
                return false;
            letters[count++] = char.ToLowerInvariant(c);
        }
        return true;
    }
}

/// <summary>One step of a repair.</summary>
internal enum RepairOp : byte
{
    Keep,
    Case,
    OtherMark,
    Accent,
    Change,
    Add,
    Drop,
    LeaveOut,
    LeaveOutPart,
    Join,
    JoinOther,
    JoinAdd,
    Enter,
    TakeOut,
    PutIn,
    Fetch,
    Fetched,
    Known,
    Open,
    KnownInstead,
    OpenInstead,
    Number,
    Date,
    Meaning,
    Shorten,
    Fold,
    WholeCase,
}
