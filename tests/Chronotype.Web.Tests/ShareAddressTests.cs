using Chronotype.Web.Share;

namespace Chronotype.Web.Tests;

/// <summary>Addresses of the share and the conditions of its headers, as programs write them.</summary>
public class ShareAddressTests
{
    [Theory]
    [InlineData("/share", null, null)]
    [InlineData("/share/", null, null)]
    [InlineData("/share/TIDES", "TIDES", null)]
    [InlineData("/share/TIDES/working/a%20b.ora", "TIDES", "working/a b.ora")]
    [InlineData("http://studio.example:8080/share/TIDES//assets/caf%C3%A9.txt?x=1", "TIDES", "assets/café.txt")]
    [InlineData("/share/TIDES/cafe%CC%81.txt", "TIDES", "café.txt")]
    [InlineData("/share/TIDES/100%25.txt", "TIDES", "100%.txt")]
    public void An_address_names_a_place_and_is_written_again_as_one(string address, string? project, string? path)
    {
        Assert.True(SharePlace.TryParse(address, out var place, out _));
        Assert.Equal((project, path), (place!.Project, place.Path?.Text));
        Assert.True(SharePlace.TryParse(place.Href(isFolder: false), out var again, out _));
        Assert.Equal(place, again);
    }

    [Theory]
    [InlineData("/shared/TIDES")]
    [InlineData("/other")]
    [InlineData("/share/TIDES/a#b")]
    [InlineData("/share/TIDES/../x")]
    [InlineData("/share/TIDES/%2E%2E/x")]
    [InlineData("/share/TIDES/a%2fb")]
    [InlineData("/share/TIDES/a%5Cb")]
    [InlineData("/share/TIDES/a%00")]
    [InlineData("/share/TIDES/%ff")]
    [InlineData("/share/TIDES/%4")]
    public void What_leads_out_or_cannot_be_read_is_no_place(string address) => Assert.False(SharePlace.TryParse(address, out _, out _));

    [Fact]
    public void Conditions_are_read_as_they_are_written()
    {
        var header = IfHeader.Parse("""<http://s/share/A/b> (<urn:x> ["e1"]) (Not <DAV:no-lock> [W/"e2"])""")!;
        Assert.Equal(2, header.Lists.Count);
        Assert.All(header.Lists, l => Assert.Equal("http://s/share/A/b", l.Tag));
        Assert.Equal(
            [new IfHeader.Condition(false, "urn:x", null), new IfHeader.Condition(false, null, "\"e1\"")],
            header.Lists[0].Conditions
        );
        Assert.Equal(
            [new IfHeader.Condition(true, "DAV:no-lock", null), new IfHeader.Condition(false, null, "W/\"e2\"")],
            header.Lists[1].Conditions
        );
        Assert.Equal(["DAV:no-lock", "urn:x"], header.Tokens.Order());
        Assert.Null(IfHeader.Parse("(<urn:x>) (<urn:y>)")!.Lists[1].Tag);
        foreach (var wrong in (string[])["", "urn:x", "()", "(<urn:x>", "(<urn:x)", "(Not", "(Not )", "<a>", "(urn:x)"])
            Assert.Null(IfHeader.Parse(wrong));
    }
}
