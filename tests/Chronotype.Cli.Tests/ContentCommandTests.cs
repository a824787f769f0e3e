using System.Security.Cryptography;
using Chronotype.Core.Content;

namespace Chronotype.Cli.Tests;

/// <summary>The commands about content, on the real program.</summary>
public sealed class ContentCommandTests : IDisposable
{
    private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("chronotype-cli-");

    public void Dispose() => folder.Delete(recursive: true);

    private string Store => Path.Combine(folder.FullName, "store");

    private Program.Ended Run(params string[] words) => Program.Run("", ["content", .. words, "--store", Store]);

    private (string Path, byte[] Bytes, string Hash) File(string name, int length, int seed = 1)
    {
        var bytes = Samples.Noise(length, seed);
        var path = Path.Combine(folder.FullName, name);
        System.IO.File.WriteAllBytes(path, bytes);
        return (path, bytes, ContentHash.Of(bytes).ToString());
    }

    [Fact]
    public void Put_answers_each_file_and_get_gives_it_back()
    {
        var (one, two) = (File("gull.ora", 3_000_000), File("empty.wav", 0));
        var put = Run("put", one.Path, two.Path);
        Assert.Equal((0, ""), (put.Code, put.Errors));
        Assert.Equal([one.Hash, two.Hash], put.Lines.Select(l => l.GetProperty("hash").GetString()));
        Assert.Equal([3_000_000, 0], put.Lines.Select(l => l.GetProperty("bytes").GetInt64()));
        Assert.InRange(put.Lines[0].GetProperty("newBytes").GetInt64(), 3_000_000, 3_060_000);
        Assert.Equal(0, Run("put", one.Path).Lines[0].GetProperty("newBytes").GetInt64());

        var to = Path.Combine(folder.FullName, "back.ora");
        Assert.Equal(0, Run("get", one.Hash, "--to", to).Code);
        Assert.Equal(one.Bytes, System.IO.File.ReadAllBytes(to));
        Assert.Equal(0, Run("get", one.Hash.ToUpperInvariant(), "--from", "1000000", "--bytes", "70", "--to", to).Code);
        Assert.Equal(one.Bytes[1_000_000..1_000_070], System.IO.File.ReadAllBytes(to));
        using var piped = Program.Start("content", "get", one.Hash, "--store", Store);
        Assert.Equal(one.Hash, Convert.ToHexStringLower(SHA256.HashData(piped.StandardOutput.BaseStream)));
    }

    [Fact]
    public void Stat_drop_and_compact_say_what_is_there_and_what_was_freed()
    {
        var (one, two) = (File("a.ora", 2_000_000, 1), File("b.ora", 1_000_000, 2));
        Run("put", one.Path, two.Path);
        var stat = Run("stat", "--contents");
        Assert.Equal([one.Hash, two.Hash], stat.Lines.Take(2).Select(l => l.GetProperty("hash").GetString()));
        Assert.Equal(3_000_000, stat.Lines[2].GetProperty("contentBytes").GetInt64());
        var drop = Run("drop", one.Hash, new string('0', 64));
        Assert.Equal(1, drop.Code);
        Assert.Equal([true, false], drop.Lines.Select(l => l.GetProperty("dropped").GetBoolean()));
        var compact = Run("compact").Lines[0];
        Assert.InRange(compact.GetProperty("bytesBefore").GetInt64() - compact.GetProperty("bytesAfter").GetInt64(), 1_990_000, 2_060_000);
        Assert.Equal(1, Run("get", one.Hash).Code);
        Assert.Equal(0, Run("rebuild").Code);
        Assert.True(Run("verify").Lines[^1].GetProperty("sound").GetBoolean());
        Assert.Equal(1, Run("stat").Lines[0].GetProperty("contents").GetInt64());
    }

    [Fact]
    public void Verify_lists_damage_and_repair_mends_it_from_a_copy()
    {
        var file = File("a.ora", 2_000_000);
        Run("put", file.Path);
        var segment = Directory.GetFiles(Path.Combine(Store, "segments")).Single();
        using (var damaged = new FileStream(segment, FileMode.Open))
        {
            damaged.Position = 1_000_000;
            damaged.Write([1, 2, 3, 4]);
        }
        var verify = Run("verify");
        Assert.Equal(1, verify.Code);
        Assert.Equal(file.Hash, verify.Lines[0].GetProperty("damaged").GetString());
        Assert.InRange(verify.Lines[0].GetProperty("unreadableBytes").GetInt64(), 1, 65_536);
        var to = Path.Combine(folder.FullName, "back");
        var get = Run("get", file.Hash, "--to", to);
        Assert.Equal(1, get.Code);
        Assert.Contains("damaged", get.Errors);
        Assert.Equal([file.Path, segment], Directory.GetFiles(folder.FullName).Append(segment));
        Assert.InRange(Run("repair", file.Path).Lines[0].GetProperty("newBytes").GetInt64(), 1, 66_000);
        Assert.Equal(0, Run("get", file.Hash, "--to", to).Code);
        Assert.Equal(0, Run("compact", "--verify").Code);
        Assert.Equal(0, Run("verify").Code);
    }

    [Fact]
    public void What_cannot_be_used_is_said_and_the_rest_is_done()
    {
        var file = File("a.ora", 1000);
        var put = Run("put", Path.Combine(folder.FullName, "nowhere.ora"), file.Path);
        Assert.Equal(2, put.Code);
        Assert.Contains("nowhere.ora", put.Errors);
        Assert.Equal(file.Hash, put.Lines.Single().GetProperty("hash").GetString());
        Assert.Contains("folder", Run("put", folder.FullName).Errors);
        Assert.Equal(2, Run("get", "abc").Code);
        Assert.Equal(2, Run("get", file.Hash, "--from", "-1").Code);
        Assert.Equal(2, Run("verify", "--sample", "0").Code);
        Assert.Equal(1, Run("get", new string('0', 64)).Code);
        foreach (var command in new[] { "verify", "stat", "compact", "rebuild" })
        {
            var ended = Program.Run("", "content", command, "--store", Path.Combine(folder.FullName, "no-store"));
            Assert.Equal(2, ended.Code);
            Assert.Contains("no content store", ended.Errors);
        }
        Assert.False(Directory.Exists(Path.Combine(folder.FullName, "no-store")));
    }

    [Fact]
    public void A_store_that_a_studio_needs_is_not_dropped_from_and_one_in_use_is_only_read()
    {
        var file = File("a.ora", 1000);
        Run("put", file.Path);
        using (var held = Chronotype.Content.ContentStore.Open(Store))
        {
            var put = Run("put", file.Path);
            Assert.Equal(2, put.Code);
            Assert.Contains("in use", put.Errors);
            Assert.Equal(0, Run("verify").Code);
        }
        // As a studio has it: the store beside its records.
        var studio = Directory.CreateDirectory(Path.Combine(folder.FullName, "studio")).FullName;
        Directory.Move(Store, Path.Combine(studio, "content"));
        System.IO.File.WriteAllBytes(Path.Combine(studio, "studio.db"), []);
        foreach (var given in new[] { studio, Path.Combine(studio, "content") })
        {
            var drop = Program.Run("", "content", "drop", file.Hash, "--store", given);
            Assert.Equal(2, drop.Code);
            Assert.Contains("studio", drop.Errors);
            Assert.Equal(0, Program.Run("", "content", "get", file.Hash, "--store", given).Code);
        }
    }
}
