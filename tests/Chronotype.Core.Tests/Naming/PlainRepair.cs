using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;

namespace Chronotype.Core.Tests.Naming;

/// <summary>
/// Repairs as <c>docs/conventions.md</c> tells them, tried one step after another in the order of their cost, with nothing to guide
/// or to shorten the way: slow, and plain enough to be believed. For names without an extension, copy marks, dates and meanings.
/// </summary>
internal sealed class PlainRepair(IReadOnlyList<Slot> slots, IReadOnlyDictionary<string, CodeList> lists, string filler, string name)
{
    private const string Letters = "abABz01-";

    private readonly record struct Part(int At, int End, int From, int To);

    private readonly record struct Place(int At, int Slot, string Text, bool Closed, string Written, uint Aside, uint Fetched)
    {
        // Two parts that change places, until both are written.
        public (int First, int Second)? Swapped { get; init; }
    }

    private readonly List<Part> parts = Cut(slots, name);
    private readonly SortedDictionary<int, HashSet<Place>> waiting = [];
    private readonly HashSet<Place> done = [];

    /// <returns>The least cost, and every name that it reaches; null when none is reached for <paramref name="most"/>.</returns>
    public (int Cost, IReadOnlyList<string> Names)? Find(int most)
    {
        Go(0, new Place(0, -1, "", false, "", 0, 0));
        while (waiting.Count > 0)
        {
            var (cost, places) = waiting.First();
            if (cost > most)
                return null;
            var names = new SortedSet<string>(StringComparer.Ordinal);
            while (places.Count > 0)
            {
                var place = places.First();
                places.Remove(place);
                if (!done.Add(place))
                    continue;
                if (
                    place is { Aside: 0, Fetched: 0, Swapped: null }
                    && place.At == name.Length
                    && place.Slot >= 0
                    && IsWhole(place)
                    && slots.Skip(place.Slot + 1).All(s => s.MayBeAbsent)
                )
                    names.Add(place.Written);
                Steps(place, cost);
            }
            if (names.Count > 0)
                return (cost, [.. names]);
            waiting.Remove(cost);
        }
        return null;
    }

    private void Go(int cost, Place place)
    {
        if (done.Contains(place))
            return;
        if (!waiting.TryGetValue(cost, out var places))
            waiting[cost] = places = [];
        places.Add(place);
    }

    private void Steps(Place place, int cost)
    {
        var (aside, fetched) = (place.Aside, place.Fetched);
        var at = parts.FindIndex(p => p.From == place.At);
        // The second of two that change places is not read where it stands.
        var reads = place.At < name.Length && (place.Swapped is not { } swapped || parts[swapped.Second].At != place.At);
        if (reads && at >= 0)
        {
            var to = parts[at].To;
            if ((fetched >> at & 1) != 0)
            {
                Go(cost + 2, place with { At = to, Fetched = fetched & ~(1u << at) });
                reads = false;
            }
            else
            {
                if (slots.Any(s => Held(s, parts[at]) is not null))
                    Go(cost + 2, place with { At = to, Aside = aside | 1u << at });
                Go(cost + 6, place with { At = to });
            }
        }
        if (reads)
            Read(place, cost);
        if (place.Slot < 0 || IsWhole(place))
            Cross(place, cost);
        if (place.Slot < 0)
            return;
        var slot = slots[place.Slot];
        if (place is { Text: "", Closed: false })
            Fill(place, slot, cost);
        if (slot.Rule is CodeRule && !place.Closed)
            foreach (var c in Letters)
                Write(place, slot, c, cost + 3, place.At);
    }

