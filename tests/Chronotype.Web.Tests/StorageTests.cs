using System.Net;
using Chronotype.Content;
using Chronotype.Core.Content;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>The Storage screen, and a store that an older version left, through the real server.</summary>
public class StorageTests
{
    [Fact]
    public async Task The_screen_verifies_says_what_is_damaged_and_takes_a_copy()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var content = Samples.Noise(400_000, 1);
        await owner.StartPieceAsync(content, "poster.lay");
        Assert.Contains("Nothing was verified yet", await owner.PageAsync("/storage"));
        await owner.PostAsync("/storage?handler=Verify", [], from: "/storage");
        await UntilAsync(owner, "All sound");

        using (
            var file = new FileStream(
                Directory.GetFiles(Path.Combine(studio.Folder, "content", "segments")).Single(),
                FileMode.Open,
                FileAccess.ReadWrite,
                FileShare.ReadWrite
            )
        )
        {
            file.Position = 100_000;
            file.Write([1, 2, 3, 4]);
        }
        await owner.PostAsync("/storage?handler=Verify", [], from: "/storage");
        var page = await UntilAsync(owner, "1 file is damaged");
        Assert.Contains("TIM_moonpull-poster_key_IK_001.lay", page);
        Assert.Equal(HttpStatusCode.OK, (await owner.GetAsync("/projects/TIDES/TIM_moonpull-poster_key")).StatusCode);

        Assert.Equal(HttpStatusCode.OK, (await owner.UploadAsync("/storage/copies", content, "poster-from-my-disk.lay")).StatusCode);
        page = await owner.PageAsync("/storage");
        Assert.Contains("TIM_moonpull-poster_key_IK_001.lay is whole again", page);
        Assert.DoesNotContain("file is damaged", page);
        var save = (await studio.SavesAsync())[0];
        Assert.Equal(content, await (await owner.GetAsync($"/saves/{save.Id}/file")).Content.ReadAsByteArrayAsync());
        // The damaged bytes themselves go with the next compaction.
        await owner.PostAsync("/storage?handler=Compact", [], from: "/storage");
        await UntilAsync(owner, "were freed");
        await owner.PostAsync("/storage?handler=Verify", [], from: "/storage");
        await UntilAsync(owner, "All sound");
    }

    [Fact]
    public async Task Damaged_bytes_are_not_downloaded_and_the_whole_part_of_a_file_still_is()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var content = Samples.Noise(2_000_000, 3);
        await owner.StartPieceAsync(content, "poster.lay");
        using (
            var file = new FileStream(
                Directory.GetFiles(Path.Combine(studio.Folder, "content", "segments")).Single(),
                FileMode.Open,
                FileAccess.ReadWrite,
                FileShare.ReadWrite
            )
        )
        {
            file.Position = 1_500_000;
            file.Write([1, 2, 3, 4]);
        }
        var address = $"/saves/{(await studio.SavesAsync())[0].Id}/file";
        await Assert.ThrowsAnyAsync<HttpRequestException>(() => owner.GetAsync(address));
        using var request = new HttpRequestMessage(HttpMethod.Get, address);
        request.Headers.Range = new System.Net.Http.Headers.RangeHeaderValue(200_000, 299_999);
        Assert.Equal(content[200_000..300_000], await (await owner.SendAsync(request)).Content.ReadAsByteArrayAsync());
        var hurt = await owner.PiecePageAsync();
        Assert.Contains("Damaged on disk here", hurt);
        Assert.Contains("Hand in a copy", hurt);
        // The same file saved once more is no copy of the damage: the save that arrives is the one that heals it.
        await owner.SaveAsync(content, "poster.lay");
        Assert.Equal(content, await (await owner.GetAsync(address)).Content.ReadAsByteArrayAsync());
        Assert.DoesNotContain("Damaged on disk here", await owner.PiecePageAsync());
    }

    [Fact]
    public async Task Work_that_goes_on_is_shown_and_can_be_stopped()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(40_000_000, 4), "poster.lay");
        await Task.WhenAll(
            owner.PostAsync("/storage?handler=Verify", [], from: "/storage"),
            owner.PostAsync("/storage?handler=Verify", [], from: "/storage")
        );
        await owner.PostAsync("/storage?handler=Stop", [], from: "/storage");
        var page = await UntilAsync(owner, "Verify 40");
        Assert.True(page.Contains("Stopped before the end") || page.Contains("All sound"));
        var ended = await owner.GetAsync("/storage?handler=Running");
        Assert.Equal(HttpStatusCode.NoContent, ended.StatusCode);
        Assert.Equal("true", ended.Headers.GetValues("HX-Refresh").Single());
    }

    [Fact]
    public async Task A_stranger_sees_and_starts_nothing()
    {
        await using var studio = await ServedStudio.OpenAsync();
        await studio.WithProjectAsync();
        var stranger = new Visitor(studio.Address);
        Assert.Equal(HttpStatusCode.Redirect, (await stranger.GetAsync("/storage")).StatusCode);
        Assert.NotEqual(HttpStatusCode.OK, (await stranger.UploadAsync("/storage/copies", [1], "a", token: "none")).StatusCode);
        Assert.Equal(0, await studio.Read(db => db.StoreChecks.CountAsync()));
    }

    [Fact]
    public async Task What_an_older_version_kept_as_files_is_there_after_the_start()
    {
        using var folder = new StudioFolder();
        await using (var before = StudioApp.Build(new Settings(folder.Path, IPAddress.Loopback, 0)))
            await StudioApp.PrepareAsync(before);
        var content = Samples.Noise(300_000, 7);
        var hash = ContentHash.Of(content);
        var old = Path.Combine(folder.Path, "content", hash.ToString()[..2]);
        Directory.CreateDirectory(old);
        File.WriteAllBytes(Path.Combine(old, hash.ToString()[2..]), content);
        await using var app = StudioApp.Build(new Settings(folder.Path, IPAddress.Loopback, 0));
        await StudioApp.PrepareAsync(app);
        using var stream = app.Services.GetRequiredService<IContentStore>().OpenRead(hash);
        Assert.Equal(hash, ContentHash.FromDigest(System.Security.Cryptography.SHA256.HashData(stream)));
        Assert.False(Directory.Exists(old));
    }

    private static async Task<string> UntilAsync(Visitor visitor, string text)
    {
        var page = "";
        for (var i = 0; i < 200; i++)
        {
            page = await visitor.PageAsync("/storage");
            if (page.Contains(text))
                return page;
            await Task.Delay(50);
        }
        Assert.Contains(text, page);
        return page;
    }
}
