namespace Chronotype.Web.Pages.Pieces;

/// <summary>What the address of a piece's screen asks for.</summary>
/// <param name="A">A version's number, or <c>s</c> and a save's sequence, or the key of a save of another piece; null for none.</param>
/// <param name="B">As <paramref name="A"/>; null for the newest save.</param>
/// <param name="From">The first version of the stretch that the strip is opened on; null for all.</param>
/// <param name="To">The last one.</param>
/// <param name="Look">How A and B are laid beside one another.</param>
/// <param name="Page">Of pictures with pages, which is looked at, from 1.</param>
/// <param name="Line">The line that is looked at: an alt's name, or empty for the main line; null for the one on which work goes on.</param>
/// <param name="Layer">Which of the parts that were compared is looked at alone, from 0; null for the whole picture.</param>
public sealed record PieceAsked(
    string? A,
    string? B,
    int? From,
    int? To,
    bool Table,
    string? Look,
    int Page = 1,
    int? Layer = null,
    string? Line = null
)
{
    /// <summary>The looks that there are, of which the first is shown where none is asked for.</summary>
    public static readonly IReadOnlyList<string> Looks = ["side", "wipe", "difference", "blink"];

    /// <summary>The same screen with some of it changed, as a query.</summary>
    public string Query(
        string? a = null,
        string? b = null,
        bool? table = null,
        string? look = null,
        int? from = null,
        int? to = null,
        bool whole = false,
        bool only = false,
        int? page = null,
        int? layer = null,
        bool wholePicture = false
    )
    {
        var parts = new List<string>();
        Add("a", only ? null : a ?? A);
        Add("b", b ?? B);
        if (Line is not null)
            parts.Add($"line={Uri.EscapeDataString(Line)}");
        if (!whole)
        {
            Add("from", (from ?? From)?.ToString());
            Add("to", (to ?? To)?.ToString());
        }
        if (table ?? Table)
            parts.Add("table=true");
        Add("look", look ?? Look);
        if ((page ?? Page) > 1)
            Add("page", (page ?? Page).ToString());
        // What is a layer of one pair is none, or another, of the next.
        if (!wholePicture && a is null && b is null && !only)
            Add("layer", (layer ?? Layer)?.ToString());
        return "?" + string.Join('&', parts);

        void Add(string name, string? value)
        {
            if (!string.IsNullOrEmpty(value))
                parts.Add($"{name}={Uri.EscapeDataString(value)}");
        }
    }
}
