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
    [Fact]
    public async Task What_is_no_piece_yet_can_be_got_back_whatever_is_done_with_its_name()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var ilse = desk;
        using var odo = await OdoAsync(studio, owner);
        byte red = 30;
        foreach (var by in new[] { ilse, odo })
        {
            await LosesNothingAsync("PUT", async (sketch, next) => [await by.PutAsync(sketch, next)]);
            await LosesNothingAsync("an empty PUT", async (sketch, _) => [await by.PutAsync(sketch, [])]);
            await LosesNothingAsync("DELETE", async (sketch, _) => [await by.DeleteAsync(sketch)]);
            await LosesNothingAsync("MOVE over it", async (sketch, _) => [await by.MoveAsync("assets/other.ora", sketch)]);
            await LosesNothingAsync("COPY over it", async (sketch, _) => [await CopyAsync(by, "assets/other.ora", sketch)]);
        }
        await LosesNothingAsync(
            "an empty PUT, then a full one",
            async (sketch, next) => [await ilse.PutAsync(sketch, []), await ilse.PutAsync(sketch, next)]
        );
        await LosesNothingAsync("DELETE of its folder", async (sketch, _) => [await ilse.DeleteAsync(Around(sketch))]);
        await LosesNothingAsync("MOVE of a folder over it", async (sketch, _) => [await ilse.MoveAsync($"{Around(sketch)}/more", sketch)]);
        await LosesNothingAsync("COPY of a folder", async (sketch, _) => [await CopyAsync(ilse, $"{Around(sketch)}/more", sketch)]);
        await LosesNothingAsync(
            "PUT, then DELETE",
            async (sketch, next) => [await ilse.PutAsync(sketch, next), await ilse.DeleteAsync(sketch)],
            bothGo: true
        );

        static string Around(string sketch) => sketch[..sketch.LastIndexOf('/')];

        static async Task<HttpStatusCode> CopyAsync(Desk by, string from, string to) =>
            (await by.DoAsync("COPY", from, null, ("Destination", by.Url(to)))).Status;

        async Task LosesNothingAsync(string what, Func<string, byte[], Task<HttpStatusCode[]>> deed, bool bothGo = false)
        {
            var (first, next) = (Poster(++red), Poster(++red));
            var folder = $"working/rough-{red}";
            Assert.Equal(HttpStatusCode.Created, (await ilse.DoAsync("MKCOL", folder)).Status);
            Assert.Equal(HttpStatusCode.Created, (await ilse.DoAsync("MKCOL", $"{folder}/more")).Status);
            Assert.True((int)await ilse.PutAsync("assets/other.ora", next) < 300);
            Assert.Equal(HttpStatusCode.Created, await ilse.PutAsync($"{folder}/gull.ora", first));
            Assert.All(await deed($"{folder}/gull.ora", next), a => Assert.True((int)a is >= 200 and < 300, $"{what}: {a}"));

            // A person finds it under Deleted and restores it, whoever wrote over it.
            foreach (var content in bothGo ? new[] { first, next } : [first])
            {
                var hash = ContentHash.Of(content);
                var all = await studio.Read(db =>
                    db.SharedFiles.WithDeleted().Where(f => f.Hash == hash && f.DeletedAt != null).ToListAsync()
                );
                Assert.True(all.Count == 1, $"After {what} {all.Count} are held.");
                Assert.Contains($"{folder}/gull.ora", await owner.PageAsync("/deleted"));
                await owner.PostAsync("/deleted?handler=TakeBack", new() { ["waiting"] = all[0].Id.ToString() }, from: "/people");
                var back = await studio.Read(db => db.SharedFiles.SingleAsync(f => f.Hash == hash));
                Assert.Equal(content, (await ilse.DoAsync("GET", Uri.EscapeDataString(back.Path.Text).Replace("%2F", "/"))).Body);
            }
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
            if (until.Elapsed > TimeSpan.FromSeconds(30))
                Assert.Fail($"The save stands nowhere. {await studio.Read(StandingAsync)}");
            await Task.Delay(100);
        }
        Assert.Contains("TIM_moonpull-poster_key", await owner.PageAsync("/projects/TIDES"));
        Assert.Equal(Poster(50), (await desk.DoAsync("GET", Current)).Body);
    }

    private static async Task<string> StandingAsync(StudioDb db)
    {
        var pieces = await db.Pieces.WithDeleted().Select(p => $"{p.CurrentName} deleted {p.DeletedAt}").ToListAsync();
        var saves = await db.Saves.WithDeleted().Select(s => $"save {s.Sequence} {s.MainHash} current {s.IsCurrent}").ToListAsync();
        var shared = await db
            .SharedFiles.WithDeleted()
            .Select(f => $"{f.Path} {f.Hash} piece {f.PieceId} settled {f.SettledAt} deleted {f.DeletedAt}")
            .ToListAsync();
        return string.Join("; ", [.. pieces, .. saves, .. shared]);
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
