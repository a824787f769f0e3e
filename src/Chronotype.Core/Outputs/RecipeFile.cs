using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>A recipe read from a file, or every fault that stands in its way; exactly one of the two is there.</summary>
public sealed record ReadRecipe(Recipe? Recipe, IReadOnlyList<SettingFault> Faults);

/// <summary>Writes recipes as JSON (RFC 8259) and reads them back; <c>docs/recipe.schema.json</c> describes the file.</summary>
public static class RecipeFile
{
    /// <summary>The longest file that is read, in characters.</summary>
    public const int MaxLength = 1 << 16;

    private const int Format = 1;

    private static readonly Dictionary<string, PictureFile> PictureFiles = new()
    {
        ["png"] = PictureFile.Png,
        ["jpeg"] = PictureFile.Jpeg,
        ["webp"] = PictureFile.WebP,
        ["tiff"] = PictureFile.Tiff,
        ["pdf"] = PictureFile.Pdf,
    };

    private static readonly Dictionary<string, PictureFit> Fits = new()
    {
        ["inside"] = PictureFit.Inside,
        ["pad"] = PictureFit.Pad,
        ["fill"] = PictureFit.Fill,
    };

    private static readonly Dictionary<string, PictureColour> Colours = new()
    {
        ["kept"] = PictureColour.Kept,
        ["srgb"] = PictureColour.Srgb,
        ["grey"] = PictureColour.Grey,
        ["profile"] = PictureColour.Profile,
    };

    private static readonly Dictionary<string, ColourIntent> Intents = new()
    {
        ["perceptual"] = ColourIntent.Perceptual,
        ["relative"] = ColourIntent.Relative,
        ["saturation"] = ColourIntent.Saturation,
        ["absolute"] = ColourIntent.Absolute,
    };

    private static readonly Dictionary<string, SoundFile> SoundFiles = new()
    {
        ["wave"] = SoundFile.Wave,
        ["aiff"] = SoundFile.Aiff,
        ["flac"] = SoundFile.Flac,
        ["mp3"] = SoundFile.Mp3,
        ["opus"] = SoundFile.Opus,
        ["aac"] = SoundFile.Aac,
    };

    private static readonly Dictionary<string, DrawingFile> DrawingFiles = new()
    {
        ["svg"] = DrawingFile.Svg,
        ["hpgl"] = DrawingFile.Hpgl,
        ["dxf"] = DrawingFile.Dxf,
    };

    private static readonly Dictionary<string, StrokeOrder> Orders = new()
    {
        ["layer"] = StrokeOrder.Layer,
        ["colour"] = StrokeOrder.Colour,
    };

    /// <summary>The recipe as a file: what reads back as an equal one.</summary>
    public static string Write(Recipe recipe)
    {
        using var buffer = new MemoryStream();
        using (
            var json = new Utf8JsonWriter(
                buffer,
                new JsonWriterOptions { Indented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }
            )
        )
            Write(json, recipe);
        return Encoding.UTF8.GetString(buffer.ToArray());
    }

    /// <summary>As <see cref="Write(Recipe)"/>, as a value of a larger document.</summary>
    public static void Write(Utf8JsonWriter json, Recipe recipe)
    {
        json.WriteStartObject();
        json.WriteNumber("chronotype", Format);
        json.WriteString("recipe", recipe.Key);
        json.WriteString("name", recipe.Name);
        if (recipe.Picture is { } picture)
            Write(json, picture);
        if (recipe.Sound is { } sound)
            Write(json, sound);
        if (recipe.Drawing is { } drawing)
        {
            json.WriteStartObject("drawing");
            json.WriteString("file", KeyOf(DrawingFiles, drawing.File));
            json.WriteNumber("tolerance", drawing.Tolerance);
            json.WriteString("order", KeyOf(Orders, drawing.Order));
            if (drawing.Outlines)
                json.WriteBoolean("outlines", true);
            json.WriteEndObject();
        }
        if (recipe.IsPacked)
            json.WriteBoolean("packed", true);
        if (recipe.Layers.Count > 0)
        {
            json.WriteStartArray("layers");
            foreach (var layer in recipe.Layers)
                json.WriteStringValue(layer);
            json.WriteEndArray();
        }
        json.WriteEndObject();
    }

