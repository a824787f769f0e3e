namespace Chronotype.Cli.Tests;

/// <summary>Looking into files and comparing them, on the real program.</summary>
public sealed class FileCommandTests : IDisposable
{
    private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("chronotype-cli-");

    public void Dispose() => folder.Delete(recursive: true);

    private string Save(string name, byte[] content)
    {
        var path = Path.Combine(folder.FullName, name);
        File.WriteAllBytes(path, content);
        return path;
    }

    [Fact]
    public void The_version_is_the_newest_that_the_changes_tell_of()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(at.FullName, "CHANGELOG.md")))
            at = at.Parent ?? throw new InvalidOperationException("The changes are not above the tests.");
        var newest = File.ReadLines(Path.Combine(at.FullName, "CHANGELOG.md")).First(l => l.StartsWith("## ", StringComparison.Ordinal));
        var told = Program.Run("", "--version");
        Assert.Equal((0, newest[3..]), (told.Code, told.Output.Trim()));
    }

    [Fact]
    public void Look_says_what_is_inside_whatever_the_name_says()
    {
        var facts = Assert.Single(Program.Run("", "look", Save("a.txt", Samples.Wave(2))).Lines);
        Assert.Equal("wave", facts.GetProperty("format").GetString());
        Assert.Equal(96_000, facts.GetProperty("sound").GetProperty("frames").GetInt64());
        Assert.InRange(facts.GetProperty("level").GetProperty("truePeak").GetDouble(), -1, 6);
        var cut = Program.Run("", "look", Save("b.wav", Samples.Wave(2)[..100_000]));
        Assert.Equal(1, cut.Code);
        Assert.Equal("soundCutShort", cut.Lines[0].GetProperty("fault").GetProperty("code").GetString());
    }

    [Fact]
    public void Compare_tells_each_difference_of_two_sounds_with_its_place_in_both()
    {
        var before = Samples.Wave(8, seed: 1);
        var after = Samples.WaveOf([.. before[44..(44 + 3 * 192_000)], .. Samples.Wave(2, seed: 2)[44..], .. before[(44 + 3 * 192_000)..]]);
        var ended = Program.Run("", "compare", Save("a.wav", before), Save("b.wav", after));
        Assert.Equal(1, ended.Code);
        var difference = Assert.Single(ended.Lines[0].GetProperty("differences").EnumerateArray());
        Assert.Equal("inserted", difference.GetProperty("kind").GetString());
        Assert.All(difference.GetProperty("at").EnumerateArray(), at => Assert.Equal(3, at.GetDouble(), 0.01));
        Assert.Equal([0, 2], difference.GetProperty("length").EnumerateArray().Select(l => Math.Round(l.GetDouble(), 2)));
        Assert.Equal(0, Program.Run("", "compare", Save("a.wav", before), Save("c.wav", before)).Code);
    }

    [Fact]
    public void What_cannot_be_opened_is_said_and_nothing_is_done()
    {
        var ended = Program.Run("", "compare", Save("a.wav", Samples.Wave(1)), Path.Combine(folder.FullName, "none.wav"));
        Assert.Equal(2, ended.Code);
        Assert.Contains("none.wav", ended.Errors);
    }

    [Fact]
    public void Pictures_of_the_difference_are_written_into_a_folder_and_nothing_in_it_is_overwritten()
    {
        var (a, b) = (Save("a.png", Samples.Flat(".png", 40, 30)), Save("b.png", Samples.Png(40, 30)));
        var target = Path.Combine(folder.FullName, "seen");
        var ended = Program.Run("", "compare", a, b, "--out", target);
        Assert.Equal(1, ended.Code);
        Assert.Equal(["difference.png", "places.png"], Directory.GetFiles(target).Select(Path.GetFileName).Order());
        Assert.Contains("difference.png", ended.Output);
        Assert.NotEqual(0, Program.Run("", "compare", a, b, "--out", target).Code);

        var (c, d) = (Save("c.glb", Samples.Glb([new("Buoy")])), Save("d.glb", Samples.Glb([new("Buoy", 2)])));
        var scenes = Path.Combine(folder.FullName, "scenes");
        Program.Run("", "compare", c, d, "--out", scenes);
        Assert.Equal(["after.webp", "before.webp"], Directory.GetFiles(scenes).Select(Path.GetFileName).Order());
    }
}
