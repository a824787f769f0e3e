using System.Net;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

/// <content>From one project into another.</content>
public partial class ShareTests
{
    private static async Task<(ServedStudio Studio, Desk Desk, Func<string, string> Gulls)> TwoProjectsAsync()
    {
        var (studio, owner, desk) = await OpenAsync();
        await owner.BeginProjectAsync("GULLS", "Gulls");
        return (studio, desk, path => desk.Url(path).Replace("/TIDES/", "/GULLS/", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_file_that_goes_into_another_project_takes_its_past_its_properties_and_its_sidecar_along()
    {
        var (studio, desk, gulls) = await TwoProjectsAsync();
        await using var closing = studio;
        using var open = desk;
        await desk.PutAsync("assets/paper.tif", [1, 2, 3]);
        await desk.PutAsync("assets/paper.tif", [4, 5, 6, 7]);
        await desk.PutAsync("assets/paper.tif.xmp", "<x/>"u8.ToArray());
        const string Patch =
            "<D:propertyupdate xmlns:D=\"DAV:\"><D:set><D:prop><g:grain xmlns:g=\"urn:gulls\">rough</g:grain></D:prop></D:set></D:propertyupdate>";
        Assert.Equal(
            HttpStatusCode.MultiStatus,
            (await desk.DoAsync("PROPPATCH", "assets/paper.tif", Encoding.UTF8.GetBytes(Patch))).Status
        );
        var before = await studio.Read(db => db.Entries.SingleAsync(e => e.PathKey == "assets/paper.tif"));

        Assert.Equal(
            HttpStatusCode.Created,
            (await desk.DoAsync("MOVE", "assets/paper.tif", null, ("Destination", gulls("assets/card.tif")), ("Overwrite", "F"))).Status
        );
        var after = await studio.Read(db => db.Entries.Include(e => e.Contents).SingleAsync(e => e.Id == before.Id));
        Assert.NotEqual(before.ProjectId, after.ProjectId);
        Assert.Equal(("assets/card.tif", null), (after.Path.Text, after.DeletedAt));
        Assert.Equal(
            [ContentHash.Of([1, 2, 3]), ContentHash.Of([4, 5, 6, 7])],
            after.Contents.OrderBy(c => c.Sequence).Select(c => c.Hash)
        );
        Assert.Equal(
            after.ProjectId,
            await studio.Read(db => db.Entries.Where(e => e.PathKey == "assets/card.tif.xmp").Select(e => e.ProjectId).SingleAsync())
        );
        var property = await studio.Read(db => db.SharedProperties.SingleAsync());
        Assert.Equal((after.ProjectId, "assets/card.tif"), (property.ProjectId, property.PathKey));
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DoAsync("GET", "assets/paper.tif")).Status);
        // It stood there until now.
        Assert.True(await studio.Read(db => db.PastPlaces.AnyAsync(p => p.EntryId == before.Id && p.ProjectId == before.ProjectId)));
        // Nothing of it is deleted, so that nothing of it goes with a grace period.
        Assert.Equal(0, await studio.Read(db => db.Entries.CountAsync(e => e.DeletedAt != null)));
    }

    [Fact]
    public async Task Of_two_who_want_a_name_for_themselves_one_gets_it_across_projects_too()
    {
        var (studio, desk, gulls) = await TwoProjectsAsync();
        await using var closing = studio;
        using var open = desk;
        using var other = await KeyAsync(studio, "IK");
        for (var i = 0; i < 25; i++)
        {
            Assert.Equal(HttpStatusCode.Created, await desk.PutAsync($"assets/from-{i}.txt", [1, (byte)i]));
            var to = $"assets/to-{i}.txt";
            var put = other.DoAsync("PUT", $"~GULLS/{to}", [2, (byte)i], ("If-None-Match", "*"));
            var move = desk.DoAsync("MOVE", $"assets/from-{i}.txt", null, ("Destination", gulls(to)), ("Overwrite", "F"));
            var answers = new[] { (await put).Status, (await move).Status };
            Assert.Equal([HttpStatusCode.Created, HttpStatusCode.PreconditionFailed], answers.Order());
            // Whoever was refused has what they had.
            var moved = answers[1] == HttpStatusCode.Created;
            Assert.Equal(moved ? HttpStatusCode.NotFound : HttpStatusCode.OK, (await desk.DoAsync("GET", $"assets/from-{i}.txt")).Status);
        }
    }
}