    /// <summary>Reads a file, and finds every fault in it.</summary>
    /// <param name="text">JSON, as <c>docs/recipe.schema.json</c> describes it.</param>
    public static ReadRecipe Read(string text)
    {
        var faults = new List<SettingFault>();
        if (JsonPlace.Parse(text, MaxLength, faults) is not { } root || !root.IsObject("A recipe is an object."))
            return new(null, faults);
        root.Only("$schema", "chronotype", "recipe", "name", "picture", "sound", "drawing", "packed", "layers");
        if (root.Int("chronotype", Format) is var format && format != Format)
            return new(null, [new("chronotype", $"This file has the format {format}; this program reads {Format}.")]);
        var recipe = new Recipe(root.Text("recipe"), root.Text("name"))
        {
            Picture = root.Has("picture") ? Picture(root.Child("picture")) : null,
            Sound = root.Has("sound") ? Sound(root.Child("sound")) : null,
            Drawing = root.Has("drawing") ? Drawing(root.Child("drawing")) : null,
            IsPacked = root.Flag("packed"),
            Layers = root.Has("layers") ? [.. root.Items("layers", required: true).Select(i => i.Text())] : [],
        };
        if (faults.Count == 0)
            faults.AddRange(RecipeRules.Check(recipe));
        return faults.Count == 0 ? new(recipe, []) : new(null, faults);
    }

    private static void Write(Utf8JsonWriter json, PictureRecipe picture)
    {
        json.WriteStartObject("picture");
        json.WriteString("file", KeyOf(PictureFiles, picture.File));
        if (picture.Size is { } size)
        {
            json.WriteStartObject("size");
            json.WriteNumber("width", size.Width);
            json.WriteNumber("height", size.Height);
            json.WriteString("unit", size.Unit);
            if (size.Resolution is { } dense)
                json.WriteNumber("dpi", dense);
            if (size.Turns)
                json.WriteBoolean("turns", true);
            json.WriteEndObject();
        }
        if (picture.Region is { } region)
        {
            json.WriteStartObject("region");
            json.WriteNumber("x", region.X);
            json.WriteNumber("y", region.Y);
            json.WriteNumber("width", region.Width);
            json.WriteNumber("height", region.Height);
            json.WriteEndObject();
        }
        json.WriteString("fit", KeyOf(Fits, picture.Fit));
        if (picture.Background is { } background)
            json.WriteString("background", background);
        if (picture.Bleed > 0)
            json.WriteNumber("bleed", picture.Bleed);
        if (picture.Marks)
            json.WriteBoolean("marks", true);
        json.WriteString("colour", KeyOf(Colours, picture.Colour));
        if (picture.Profile is { } profile)
        {
            json.WriteStartObject("profile");
            json.WriteString("name", profile.Name);
            json.WriteString("space", profile.Space);
            json.WriteString("sha256", profile.Hash.ToString());
            json.WriteEndObject();
        }
        if (picture.Intent != ColourIntent.Relative)
            json.WriteString("intent", KeyOf(Intents, picture.Intent));
        json.WriteNumber("depth", picture.Depth);
        if (picture.Quality is { } quality)
            json.WriteNumber("quality", quality);
        if (picture.Sharpen > 0)
            json.WriteNumber("sharpen", picture.Sharpen);
        if (picture.KeepsMetadata)
            json.WriteBoolean("metadata", true);
        json.WriteEndObject();
    }

    private static void Write(Utf8JsonWriter json, SoundRecipe sound)
    {
        json.WriteStartObject("sound");
        json.WriteString("file", KeyOf(SoundFiles, sound.File));
        Put("kilobits", sound.KiloBits);
        if (sound.IsBroadcast)
            json.WriteBoolean("broadcast", true);
        Put("rate", sound.SampleRate);
        Put("bits", sound.Bits);
        Put("channels", sound.Channels);
        Put("loudness", sound.Loudness);
        if (sound.PeakCeiling != new SoundRecipe(sound.File).PeakCeiling)
            json.WriteNumber("peak", sound.PeakCeiling);
        Put("from", sound.From > 0 ? sound.From : null);
        Put("seconds", sound.Seconds);
        Put("fadeIn", sound.FadeIn > 0 ? sound.FadeIn : null);
        Put("fadeOut", sound.FadeOut > 0 ? sound.FadeOut : null);
        json.WriteEndObject();

        void Put(string name, double? value)
        {
            if (value is { } number)
                json.WriteNumber(name, number);
        }
    }

