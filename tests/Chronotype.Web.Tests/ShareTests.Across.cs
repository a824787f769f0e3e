using System.Net;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

/// <content>From one project into another.</content>
public partial class ShareTests
{
    private static readonly int Races = Thorough.IsAsked ? 100 : 25;

    private static async Task<(ServedStudio Studio, Visitor Owner, Desk Desk, Func<string, string> Gulls)> TwoProjectsAsync()
    {
        var (studio, owner, desk) = await OpenAsync();
        await owner.BeginProjectAsync("GULLS", "Gulls");
        return (studio, owner, desk, path => desk.Url(path).Replace("/TIDES/", "/GULLS/", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_file_that_goes_into_another_project_takes_its_past_its_properties_and_its_sidecar_along()
    {
        var (studio, owner, desk, gulls) = await TwoProjectsAsync();
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

        // Its page says where it came from, and undoes all of it at once.
        var there = $"/tree/GULLS/assets?file={before.Id}";
        Assert.Contains("assets/paper.tif", await owner.PageAsync(there));
        await desk.PutAsync("assets/paper.tif", [9]);
        await HomeAsync();
        Assert.Contains("assets/paper.tif is there already", await owner.PageAsync(there));
        await desk.DeleteAsync("assets/paper.tif");
        await HomeAsync();
        var home = await studio.Read(db => db.Entries.Include(e => e.Contents).SingleAsync(e => e.Id == before.Id));
        Assert.Equal((before.ProjectId, "assets/paper.tif", 2), (home.ProjectId, home.Path.Text, home.Contents.Count));
        Assert.Equal("<x/>"u8.ToArray(), (await desk.DoAsync("GET", "assets/paper.tif.xmp")).Body);
        property = await studio.Read(db => db.SharedProperties.SingleAsync());
        Assert.Equal((before.ProjectId, "assets/paper.tif"), (property.ProjectId, property.PathKey));
        // And what was undone can be done again.
        Assert.Contains("assets/card.tif", await owner.PageAsync($"/tree/TIDES/assets?file={before.Id}"));

        Task HomeAsync() => owner.PostAsync("/tree/GULLS?handler=MoveHome", new() { ["id"] = before.Id.ToString() }, from: "/me");
    }

    [Fact]
    public async Task Of_two_who_want_a_name_for_themselves_one_gets_it_across_projects_too()
    {
        var (studio, _, desk, gulls) = await TwoProjectsAsync();
        await using var closing = studio;
        using var open = desk;
        using var other = await KeyAsync(studio, "IK");
        for (var i = 0; i < Races; i++)
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

    [Theory]
    [InlineData("DELETE", false)]
    [InlineData("MOVE", false)]
    [InlineData("MOVE", true)]
    [InlineData("COPY", true)]
    public async Task A_condition_is_asked_of_what_stands_there_when_it_is_done(string method, bool isAcross)
    {
        var (studio, _, desk, gulls) = await TwoProjectsAsync();
        await using var closing = studio;
        using var open = desk;
        using var other = await KeyAsync(studio, "IK");
        for (var i = 0; i < Races; i++)
        {
            var (path, to) = ($"assets/from-{i}.txt", $"assets/to-{i}.txt");
            await desk.PutAsync(path, [1, (byte)i]);
            var tag = $"\"{ContentHash.Of([1, (byte)i]).ToString()[..32]}\"";
            // Each of two wants to change what it has seen, in each of the ways in which a program says so.
            var put = other.DoAsync("PUT", path, [2, (byte)i], ("If-Match", tag));
            var condition = i % 2 == 0 ? ("If-Match", tag) : ("If", $"([{tag}])");
            var deed = desk.DoAsync(method, path, null, ("Destination", isAcross ? gulls(to) : desk.Url(to)), condition);
            var (isPut, isDone) = ((int)(await put).Status < 300, (int)(await deed).Status < 300);
            // The copy is what it was, and the file may be written over after it.
            Assert.True(
                method == "COPY" ? isPut || isDone : isPut != isDone,
                $"{i}: PUT {(await put).Status}, {method} {(await deed).Status}"
            );
            if (isDone && method != "DELETE")
            {
                var held = isAcross ? await desk.DoAsync("GET", $"~GULLS/{to}") : await desk.DoAsync("GET", to);
                Assert.Equal([1, (byte)i], held.Body);
            }
        }
    }
}
