using System.Net;
using System.Text;
using Chronotype.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>Whatever is sent to whichever address, no answer is an error of the server's own.</summary>
public class OddRequestTests
{
    private static readonly string[] OddValues =
    [
        "",
        "0",
        "-1",
        "9223372036854775808",
        "x'\"<>;--",
        "../../etc/passwd",
        "\u202e\U0001f41f",
        "00000000-0000-0000-0000-000000000000",
        new string('x', 3_000),
    ];

    private static readonly (string Type, string Body)[] OddBodies =
    [
        ("application/x-www-form-urlencoded; charset=utf-7", "a=+ADw-"),
        ("application/x-www-form-urlencoded; charset=nothing-at-all", "a=b"),
        ("application/x-www-form-urlencoded", "x[=1&x]=2&[=3&]=4&x[0=5&[][]=6"),
        ("application/x-www-form-urlencoded", "%=%&%zz=%00&=&&;"),
        ("multipart/form-data", "no boundary"),
        ("multipart/form-data; boundary=x", "--x\r\nContent-Disposition: form-data; name=\"x[\"\r\n\r\n1\r\n--x--\r\n"),
        ("multipart/form-data; boundary=\"x", "--x\r\n\r\n"),
        ("application/json", "{\"files\":null,\"paths\":[null],\"x\":"),
        ("application/json", "[[[[1e999]]]]"),
        ("text/xml", "<?xml version=\"1.0\"?><!DOCTYPE a [<!ENTITY b \"c\">]><a>&b;</a>"),
        ("", "nothing said"),
        (";;;", "odd"),
    ];

    private static readonly (string Name, string Value)[] OddHeaders =
    [
        ("Range", "bytes=5-1"),
        ("Range", "bytes=-999999999999999999999"),
        ("If-None-Match", "\"\"\"W/"),
        ("If-Modified-Since", "once upon a time"),
        ("Accept", "*/*;q=x, ,;"),
        ("HX-Request", "true"),
        ("Cookie", "chronotype=x; chronotype-notice=%7B"),
        ("Upload-Offset", "-1"),
        ("Upload-Metadata", "filename ====,,x"),
        ("X-Forwarded-For", "not an address"),
        ("Depth", "several"),
    ];

