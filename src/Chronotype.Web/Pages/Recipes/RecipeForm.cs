using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Storage.Entities;

namespace Chronotype.Web.Pages.Recipes;

/// <summary>What kind of thing a recipe makes.</summary>
public enum RecipeKind
{
    Picture,
    Sound,
    Drawing,
    Packed,
}

/// <summary>A recipe as it stands in a form. Numbers are as they are typed; an empty field is for "as it is".</summary>
public sealed record RecipeForm
{
    public RecipeKind Kind { get; init; }
    public string? Key { get; init; }
    public string? Name { get; init; }

    /// <summary>The layers that it is made of alone, a line each.</summary>
    public string? Layers { get; init; }

    // Pictures.
    public PictureFile File { get; init; }
    public string? Width { get; init; }
    public string? Height { get; init; }
    public string Unit { get; init; } = "mm";
    public string? Dpi { get; init; }
    public bool Turns { get; init; }
    public PictureFit Fit { get; init; }
    public string? Background { get; init; }
    public string? Bleed { get; init; }
    public bool Marks { get; init; }

    /// <summary>A colour, or the identity of a profile.</summary>
    public string Colour { get; init; } = nameof(PictureColour.Srgb);
    public ColourIntent Intent { get; init; } = ColourIntent.Relative;
    public int Depth { get; init; } = 8;
    public string? Quality { get; init; }
    public string? Sharpen { get; init; }
    public bool Metadata { get; init; }

    /// <summary>What of the picture is made: all of it where all four are empty.</summary>
    public string? RegionX { get; init; }
    public string? RegionY { get; init; }
    public string? RegionWidth { get; init; }
    public string? RegionHeight { get; init; }

    // Sounds.
    public SoundFile SoundFile { get; init; }
    public string? Rate { get; init; }
    public string? Bits { get; init; }
    public string? Channels { get; init; }
    public string? KiloBits { get; init; }
    public string? Loudness { get; init; }
    public string? Peak { get; init; }
    public string? From { get; init; }
    public string? Seconds { get; init; }
    public string? FadeIn { get; init; }
    public string? FadeOut { get; init; }
    public bool Broadcast { get; init; }

    // Drawings.
    public DrawingFile DrawingFile { get; init; }
    public string? Tolerance { get; init; }
    public StrokeOrder Order { get; init; }
    public bool Outlines { get; init; }

    /// <summary>With a name where none is typed yet: what it makes is seen before it is called anything.</summary>
    public RecipeForm ForExample => string.IsNullOrWhiteSpace(Name) ? this with { Name = "recipe" } : this;

    /// <summary>The form that says what a recipe says.</summary>
    public static RecipeForm Of(Recipe recipe)
    {
        static string? N(double? number) => number?.ToString("0.####", CultureInfo.InvariantCulture);
        static string? Some(double number) => number == 0 ? null : N(number);
        var form = new RecipeForm
        {
            Key = recipe.Key,
            Name = recipe.Name,
            Layers = string.Join('\n', recipe.Layers),
        };
        return recipe switch
        {
            { Picture: { } p } => form with
            {
                Kind = RecipeKind.Picture,
                File = p.File,
                Width = N(p.Size?.Width),
                Height = N(p.Size?.Height),
                Unit = p.Size?.Unit ?? "mm",
                Dpi = N(p.Size?.Resolution),
                Turns = p.Size?.Turns == true,
                Fit = p.Fit,
                Background = p.Background,
                Bleed = Some(p.Bleed),
                Marks = p.Marks,
                Colour = p.Profile?.Hash.ToString() ?? p.Colour.ToString(),
                Intent = p.Intent,
                Depth = p.Depth,
                Quality = N(p.Quality),
                Sharpen = Some(p.Sharpen),
                Metadata = p.KeepsMetadata,
                RegionX = N(p.Region?.X),
                RegionY = N(p.Region?.Y),
                RegionWidth = N(p.Region?.Width),
                RegionHeight = N(p.Region?.Height),
            },
            { Sound: { } s } => form with
            {
                Kind = RecipeKind.Sound,
                SoundFile = s.File,
                Rate = N(s.SampleRate),
                Bits = N(s.Bits),
                Channels = N(s.Channels),
                KiloBits = N(s.KiloBits),
                Loudness = N(s.Loudness),
                Peak = N(s.PeakCeiling),
                From = Some(s.From),
                Seconds = N(s.Seconds),
                FadeIn = Some(s.FadeIn),
                FadeOut = Some(s.FadeOut),
                Broadcast = s.IsBroadcast,
            },
            { Drawing: { } d } => form with
            {
                Kind = RecipeKind.Drawing,
                DrawingFile = d.File,
                Tolerance = N(d.Tolerance),
                Order = d.Order,
                Outlines = d.Outlines,
            },
            _ => form with { Kind = RecipeKind.Packed },
        };
    }

