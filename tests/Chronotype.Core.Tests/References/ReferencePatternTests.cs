using Chronotype.Core.References;

namespace Chronotype.Core.Tests.References;

public class ReferencePatternTests
{
    private static ReferencePattern Of(string line, string ending = ".scene") => new(ending, line);

    private static IReadOnlyList<(string, int)> Found(string line, string text) =>
        [.. Of(line).Find(text).Select(f => (f.Written, f.Line))];

    [Theory]
    [InlineData(
        "texture = \"{file}\"",
        "a\r\n  texture=\"../a b.png\" x\r\ntexture \t=  \"c.png\"\r\ntextures = \"d.png\"",
        "../a b.png@2",
        "c.png@3"
    )]
    [InlineData("load {file}", "load a.png  \nunload\n  load b/c.png\r\npreload d.png", "a.png@1", "b/c.png@3", "d.png@4")]
    [InlineData("{file}", "a.wav\n\n  b c.wav \n", "a.wav@1", "b c.wav@3")]
    [InlineData("clip * from {file} at", "clip 7 (take one) from a.mov at 12\nclip 8 from b.mov", "a.mov@1")]
    [InlineData("[{file}]", "[a.png] and [b].png]\n[]", "a.png@1", "b@1")]
    [InlineData("use({file})", "use(a.png),use(b.png)", "a.png@1", "b.png@1")]
    [InlineData("path = {file};", "path = a;b.png", "a@1")]
    public void ALineSaysWhereAPathStands(string line, string text, params string[] found) =>
        Assert.Equal(found, Found(line, text).Select(f => $"{f.Item1}@{f.Item2}"));

    [Theory]
    [InlineData("texture", ".scene", PatternFault.NoFile)]
    [InlineData("{file} {file}", ".scene", PatternFault.SeveralFiles)]
    [InlineData("a\n{file}", ".scene", PatternFault.TooLong)]
    [InlineData("{file}", "scene", PatternFault.Ending)]
    [InlineData("{file}", ".", PatternFault.Ending)]
    [InlineData("{file}", ".sc ne", PatternFault.Ending)]
    [InlineData("{file}", ".svg", PatternFault.IsRead)]
    [InlineData("{file}", ".scene", null)]
    public void WhatIsNoPatternSaysWhy(string line, string ending, PatternFault? fault) => Assert.Equal(fault, Of(line, ending).Fault());

    [Fact]
    public void InXmlEntitiesAreResolvedAndWritten()
    {
        const string Text = "<scene><map src=\"Salt &amp; Sand/&#x6D;oon.png\"/></scene>";
        var found = Assert.Single(Of("src=\"{file}\"").Find(Text));
        Assert.Equal("Salt & Sand/moon.png", found.Written);
        Assert.Equal("Salt &amp; &lt;1&gt;.png", ReferencePattern.Write(Text, "Salt & <1>.png"));
        Assert.Equal("Salt & <1>.png", ReferencePattern.Write("no xml", "Salt & <1>.png"));
    }

    // What would take a backtracking expression longer than anybody waits.
    [Fact]
    public void AHostileTextTakesTimeThatGrowsWithItsLengthAlone()
    {
        var text = new string('a', 400_000) + "!\n" + string.Concat(Enumerable.Repeat("a*", 100_000));
        Assert.Empty(Found("*a*a*a*a*a*a*a*\"{file}\"", text));
    }
}
