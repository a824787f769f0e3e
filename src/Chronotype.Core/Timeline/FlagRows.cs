namespace Chronotype.Core.Timeline;

/// <summary>
/// Places milestone flags so that no two labels touch and no staff runs through a label: a flag goes below every flag
/// that reaches over its staff; where the rows run out, earlier flags shorten; where they cannot, the flags fold into one.
/// </summary>
internal static class FlagRows
{
    public const int Rows = 3;
    public const double FontSize = 11.5,
        Padding = 20,
        Least = 46,
        Gap = 4,
        Longest = 190;

    /// <summary>The width of one milestone's flag where it has all the room it may take.</summary>
    public static double WidthOf(string words) => Make(0, [words]).Width;

    public static List<StripFlag> Place(IEnumerable<(double X, IReadOnlyList<StripVersion> Versions)> groups, double right)
    {
        var flags = new List<StripFlag>();
        foreach (var (x, versions) in groups)
        {
            var marked = versions.Where(v => v.Milestone is not null).Select(v => v.Milestone!).ToList();
            if (marked.Count == 0)
                continue;
            Add(flags, Make(x, marked), right);
        }
        return flags;
    }

    private static StripFlag Make(double x, IReadOnlyList<string> words) =>
        Sized(new StripFlag(x, 0, 0, words.Count == 1 ? words[0] : $"{words.Count} milestones", words), Longest);

    private static void Add(List<StripFlag> flags, StripFlag flag, double right)
    {
        if (flag.X + flag.Width > right)
            flag = Sized(flag, Math.Max(Least, right - flag.X));
        var over = flags.Where(f => f.X + f.Width + Gap > flag.X).ToList();
        while (true)
        {
            var row = over.Count == 0 ? 0 : over.Max(f => f.Row) + 1;
            if (row < Rows)
            {
                flags.Add(flag with { Row = row });
                return;
            }
            var lowest = over.MaxBy(f => f.Row)!;
            var room = flag.X - lowest.X - Gap;
            var at = flags.IndexOf(lowest);
            over.Remove(lowest);
            if (room < Least)
            {
                // Too close to stand apart: one flag for both, where the earlier one stands.
                IReadOnlyList<string> both = [.. lowest.Full, .. flag.Full];
                flags[at] = Sized(lowest with { Full = both, Text = $"{both.Count} milestones" }, lowest.Width);
                return;
            }
            flags[at] = Sized(lowest, room);
        }
    }

    private static StripFlag Sized(StripFlag flag, double most)
    {
        var text = TextWidth.Fit(flag.Text, most - Padding, FontSize);
        return flag with { Text = text, Width = Math.Min(most, TextWidth.Of(text, FontSize) + Padding) };
    }
}
