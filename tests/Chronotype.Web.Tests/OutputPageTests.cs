using System.Net;

namespace Chronotype.Web.Tests;

/// <summary>What can be made of a version, and making it.</summary>
public class OutputPageTests
{
    private const string Page = "/outputs/TIDES/TIM_moonpull-poster_key";

    [Fact]
    public async Task A_print_is_made_from_the_page_that_says_what_it_gives_up()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        await client.StartPieceAsync(
            Samples.OpenRaster(60, 80, new Samples.OraLayer("Moon", 9, 9), new Samples.OraLayer("Sky", 60, 80)),
            "poster.ora"
        );
        await studio.SettledAsync();
        var page = WebUtility.HtmlDecode(await client.PageAsync(Page));
        Assert.Contains(
            "TIM_moonpull-poster_key_210x297mm.png",
            WebUtility.HtmlDecode(await client.PageAsync($"{Page}?recipe=print-a4-300"))
        );
        Assert.Contains("2 layers become one", page);
        Assert.Contains("sounds only", page);
        Assert.Contains("none yet", page);
        Assert.Contains("/outputs/TIDES/", await client.PiecePageAsync());

        var save = Assert.Single(await studio.SavesAsync());
        var asked = new Dictionary<string, string> { ["save"] = save.Id.ToString(), ["recipe"] = "print-a4-300" };
        await client.PostAsync($"{Page}?handler=Make", asked, from: "/people");
        await studio.SettledAsync();
        var made = WebUtility.HtmlDecode(await client.PageAsync($"{Page}?recipe=print-a4-300"));
        Assert.Contains("outputs/print/TIM_moonpull-poster_key_210x297mm.png", made);
        Assert.Contains("Download it", made);
        Assert.Contains("TIM_moonpull-poster_key_210x297mm.png", await client.PiecePageAsync());

        await client.PostAsync($"{Page}?handler=Make", asked, from: "/people");
        Assert.Contains("nothing was made again", await client.PageAsync(Page));
        asked["recipe"] = "none";
        await client.PostAsync($"{Page}?handler=Make", asked, from: "/people");
        Assert.Contains("There is no recipe none", WebUtility.HtmlDecode(await client.PageAsync(Page)));
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"{Page}?b=77")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/outputs/TIDES/none")).StatusCode);
    }
}
