using System.CommandLine;
using Chronotype.Content;

namespace Chronotype.Cli.Content;

/// <summary>The option that says which store a command is about: a store's own folder, or a studio's data folder.</summary>
internal sealed class StoreOption() : Option<DirectoryInfo>("--store")
{
    private const string StudioDatabase = "studio.db",
        ContentFolder = "content";

    public static StoreOption Make() =>
        new()
        {
            Description = "The store's folder, or a studio's data folder.",
            HelpName = "DIR",
            Required = true,
        };

    /// <summary>Opens the store to write; makes it where there is none, if asked to.</summary>
    /// <exception cref="UnusableInputException">There is none, or it cannot be opened.</exception>
    public ContentStore Open(ParseResult parsed, bool mayMake = false)
    {
        var folder = FolderOf(parsed);
        if (!mayMake && !Directory.Exists(Path.Combine(folder, "segments")))
            throw new UnusableInputException($"--store: there is no content store in {folder}.");
        return Opening(() => ContentStore.Open(folder));
    }

    /// <summary>Opens the store to read, also while a studio writes to it.</summary>
    /// <exception cref="UnusableInputException">There is none, or it cannot be opened.</exception>
    public ContentStore OpenReadOnly(ParseResult parsed)
    {
        var folder = FolderOf(parsed);
        return Opening(() => ContentStore.OpenReadOnly(folder));
    }

    /// <summary>Whether a studio's records name what is in the store.</summary>
    public bool IsOfStudio(ParseResult parsed) => DatabaseOf(parsed) is not null;

    /// <summary>The database of the studio that the store belongs to; null where it belongs to none.</summary>
    public string? DatabaseOf(ParseResult parsed) =>
        Path.Combine(Path.GetDirectoryName(FolderOf(parsed)) ?? "", StudioDatabase) is var path && File.Exists(path) ? path : null;

    private string FolderOf(ParseResult parsed)
    {
        var given = Path.TrimEndingDirectorySeparator(parsed.GetRequiredValue(this).FullName);
        return File.Exists(Path.Combine(given, StudioDatabase)) ? Path.Combine(given, ContentFolder) : given;
    }

    private static ContentStore Opening(Func<ContentStore> open)
    {
        try
        {
            return open();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"--store: {e.Message}");
        }
    }
}
