using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;

namespace Chronotype.Core.References;

/// <summary>Why a file may be what a reference means, the strongest reason first.</summary>
public enum LikelyReason
{
    /// <summary>It holds what the reference led to before.</summary>
    SameContent,

    /// <summary>It stood where the reference leads, before it was moved or renamed.</summary>
    FormerPlace,

    /// <summary>It is called so, and stands elsewhere.</summary>
    SameName,

    /// <summary>It is called nearly so.</summary>
    NearName,

    /// <summary>It is called so, and is of another format.</summary>
    OtherFormat,
}

/// <summary>A file that a reference which leads nowhere may mean.</summary>
/// <param name="Path">Where it stands, from the project's top.</param>
/// <param name="File">What stands there.</param>
/// <param name="Reason">The strongest that speaks for it.</param>
/// <param name="Shared">How many last parts of its path are those that are written.</param>
public sealed record LikelyTarget<T>(string Path, T File, LikelyReason Reason, int Shared)
    where T : class;

/// <summary>Looks for what references that lead nowhere most likely mean.</summary>
/// <param name="files">The project's files as they are.</param>
/// <param name="isBefore">Whether a file holds what the reference led to before.</param>
/// <param name="former">By the path that they formerly had, as <see cref="FileIndex{T}.Key"/>, the paths that files have now.</param>
public sealed class LikelyTargets<T>(FileIndex<T> files, Func<T, bool> isBefore, ILookup<string, string> former)
    where T : class
{
    /// <summary>So many are offered.</summary>
    public const int Most = 5;

    // Made ready once: every link that leads nowhere is held against every file.
    private readonly List<(string Path, T File, Name Name)> all =
    [
        .. files.All.Select(f => (f.Key, f.Value, Name.Of(FileIndex<T>.NameOf(f.Key)))),
    ];

    /// <param name="folder">That the referring file stands in.</param>
    /// <param name="reference">As it was written.</param>
    /// <param name="self">The path of the referring file, which never means itself; null where that has none.</param>
    /// <returns>The likeliest first.</returns>
    public IReadOnlyList<LikelyTarget<T>> Find(string folder, WrittenReference reference, string? self = null)
    {
        if (reference.Kind is not (WrittenKind.Relative or WrittenKind.Absolute) || reference.Name.Length == 0)
            return [];
        var found = new Dictionary<string, LikelyTarget<T>>(StringComparer.Ordinal);
        void Add(string path, T file, LikelyReason reason)
        {
            if (path != self && (!found.TryGetValue(path, out var there) || there.Reason > reason))
                found[path] = new LikelyTarget<T>(path, file, reason, SharedParts(path, reference.Path));
        }
        var meant = Name.Of(reference.Name);
        foreach (var (path, file, name) in all)
        {
            if (isBefore(file))
                Add(path, file, LikelyReason.SameContent);
            else if (Nearness(name, meant) is { } reason)
                Add(path, file, reason);
        }
        if (reference.Kind == WrittenKind.Relative && RelativePath.Follow(folder, reference.Path) is { } place)
        {
            foreach (var now in former[FileIndex<T>.Key(place)])
            {
                if (files.Find(now) is { Difference: SpellingDifference.None } file)
                    Add(now, file.File, LikelyReason.FormerPlace);
            }
        }
        return
        [
            .. found
                .Values.OrderBy(t => t.Reason)
                .ThenByDescending(t => t.Shared)
                .ThenBy(t => t.Path.Count(c => c == '/'))
                .ThenBy(t => t.Path, StringComparer.Ordinal)
                .Take(Most),
        ];
    }

    // A name as it is compared: without its case and Unicode form, and its stem without what copies, dates and joints add to it.
    private readonly record struct Name(string Key, string Stem, string Extension, string Bare)
    {
        public static Name Of(string name)
        {
            var key = FileIndex<T>.Key(name);
            var stem = FileNames.Stem(key);
            var letters = stem.ToCharArray();
            foreach (var mark in NameMarks.Find(stem).Where(m => m.Kind is NameMarkKind.Copy or NameMarkKind.Date))
                Array.Fill(letters, ' ', mark.At, mark.Length);
            return new(key, stem, FileNames.Extension(key), string.Concat(letters.Where(c => !NameMarks.IsSeparator(c))));
        }
    }

    private static LikelyReason? Nearness(Name name, Name meant)
    {
        if (name.Key == meant.Key)
            return LikelyReason.SameName;
        if (name.Stem.Length > 0 && name.Stem == meant.Stem)
            return LikelyReason.OtherFormat;
        if (name.Extension != meant.Extension)
            return null;
        var isSlip = Math.Min(name.Stem.Length, meant.Stem.Length) >= 4 && HandSlip.MayBe(name.Stem, meant.Stem);
        return isSlip || (name.Bare.Length >= 3 && name.Bare == meant.Bare) ? LikelyReason.NearName : null;
    }

    private static int SharedParts(string path, string written)
    {
        var (mine, other) = (FileIndex<T>.Key(path).Split('/'), FileIndex<T>.Key(written).Split('/'));
        var shared = 0;
        while (shared < Math.Min(mine.Length, other.Length) && mine[^(shared + 1)] == other[^(shared + 1)])
            shared++;
        return shared;
    }
}
