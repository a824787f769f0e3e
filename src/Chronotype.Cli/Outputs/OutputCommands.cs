using System.CommandLine;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Formats;
using Chronotype.Formats.Outputs;

namespace Chronotype.Cli.Outputs;

/// <summary>The commands <c>make</c> and <c>recipes</c>: flat copies of files by recipes, without a studio.</summary>
internal static class OutputCommands
{
    private static Option<bool> TextOption() => new("--text") { Description = "Answers for people, instead of JSON." };

    public static Command Recipes()
    {
        var text = TextOption();
        var command = new Command("recipes", "Lists the recipes that every studio has, as docs/recipe.schema.json describes them.")
        {
            text,
        };
        command.SetAction(parsed =>
        {
            using var output = new JsonOutput();
            foreach (var recipe in OurRecipes.All)
            {
                if (parsed.GetValue(text))
                    output.Text($"{recipe.Key}  {recipe.Name}");
                else
                    output.Text(JsonSerializer.Serialize(JsonSerializer.Deserialize<JsonElement>(RecipeFile.Write(recipe)), Plain));
            }
            return ExitCodes.Done;
        });
        return command;
    }

    public static Command Make()
    {
        var file = new Argument<FileInfo>("FILE") { Description = "The file that a copy is made of. It is not changed." };
        var which = new Option<string>("--recipe")
        {
            Description = "A key that “recipes” lists, or a file with a recipe.",
            HelpName = "KEY|FILE",
            Required = true,
        };
        var folder = new Option<DirectoryInfo?>("--out")
        {
            Description = "Where the copy goes; the folder that one is in. What is there stays.",
            HelpName = "DIR",
        };
        var text = TextOption();
        var command = new Command("make", "Makes a copy for use by a recipe, and says what it gives up.") { file, which, folder, text };
        command.SetAction(
            (parsed, cancel) =>
            {
                var asked = parsed.GetRequiredValue(which);
                var recipe = Find(asked);
                var made = Make(parsed.GetRequiredValue(file), recipe, ProfileOf(recipe, asked), parsed.GetValue(folder), cancel);
                using var output = new JsonOutput();
                if (parsed.GetValue(text))
                {
                    output.Text($"{made.Path}  {made.Bytes:N0} bytes");
                    foreach (var loss in made.Losses)
                        output.Text($"  {Told(loss)}");
                    foreach (var left in made.Output.Texts?.Left ?? [])
                        output.Text(
                            $"  “{left.Text}” {(recipe.Drawing!.File == DrawingFile.Svg ? "stays a text" : "is left out")}: {Told(left)}"
                        );
                }
                else
                    output.Object(json => Write(json, recipe, made));
                return Task.FromResult(ExitCodes.Done);
            }
        );
        return command;
    }

    // What a recipe needs: its colour profile, or files of typefaces that lie where the drawing lies.
    private sealed class Beside(byte[]? profile, DirectoryInfo? folder) : IDisposable
    {
        public IReadOnlyList<Stream> Streams { get; } =
            profile is not null
                ? [new MemoryStream(profile)]
                :
                [
                    .. (folder?.EnumerateFiles() ?? [])
                        .Where(f => f.Extension.ToLowerInvariant() is ".ttf" or ".otf" or ".ttc")
                        .OrderBy(f => f.Name, StringComparer.Ordinal)
                        .Select(Open),
                ];

        public void Dispose()
        {
            foreach (var stream in Streams)
                stream.Dispose();
        }
    }

    private sealed record MadeFile(string Path, long Bytes, MadeOutput Output, IReadOnlyList<GivenUp> Losses);

    private static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private static Recipe Find(string asked)
    {
        if (OurRecipes.Find(asked) is { } ours)
            return ours;
        if (!File.Exists(asked))
            throw new UnusableInputException(
                $"--recipe: there is no recipe {asked}, and no such file. There are {string.Join(", ", OurRecipes.All.Select(r => r.Key))}."
            );
        if (new FileInfo(asked).Length > 4 * RecipeFile.MaxLength)
            throw new UnusableInputException($"--recipe: {asked} is larger than a recipe is.");
        var read = RecipeFile.Read(SettingText.Decode(File.ReadAllBytes(asked)));
        return read.Recipe ?? throw new UnusableInputException([$"--recipe: {asked} is no recipe.", .. read.Faults.Select(f => $"  {f}")]);
    }

