using System.Diagnostics;
using System.Net;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

/// <content>Content that was answered and has no place yet is held, whatever is done with its name in the next moment.</content>
public partial class ShareTests
{
    public static TheoryData<string> Overwriting =>
        [
            "PUT",
            "PUT by another",
            "PUT of nothing",
            "PUT of nothing by another",
            "PUT of nothing, then of something",
            "DELETE",
            "DELETE by another",
            "DELETE of its folder",
            "MOVE over it",
            "MOVE over it by another",
            "COPY over it",
            "COPY over it by another",
            "MOVE of a folder over it",
            "COPY of a folder over it",
            "PUT, then DELETE",
        ];

    [Theory]
    [MemberData(nameof(Overwriting))]
    public async Task What_is_no_piece_yet_can_be_got_back_after(string deed)
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var ilse = desk;
        using var odo = await OdoAsync(studio, owner);
        var (first, next) = (Poster(31), Poster(32));
        const string Sketch = "working/rough/gull.ora";
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", "working/rough")).Status);
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", "working/rough/more")).Status);
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("assets/other.ora", next));
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync(Sketch, first));
        var by = deed.Contains("another") ? odo : ilse;
        (string Name, string Value)[] there = [("Destination", ilse.Url(Sketch))];
        HttpStatusCode[] answers = deed.Split(" by ")[0] switch
        {
            "PUT" => [await by.PutAsync(Sketch, next)],
            "PUT of nothing" => [await by.PutAsync(Sketch, [])],
            "PUT of nothing, then of something" => [await by.PutAsync(Sketch, []), await by.PutAsync(Sketch, next)],
            "DELETE" => [await by.DeleteAsync(Sketch)],
            "DELETE of its folder" => [await by.DeleteAsync("working/rough")],
            "MOVE over it" => [(await by.DoAsync("MOVE", "assets/other.ora", null, there)).Status],
            "COPY over it" => [(await by.DoAsync("COPY", "assets/other.ora", null, there)).Status],
            "MOVE of a folder over it" => [(await by.DoAsync("MOVE", "working/rough/more", null, there)).Status],
            "COPY of a folder over it" => [(await by.DoAsync("COPY", "working/rough/more", null, there)).Status],
            "PUT, then DELETE" => [await by.PutAsync(Sketch, next), await by.DeleteAsync(Sketch)],
            _ => throw new InvalidOperationException(deed),
        };
        Assert.All(answers, a => Assert.True((int)a is >= 200 and < 300, $"{deed}: {a}"));

        // Whoever wants it back finds it under Deleted, whoever wrote over it.
        var lost = deed.StartsWith("PUT, then", StringComparison.Ordinal) ? new[] { first, next } : [first];
        foreach (var content in lost)
        {
            var hash = ContentHash.Of(content);
            var gone = await studio.Read(db => db.SharedFiles.WithDeleted().SingleAsync(f => f.Hash == hash && f.DeletedAt != null));
            Assert.Contains("gull", await owner.PageAsync("/deleted"));
            await owner.PostAsync("/deleted?handler=TakeBack", new() { ["waiting"] = gone.Id.ToString() }, from: "/people");
            var back = await studio.Read(db => db.SharedFiles.SingleAsync(f => f.Hash == hash));
            Assert.Equal(content, (await desk.DoAsync("GET", Uri.EscapeDataString(back.Path.Text).Replace("%2F", "/"))).Body);
        }
    }

    [Fact]
    public async Task What_a_program_keeps_on_its_way_to_a_save_is_not_held_when_it_goes()
    {
        var (studio, _, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        foreach (var passing in (string[])["working/.goutputstream-ABC123", "working/.~lock.poster.ora%23", "working/.DS_Store"])
        {
            await desk.PutAsync(passing, [1, 2, 3]);
            await desk.DeleteAsync(passing);
        }
        // And what is moved to its place is not gone.
        await desk.PutAsync("working/new-poster.tmp.ora", Poster(40));
        Assert.True((int)await desk.MoveAsync("working/new-poster.tmp.ora", Current) < 300);
        Assert.Equal(0, await studio.Read(db => db.SharedFiles.WithDeleted().CountAsync(f => f.DeletedAt != null)));
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_save_of_a_piece_that_was_deleted_is_not_lost_with_it(bool isHeldBefore)
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        if (isHeldBefore)
            Assert.True((int)await desk.PutAsync(Current, Poster(50)) < 300);
        await owner.PostAsync("/tidy/TIDES/TIM_moonpull-poster_key?handler=Delete", [], from: "/me");
        if (!isHeldBefore)
            Assert.True((int)await desk.PutAsync(Current, Poster(50)) < 300);
        var hash = ContentHash.Of(Poster(50));
        // It brings the piece back, as its newest save.
        var until = Stopwatch.StartNew();
        while (!await studio.Read(db => db.Saves.AnyAsync(s => s.MainHash == hash && s.IsCurrent)))
        {
            Assert.True(until.Elapsed < TimeSpan.FromSeconds(30), "The save stands nowhere.");
            await Task.Delay(100);
        }
        Assert.Contains("TIM_moonpull-poster_key", await owner.PageAsync("/projects/TIDES"));
        Assert.Equal(Poster(50), (await desk.DoAsync("GET", Current)).Body);
    }

    [Fact]
    public async Task A_save_of_a_deleted_piece_whose_name_is_taken_by_now_goes_to_who_bears_the_name()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        await owner.PostAsync("/tidy/TIDES/TIM_moonpull-poster_key?handler=Delete", [], from: "/me");
        await owner.StartPieceAsync(Poster(60), "poster.ora");
        Assert.True((int)await desk.PutAsync(Current, Poster(61)) < 300);
        // With that of the deleted one.
        var newest = await NewestAsync(studio, 3);
        Assert.Equal(ContentHash.Of(Poster(61)), newest.MainHash);
        // The deleted one stays deleted.
        Assert.Equal(1, await studio.Read(db => db.Pieces.CountAsync()));
    }
}
