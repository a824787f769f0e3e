using Chronotype.Core.Structure;

namespace Chronotype.Core.Tests.Structure;

public class CompanionTests
{
    [Theory]
    [InlineData("moon.tif.xmp", "moon.tif")]
    [InlineData("moon.xmp", null)]
    [InlineData("film.srt", "film.mov")]
    [InlineData("FILM.SRT", "film.mov")]
    [InlineData("film.mov", null)]
    [InlineData("lonely.xmp", null)]
    [InlineData(".xmp", null)]
    [InlineData("film.pt-BR.srt", "film.mov")]
    [InlineData("film.xx.xmp", null)]
    public void ACompanionBelongsToTheFileThatItsNameSaysIfThatIsOne(string name, string? owner)
    {
        string[] folder = ["moon.tif", "moon.png", "film.mov", "film.xmp", "moon.tif.xmp", "other"];

        Assert.Equal(owner, Companions.OwnerOf(name, [.. folder.Where(f => f != name)], Companions.Usual));
    }

    [Theory]
    [InlineData("moon.tif.xmp", "moon.tif", "disc.tif", "disc.tif.xmp")]
    [InlineData("moon.xmp", "moon.tif", "disc.tiff", "disc.xmp")]
    [InlineData("film.en.srt", "film", "cut", "cut.en.srt")]
    public void ACompanionIsRenamedWithItsFile(string name, string owner, string renamed, string result) =>
        Assert.Equal(result, Companions.Renamed(name, owner, renamed));

    [Theory]
    [InlineData("moon.tif.xmp", "moon.tif", ".tif.xmp")]
    [InlineData("moon.xmp", "moon.tif", ".xmp")]
    [InlineData("film.de.srt", "film.mov", ".de.srt")]
    [InlineData("other.cue", "film.mov", ".cue")]
    public void WhatFollowsTheNameOfItsFileStaysWhateverThatIsCalled(string name, string owner, string tail) =>
        Assert.Equal(tail, Companions.TailOf(name, owner));
}
