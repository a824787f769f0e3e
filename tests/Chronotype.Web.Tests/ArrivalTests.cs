using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Chronotype.Core.Content;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>Files that arrive in parts, as the tus protocol has it, and files for a folder.</summary>
public class ArrivalTests
{
    private static HttpRequestMessage Tus(HttpMethod method, string address, string token, params (string Name, string Value)[] headers)
    {
        var request = new HttpRequestMessage(method, address);
        request.Headers.Add("Tus-Resumable", "1.0.0");
        request.Headers.Add("X-Form-Token", token);
        foreach (var (name, value) in headers)
            request.Headers.TryAddWithoutValidation(name, value);
        return request;
    }

    private static HttpRequestMessage Part(string address, string token, long at, byte[] bytes)
    {
        var request = Tus(HttpMethod.Patch, address, token, ("Upload-Offset", $"{at}"));
        request.Content = new ByteArrayContent(bytes);
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/offset+octet-stream");
        return request;
    }

    private static async Task<string> BeginAsync(Visitor client, string token, string name, int length)
    {
        var begun = await client.SendAsync(
            Tus(
                HttpMethod.Post,
                "/uploads",
                token,
                ("Upload-Length", $"{length}"),
                ("Upload-Metadata", $"filename {Convert.ToBase64String(Encoding.UTF8.GetBytes(name))}")
            )
        );
        Assert.Equal(HttpStatusCode.Created, begun.StatusCode);
        Assert.True(begun.Headers.Contains("Upload-Expires"));
        return begun.Headers.Location!.ToString();
    }

    [Fact]
    public async Task A_file_arrives_in_parts_and_is_given_a_place_afterwards()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        var token = await client.TokenAsync("/tree/TIDES/assets");
        var told = await client.SendAsync(new HttpRequestMessage(HttpMethod.Options, "/uploads"));
        Assert.Equal(
            ("1.0.0", "creation,expiration,termination"),
            (told.Headers.GetValues("Tus-Version").Single(), told.Headers.GetValues("Tus-Extension").Single())
        );
        var address = await BeginAsync(client, token, "grän.txt", 10);