    [Fact]
    public async Task No_odd_request_is_an_error_of_ours()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.OpenRaster(40, 60, new Samples.OraLayer("Sky", 40, 60)), "poster.ora");
        await owner.UploadAsync("/tree/TIDES/files", "rough"u8.ToArray(), "paper.txt", new() { ["folder"] = "assets" });
        await studio.SettledAsync();
        var all = await (await Addresses.OfAsync(studio, "TIDES")).AllAsync(studio);
        var token = await owner.TokenAsync("/me");
        // Another studio's session would end with it, and nothing more would be asked.
        all.RemoveAll(a =>
            a.Path.StartsWith("/sign-out", StringComparison.Ordinal) || a.Route.Contains("arriving", StringComparison.Ordinal)
        );
        var random = new Random(5);
        var (sent, failed) = (0, new List<string>());
        foreach (var asked in all)
        {
            var path = asked.Path.Split('?')[0];
            // Odd values for all that is asked for, in turn.
            foreach (var value in Thorough.Some([.. OddValues], 3))
                await SendAsync(asked, WithQuery(asked, value), null, null);
            foreach (var header in Thorough.Some([.. OddHeaders], 2))
                await SendAsync(asked, asked.Path, null, header);
            if (asked.Method is "GET" or "HEAD" or "OPTIONS")
            {
                await SendAsync(asked with { Method = "PROPFIND" }, path, null, null);
                await SendAsync(asked with { Method = "DELETE" }, path, null, null);
                continue;
            }
            foreach (var body in OddBodies)
                await SendAsync(asked, asked.Path, body, null);
        }
        // Strangers as well.
        foreach (var body in OddBodies)
        {
            using var answer = await AskAsync(new Visitor(studio.Address), "POST", "/sign-in", body, null, null);
            Note(answer.StatusCode, $"stranger, {body.Type}: {body.Body}");
        }
        Assert.True(sent > 800, $"Only {sent} requests.");
        Assert.True(failed.Count == 0, $"{failed.Count} of {sent}:\n{string.Join('\n', failed.Take(40))}");

        string WithQuery(Asked asked, string value)
        {
            var fields = asked.Fields.Keys.Append("q").Select(f => $"{f}={Uri.EscapeDataString(value)}");
            return asked.Path + (asked.Path.Contains('?') ? '&' : '?') + string.Join('&', fields);
        }

        async Task SendAsync(Asked asked, string at, (string Type, string Body)? body, (string Name, string Value)? header)
        {
            using var answer = await AskAsync(owner, asked.Method, at, body, header, token);
            Note(answer.StatusCode, $"{asked.Method} {at[..Math.Min(at.Length, 160)]} {header} {body?.Type} {body?.Body}");
        }

        void Note(HttpStatusCode status, string what)
        {
            sent++;
            if ((int)status >= 500)
                failed.Add($"{(int)status} {what}");
        }
    }

    private static async Task<HttpResponseMessage> AskAsync(
        Visitor visitor,
        string method,
        string path,
        (string Type, string Body)? body,
        (string Name, string Value)? header,
        string? token
    )
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), path);
        if (body is var (type, text))
        {
            request.Content = new ByteArrayContent(Encoding.UTF8.GetBytes(text));
            request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
        }
        if (token is not null)
            request.Headers.Add("X-Form-Token", token);
        request.Headers.TryAddWithoutValidation("Tus-Resumable", "1.0.0");
        if (header is var (name, value))
            request.Headers.TryAddWithoutValidation(name, value);
        using var late = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        return await visitor.SendAsync(request);
    }

    [Fact]
    public async Task The_convention_is_shown_when_the_piece_with_the_newest_version_is_gone()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(5_000, 1), "poster.lay");
        await studio.SettledAsync();
        await owner.PostAsync("/tidy/TIDES/TIM_moonpull-poster_key?handler=Delete", [], from: "/me");
        Assert.Contains("client", await owner.PageAsync("/convention"));
    }

    [Theory]
    [InlineData(null, false)]
    [InlineData("127.0.0.1", true)]
    [InlineData("192.0.2.1", false)]
    public async Task The_address_of_a_person_is_the_one_that_a_trusted_proxy_says(string? proxy, bool isBelieved)
    {
        using var folder = await NewStudio.FolderAsync();
        await using var app = StudioApp.Build(
            new Settings(folder.Path, IPAddress.Loopback, 0, proxy is null ? null : IPAddress.Parse(proxy)),
            NewStudio.HashPasswordsQuickly
        );
        await StudioApp.PrepareAsync(app);
        await app.StartAsync();
        var address = new Uri(app.Urls.First());
        await Visitor.FoundAsync(address);
        var visitor = new Visitor(address);
        var token = await visitor.TokenAsync("/sign-in");
        using var request = new HttpRequestMessage(HttpMethod.Post, "/sign-in")
        {
            Content = new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["initials"] = "IK",
                    ["password"] = "ten letters and more",
                    ["__RequestVerificationToken"] = token,
                }
            ),
        };
        request.Headers.Add("X-Forwarded-For", "203.0.113.7");
        (await visitor.SendAsync(request)).Dispose();
        await using (var scope = app.Services.CreateAsyncScope())
        {
            var sessions = scope.ServiceProvider.GetRequiredService<StudioDb>().Sessions;
            var last = await sessions.OrderByDescending(s => s.StartedAt).Select(s => s.Address).FirstAsync();
            Assert.Equal(isBelieved, last.Contains("203.0.113.7", StringComparison.Ordinal));
        }
        await app.StopAsync();
    }
}
