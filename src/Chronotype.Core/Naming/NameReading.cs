namespace Chronotype.Core.Naming;

/// <summary>One slot as it stands in a name, with the mark before it.</summary>
/// <param name="Label">The slot's.</param>
/// <param name="Text">As it stands in the name.</param>
/// <param name="Join">The mark before it; empty for none.</param>
/// <param name="At">Where the text begins in the name, in UTF-16 units.</param>
public sealed record NameSegment(string Label, string Text, string Join, int At = 0);

/// <summary>What a legal name says: the text of each slot, in order.</summary>
public sealed class NameReading
{
    private readonly NameGrammar grammar;
    private readonly int[] marks;
    private IReadOnlyList<NameSegment>? segments;

    // Each pair of marks is a node and where its text begins.
    internal NameReading(NameGrammar grammar, string name, int[] marks)
    {
        (this.grammar, Name, this.marks) = (grammar, name, marks);
    }

    /// <summary>The whole name, with its extension.</summary>
    public string Name { get; }

    /// <summary>The forms that have this name; at least one.</summary>
    public IReadOnlyList<NameForm> Forms => grammar.FormsOf(grammar.Nodes[marks[^2]].Ends);

    /// <summary>The first of the forms that have this name.</summary>
    public NameForm Form => Forms[0];

    /// <summary>With its dot, or empty.</summary>
    public string Extension => HasExtension ? Name[(marks[^1] - 1)..] : "";

    /// <summary>The slots that the name has, in order, without its extension.</summary>
    public IReadOnlyList<NameSegment> Segments => segments ??= Cut();

    /// <summary>The text of a slot; null where the name has none.</summary>
    public string? this[string label] => Segments.FirstOrDefault(s => s.Label == label)?.Text;

    /// <summary>By label, the values that <see cref="Convention.Format"/> takes to write this name again.</summary>
    public IReadOnlyDictionary<string, string> Values()
    {
        var values = new Dictionary<string, string>();
        for (var i = 0; i < Segments.Count; i++)
        {
            var slot = grammar.Nodes[marks[i * 2]].Slot!;
            values[slot.Label] = Segments[i].Text == grammar.Filler ? grammar.Filler : slot.Rule.Read(Segments[i].Text);
        }
        return values;
    }

    /// <summary>The slots that stand open under the studio's filler.</summary>
    public IReadOnlyList<string> Pending => [.. Segments.Where(s => s.Text == grammar.Filler).Select(s => s.Label)];

    /// <inheritdoc />
    public override string ToString() =>
        string.Join(", ", Segments.Select(s => $"{s.Label} “{s.Text}”").Concat(HasExtension ? [$"extension “{Extension}”"] : []));

    private bool HasExtension => grammar.Nodes[marks[^2]].Slot is null;

    private List<NameSegment> Cut()
    {
        var list = new List<NameSegment>(marks.Length / 2);
        for (var i = 0; i < marks.Length; i += 2)
        {
            var node = grammar.Nodes[marks[i]];
            if (node.Slot is null)
                break;
            var from = marks[i + 1];
            var to =
                i + 2 == marks.Length ? Name.Length : marks[i + 3] - (grammar.Nodes[marks[i + 2]].Slot is { } next ? next.Join.Length : 1);
            list.Add(new NameSegment(node.Label, Name[from..to], i == 0 ? "" : node.Slot.Join, from));
        }
        return list;
    }
}

/// <summary>A name with two readings: why a convention is refused.</summary>
public sealed record Ambiguity(string Name, NameReading First, NameReading Second);
