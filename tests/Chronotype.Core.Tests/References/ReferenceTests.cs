using Chronotype.Core.Content;
using Chronotype.Core.References;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.References;

public class ReferenceTests
{
    private static readonly string[] Parts =
    [
        "assets",
        "Grain 2",
        "a#b",
        "50%",
        "é",
        "名",
        "c:d",
        "x?y",
        "~",
        "it's (1)",
        "q\"r",
        "a&b",
        "%41",
    ];

    private static FileIndex<string> Index(params string[] paths)
    {
        var index = new FileIndex<string>();
        foreach (var path in paths)
            index.Add(path, path);
        return index;
    }

    private static Resolved<string> Resolve(
        FileIndex<string> files,
        string folder,
        string written,
        ReferenceSyntax syntax = ReferenceSyntax.Uri
    ) => ReferenceResolver.Resolve(files, folder, WrittenReference.Read(written, syntax));

    [Theory]
    [InlineData("../assets/paper.png", ReferenceState.Found, "assets/paper.png")]
    [InlineData("../assets/./x/../paper.png", ReferenceState.Found, "assets/paper.png")]
    [InlineData(@"..\assets\paper.png", ReferenceState.Found, "assets/paper.png")]
    [InlineData("../assets/paper.png#part", ReferenceState.Found, "assets/paper.png")]
    [InlineData("../assets/paper.png?v=2", ReferenceState.Found, "assets/paper.png")]
    [InlineData("../assets/Paper.PNG", ReferenceState.OtherCase, "assets/paper.png")]
    [InlineData("../assets/two%20words.png", ReferenceState.Found, "assets/two words.png")]
    [InlineData("../assets/two words.png", ReferenceState.Found, "assets/two words.png")]
    [InlineData("../assets/50%.png", ReferenceState.Found, "assets/50%.png")]
    [InlineData("../assets/50%25.png", ReferenceState.Found, "assets/50%.png")]
    [InlineData("../assets/a#b.png", ReferenceState.Found, "assets/a#b.png")]
    [InlineData("../assets/caf%C3%A9.png", ReferenceState.Found, "assets/café.png")]
    [InlineData("../assets/cafe\u0301.png", ReferenceState.OtherCase, "assets/café.png")]
    [InlineData("../assets%2Fpaper.png", ReferenceState.Missing, "assets%2Fpaper.png")]
    [InlineData("../assets/none.png", ReferenceState.Missing, "assets/none.png")]
    [InlineData("../../elsewhere/paper.png", ReferenceState.Outside, null)]
    [InlineData("../../assets/paper.png", ReferenceState.Outside, null)]
    [InlineData("/assets/paper.png", ReferenceState.Absolute, null)]
    [InlineData(@"C:\jobs\paper.png", ReferenceState.Absolute, null)]
    [InlineData("c:/jobs/paper.png", ReferenceState.Absolute, null)]
    [InlineData(@"\\server\jobs\paper.png", ReferenceState.Absolute, null)]
    [InlineData("/Volumes/jobs/paper.png", ReferenceState.Absolute, null)]
    [InlineData("file:///Users/tv/paper.png", ReferenceState.Absolute, null)]
    [InlineData("//cdn.example/paper.png", ReferenceState.Web, null)]
    [InlineData("https://example.com/paper.png", ReferenceState.Web, null)]
    [InlineData("data:image/png;base64,AAAA", ReferenceState.Embedded, null)]
    public void AReferenceIsClassedByWhereItLeads(string written, ReferenceState state, string? path)
    {
        var files = Index(
            "assets/paper.png",
            "assets/two words.png",
            "assets/50%.png",
            "assets/a#b.png",
            "assets/café.png",
            "working/p.svg"
        );

        var resolved = Resolve(files, "working", written);

        Assert.Equal((state, path), (resolved.State, resolved.Path));
    }

    [Theory]
    [InlineData("assets/50%25.png", ReferenceState.Missing)]
    [InlineData("assets/50%.png", ReferenceState.Found)]
    [InlineData("https://example.com/a", ReferenceState.Web)]
    [InlineData("~/a.png", ReferenceState.Absolute)]
    [InlineData("file:///x/a.png", ReferenceState.Absolute)]
    public void APathOfAFileSystemIsTakenLetterByLetter(string written, ReferenceState state) =>
        Assert.Equal(state, Resolve(Index("assets/50%.png"), "", written, ReferenceSyntax.Path).State);

