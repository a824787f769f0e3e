using System.Text;

namespace Chronotype.Core.References;

/// <summary>The files of a project by where they stand, to look references up in.</summary>
/// <typeparam name="T">What is known of a file.</typeparam>
public sealed class FileIndex<T>
    where T : class
{
    private readonly Dictionary<string, T> exact = new(StringComparer.Ordinal);
    private readonly Dictionary<string, List<(string Path, T File)>> alike = new(StringComparer.Ordinal);
    private ILookup<string, (string Path, T File)>? byName;

    /// <summary>How many files there are.</summary>
    public int Count => exact.Count;

    /// <summary>Every file with its path.</summary>
    public IEnumerable<KeyValuePair<string, T>> All => exact;

    /// <summary>Adds a file; of two of exactly one path the later stands.</summary>
    /// <param name="path">From the project's top, with “/” between its parts, spelt as it is.</param>
    /// <param name="file">What stands there.</param>
    public void Add(string path, T file)
    {
        if (!exact.TryAdd(path, file))
        {
            exact[path] = file;
            alike[Key(path)].RemoveAll(f => f.Path == path);
        }
        var key = Key(path);
        if (alike.TryGetValue(key, out var list))
            list.Add((path, file));
        else
            alike[key] = [(path, file)];
        byName = null;
    }

    /// <summary>Looks for what stands at a path.</summary>
    /// <param name="path">From the project's top.</param>
    /// <returns>
    /// The file that is spelt so; else, of those that differ only in case or Unicode form, the first; null where there is none.
    /// </returns>
    public (string Path, T File, SpellingDifference Difference)? Find(string path)
    {
        if (exact.TryGetValue(path, out var file))
            return (path, file, SpellingDifference.None);
        if (!alike.TryGetValue(Key(path), out var list))
            return null;
        var nearest = list.MinBy(f => ((int)Difference(path, f.Path), f.Path));
        return (nearest.Path, nearest.File, Difference(path, nearest.Path));
    }

    /// <summary>The files of a name, wherever they stand, whatever their case and Unicode form.</summary>
    public IEnumerable<(string Path, T File)> Named(string name) =>
        (byName ??= exact.Select(f => (f.Key, f.Value)).ToLookup(f => Key(NameOf(f.Key)), StringComparer.Ordinal))[Key(name)];

    /// <summary>Equal for paths that some file system takes for one.</summary>
    public static string Key(string path) => Composed(path).ToLowerInvariant();

    /// <summary>The last part of a path.</summary>
    public static string NameOf(string path) => path[(path.LastIndexOf('/') + 1)..];

    private static SpellingDifference Difference(string a, string b)
    {
        var difference = SpellingDifference.None;
        var (composedA, composedB) = (Composed(a), Composed(b));
        if (composedA != composedB)
            difference |= SpellingDifference.Case;
        if ((composedA != a) != (composedB != b))
            difference |= SpellingDifference.UnicodeForm;
        return difference;
    }

    // What is no text in Unicode has no form to be brought to.
    private static string Composed(string text)
    {
        try
        {
            return text.IsNormalized(NormalizationForm.FormC) ? text : text.Normalize(NormalizationForm.FormC);
        }
        catch (ArgumentException)
        {
            return text;
        }
    }
}
