using System.Diagnostics;
using System.Net;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <content>
/// Programs that do anything in any order: the share answers as the folders and files of a disk would, and nothing that it took is gone.
/// </content>
public partial class ShareTests
{
    /// <summary>A disk: what holds no bytes is a folder. Its names do not tell capitals from small letters.</summary>
    private sealed class Disk(params string[] folders)
    {
        private readonly SortedDictionary<string, byte[]?> all = new(
            folders.ToDictionary(f => f, _ => (byte[]?)null),
            StringComparer.OrdinalIgnoreCase
        );

        /// <summary>Those that are there from the beginning, and stay.</summary>
        public IReadOnlyList<string> Folders => folders;

        public IEnumerable<KeyValuePair<string, byte[]?>> All => all;

        public bool Put(string path, byte[] bytes)
        {
            if (!HoldsFolderOf(path) || IsFolder(path))
                return false;
            all[path] = bytes;
            return true;
        }

        public bool MakeFolder(string path) => HoldsFolderOf(path) && all.TryAdd(path, null);

        public bool Delete(string path)
        {
            if (!all.ContainsKey(path))
                return false;
            foreach (var gone in Under(path))
                all.Remove(gone.Key);
            return true;
        }

        /// <summary>Copies or moves.</summary>
        public bool Bring(string from, string to, bool overwrites, bool stays)
        {
            var isRecased = !stays && from != to && IsSame(from, to);
            if (!all.ContainsKey(from) || !HoldsFolderOf(to))
                return false;
            if (isRecased)
                return true;
            if (IsSame(from, to) || IsIn(to, from) || IsIn(from, to) || (!overwrites && all.ContainsKey(to)))
                return false;
            var brought = Under(from);
            Delete(to);
            if (!stays)
                Delete(from);
            foreach (var (path, bytes) in brought)
                all[to + path[from.Length..]] = bytes;
            return true;
        }

        private bool IsFolder(string path) => all.TryGetValue(path, out var bytes) && bytes is null;

        private bool HoldsFolderOf(string path) => IsFolder(path[..path.LastIndexOf('/')]);

        private List<KeyValuePair<string, byte[]?>> Under(string path) => [.. all.Where(a => IsSame(a.Key, path) || IsIn(a.Key, path))];

        private static bool IsSame(string a, string b) => string.Equals(a, b, StringComparison.OrdinalIgnoreCase);

        private static bool IsIn(string path, string folder) => path.StartsWith(folder + "/", StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>By a seed, and the folder beside the assets in which it goes on.</summary>
    public static TheoryData<int, string> Walks
    {
        get
        {
            var all = new TheoryData<int, string>();
            for (var seed = 1; seed <= Thorough.Times(3, 20); seed++)
            {
                all.Add(seed, "documents");
                all.Add(seed, "working/rough");
            }
            return all;
        }
    }

    /// <summary>Of files of the tree every content is kept; of those in working folders, which are no pieces yet, what was there long enough.</summary>
    [Theory]
    [MemberData(nameof(Walks))]
    public async Task Whatever_is_done_in_whatever_order_it_is_a_disk_and_nothing_that_was_taken_is_gone(int seed, string beside)
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        using var other = await OdoAsync(studio, owner);
        var (random, disk, taken, steps) = (new Random(seed), new Disk("assets", beside), new HashSet<ContentHash>(), new List<string>());
        if (beside != "documents")
            Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", beside)).Status);
        for (var step = 0; step < 150; step++)
        {
            var program = random.Next(3) == 0 ? other : desk;
            var (path, to) = (SomePlace(random, beside), SomePlace(random, beside));
            var overwrites = random.Next(3) > 0;
            (string, string) destination = ("Destination", program.Url(to));
            (string, string) overwrite = ("Overwrite", overwrites ? "T" : "F");
            bool expected;
            HttpStatusCode status;
            switch (random.Next(10))
            {
                case < 4:
                    // An empty one now and then: many programs begin so.
                    var bytes = random.Next(8) == 0 ? [] : Encoding.UTF8.GetBytes($"What step {step} wrote, {random.Next()}");
                    steps.Add($"PUT {path}");
                    status = await program.PutAsync(path, bytes);
                    expected = disk.Put(path, bytes);
                    if (expected && bytes.Length > 0 && !path.StartsWith("working/", StringComparison.Ordinal))
                        taken.Add(ContentHash.Of(bytes));
                    break;
                case < 5:
                    steps.Add($"MKCOL {path}");
                    status = (await program.DoAsync("MKCOL", path)).Status;
                    expected = disk.MakeFolder(path);
                    break;
                case < 6:
                    steps.Add($"DELETE {path}");
                    status = await program.DeleteAsync(path);
                    expected = disk.Delete(path);
                    break;
                case < 8:
                    steps.Add($"COPY {path} to {to}, {overwrite}");
                    status = (await program.DoAsync("COPY", path, null, destination, overwrite)).Status;
                    expected = disk.Bring(path, to, overwrites, stays: true);
                    break;
                default:
                    steps.Add($"MOVE {path} to {to}, {overwrite}");
                    status = (await program.DoAsync("MOVE", path, null, destination, overwrite)).Status;
                    expected = disk.Bring(path, to, overwrites, stays: false);
                    break;
            }
            Assert.True(
                (int)status is >= 200 and < 300 == expected,
                $"{status} where a disk would {(expected ? "do it" : "not")}: {Told(steps)}"
            );
            Assert.True((int)status < 500, $"{status}: {Told(steps)}");
            if (step % 15 != 14)
                continue;
            await LooksLikeAsync(disk, desk, steps);
            while (await studio.Read(db => db.SharedFiles.AnyAsync(f => f.SettledAt == null && f.Size > 0)))
                await Task.Delay(100);
            taken.UnionWith(disk.All.Where(a => a.Value is { Length: > 0 }).Select(a => ContentHash.Of(a.Value!)));
        }
        var kept = await studio.Read(db =>
            db.FileContents.Select(c => c.Hash)
                .Concat(db.SharedFiles.WithDeleted().Where(f => f.Hash != null).Select(f => f.Hash!.Value))
                .ToListAsync()
        );
        Assert.Empty(taken.Except(kept));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public async Task Two_people_who_save_one_file_at_once_in_any_of_the_ways_of_programs_both_find_every_save(int seed)
    {
        // Nothing that comes later is taken for the same save.
        await using var studio = await ServedStudio.OpenAsync(s =>
            s.AddSingleton(new ShareTimes(TimeSpan.FromSeconds(0.2), TimeSpan.Zero))
        );
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "poster.ora");
        await studio.SettledAsync();
        using var desk = await KeyAsync(studio, "IK");
        using var other = await OdoAsync(studio, owner);
        var saved = await Task.WhenAll(SaveManyAsync(desk, seed * 2, 1), SaveManyAsync(other, seed * 2 + 1, 2));
        var expected = saved.SelectMany(s => s).ToHashSet();
        // Two of one moment may both be told that it was not there to be moved; most are taken.
        Assert.InRange(expected.Count, 30, 60);
        HashSet<ContentHash> found;
        var until = Stopwatch.StartNew();
        do
        {
            await Task.Delay(200);
            found = [.. (await studio.SavesAsync()).Select(s => s.MainHash)];
        } while (!expected.IsSubsetOf(found) && until.Elapsed < TimeSpan.FromSeconds(20));
        Assert.Empty(expected.Except(found));
    }