    // Beside the recipe's file, by its name, and the very one that the recipe was written for.
    private static byte[]? ProfileOf(Recipe recipe, string asked)
    {
        if (recipe.Picture?.Profile is not { } profile)
            return null;
        var beside = Path.GetDirectoryName(Path.GetFullPath(asked))!;
        var path = new[] { ".icc", ".icm" }
            .Select(e => Path.Combine(beside, Path.GetFileName(profile.Name) + e))
            .FirstOrDefault(File.Exists);
        if (path is null)
            throw new UnusableInputException($"--recipe: the colour profile {profile.Name}.icc is not beside {asked}.");
        if (new FileInfo(path).Length > ColourProfile.MaxBytes)
            throw new UnusableInputException($"--recipe: {path} is larger than a colour profile is.");
        var bytes = File.ReadAllBytes(path);
        if (ColourProfile.Space(bytes) is not { } space)
            throw new UnusableInputException($"--recipe: {path} is no colour profile that outputs can be made for.");
        if (ContentHash.Of(bytes) != profile.Hash || space != profile.Space)
            throw new UnusableInputException(
                $"--recipe: {path} is another profile than the recipe was written for: it is {space}, sha256 {ContentHash.Of(bytes)}."
            );
        return bytes;
    }

    private static MadeFile Make(FileInfo file, Recipe recipe, byte[]? profile, DirectoryInfo? folder, CancellationToken cancel)
    {
        if (recipe.IsPacked)
            throw new UnusableInputException("--recipe: what a scene or a timeline refers to is known in its studio: pack it there.");
        using var content = Open(file);
        // What is made of it is gone over when it is made: all layers of a print take longer than that.
        var facts = FormatReader.Outline(content, cancel);
        if (facts.Fault is { } fault)
            throw new UnusableInputException($"{file}: it cannot be read ({fault.Code}), so nothing was made.");
        if (GivenUp.Of(facts, recipe) is not { } losses)
            throw new UnusableInputException(
                $"{file}: {recipe.Key} makes {(recipe.Picture is not null ? "pictures" : recipe.Sound is not null ? "sounds" : "drawings")}, and there is "
                    + "none in it. Nothing was made."
            );
        var into = folder?.FullName ?? Directory.GetCurrentDirectory();
        Directory.CreateDirectory(into);
        // Beside its place first, so that a stop half-way leaves no half file under its name.
        var part = Path.Combine(into, $".{Guid.NewGuid():N}.part");
        try
        {
            MadeOutput made;
            using (var output = new FileStream(part, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16))
            {
                var from = new MadeFrom(file.Name, "", file.LastWriteTime);
                using var beside = new Beside(profile, recipe.Drawing is null ? null : file.Directory);
                made = OutputMaker.Make(content, recipe, output, from, beside.Streams, cancel);
                output.Flush(flushToDisk: true);
            }
            var path = Moved(part, into, $"{FileNames.Stem(file.Name)}_{recipe.Key}", recipe.Extension);
            return new MadeFile(path, new FileInfo(path).Length, made, losses);
        }
        catch (UnreadableFileException e)
        {
            throw new UnusableInputException($"{file}: nothing was made of it ({e.Fault.Code}).");
        }
        finally
        {
            File.Delete(part);
        }
    }

    // A name that is taken stays whose it is.
    private static string Moved(string part, string folder, string stem, string extension)
    {
        for (var n = 1; ; n++)
        {
            var path = Path.Combine(folder, n == 1 ? stem + extension : $"{stem} ({n}){extension}");
            try
            {
                File.Move(part, path, overwrite: false);
                return path;
            }
            catch (IOException) when (File.Exists(path)) { }
        }
    }