    private static PictureRecipe? Picture(JsonPlace place)
    {
        if (!place.IsObject("How a picture is made is an object."))
            return null;
        place.Only(
            "file",
            "size",
            "region",
            "fit",
            "background",
            "bleed",
            "marks",
            "colour",
            "profile",
            "intent",
            "depth",
            "quality",
            "sharpen",
            "metadata"
        );
        return new PictureRecipe(Of(place, "file", PictureFiles, null))
        {
            Size = place.Has("size") ? Size(place.Child("size")) : null,
            Region = place.Has("region") ? Region(place.Child("region")) : null,
            Fit = Of(place, "fit", Fits, "inside"),
            Background = place.Has("background") ? place.Text("background") : null,
            Bleed = place.Number("bleed") ?? 0,
            Marks = place.Flag("marks"),
            Colour = Of(place, "colour", Colours, "kept"),
            Profile = place.Has("profile") ? Profile(place.Child("profile")) : null,
            Intent = Of(place, "intent", Intents, "relative"),
            Depth = place.Int("depth", 8),
            Quality = place.Whole("quality"),
            Sharpen = place.Number("sharpen") ?? 0,
            KeepsMetadata = place.Flag("metadata"),
        };
    }

    private static PictureRegion? Region(JsonPlace place)
    {
        if (!place.IsObject("A region is an object."))
            return null;
        place.Only("x", "y", "width", "height");
        return new PictureRegion(place.Int("x", 0), place.Int("y", 0), place.Int("width", 0), place.Int("height", 0));
    }

    private static OutputProfile? Profile(JsonPlace place)
    {
        if (!place.IsObject("A profile is an object."))
            return null;
        place.Only("name", "space", "sha256");
        var written = place.Text("sha256");
        if (!ContentHash.TryParse(written, out var hash) && place.HasText("sha256"))
            place.Child("sha256").Fault("This is the SHA-256 of the profile’s bytes, in 64 hexadecimal digits.");
        return new OutputProfile(place.Text("name"), place.Text("space"), hash);
    }

    private static DrawingRecipe? Drawing(JsonPlace place)
    {
        if (!place.IsObject("How a drawing is made is an object."))
            return null;
        place.Only("file", "tolerance", "order", "outlines");
        var usual = new DrawingRecipe(DrawingFile.Svg);
        return new DrawingRecipe(Of(place, "file", DrawingFiles, null))
        {
            Tolerance = place.Number("tolerance") ?? usual.Tolerance,
            Order = Of(place, "order", Orders, "layer"),
            Outlines = place.Flag("outlines"),
        };
    }

    private static OutputSize? Size(JsonPlace place)
    {
        if (!place.IsObject("A size is an object."))
            return null;
        place.Only("width", "height", "unit", "dpi", "turns");
        return new OutputSize(place.Number("width") ?? 0, place.Number("height") ?? 0, place.Text("unit"), place.Number("dpi"))
        {
            Turns = place.Flag("turns"),
        };
    }

    private static SoundRecipe? Sound(JsonPlace place)
    {
        if (!place.IsObject("How a sound is made is an object."))
            return null;
        place.Only("file", "kilobits", "broadcast", "rate", "bits", "channels", "loudness", "peak", "from", "seconds", "fadeIn", "fadeOut");
        var usual = new SoundRecipe(SoundFile.Wave);
        return new SoundRecipe(Of(place, "file", SoundFiles, null))
        {
            KiloBits = place.Whole("kilobits"),
            IsBroadcast = place.Flag("broadcast"),
            SampleRate = place.Whole("rate"),
            Bits = place.Whole("bits"),
            Channels = place.Whole("channels"),
            Loudness = place.Number("loudness"),
            PeakCeiling = place.Number("peak") ?? usual.PeakCeiling,
            From = place.Number("from") ?? 0,
            Seconds = place.Number("seconds"),
            FadeIn = place.Number("fadeIn") ?? 0,
            FadeOut = place.Number("fadeOut") ?? 0,
        };
    }

    private static T Of<T>(JsonPlace place, string key, Dictionary<string, T> values, string? usual)
    {
        var text = place.Text(key, usual);
        if (values.TryGetValue(text, out var value))
            return value;
        if (place.HasText(key))
            place.Child(key).Fault($"This is one of {string.Join(", ", values.Keys)}.");
        return values.Values.First();
    }

    private static string KeyOf<T>(Dictionary<string, T> values, T value) =>
        values.First(v => EqualityComparer<T>.Default.Equals(v.Value, value)).Key;
}
