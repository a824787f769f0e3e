using Chronotype.Core.Content;

namespace Chronotype.Studio.Readers;

/// <summary>
/// Files that can be made again at any time, under a folder of the version of what makes them. When they take too much room, those go
/// first that nobody looked at for longest. Files of one name and several extensions belong together.
/// </summary>
/// <param name="root">The folder of all versions.</param>
/// <param name="version">Of what makes them.</param>
/// <param name="most">Bytes that all of them may take.</param>
internal sealed class KeptFiles(string root, int version, long most)
{
    private readonly string folder = Path.Combine(root, $"v{version}");
    private readonly Lock gate = new();

    /// <summary>Where a file stands, without its extension.</summary>
    /// <param name="of">The content that it is made of first.</param>
    /// <param name="name">Its own name; it holds every content that it is made of.</param>
    public string PathOf(ContentHash of, string name) => Path.Combine(folder, of.ToString()[..2], name);

    /// <summary>Writes the last file of a name; without it there is nothing of that name. Then the rest makes room for it.</summary>
    public async Task WriteNoteAsync(string path, string extension, string text, CancellationToken cancel)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var temporary = $"{path}.{Guid.NewGuid():N}";
        await File.WriteAllTextAsync(temporary, text, cancel);
        File.Move(temporary, path + extension, overwrite: true);
        lock (gate)
            MakeRoom(path);
    }

    /// <returns>What the last file of a name says; null where there is none.</returns>
    public static string? ReadNote(string path, string extension)
    {
        try
        {
            var text = File.ReadAllText(path + extension);
            File.SetLastAccessTimeUtc(path + extension, DateTime.UtcNow);
            return text;
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            return null;
        }
    }

    /// <summary>Throws away all that was made of a content.</summary>
    public void Drop(ContentHash content)
    {
        if (!Directory.Exists(folder))
            return;
        foreach (var made in Directory.GetFiles(folder, $"*{content}*", SearchOption.AllDirectories))
            File.Delete(made);
    }

    /// <summary>Throws away what earlier versions made.</summary>
    public void DropOlder()
    {
        if (!Directory.Exists(root))
            return;
        foreach (var older in Directory.GetDirectories(root).Where(d => d != folder))
            Directory.Delete(older, recursive: true);
    }

    private void MakeRoom(string spared)
    {
        var groups = new DirectoryInfo(folder)
            .GetFiles("*", SearchOption.AllDirectories)
            .GroupBy(f => Path.ChangeExtension(f.FullName, null))
            .OrderByDescending(g => g.Max(f => f.LastAccessTimeUtc));
        var total = 0L;
        foreach (var group in groups)
        {
            total += group.Sum(f => f.Length);
            if (total <= most || group.Key == spared)
                continue;
            foreach (var file in group)
                file.Delete();
        }
    }
}
