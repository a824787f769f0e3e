using System.Net;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <content>Pieces that are folders of files.</content>
public partial class ShareTests
{
    private const string Scene = "working/TIM_buoy_key.gltf";

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text);

    private static async Task<(ServedStudio Studio, Visitor Owner, Desk Desk)> OpenSceneAsync(ShareTimes? times = null)
    {
        var (studio, owner, desk) = await OpenAsync(times);
        var folder = Samples.Zip(("buoy.gltf", "{\"asset\":{\"version\":\"2.0\"}}"), ("buoy.bin", "one"), ("maps/red.txt", "red"));
        Assert.True((await owner.StartPieceAsync(folder, "buoy.zip", "Buoy")).IsSuccessStatusCode);
        await studio.SettledAsync();
        return (studio, owner, desk);
    }

    private static async Task<Dictionary<string, ContentHash>> FilesAsync(ServedStudio studio, int saves)
    {
        var save = await NewestAsync(studio, saves);
        return await studio.Read(db => db.Set<SaveFile>().Where(f => f.SaveId == save.Id).ToDictionaryAsync(f => f.Path, f => f.Hash));
    }

    [Fact]
    public async Task A_piece_that_is_a_folder_stands_as_one_and_what_is_written_in_it_over_seconds_is_one_save()
    {
        // Quiet for longer than a busy machine takes from one write to the next.
        var (studio, owner, desk) = await OpenSceneAsync(Times with { Quiet = TimeSpan.FromSeconds(6) });
        await using var closing = studio;
        using var open = desk;
        Assert.Equal(["buoy.bin", "buoy.gltf", "maps"], await desk.ListAsync(Scene));
        Assert.Equal("red", Encoding.UTF8.GetString((await desk.DoAsync("GET", $"{Scene}/maps/red.txt")).Body));
        Assert.Equal(HttpStatusCode.MethodNotAllowed, (await desk.DoAsync("GET", Scene)).Status);
        Assert.Equal(HttpStatusCode.MethodNotAllowed, await desk.PutAsync(Scene, Text("a file")));
        Assert.Equal(HttpStatusCode.Conflict, await desk.PutAsync($"{Scene}/nowhere/a.txt", Text("a")));

        // In place, through a temporary file, an empty beginning, a new folder, and what a desktop leaves: it takes its time.
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync($"{Scene}/buoy.bin", []));
        Assert.Equal(
            HttpStatusCode.Created,
            await desk.PutAsync($"{Scene}/buoy.gltf.tmp", Text("{\"asset\":{\"version\":\"2.0\"},\"scenes\":[]}"))
        );
        await Task.Delay(1_000);
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync($"{Scene}/buoy.bin", Text("two")));
        Assert.Equal(HttpStatusCode.NoContent, await desk.MoveAsync($"{Scene}/buoy.gltf.tmp", $"{Scene}/buoy.gltf"));
        await Task.Delay(1_000);
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", $"{Scene}/maps/fine")).Status);
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync($"{Scene}/maps/fine/blue.txt", Text("blue")));
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync($"{Scene}/.DS_Store", Text("mine")));
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync($"{Scene}/maps/red.txt"));
        Assert.Equal("two", Encoding.UTF8.GetString((await desk.DoAsync("GET", $"{Scene}/buoy.bin")).Body));
        Assert.Equal(["fine"], await desk.ListAsync($"{Scene}/maps"));
        Assert.Equal(2, (await studio.SavesAsync()).Count);

        var files = await FilesAsync(studio, 3);
        Assert.Equal(["buoy.bin", "buoy.gltf", "maps/fine/blue.txt"], files.Keys.Order(StringComparer.Ordinal));
        Assert.Equal(ContentHash.Of(Text("two")), files["buoy.bin"]);
        Assert.Equal([".DS_Store", "buoy.bin", "buoy.gltf", "maps"], await desk.ListAsync(Scene));
        // What was saved as it was is nothing new, and an empty file that nothing follows is no save.
        await desk.PutAsync($"{Scene}/buoy.bin", Text("two"));
        await desk.PutAsync($"{Scene}/buoy.gltf", []);
        await NewestAsync(studio, 3);
        Assert.Contains("TIM_buoy_key", await owner.PageAsync("/projects/TIDES/TIM_buoy_key"));

        // A file gives way to a folder of its name.
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync($"{Scene}/buoy.bin"));
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", $"{Scene}/buoy.bin")).Status);
        await desk.PutAsync($"{Scene}/buoy.bin/part.bin", Text("part"));
        Assert.Equal(
            ["buoy.bin/part.bin", "buoy.gltf", "maps/fine/blue.txt"],
            (await FilesAsync(studio, 4)).Keys.Order(StringComparer.Ordinal)
        );
        await desk.DeleteAsync($"{Scene}/buoy.bin");

        // Two people in one folder: each has a save of their own.
        using var other = await OdoAsync(studio, owner);
        await desk.PutAsync($"{Scene}/buoy.bin", Text("three"));
        await other.PutAsync($"{Scene}/buoy.bin", Text("four"));
        Assert.Equal(ContentHash.Of(Text("four")), (await FilesAsync(studio, 6))["buoy.bin"]);
    }

    [Fact]
    public async Task A_folder_that_is_written_anew_and_renamed_over_the_piece_is_one_save_of_what_is_in_it()
    {
        var (studio, owner, desk) = await OpenSceneAsync();
        await using var closing = studio;
        using var open = desk;
        // Beside it, then over it.
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", "working/buoy.saving")).Status);
        await desk.PutAsync("working/buoy.saving/buoy.gltf", Text("{\"asset\":{\"version\":\"2.0\"}}"));
        await desk.PutAsync("working/buoy.saving/buoy.bin", Text("five"));
        Assert.Equal(HttpStatusCode.NoContent, await desk.MoveAsync("working/buoy.saving", Scene));
        Assert.Equal(["buoy.bin", "buoy.gltf"], (await FilesAsync(studio, 3)).Keys.Order(StringComparer.Ordinal));
        Assert.DoesNotContain("buoy.saving", await desk.ListAsync("working"));

        // The old one aside, the new one in its place, and the old one away; more slowly than a save takes to settle.
        Assert.Equal(HttpStatusCode.Created, await desk.MoveAsync(Scene, "working/buoy.old"));
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", Scene)).Status);
        Assert.Empty(await desk.ListAsync(Scene));
        await desk.PutAsync($"{Scene}/buoy.gltf", Text("{\"asset\":{\"version\":\"2.0\"}}"));
        await Task.Delay(Times.Quiet + TimeSpan.FromSeconds(1.5));
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync($"{Scene}/sea.bin", Text("six")));
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync("working/buoy.old"));
        Assert.Equal(["buoy.gltf", "sea.bin"], (await FilesAsync(studio, 5)).Keys.Order(StringComparer.Ordinal));
        Assert.Equal(["buoy.gltf", "sea.bin"], await desk.ListAsync(Scene));
        Assert.DoesNotContain("wait for a place", await owner.PageAsync("/projects/TIDES"));

        // Taken off the share as a whole, it comes back as it was.
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync(Scene));
        Assert.DoesNotContain("TIM_buoy_key.gltf", await desk.ListAsync("working"));
        await owner.PostAsync("/projects/TIDES/TIM_buoy_key?handler=PutBack", []);
        Assert.Equal(["buoy.gltf", "sea.bin"], await desk.ListAsync(Scene));

        // A version of it is a folder, too, and stays as it is.
        await owner.PostAsync("/projects/TIDES/TIM_buoy_key?handler=Keep", []);
        await studio.SettledAsync();
        var version = (await desk.ListAsync("working/versions")).Last(v => v.Contains("buoy", StringComparison.Ordinal));
        Assert.NotEmpty(await desk.ListAsync($"working/versions/{version}"));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.PutAsync($"working/versions/{version}/buoy.gltf", Text("{}")));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.DeleteAsync($"working/versions/{version}/buoy.gltf"));
        Assert.Equal(
            HttpStatusCode.Created,
            (await desk.DoAsync("COPY", $"working/versions/{version}", null, ("Destination", desk.Url("assets/buoy")))).Status
        );
        Assert.Equal(await desk.ListAsync($"working/versions/{version}"), await desk.ListAsync("assets/buoy"));
    }

    [Fact]
    public async Task An_alt_with_a_file_of_its_own_is_saved_beside_the_piece_each_on_its_line()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        const string own = "working/TIM_moonpull-poster_key_dusk.ora";
        var first = (await studio.SavesAsync()).Single();
        await owner.ActAsync(
            "Leave",
            new()
            {
                ["save"] = $"{first.Id}",
                ["alt"] = "dusk",
                ["goesOn"] = "false",
            }
        );
        var alt = await studio.Read(db => db.Lines.SingleAsync(l => l.Name == "dusk"));
        var form = new Dictionary<string, string> { ["line"] = $"{alt.Id}" };
        await owner.ActAsync("AltFile", new(form) { ["stands"] = "true" });
        Assert.Contains(own, await owner.PageAsync("/projects/TIDES/TIM_moonpull-poster_key?line=dusk"));
        Assert.Contains(Path.GetFileName(own), await owner.PageAsync("/tree/TIDES/working"));
        Assert.Equal(Poster(1), (await desk.DoAsync("GET", own)).Body);

        // Both at once, one in place and one by a temporary file.
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync(Current, Poster(2)));
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("working/dusk.tmp", Poster(3)));
        Assert.Equal(HttpStatusCode.NoContent, await desk.MoveAsync("working/dusk.tmp", own));
        await NewestAsync(studio, 4);
        Assert.Equal((Poster(2), Poster(3)), ((await desk.DoAsync("GET", Current)).Body, (await desk.DoAsync("GET", own)).Body), SameBytes);
        var saves = await studio.Read(db => db.Saves.AsNoTracking().ToListAsync());
        Assert.Equal(alt.Id, saves.Single(s => s.MainHash == ContentHash.Of(Poster(3))).LineId);
        Assert.NotEqual(alt.Id, saves.Single(s => s.MainHash == ContentHash.Of(Poster(2))).LineId);

        // It is called after its piece, comes back when it was deleted on the share, and goes with its alt.
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync(own));
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DoAsync("GET", own)).Status);
        await owner.ActAsync("AltFile", new(form) { ["stands"] = "true" });
        Assert.Equal(Poster(3), (await desk.DoAsync("GET", own)).Body);
        await owner.ActAsync("DropAlt", form);
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DoAsync("GET", own)).Status);
        await owner.PostAsync($"/deleted?handler=TakeBack&alt={alt.Id}", []);
        Assert.Equal(Poster(3), (await desk.DoAsync("GET", own)).Body);
        await owner.ActAsync("AltFile", new(form) { ["stands"] = "false" });
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DoAsync("GET", own)).Status);
        Assert.Equal(4, (await studio.SavesAsync()).Count);
    }

    [Fact]
    public async Task A_folder_whose_piece_is_renamed_in_the_middle_of_a_save_has_all_of_it()
    {
        var (studio, owner, desk) = await OpenSceneAsync();
        await using var closing = studio;
        using var open = desk;
        await desk.PutAsync($"{Scene}/buoy.bin", Text("first"));
        await desk.PutAsync($"{Scene}/new.txt", Text("new"));
        var piece = await studio.Read(db => db.Pieces.SingleAsync(p => p.CurrentName == "TIM_buoy_key"));
        var by = Actor.Person((await studio.Read(db => db.Users.SingleAsync())).Id);
        var slots = new Dictionary<string, string> { ["subject"] = "float", ["function"] = "key" };
        (await studio.App.Services.GetRequiredService<RenamePiece>().DoAsync(by, piece.Id, "TIDES", slots)).Expect();
        const string renamed = "working/TIM_float_key.gltf";
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync($"{renamed}/buoy.bin", Text("second")));
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync($"{renamed}/new.txt"));
        var files = await FilesAsync(studio, 3);
        Assert.Equal(["buoy.bin", "buoy.gltf", "maps/red.txt"], files.Keys.Order(StringComparer.Ordinal));
        Assert.Equal(ContentHash.Of(Text("second")), files["buoy.bin"]);
        Assert.Equal(["buoy.bin", "buoy.gltf", "maps"], await desk.ListAsync(renamed));
    }

    [Fact]
    public async Task What_would_have_too_long_a_path_goes_nowhere()
    {
        var (studio, _, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        var (far, deep) = ("assets", "assets/short");
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", deep)).Status);
        foreach (var letter in "abc")
            Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", far += $"/{new string(letter, 250)}")).Status);
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", deep += $"/{new string('d', 250)}")).Status);
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync($"{deep}/sea.txt", Text("sea")));
        foreach (var method in new[] { "COPY", "MOVE" })
        {
            var (status, _, _) = await desk.DoAsync(
                method,
                "assets/short",
                null,
                ("Destination", desk.Url($"{far}/{new string('e', 200)}"))
            );
            Assert.Equal(HttpStatusCode.BadRequest, status);
        }
        Assert.Equal("sea", Encoding.UTF8.GetString((await desk.DoAsync("GET", $"{deep}/sea.txt")).Body));
    }

    private static bool SameBytes((byte[] A, byte[] B) one, (byte[] A, byte[] B) other) =>
        one.A.AsSpan().SequenceEqual(other.A) && one.B.AsSpan().SequenceEqual(other.B);
}