    private void Read(Place place, int cost)
    {
        var c = name[place.At];
        // Two numbers are never run together.
        var glues =
            NameMarks.IsSeparator(c)
            && IsBetween(place.At, char.IsLetterOrDigit)
            && place is { Slot: >= 0, Closed: false, Text: not "" }
            && slots[place.Slot].Rule is NumberRule;
        if (!glues)
            Go(
                cost
                    + (
                        !NameMarks.IsSeparator(c) ? 2
                        : IsBetween(place.At, char.IsLetterOrDigit) ? 2
                        : 1
                    ),
                place with
                {
                    At = place.At + 1,
                }
            );
        if (place.Slot < 0 || place.Closed)
            return;
        var slot = slots[place.Slot];
        Write(place, slot, c, cost, place.At + 1);
        if (char.IsAsciiLetter(c))
            Write(place, slot, (char)(c ^ 32), cost + 1, place.At + 1);
        if (slot.Rule is WordsRule { Joiner: "-" } && c is '_' or ' ')
            Write(place, slot, '-', cost + 1, place.At + 1);
        if (slot.Rule is not CodeRule)
            return;
        foreach (var other in Letters)
            Write(place, slot, other, cost + 3, place.At + 1);
        if (place.At + 1 < name.Length && name[place.At + 1] != c && MayBegin(slot, place.Text + name[place.At + 1]))
            Write(
                place with
                {
                    Text = place.Text + name[place.At + 1],
                    Written = place.Written + name[place.At + 1],
                },
                slot,
                c,
                cost + 2,
                place.At + 2
            );
    }

    private void Write(Place place, Slot slot, char c, int cost, int at)
    {
        if (MayBegin(slot, place.Text + c))
            Go(cost, place with { At = at, Text = place.Text + c, Written = place.Written + c });
    }

    private void Cross(Place place, int cost)
    {
        for (var s = place.Slot + 1; s < slots.Count; s++)
        {
            var join = place.Slot < 0 ? "" : slots[s].Join;
            var to = place with { Slot = s, Text = "", Closed = false, Written = place.Written + join };
            if (join.Length == 0)
                Go(cost, to);
            else
            {
                if (place.At < name.Length && NameMarks.IsSeparator(name[place.At]) && !IsFetched(place, place.At))
                    Go(cost + (name[place.At] == join[0] ? 0 : 1), to with { At = place.At + 1 });
                var within =
                    place.At > 0
                    && place.At < name.Length
                    && (
                        (char.IsLetter(name[place.At - 1]) && char.IsLetter(name[place.At]))
                        || (char.IsDigit(name[place.At - 1]) && char.IsDigit(name[place.At]))
                    );
                Go(cost + (within ? 3 : 1), to);
            }
            if (!slots[s].MayBeAbsent)
                break;
        }
    }

    private void Fill(Place place, Slot slot, int cost)
    {
        void Close(string text, int more, int at, uint aside, uint fetched, (int, int)? exchange = null) =>
            Go(
                cost + more,
                place with
                {
                    At = at,
                    Text = text,
                    Closed = true,
                    Written = place.Written + text,
                    Aside = aside,
                    Fetched = fetched,
                    Swapped = exchange ?? place.Swapped,
                }
            );
        var here = parts.FindIndex(p => p.At == place.At);
        var mayExchange =
            here >= 0
            && place.Swapped is null
            && (place.Fetched >> here & 1) == 0
            && slots.Any(s => Held(s, parts[here]) is not null)
            // What is at home there stays.
            && (slot.Rule is WordsRule || Held(slot, parts[here]) != name[parts[here].At..parts[here].End]);
        if (!slot.Rule.MayBeAbsent)
            Close(filler, 5, place.At, place.Aside, place.Fetched);
        if (place.Swapped is { } pending && parts[pending.Second].At == place.At)
        {
            if (Held(slot, parts[pending.First]) is { } moved && moved == name[parts[pending.First].At..parts[pending.First].End])
                Go(
                    cost,
                    place with
                    {
                        At = parts[pending.Second].End,
                        Text = moved,
                        Closed = true,
                        Written = place.Written + moved,
                        Swapped = null,
                    }
                );
            return;
        }
        for (var p = 0; p < parts.Count; p++)
        {
            var (part, bit) = (parts[p], 1u << p);
            if (!slot.Rule.MayBeAbsent && part.At == place.At && (place.Fetched & bit) == 0)
                Close(filler, 8, part.End, place.Aside, place.Fetched);
            if (Held(slot, part) is not { } text)
                continue;
            var other = text == name[part.At..part.End] ? 0 : 1;
            if ((place.Aside & bit) != 0)
                Close(text, 2 + other, place.At, place.Aside & ~bit, place.Fetched);
            else if ((place.Fetched & bit) == 0 && part.From >= place.At)
            {
                if (mayExchange && p > here && other == 0)
                    Close(text, 4, parts[here].End, place.Aside, place.Fetched, (here, p));
                Close(text, 2 + other, place.At, place.Aside, place.Fetched | bit);
            }
        }
        if (IsFetched(place, place.At) || IsFetched(place, place.At - 1))
            return;
        foreach (var part in parts.Where(p => p.At == place.At))
        {
            if (Held(slot, part) is { } text && text != name[part.At..part.End])
                Close(text, 1, part.End, place.Aside, place.Fetched);
        }
        if (
            slot.Rule is VersionRule
            && place.At < name.Length
            && char.IsDigit(name[place.At])
            && (place.At == 0 || !char.IsDigit(name[place.At - 1]))
        )
        {
            var end = place.At;
            while (end < name.Length && char.IsDigit(name[end]))
                end++;
            if (slot.Rule.Write("", name[place.At..end]).Text is { } number)
                Close(number, 1, end, place.Aside, place.Fetched);
        }
        if (
            slot.Rule is WordsRule
            && parts.FindIndex(p => p.At == place.At) is var first
            && first >= 0
            && (first == 0 || name[place.At - 1] != ' ')
        )
        {
            var last = first;
            while (last + 1 < parts.Count && name[parts[last].End] == ' ' && parts[last + 1].At == parts[last].End + 1)
                last++;
            if (slot.Rule.Write("", name[place.At..parts[last].End]).Text is { } folded)
                Close(folded, 3, parts[last].End, place.Aside, place.Fetched);
        }
    }

