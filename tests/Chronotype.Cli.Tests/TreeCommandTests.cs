namespace Chronotype.Cli.Tests;

/// <summary>A project's files and who uses what, on the real program and a real folder.</summary>
public sealed class TreeCommandTests : IDisposable
{
    private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("chronotype-cli-");

    public void Dispose() => folder.Delete(recursive: true);

    private string Save(string name, string content)
    {
        var path = Path.Combine(folder.FullName, name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllText(path, content);
        return path;
    }

    private string Drawing(params string[] links) =>
        Save(
            "working/poster.svg",
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\">\n{string.Join('\n', links.Select(l => $"<image href=\"{l}\"/>"))}\n</svg>"
        );

    [Fact]
    public void References_are_told_with_what_became_of_each()
    {
        var drawing = Drawing(
            "../assets/paper%20grain.png",
            "../assets/Moon.PNG",
            "none.png",
            @"C:\jobs\x.png",
            "../../x.png",
            "https://example.com/x.png",
            "data:image/png;base64,AAAA"
        );
        Save("assets/paper grain.png", "paper");
        Save("assets/moon.png", "moon");

        var ended = Program.Run("", "references", drawing, "--root", folder.FullName);

        Assert.Equal(1, ended.Code);
        var answer = Assert.Single(ended.Lines);
        Assert.Equal("working/poster.svg", answer.GetProperty("file").GetString());
        Assert.Equal(
            ["found", "found under another case", "missing", "absolute", "outside", "web", "embedded"],
            answer.GetProperty("references").EnumerateArray().Select(r => r.GetProperty("state").GetString())
        );
        Assert.Equal("assets/moon.png", answer.GetProperty("references")[1].GetProperty("path").GetString());
        // Without a root, what is above the file's own folder is outside.
        Assert.Equal(
            "outside",
            Program.Run("", "references", drawing).Lines[0].GetProperty("references")[0].GetProperty("state").GetString()
        );
        Assert.Contains(
            "found: ../assets/paper%20grain.png → assets/paper grain.png (image, href, line 2)",
            Program.Run("", "references", drawing, "--root", folder.FullName, "--text").Output
        );
    }

    [Fact]
    public void Users_are_told_with_what_cannot_be_read_for_it()
    {
        Drawing("../assets/moon.png");
        var moon = Save("assets/moon.png", "moon");
        Save("working/native.gull", "closed");
        Directory.CreateSymbolicLink(Path.Combine(folder.FullName, "again"), folder.FullName);

        var answer = Assert.Single(Program.Run("", "users", moon, "--root", folder.FullName).Lines);

        var user = Assert.Single(answer.GetProperty("users").EnumerateArray());
        Assert.Equal(
            ("working/poster.svg", "image, href, line 2"),
            (user.GetProperty("file").GetString(), user.GetProperty("place").GetString())
        );
        Assert.Equal(["working/native.gull"], answer.GetProperty("unknown").EnumerateArray().Select(u => u.GetString()));
    }

    [Fact]
    public void A_tree_is_listed_and_ends_with_1_where_something_is_not_found()
    {
        Drawing("../assets/moon.png", "none.png");
        Save("assets/moon.png", "moon");

        var ended = Program.Run("", "tree", folder.FullName);

        Assert.Equal(1, ended.Code);
        var files = ended.Lines[0].GetProperty("files").EnumerateArray().ToList();
        Assert.Equal(["assets/moon.png", "working/poster.svg"], files.Select(f => f.GetProperty("path").GetString()));
        Assert.Equal((2, 1), (files[1].GetProperty("references").GetInt32(), files[1].GetProperty("notFound").GetInt32()));
        File.Delete(Path.Combine(folder.FullName, "working/poster.svg"));
        Assert.Equal(0, Program.Run("", "tree", folder.FullName).Code);
    }

    [Fact]
    public void What_is_not_there_is_said_and_nothing_is_done()
    {
        Assert.Contains("no such folder", Program.Run("", "tree", Path.Combine(folder.FullName, "none")).Errors);
        Assert.Contains("no such file", Program.Run("", "users", Path.Combine(folder.FullName, "none")).Errors);
        Assert.Contains("no studio", Program.Run("", "tree", "TIDES", "--data", folder.FullName).Errors);
        var outside = Program.Run("", "references", Drawing("a"), "--root", Path.Combine(folder.FullName, "assets"));
        Assert.Equal(2, outside.Code);
        Assert.Contains("does not lie in", outside.Errors);
    }

    [Fact]
    public void Texts_are_read_by_patterns_and_what_is_no_pattern_is_said()
    {
        var scene = Save("working/pier.scene", "texture = \"../assets/wood.png\"\nload lost.wav\n");
        Save("assets/wood.png", "wood");
        string[] patterns = ["--pattern", ".scene:texture = \"{file}\"", "--pattern", ".scene:load {file}"];

        var ended = Program.Run("", ["references", scene, "--root", folder.FullName, .. patterns]);
        Assert.Equal(1, ended.Code);
        Assert.Equal(
            [("found", "line 1"), ("missing", "line 2")],
            ended
                .Lines[0]
                .GetProperty("references")
                .EnumerateArray()
                .Select(r => (r.GetProperty("state").GetString(), r.GetProperty("place").GetString()))
        );
        Assert.False(Program.Run("", "references", scene, "--root", folder.FullName).Lines[0].GetProperty("known").GetBoolean());
        var users = Program.Run("", ["users", Path.Combine(folder.FullName, "assets/wood.png"), "--root", folder.FullName, .. patterns]);
        Assert.Equal("working/pier.scene", users.Lines[0].GetProperty("users")[0].GetProperty("file").GetString());

        var wrong = Program.Run("", "references", scene, "--pattern", ".scene:texture");
        Assert.Equal(2, wrong.Code);
        Assert.Contains("{file}", wrong.Errors);
    }
}