    // Every content that is new to the studio, where its last step was answered with success.
    private static async Task<List<ContentHash>> SaveManyAsync(Desk desk, int seed, int person)
    {
        var (random, saved) = (new Random(seed), new List<ContentHash>());
        for (var number = 0; number < 30; number++)
        {
            var bytes = Samples.OpenRaster(30, 40, new Samples.OraLayer($"Layer {person}", number + 1, 8, Red: (byte)(person * 90)));
            var (aside, temporary) = ($"{Current}.{person}~", $"working/.goutputstream-{person}{number}");
            HttpStatusCode last;
            switch (random.Next(5))
            {
                case 0:
                    last = await desk.PutAsync(Current, bytes);
                    break;
                case 1:
                    await desk.PutAsync(temporary, bytes);
                    last = await desk.MoveAsync(temporary, Current);
                    break;
                case 2:
                    await desk.MoveAsync(Current, aside);
                    last = await desk.PutAsync(Current, bytes);
                    await desk.DeleteAsync(aside);
                    break;
                case 3:
                    await desk.PutAsync(Current, []);
                    last = await desk.PutAsync(Current, bytes);
                    break;
                default:
                    await desk.DeleteAsync(Current);
                    last = await desk.PutAsync(Current, bytes);
                    break;
            }
            if ((int)last is >= 200 and < 300)
                saved.Add(ContentHash.Of(bytes));
            else
                Assert.True((int)last < 500, $"{last}");
        }
        return saved;
    }

    private static readonly string[] PlaceNames = ["tide", "Tide", "moon", "shore"];

    private static string SomePlace(Random random, string beside)
    {
        var path = random.Next(2) == 0 ? "assets" : beside;
        for (var depth = random.Next(1, 4); depth > 0; depth--)
            path += "/" + PlaceNames[random.Next(PlaceNames.Length)];
        return path;
    }

    private static async Task LooksLikeAsync(Disk disk, Desk desk, List<string> steps)
    {
        var found = new SortedDictionary<string, byte[]?>(StringComparer.OrdinalIgnoreCase);
        foreach (var (path, bytes) in disk.All)
        {
            if (bytes is null)
            {
                foreach (var name in await desk.ListAsync(path + "/"))
                    found.Add($"{path}/{name}", null);
            }
            else
            {
                var (status, body, _) = await desk.DoAsync("GET", path);
                var beside = await desk.ListAsync(path[..path.LastIndexOf('/')]);
                Assert.True(
                    status == HttpStatusCode.OK,
                    $"{path} of {bytes.Length} bytes: {status}, beside {string.Join(", ", beside)}: {Told(steps)}"
                );
                Assert.True(bytes.AsSpan().SequenceEqual(body), $"{path} holds something else: {Told(steps)}");
            }
        }
        var expected = disk.All.Select(a => a.Key.ToLowerInvariant()).Except(disk.Folders);
        Assert.True(
            expected.SequenceEqual(found.Keys.Select(p => p.ToLowerInvariant())),
            $"{string.Join(", ", found.Keys)} instead of {string.Join(", ", expected)}: {Told(steps)}"
        );
    }

    private static string Told(List<string> steps) => string.Join("; ", steps.TakeLast(20));
}
