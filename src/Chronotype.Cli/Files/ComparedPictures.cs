using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using Chronotype.Formats;

namespace Chronotype.Cli.Files;

/// <summary>Writes pictures of two files into a folder: of pictures where they differ, of anything else that is drawn how each looks.</summary>
internal static class ComparedPictures
{
    private const int Side = 1600;

    /// <returns>The names of the files that were written.</returns>
    /// <exception cref="UnusableInputException">The folder cannot be written to, or has files of these names.</exception>
    public static IReadOnlyList<JsonNode> Write(
        DirectoryInfo folder,
        (Stream Content, FileFacts Facts) before,
        (Stream Content, FileFacts Facts) after
    )
    {
        try
        {
            folder.Create();
            if (before.Facts is { Fault: null, Picture: not null } && after.Facts is { Fault: null, Picture: not null })
            {
                var (a, b) = (new PictureSource(before.Content, before.Facts), new PictureSource(after.Content, after.Facts));
                TileCutter.WriteDifference(a, b, Free(folder, "difference.png"));
                TileCutter.WriteHeat(a, b, Free(folder, "places.png"));
                return ["difference.png", "places.png"];
            }
            return
            [
                .. new[] { Look(folder, "before", before.Content), Look(folder, "after", after.Content) }
                    .OfType<string>()
                    .Select(n => (JsonNode)n),
            ];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"{folder}: {e.Message}");
        }
    }

    private static string? Look(DirectoryInfo folder, string name, Stream content)
    {
        Preview? drawn;
        try
        {
            drawn = PreviewMaker.Make(content, Side);
        }
        catch (UnreadableFileException)
        {
            // The answer says why it cannot be read.
            return null;
        }
        if (drawn is null)
            return null;
        name += drawn.MediaType == "image/webp" ? ".webp" : ".svg";
        File.WriteAllBytes(Free(folder, name), drawn.Bytes);
        return name;
    }

    // Nothing that is there is overwritten.
    private static string Free(DirectoryInfo folder, string name)
    {
        var path = Path.Combine(folder.FullName, name);
        return File.Exists(path) ? throw new IOException($"{name} is there already; choose an empty folder.") : path;
    }
}