    [Fact]
    public void OfTwoFilesThatDifferOnlyInCaseTheOneThatIsSpeltSoIsMeant()
    {
        var files = Index("a/Moon.png", "a/moon.png", "a/MOON.png");

        Assert.Equal((ReferenceState.Found, "a/moon.png"), (Resolve(files, "a", "moon.png").State, Resolve(files, "a", "moon.png").Path));
        Assert.Equal(SpellingDifference.Case, Resolve(files, "a", "mOON.png").Difference);
        Assert.Equal(SpellingDifference.UnicodeForm, Resolve(Index("é.png"), "", "e\u0301.png").Difference);
        Assert.Equal(SpellingDifference.UnicodeForm | SpellingDifference.Case, Resolve(Index("e\u0301.png"), "", "\u00c9.png").Difference);
    }

    [Property]
    public Property WhatIsWrittenForAFileLeadsBackToIt()
    {
        var part = Gen.Elements(Parts);
        var path = Gen.Choose(1, 4).SelectMany(n => Gen.ArrayOf(part, n)).Select(p => string.Join('/', p));
        return Prop.ForAll(
            path.ToArbitrary(),
            path.ToArbitrary(),
            Gen.Elements(ReferenceSyntax.Uri, ReferenceSyntax.Path).ToArbitrary(),
            (from, to, syntax) =>
            {
                // Another file is there that an unescaping reader could take it for.
                var files = Index(to, from + "/p.svg", Uri.UnescapeDataString(to));
                files.Add(to, to);
                var written = RelativePath.Write(ProjectPath.Parse(from), ProjectPath.Parse(to), syntax);
                var resolved = Resolve(files, from, written, syntax);
                return (resolved is { State: ReferenceState.Found } && resolved.Path == to).Label($"{written} → {resolved}");
            }
        );
    }

    [Fact]
    public void WhatStandsBehindThePathIsKept()
    {
        var reference = WrittenReference.Read("../a/x.svg#wing", ReferenceSyntax.Uri);

        Assert.Equal(
            "../b/y%20z.svg#wing",
            RelativePath.Write(ProjectPath.Parse("working"), ProjectPath.Parse("b/y z.svg"), ReferenceSyntax.Uri, reference.Tail)
        );
    }

    [Fact]
    public void WhatLeadsNowhereIsFoundByWhatItHeldWhereItStoodAndWhatItIsCalled()
    {
        var files = Index(
            "assets/seabirds.svg",
            "assets/old/gulls.svg",
            "originals/gulls (2).svg",
            "assets/gulls.png",
            "assets/gull.svg",
            "b/hen.svg"
        );
        var former = new[] { ("assets/gulls.svg", "b/hen.svg") }.ToLookup(f => f.Item1, f => f.Item2);
        var likely = new LikelyTargets<string>(files, f => f == "assets/seabirds.svg", former);

        var found = likely.Find("working", WrittenReference.Read("../assets/gulls.svg", ReferenceSyntax.Uri));

        Assert.Equal(
            [
                ("assets/seabirds.svg", LikelyReason.SameContent),
                ("b/hen.svg", LikelyReason.FormerPlace),
                ("assets/old/gulls.svg", LikelyReason.SameName),
                ("assets/gull.svg", LikelyReason.NearName),
                ("originals/gulls (2).svg", LikelyReason.NearName),
            ],
            found.Select(f => (f.Path, f.Reason))
        );
    }

    [Fact]
    public void AnAbsolutePathIsFoundByTheLastOfItsParts()
    {
        var files = Index("b/x.png", "assets/sea/x.png", "sea/x.png", "assets/land/x.png");
        var likely = new LikelyTargets<string>(files, _ => false, Enumerable.Empty<string>().ToLookup(f => f));

        var found = likely.Find("", WrittenReference.Read(@"D:\jobs\TIDES\assets\sea\x.png", ReferenceSyntax.Uri));

        Assert.Equal("assets/sea/x.png", found[0].Path);
        Assert.Equal(3, found[0].Shared);
        Assert.Equal("sea/x.png", found[1].Path);
    }
}
