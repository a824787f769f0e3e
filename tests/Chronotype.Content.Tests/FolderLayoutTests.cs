using Chronotype.Content;
using Chronotype.Core.Content;

namespace Chronotype.Content.Tests;

public sealed class FolderLayoutTests : IDisposable
{
    private readonly StoreFolder folder = new();

    public void Dispose() => folder.Dispose();

    private string Lay(byte[] content, ContentHash hash)
    {
        var path = Path.Combine(folder.Path, hash.ToString()[..2], hash.ToString()[2..]);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllBytes(path, content);
        return path;
    }

    [Fact]
    public async Task Files_of_the_older_layout_are_taken_over_and_a_damaged_one_stays_and_is_named()
    {
        byte[][] contents =
        [
            [],
            Samples.Noise(1, 1),
            Samples.Noise(3_000_000, 2),
        ];
        foreach (var content in contents)
            Lay(content, ContentHash.Of(content));
        var damaged = Lay(Samples.Noise(500, 3), ContentHash.Of(Samples.Noise(600, 4)));
        Directory.CreateDirectory(Path.Combine(folder.Path, "incoming"));
        File.WriteAllBytes(Path.Combine(folder.Path, "incoming", "0192"), [1, 2, 3]);
        using (var store = folder.Open())
        {
            var (taken, left) = await FolderLayout.TakeOverAsync(store);
            Assert.Equal(3, taken);
            Assert.Equal(damaged, Assert.Single(left));
        }
        using var again = folder.Open();
        Assert.Equal(0, (await FolderLayout.TakeOverAsync(again)).Taken);
        foreach (var content in contents)
            again.Holds(content);
        Assert.Equal(
            ["index", "lock", "manifest", "segments", Path.GetFileName(Path.GetDirectoryName(damaged)!)],
            Directory
                .EnumerateFileSystemEntries(folder.Path)
                .Select(e => Path.GetFileName(e)!)
                .OrderBy(n => n.Length == 2)
                .ThenBy(n => n, StringComparer.Ordinal)
        );
        Assert.Equal(Samples.Noise(500, 3), File.ReadAllBytes(damaged));
    }
}