    private bool IsFetched(Place place, int from) =>
        Enumerable.Range(0, parts.Count).Any(p => (place.Fetched >> p & 1) != 0 && parts[p].From == from);

    private bool IsBetween(int at, Func<char, bool> like) => at > 0 && at + 1 < name.Length && like(name[at - 1]) && like(name[at + 1]);

    private bool IsWhole(Place place) => place.Closed || Holds(slots[place.Slot], place.Text);

    private string? Held(Slot slot, Part part)
    {
        var text = name[part.At..part.End];
        return new[] { text, text.ToLowerInvariant(), text.ToUpperInvariant() }.FirstOrDefault(t => Holds(slot, t));
    }

    private bool Holds(Slot slot, string text) =>
        text.Length > 0
        && (
            (text == filler && !slot.Rule.MayBeAbsent)
            || slot.Rule switch
            {
                CodeRule code => lists[code.List].Has(text),
                WordsRule words => text.Length <= words.MaxLength && text[^1] != '-' && MayBegin(slot, text),
                VersionRule version => text.All(char.IsDigit)
                    && int.Parse(text) >= version.Start
                    && (text.Length == version.Width || (text.Length > version.Width && text[0] != '0')),
                _ => false,
            }
        );

    private bool MayBegin(Slot slot, string text) =>
        (filler.StartsWith(text, StringComparison.Ordinal) && !slot.Rule.MayBeAbsent)
        || slot.Rule switch
        {
            CodeRule code => lists[code.List].Codes.Any(c => c.Code.StartsWith(text, StringComparison.Ordinal)),
            WordsRule words => text.Length <= words.MaxLength
                && text[0] != '-'
                && !text.Contains("--", StringComparison.Ordinal)
                && text.All(c => c is >= 'a' and <= 'z' or >= '0' and <= '9' || (c == '-' && words.Joiner == "-")),
            _ => text.All(char.IsDigit) && text.Length <= 9,
        };

    private static List<Part> Cut(IReadOnlyList<Slot> slots, string name)
    {
        var marks = slots.Skip(1).Select(s => s.Join).Where(j => j.Length > 0).Select(j => j[0]).Append(' ').ToHashSet();
        var parts = new List<Part>();
        for (var i = 0; i < name.Length; i++)
        {
            if (marks.Contains(name[i]))
                continue;
            var at = i;
            while (i < name.Length && !marks.Contains(name[i]))
                i++;
            parts.Add(at > 0 ? new(at, i, at - 1, i) : new(at, i, at, Math.Min(i + 1, name.Length)));
        }
        return parts;
    }
}
