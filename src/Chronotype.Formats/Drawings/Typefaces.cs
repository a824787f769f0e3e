using System.Runtime.InteropServices;
using HarfBuzzSharp;
using SkiaSharp;

namespace Chronotype.Formats.Drawings;

/// <summary>The typefaces that texts can be drawn with: those that were handed in as files, then those of the machine.</summary>
internal sealed class Typefaces : IDisposable
{
    /// <summary>The largest file of a typeface that is read.</summary>
    public const long MaxBytes = 32 << 20;

    // CSS Fonts 4, 2.1.3: what is asked for without a name is any of its kind.
    private static readonly Dictionary<string, string[]> Generic = new()
    {
        ["sans-serif"] = ["DejaVu Sans", "Liberation Sans", "Noto Sans"],
        ["serif"] = ["DejaVu Serif", "Liberation Serif", "Noto Serif"],
        ["monospace"] = ["DejaVu Sans Mono", "Liberation Mono", "Noto Sans Mono"],
    };

    // From 600 on a weight is bold (CSS Fonts 4, 5.2): a bold one is no stand-in for one that is not.
    private const int Bold = 600;

    private readonly List<SKTypeface> handedIn = [];
    private readonly Dictionary<(string, int, bool), Typeface?> found = [];

    /// <param name="files">OpenType (ISO/IEC 14496-22); what is none is passed over. Left open.</param>
    public Typefaces(IReadOnlyList<Stream> files)
    {
        foreach (var file in files.Where(f => f.Length <= MaxBytes))
        {
            using var data = SKData.Create(file);
            if (data is not null && SKTypeface.FromData(data) is { } face)
                handedIn.Add(face);
        }
    }

    /// <param name="family">As it is asked for, or the name of a kind, such as <c>serif</c>.</param>
    /// <param name="weight">1 to 1000; 400 is regular, 700 bold.</param>
    /// <param name="isSlanted">Italic or oblique.</param>
    /// <returns>Null where none of the family is at hand that is as bold and as slanted.</returns>
    public Typeface? Find(string family, int weight, bool isSlanted)
    {
        var key = (family.ToUpperInvariant(), weight, isSlanted);
        if (found.TryGetValue(key, out var known))
            return known;
        SKTypeface? best = null;
        foreach (var name in Generic.GetValueOrDefault(family.ToLowerInvariant()) ?? [family])
        {
            best = OfFamily(name)
                .Where(t => t.IsItalic() == isSlanted && t.FontWeight >= Bold == weight >= Bold)
                // Of condensed and expanded ones nobody asked for any.
                .OrderBy(t => Math.Abs(t.FontWidth - (int)SKFontStyleWidth.Normal))
                .ThenBy(t => Math.Abs(t.FontWeight - weight))
                .FirstOrDefault();
            if (best is not null)
                break;
        }
        return found[key] = best is null ? null : new Typeface(best);
    }

    public void Dispose()
    {
        foreach (var face in found.Values)
            face?.Dispose();
        foreach (var face in handedIn)
            face.Dispose();
    }

    private IEnumerable<SKTypeface> OfFamily(string name)
    {
        var own = handedIn.Where(t => t.FamilyName.Equals(name, StringComparison.OrdinalIgnoreCase)).ToList();
        if (own.Count > 0)
            return own;
        using var styles = SKFontManager.Default.GetFontStyles(name);
        return Enumerable
            .Range(0, styles.Count)
            .Select(styles.CreateTypeface)
            .Where(t => t.FamilyName.Equals(name, StringComparison.OrdinalIgnoreCase))
            .ToList();
    }
}

file static class Styles
{
    public static bool IsItalic(this SKTypeface face) => face.FontSlant != SKFontStyleSlant.Upright;
}

/// <summary>One typeface: sets characters, and gives the outlines of its glyphs.</summary>
internal sealed class Typeface : IDisposable
{
    private readonly SKFont drawn;
    private readonly IntPtr bytes;
    private readonly Blob blob;
    private readonly Face face;
    private readonly HarfBuzzSharp.Font shaped;

    public Typeface(SKTypeface typeface)
    {
        UnitsPerEm = typeface.UnitsPerEm;
        drawn = new SKFont(typeface, UnitsPerEm)
        {
            Hinting = SKFontHinting.None,
            Subpixel = true,
            LinearMetrics = true,
        };
        using var file = typeface.OpenStream(out var index);
        // Where no collection of garbage moves it.
        bytes = Marshal.AllocHGlobal(file.Length);
        var read = file.Read(bytes, file.Length);
        blob = new Blob(bytes, read, MemoryMode.ReadOnly);
        face = new Face(blob, index);
        shaped = new HarfBuzzSharp.Font(face);
        shaped.SetScale(UnitsPerEm, UnitsPerEm);
        shaped.SetFunctionsOpenType();
    }

    /// <summary>Units of the outlines in the font's size.</summary>
    public int UnitsPerEm { get; }

    /// <summary>Sets characters one beside the other, with kerning and ligatures.</summary>
    /// <param name="text">From left to right.</param>
    /// <param name="hasLigatures">Whether letters may be joined: not where they are spaced.</param>
    public IReadOnlyList<SetGlyph> Set(string text, bool hasLigatures)
    {
        using var buffer = new HarfBuzzSharp.Buffer();
        buffer.AddUtf16(text);
        buffer.GuessSegmentProperties();
        buffer.Direction = Direction.LeftToRight;
        Feature[] features = hasLigatures ? [] : [Feature.Parse("-liga"), Feature.Parse("-clig")];
        shaped.Shape(buffer, features);
        var infos = buffer.GetGlyphInfoSpan();
        var places = buffer.GetGlyphPositionSpan();
        var set = new SetGlyph[infos.Length];
        for (var i = 0; i < set.Length; i++)
            set[i] = new(
                (ushort)infos[i].Codepoint,
                (int)infos[i].Cluster,
                places[i].XAdvance,
                places[i].XOffset,
                // HarfBuzz counts upwards, an SVG down.
                -places[i].YOffset
            );
        return set;
    }

    /// <returns>In the typeface's units, from the glyph's place on the base line, down; null for one without, such as a space.</returns>
    public SKPath? Outline(ushort glyph) => drawn.GetGlyphPath(glyph) is { IsEmpty: false } path ? path : null;

    public void Dispose()
    {
        shaped.Dispose();
        face.Dispose();
        blob.Dispose();
        Marshal.FreeHGlobal(bytes);
        drawn.Dispose();
    }
}

/// <summary>A glyph in its place, in the typeface's units.</summary>
/// <param name="Id">0 where the typeface has none for the character.</param>
/// <param name="Cluster">Where in the text its first character stands.</param>
internal readonly record struct SetGlyph(ushort Id, int Cluster, int Advance, int X, int Y);