        var first = await client.SendAsync(Part(address, token, 0, "01234"u8.ToArray()));
        Assert.Equal((HttpStatusCode.NoContent, "5"), (first.StatusCode, first.Headers.GetValues("Upload-Offset").Single()));
        Assert.Equal(HttpStatusCode.Conflict, (await client.SendAsync(Part(address, token, 0, "01234"u8.ToArray()))).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await client.SendAsync(Part(address, token, 9, "9"u8.ToArray()))).StatusCode);
        var how = await client.SendAsync(Tus(HttpMethod.Head, address, token));
        Assert.Equal(("5", "10"), (how.Headers.GetValues("Upload-Offset").Single(), how.Headers.GetValues("Upload-Length").Single()));
        // A part that is longer than what was said takes no more than that.
        var second = await client.SendAsync(Part(address, token, 5, "56789 and more"u8.ToArray()));
        Assert.Equal("10", second.Headers.GetValues("Upload-Offset").Single());

        var form = new MultipartFormDataContent
        {
            { new StringContent(token), "__RequestVerificationToken" },
            { new StringContent("assets/paper"), "folder" },
            { new StringContent(address.Split('/')[^1]), "upload" },
        };
        var placed = new HttpRequestMessage(HttpMethod.Post, "/tree/TIDES/files") { Content = form };
        placed.Headers.Accept.ParseAdd("application/json");
        var answer = await client.SendAsync(placed);
        Assert.Contains("/tree/TIDES/assets/paper?file=", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        var entry = await studio.Read(db => db.Entries.Include(e => e.Contents).SingleAsync(e => e.PathKey == "assets/paper/grän.txt"));
        Assert.Equal(ContentHash.Of("0123456789"u8), entry.Contents.Single().Hash);
        Assert.Equal(HttpStatusCode.NotFound, (await client.SendAsync(Tus(HttpMethod.Head, address, token))).StatusCode);
    }

    [Fact]
    public async Task What_the_protocol_does_not_allow_is_refused()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        var token = await client.TokenAsync("/tree/TIDES/assets");
        var address = await BeginAsync(client, token, "a", 4);

        var other = Part(address, token, 0, [1]);
        other.Headers.Remove("Tus-Resumable");
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await client.SendAsync(other)).StatusCode);
        var form = Part(address, token, 0, [1]);
        form.Content!.Headers.ContentType = new MediaTypeHeaderValue("text/plain");
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await client.SendAsync(form)).StatusCode);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await client.SendAsync(Tus(HttpMethod.Post, "/uploads", token, ("Upload-Length", "-1")))).StatusCode
        );
        Assert.Equal(HttpStatusCode.BadRequest, (await client.SendAsync(Part(address, "", 0, [1]))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.SendAsync(Part($"/uploads/{Guid.NewGuid()}", token, 0, [1]))).StatusCode);
        // What is not whole has no place yet.
        var placed = new MultipartFormDataContent
        {
            { new StringContent(token), "__RequestVerificationToken" },
            { new StringContent(address.Split('/')[^1]), "upload" },
        };
        var request = new HttpRequestMessage(HttpMethod.Post, "/tree/TIDES/files") { Content = placed };
        request.Headers.Accept.ParseAdd("application/json");
        Assert.Equal(HttpStatusCode.NotFound, (await client.SendAsync(request)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await client.SendAsync(Tus(HttpMethod.Delete, address, token))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.SendAsync(Tus(HttpMethod.Head, address, token))).StatusCode);
    }

    [Theory]
    [InlineData("../up", "a.txt", "LeadsOut")]
    [InlineData("/etc", "a.txt", "Absolute")]
    [InlineData("working", "a.txt", "only pieces")]
    [InlineData("assets/a.txt", "b.txt", "no folder assets/a.txt")]
    public async Task A_folder_that_is_none_takes_no_file(string folder, string name, string says)
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        async Task<string> SendAsync(string into, string file) =>
            await (await client.UploadAsync("/tree/TIDES/files", [1, 2], file, new() { ["folder"] = into })).Content.ReadAsStringAsync();
        await SendAsync("assets", "a.txt");

        Assert.Contains(says, await SendAsync(folder, name), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_file_that_is_moved_keeps_its_name_however_odd_and_a_moment_that_never_was_moves_nothing()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        await client.UploadAsync("/tree/TIDES/files", [1, 2], "two  spaces.txt", new() { ["folder"] = "assets" });
        var entry = await studio.Read(db => db.Entries.SingleAsync(e => e.PathKey == "assets/two  spaces.txt"));

        await client.PostAsync("/tree/TIDES?handler=Move", new() { ["ids"] = $"{entry.Id}", ["to"] = "documents" }, from: "/people");

        Assert.Equal("documents/two  spaces.txt", (await studio.Read(db => db.Entries.SingleAsync(e => e.Id == entry.Id))).Path.Text);
        foreach (var at in new[] { "-1", "9223372036854775807", "0" })
            Assert.Equal(
                HttpStatusCode.Redirect,
                (await client.PostAsync($"/tree/TIDES?handler=MoveBack&at={at}", [], from: "/people")).StatusCode
            );
        Assert.Contains("That is not there any more", await client.PageAsync("/tree/TIDES"));
    }

    [Fact]
    public async Task What_nobody_goes_on_with_is_let_go_and_what_somebody_does_stays()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        var token = await client.TokenAsync("/tree/TIDES/assets");
        var (old, young) = (await BeginAsync(client, token, "a", 4), await BeginAsync(client, token, "b", 4));
        var folder = Path.Combine(studio.Folder, "uploads");
        foreach (var file in Directory.GetFiles(folder, $"{Guid.Parse(old.Split('/')[^1]):N}*"))
            File.SetLastWriteTimeUtc(file, DateTime.UtcNow - Chronotype.Studio.Arrivals.HeldUploads.Lasts - TimeSpan.FromDays(2));

        studio.App.Services.GetRequiredService<Chronotype.Studio.Arrivals.HeldUploads>().DropOld();

        Assert.Equal(HttpStatusCode.NotFound, (await client.SendAsync(Tus(HttpMethod.Head, old, token))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await client.SendAsync(Tus(HttpMethod.Head, young, token))).StatusCode);
        Assert.Equal(2, Directory.GetFiles(folder).Length);
    }
}