    /// <summary>The recipe, or every fault of it.</summary>
    /// <param name="profiles">The colour profiles that are here.</param>
    public ReadRecipe Read(IReadOnlyList<ColourProfileEntry> profiles)
    {
        var faults = new List<SettingFault>();
        var name = (Name ?? "").Trim();
        var recipe = new Recipe(string.IsNullOrWhiteSpace(Key) ? Recipe.KeyOf(name) : Key.Trim(), name);
        recipe = Kind switch
        {
            RecipeKind.Picture => recipe with { Picture = Picture(profiles, faults) },
            RecipeKind.Sound => recipe with { Sound = Sound(faults) },
            RecipeKind.Drawing => recipe with
            {
                Drawing = new(DrawingFile)
                {
                    Tolerance = Number(Tolerance, "drawing.tolerance", faults) ?? 0.05,
                    Order = Order,
                    // A tick that was made for an SVG says nothing of cut lines.
                    Outlines = Outlines && DrawingFile == DrawingFile.Svg,
                },
            },
            _ => recipe with { IsPacked = true },
        };
        if (Kind is RecipeKind.Picture or RecipeKind.Drawing)
            recipe = recipe with { Layers = [.. (Layers ?? "").Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0)] };
        if (faults.Count == 0)
            faults.AddRange(RecipeRules.Check(recipe));
        return faults.Count == 0 ? new(recipe, []) : new(null, faults);
    }

    private PictureRecipe Picture(IReadOnlyList<ColourProfileEntry> profiles, List<SettingFault> faults)
    {
        var (width, height) = (Number(Width, "picture.size", faults), Number(Height, "picture.size", faults));
        if (width is null != height is null)
            faults.Add(new("picture.size", "A size has a width and a height; both are left empty for the picture’s own."));
        var profile = profiles.FirstOrDefault(p => p.Hash.ToString() == Colour);
        return new PictureRecipe(File)
        {
            Size = width is { } w && height is { } h ? new(w, h, Unit, Number(Dpi, "picture.size.dpi", faults)) { Turns = Turns } : null,
            Region = Region(faults),
            Fit = Fit,
            Background = string.IsNullOrWhiteSpace(Background) ? null : Background.Trim(),
            Bleed = Number(Bleed, "picture.bleed", faults) ?? 0,
            Marks = Marks,
            Colour =
                profile is not null ? PictureColour.Profile
                : Enum.TryParse<PictureColour>(Colour, out var colour) && Enum.IsDefined(colour) ? colour
                : PictureColour.Profile,
            Profile = profile is null ? null : new(profile.Name, profile.Space, profile.Hash),
            Intent = Intent,
            Depth = Depth,
            Quality = Whole(Quality, "picture.quality", faults),
            Sharpen = Number(Sharpen, "picture.sharpen", faults) ?? 0,
            KeepsMetadata = Metadata,
        };
    }

    private PictureRegion? Region(List<SettingFault> faults)
    {
        int? At(string? text) => Whole(text, "picture.region", faults);
        var (x, y, width, height) = (At(RegionX), At(RegionY), At(RegionWidth), At(RegionHeight));
        if (width is null != height is null)
            faults.Add(new("picture.region", "A region has a width and a height; both are left empty for the whole picture."));
        else if (width is null && (x ?? y) is not null)
            faults.Add(new("picture.region", "A region begins somewhere, and has a width and a height."));
        return width is { } w && height is { } h ? new PictureRegion(x ?? 0, y ?? 0, w, h) : null;
    }

    private SoundRecipe Sound(List<SettingFault> faults) =>
        new(SoundFile)
        {
            SampleRate = Whole(Rate, "sound.rate", faults),
            Bits = Whole(Bits, "sound.bits", faults),
            Channels = Whole(Channels, "sound.channels", faults),
            KiloBits = Whole(KiloBits, "sound.kilobits", faults),
            Loudness = Number(Loudness, "sound.loudness", faults),
            PeakCeiling = Number(Peak, "sound.peak", faults) ?? -1,
            From = Number(From, "sound.from", faults) ?? 0,
            Seconds = Number(Seconds, "sound.seconds", faults),
            FadeIn = Number(FadeIn, "sound.fadeIn", faults) ?? 0,
            FadeOut = Number(FadeOut, "sound.fadeOut", faults) ?? 0,
            IsBroadcast = Broadcast,
        };

    private static double? Number(string? text, string place, List<SettingFault> faults)
    {
        if (string.IsNullOrWhiteSpace(text))
            return null;
        // People write a minus and a decimal mark in more ways than one.
        var plain = text.Trim().Replace('−', '-').Replace(',', '.');
        if (double.TryParse(plain, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && double.IsFinite(number))
            return number;
        faults.Add(new(place, $"“{(text.Length > 20 ? text[..20] : text)}” is no number."));
        return null;
    }

    private static int? Whole(string? text, string place, List<SettingFault> faults)
    {
        if (Number(text, place, faults) is not { } number)
            return null;
        if (number == Math.Truncate(number) && Math.Abs(number) < int.MaxValue)
            return (int)number;
        faults.Add(new(place, $"{text} is no whole number."));
        return null;
    }
}