    private static FileStream Open(FileInfo file)
    {
        try
        {
            return new FileStream(file.FullName, FileMode.Open, FileAccess.Read, FileShare.ReadWrite, 1 << 16);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"{file}: it cannot be opened. {e.Message}");
        }
    }

    private static void Write(Utf8JsonWriter json, Recipe recipe, MadeFile made)
    {
        json.WriteString("recipe", recipe.Key);
        json.WriteString("file", made.Path);
        json.WriteNumber("bytes", made.Bytes);
        if (made.Output.Frame is { } frame)
        {
            json.WriteNumber("width", frame.WholeWidth);
            json.WriteNumber("height", frame.WholeHeight);
            if (frame.Resolution is { } dense)
                json.WriteNumber("dpi", dense);
        }
        if (made.Output.Sound is { } sound)
        {
            json.WriteNumber("rate", sound.SampleRate);
            json.WriteNumber("bits", sound.Bits);
            json.WriteNumber("channels", sound.Channels);
            json.WriteNumber("frames", sound.Frames);
        }
        if (made.Output.Pages > 0)
            json.WriteNumber("pages", made.Output.Pages);
        if (made.Output.Strokes is { } strokes)
        {
            json.WriteNumber("strokes", strokes.Count);
            json.WriteNumber("length", Math.Round(strokes.Length, 2));
            json.WriteNumber("widthMm", Math.Round(strokes.Width, 3));
            json.WriteNumber("heightMm", Math.Round(strokes.Height, 3));
            json.WriteNumber("tools", strokes.Tools.Count);
        }
        if (made.Output.Texts is { } texts)
        {
            json.WriteNumber("outlinedTexts", texts.Outlined);
            json.WriteStartArray("leftTexts");
            foreach (var left in texts.Left)
            {
                json.WriteStartObject();
                json.WriteString("text", left.Text);
                json.WriteString("why", JsonNamingPolicy.CamelCase.ConvertName(left.Why.ToString()));
                json.WriteString("about", left.About);
                json.WriteEndObject();
            }
            json.WriteEndArray();
        }
        if (made.Output.Gain is { } gain)
        {
            json.WriteNumber("gain", Math.Round(gain, 3));
            json.WriteBoolean("heldBack", made.Output.IsHeldBack);
        }
        json.WriteStartArray("givesUp");
        foreach (var loss in made.Losses)
        {
            json.WriteStartObject();
            json.WriteString("loss", JsonNamingPolicy.CamelCase.ConvertName(loss.Loss.ToString()));
            if (loss.Was != 0)
                json.WriteNumber("was", loss.Was);
            if (loss.Now != 0)
                json.WriteNumber("now", loss.Now);
            if (loss.Names.Count > 0)
            {
                json.WriteStartArray("names");
                foreach (var name in loss.Names)
                    json.WriteStringValue(name);
                json.WriteEndArray();
            }
            json.WriteEndObject();
        }
        json.WriteEndArray();
    }

    private static string Told(LeftText left) =>
        left.Why switch
        {
            TextObstacle.Typeface => left.About.Length > 0 ? $"no file of the typeface {left.About} is at hand" : "it names no typeface",
            TextObstacle.Character => $"its typeface has no “{left.About}”",
            _ => $"its {left.About} is not followed here",
        };

    private static string Told(GivenUp loss) =>
        loss.Loss switch
        {
            Loss.Layers => $"{loss.Was:N0} layers become one",
            Loss.LayersLeftOut => $"of {loss.Was:N0} layers {loss.Now:N0}: {string.Join(", ", loss.Names)}",
            Loss.Texts => $"{loss.Was:N0} {(loss.Was == 1 ? "text" : "texts")} can no longer be edited: {string.Join(", ", loss.Names)}",
            Loss.TextsOutlined =>
                $"{loss.Was:N0} {(loss.Was == 1 ? "text becomes" : "texts become")} outlines where the typeface is at hand: "
                    + string.Join(", ", loss.Names),
            Loss.Outlines => "what was drawn becomes pixels",
            Loss.Transparency => "transparency becomes background",
            Loss.Depth => $"{loss.Was} bits become {loss.Now}",
            Loss.Colour => "colours become greys",
            Loss.Profile => $"colours are told in {string.Join(", ", loss.Names)}",
            Loss.Pixels => $"{loss.Was:N0} pixels across become {loss.Now:N0}",
            Loss.Detail => loss.Was > 0
                ? $"the picture has {loss.Was:N0} dpi at this size; {loss.Now:N0} adds no detail"
                : "it is enlarged, which adds no detail",
            Loss.Edges => $"{1 - loss.Now:P1} is cut off at the sides",
            Loss.Compression => "the format loses a little",
            Loss.Pages => $"of {loss.Was:N0} pages the first",
            Loss.SampleRate => $"{loss.Was / 1000} kHz become {loss.Now / 1000}",
            Loss.Channels => $"{loss.Was} channels become {loss.Now}",
            Loss.Time => $"{loss.Was:N1} s become {loss.Now:N1}",
            Loss.Coding => "what is hardly heard is left out",
            Loss.PicturesLeftOut =>
                $"{loss.Was:N0} {(loss.Was == 1 ? "picture is" : "pictures are")} left out: {string.Join(", ", loss.Names)}",
            Loss.Curves => $"curves become straight pieces, no further off than {loss.Now} mm; colours and widths of lines are gone",
            _ => throw new ArgumentOutOfRangeException(nameof(loss)),
        };
}
