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

    /// <summary>A whole part: what may be moved, replaced or left out together. <c>From</c> to <c>To</c> takes one mark beside it along.</summary>
    public readonly record struct Part(int At, int End, int From, int To);

    /// <summary>Text that a slot may read as another.</summary>
    public readonly record struct Replacement(int At, int End, int Node, string Value, int Cost, RepairOp Op);

    public RepairProblem(RepairSlots slots, string name, NameKnowledge known)
    {
        Slots = slots;
        Name = name;
        Marks = NameMarks.Find(name);
        Parts = CutParts();
        Known = new string?[slots.Nodes.Length];
        held = new (string?, int)[Parts.Count * slots.Nodes.Length];
        for (var n = 0; n < Known.Length; n++)
        {
            if (slots.Nodes[n].Node.Slot is null) continue;
            Known[n] = KnownValue(slots.Nodes[n], known);
            for (var p = 0; p < Parts.Count; p++) held[p * Known.Length + n] = Held(Parts[p], slots.Nodes[n].Node.Automaton);
        }
        FillReplacements();
    }

    private readonly (string? Text, int Cost)[] held;

    public RepairSlots Slots { get; }
    public string Name { get; }
    public IReadOnlyList<NameMark> Marks { get; }
    public IReadOnlyList<Part> Parts { get; }

    /// <summary>By node, what is known to stand there; null where nothing is.</summary>
    public string?[] Known { get; }

    public List<Replacement> Replacements { get; } = [];

    /// <summary>How many UTF-16 units the character at a place has.</summary>
    public int LengthAt(int at) => char.IsHighSurrogate(Name[at]) && at + 1 < Name.Length && char.IsLowSurrogate(Name[at + 1]) ? 2 : 1;

    public int DropCost(int at) =>
        NameMarks.IsSeparator(Name[at]) ? (at > 0 && at + 1 < Name.Length && char.IsLetterOrDigit(Name[at - 1]) && char.IsLetterOrDigit(Name[at + 1]) ? RepairCosts.Glue : RepairCosts.Separator)
        : FileSystemRules.IsUnseen(Name[at]) && LengthAt(at) == 1 ? RepairCosts.Unseen
        : RepairCosts.Character;

    /// <summary>What a mark put in before this place costs.</summary>
    public int JoinCost(int at)
    {
        if (at == 0 || at == Name.Length) return RepairCosts.Join;
        var (a, b) = (Name[at - 1], Name[at]);
        return (char.IsLetter(a) && char.IsLetter(b)) || (char.IsAsciiDigit(a) && char.IsAsciiDigit(b)) ? RepairCosts.JoinWithin : RepairCosts.Join;
    }

    /// <summary>Whether the separator here may stand between words: not where it only sets a copy mark apart.</summary>
    public bool MayJoinWords(int at)
    {
        foreach (var mark in Marks)
        {
            if (mark.Kind == NameMarkKind.Copy && mark.At <= at && at < mark.TextAt) return false;
        }
        return true;
    }

    public static int MarkCost(NameMarkKind kind) => kind switch
    {
        NameMarkKind.Copy => RepairCosts.CopyMark,
        NameMarkKind.Date => RepairCosts.Date,
        _ => RepairCosts.NumberWord,
    };

    /// <summary>The plain letters of an accented one; empty where it has none.</summary>
    public string PlainAt(int at) => Name[at] < 128 || !Rune.TryGetRuneAt(Name, at, out var rune) ? "" : Words.Plain(rune);

    /// <summary>A part's text as a slot may hold it, in its own case or another; no text where the slot cannot hold it.</summary>
    public (string? Text, int Cost) AsHeldBy(int part, int node) => held[part * Known.Length + node];

    /// <summary>Whether a part would be at home in any slot, so that it may have been put in the wrong place.</summary>
    public bool IsAtHomeSomewhere(int part)
    {
        for (var n = 0; n < Known.Length; n++)
        {
            if (held[part * Known.Length + n].Text is not null) return true;
        }
        return false;
    }

    private (string?, int) Held(Part part, SlotAutomaton automaton)
    {
        var text = Name.AsSpan(part.At..part.End);
        if (automaton.Holds(text)) return (text.ToString(), 0);
        if (text.Length > 64) return default;
        Span<char> other = stackalloc char[text.Length];
        text.ToLowerInvariant(other);
        if (automaton.Holds(other)) return (other.ToString(), RepairCosts.Case);
        text.ToUpperInvariant(other);
        return automaton.Holds(other) ? (other.ToString(), RepairCosts.Case) : default;
    }

    private List<Part> CutParts()
    {
        var parts = new List<Part>();
        var end = Name.Length;
        var dot = Name.LastIndexOf('.');
        // What every file has at its end is no part.
        if (dot > 0 && SlotLanguages.Extension.Holds(Name.AsSpan(dot + 1)) && Name.AsSpan(dot + 1).ContainsAnyExceptInRange('0', '9')) end = dot;
        for (var i = 0; i < end && parts.Count < MaxParts;)
        {
            if (Slots.Parts.Contains(Name[i])) { i++; continue; }
            var at = i;
            while (i < end && !Slots.Parts.Contains(Name[i])) i++;
            parts.Add(at > 0 ? new Part(at, i, at - 1, i) : new Part(at, i, at, i < end ? i + 1 : i));
        }
        return parts;
    }

    private string? KnownValue(RepairSlots.Info info, NameKnowledge known)
    {
        if (info.Node.Slot is not { } slot) return null;
        var value = known.Values.GetValueOrDefault(slot.Label);
        if (value is null && slot.Rule is DateRule date && known.FileDate is { } day) value = day.ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);
        return value is { Length: > 0 } && slot.Rule.Write(slot.Label, value).Text is { } text && info.Node.Automaton.Holds(text) ? text : null;
    }

    private void FillReplacements()
    {
        for (var n = 0; n < Slots.Nodes.Length; n++)
        {
            var info = Slots.Nodes[n];
            switch (info.Node.Slot?.Rule)
            {
                case NumberRule number: Numbers(n, number); break;
                case DateRule date: Dates(n, date); break;
                case WordsRule or LineRule: FoldedWords(n); break;
            }
            OtherCase(n);
            if (info.Meanings is { Count: > 0 }) Meanings(n, info.Meanings);
        }
    }

    private void Numbers(int node, NumberRule rule)
    {
        for (var i = 0; i < Name.Length; i++)
        {
            if (!char.IsAsciiDigit(Name[i]) || (i > 0 && char.IsAsciiDigit(Name[i - 1]))) continue;
            var end = i;
            while (end < Name.Length && char.IsAsciiDigit(Name[end])) end++;
            // The number of a copy is no version.
            if (Marks.Any(m => m.Kind == NameMarkKind.Copy && m.At <= i && i < m.End) || rule.Write("", Name[i..end]).Text is not { } text) continue;
            Replacements.Add(new(i, end, node, text, RepairCosts.Rewrite, RepairOp.Number));
            foreach (var mark in Marks)
            {
                if (mark.Kind == NameMarkKind.NumberWord && mark.End == i) Replacements.Add(new(mark.At, end, node, text, RepairCosts.Rewrite, RepairOp.Number));
            }
        }
    }

    private void Dates(int node, DateRule rule)
    {
        foreach (var mark in Marks.Where(m => m.Kind == NameMarkKind.Date))
        {
            foreach (var text in mark.Dates.Select(rule.Text).Distinct())
            {
                if (Slots.Nodes[node].Node.Automaton.Holds(text)) Replacements.Add(new(mark.TextAt, mark.TextEnd, node, text, RepairCosts.Rewrite, RepairOp.Date));
            }
        }
    }

    // All the words between two marks, folded at once: what is typed with capitals, spaces and accents throughout.
    private void FoldedWords(int node)
    {
        var slot = Slots.Nodes[node].Node.Slot!;
        var most = slot.Rule is WordsRule words ? words.MaxLength : ((LineRule)slot.Rule).MaxLength;
        for (var first = 0; first < Parts.Count; first++)
        {
            if (first > 0 && IsWithinWords(Parts[first].At - 1)) continue;
            var last = first;
            while (last + 1 < Parts.Count && IsWithinWords(Parts[last].End) && Parts[last + 1].At == Parts[last].End + 1) last++;
            var text = Name[Parts[first].At..Parts[last].End];
            if (slot.Rule.Write("", text).Text is not { } folded) continue;
            var op = text.Length > most ? RepairOp.Shorten : RepairOp.Fold;
            Replacements.Add(new(Parts[first].At, Parts[last].End, node, folded, op == RepairOp.Fold ? RepairCosts.Fold : RepairCosts.Shorten, op));
        }
    }

    private bool IsWithinWords(int at) => Name[at] == ' ' && MayJoinWords(at);

    private void OtherCase(int node)
    {
        for (var p = 0; p < Parts.Count; p++)
        {
            if (AsHeldBy(p, node) is ({ } text, > 0)) Replacements.Add(new(Parts[p].At, Parts[p].End, node, text, RepairCosts.Case, RepairOp.WholeCase));
        }
    }

    private void Meanings(int node, IReadOnlyDictionary<string, List<string>> meanings)
    {
        for (var first = 0; first < Parts.Count; first++)
        {
            var letters = "";
            for (var last = first; last < Parts.Count && last < first + 3; last++)
            {
                letters += string.Concat(Words.Split(Name[Parts[last].At..Parts[last].End]));
                if (letters.Length > Slots.LongestMeaning) break;
                if (!meanings.TryGetValue(letters, out var codes)) continue;
                foreach (var code in codes) Replacements.Add(new(Parts[first].At, Parts[last].End, node, code, RepairCosts.Meaning, RepairOp.Meaning));
            }
        }
    }
}

/// <summary>One step of a repair.</summary>
internal enum RepairOp : byte
{
    Keep, Case, OtherMark, Accent, Change, Add, Drop, LeaveOut, LeaveOutPart,
    Join, JoinOther, JoinAdd, Enter,
    TakeOut, PutIn, Fetch, Fetched,
    Known, Open, KnownInstead, OpenInstead, Number, Date, Meaning, Shorten, Fold, WholeCase,
}
