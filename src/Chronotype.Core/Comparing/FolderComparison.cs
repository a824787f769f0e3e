using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>Which file of one folder is which of another: by its place, and where that is not there any more, by what it holds.</summary>
public static class FolderComparison
{
    /// <summary>A file that is in either of two folders, or in both.</summary>
    /// <param name="Before">The earlier; null for one that was added.</param>
    /// <param name="After">The later; null for one that was removed.</param>
    public sealed record Pair(ContentFile? Before, ContentFile? After)
    {
        /// <summary>Whether what it holds is the same, wherever it stands.</summary>
        public bool IsSame => Before is not null && Before.Hash == After?.Hash;

        /// <summary>What became of it.</summary>
        public PartChange Change() =>
            (Before, After) switch
            {
                (null, { } added) => new PartChange(added.Path.Text, PartChangeKind.Added),
                ({ } gone, null) => new PartChange(gone.Path.Text, PartChangeKind.Removed),
                ({ } was, { } now) when was.Path != now.Path => new PartChange(
                    now.Path.Text,
                    was.Path.Folder == now.Path.Folder ? PartChangeKind.Changed : PartChangeKind.Moved
                )
                {
                    FormerName = was.Path.Text,
                },
                (_, { } now) => new PartChange(now.Path.Text, IsSame ? PartChangeKind.Same : PartChangeKind.Changed),
                _ => throw new InvalidOperationException("A file of neither folder."),
            };
    }

    /// <summary>Pairs the files of two folders.</summary>
    /// <param name="before">The earlier folder's files.</param>
    /// <param name="after">The later folder's.</param>
    /// <returns>In the order of the later folder's paths, those that are gone last.</returns>
    public static IReadOnlyList<Pair> Match(IReadOnlyList<ContentFile> before, IReadOnlyList<ContentFile> after)
    {
        var old = before.ToDictionary(f => f.Path);
        var pairs = new List<Pair>();
        var unmatched = new List<ContentFile>();
        foreach (var file in after.OrderBy(f => f.Path.Text, StringComparer.Ordinal))
        {
            if (old.Remove(file.Path, out var was))
                pairs.Add(new Pair(was, file));
            else
                unmatched.Add(file);
        }
        // Of several that hold the same, those of one name belong together first, then those of one folder.
        var gone = old.Values.ToLookup(f => f.Hash).ToDictionary(g => g.Key, g => g.ToList());
        foreach (
            var fits in new Func<ContentFile, ContentFile, bool>[]
            {
                (a, b) => a.Path.Name == b.Path.Name,
                (a, b) => a.Path.Folder == b.Path.Folder,
                (_, _) => true,
            }
        )
        {
            foreach (var file in unmatched.ToList())
            {
                if (gone.GetValueOrDefault(file.Hash) is not { } same || same.Find(f => fits(f, file)) is not { } was)
                    continue;
                same.Remove(was);
                old.Remove(was.Path);
                unmatched.Remove(file);
                pairs.Add(new Pair(was, file));
            }
        }
        pairs.AddRange(unmatched.Select(file => new Pair(null, file)));
        return
        [
            .. pairs.OrderBy(p => p.After!.Path.Text, StringComparer.Ordinal),
            .. old.Values.OrderBy(f => f.Path.Text, StringComparer.Ordinal).Select(file => new Pair(file, null)),
        ];
    }
}
