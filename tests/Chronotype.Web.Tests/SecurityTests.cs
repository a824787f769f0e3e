using System.Net;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

public partial class SecurityTests
{
    private static readonly string[] Open = ["/sign-in", "/welcome", "/oops", "/healthz"];

    [Fact]
    public async Task Every_address_needs_sign_in_but_the_few_that_lead_to_it()
    {
        await using var studio = await ServedStudio.OpenAsync();
        await studio.FoundAsync();
        var stranger = new Visitor(studio.Address);
        var routes = studio
            .App.Services.GetServices<EndpointDataSource>()
            .SelectMany(s => s.Endpoints)
            .OfType<RouteEndpoint>()
            .Select(e =>
                "/"
                + e.RoutePattern.RawText!.TrimStart('/')
                    .Replace("{id:guid}", Guid.NewGuid().ToString())
                    .Replace("{side:int}", "480")
                    .Replace("{project}", "TIDES")
                    .Replace("{piece}", "p")
                    .Replace("{piece:guid}", Guid.NewGuid().ToString())
            )
            .Distinct()
            .Except(Open)
            .ToList();
        Assert.True(routes.Count > 9, string.Join(" ", routes));
        foreach (var route in routes)
        {
            foreach (var method in new[] { HttpMethod.Get, HttpMethod.Post })
            {
                var response = await stranger.SendAsync(new HttpRequestMessage(method, route));
                // A method that the address does not have is refused before anyone asks who comes.
                if (response.StatusCode == HttpStatusCode.MethodNotAllowed)
                    continue;
                // A script or a program is told so, and not led to a form.
                if ((route == "/place" && method == HttpMethod.Post) || route.StartsWith("/share/", StringComparison.Ordinal))
                {
                    Assert.Equal(HttpStatusCode.Unauthorized, response.StatusCode);
                    continue;
                }
                Assert.Equal((route, HttpStatusCode.Redirect), (route, response.StatusCode));
                Assert.StartsWith("/sign-in", response.Headers.Location!.PathAndQuery);
            }
        }
    }

    [Fact]
    public async Task An_empty_studio_leads_to_its_founding_and_only_once()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var first = new Visitor(studio.Address);
        Assert.Equal("/welcome", (await first.GetAsync("/")).Headers.Location!.OriginalString);
        Assert.Equal("ready", await (await first.GetAsync("/healthz")).Content.ReadAsStringAsync());
        var owner = await studio.FoundAsync();
        Assert.Contains("Nothing is on the bench yet", await owner.PageAsync("/"));
        Assert.Equal("/", (await owner.GetAsync("/welcome")).Headers.Location!.OriginalString);
    }

    [Fact]
    public async Task Initials_and_password_sign_in_and_wrong_tries_are_slowed_and_lock_nobody_out()
    {
        await using var studio = await ServedStudio.OpenAsync();
        await studio.FoundAsync();
        var visitor = new Visitor(studio.Address);
        Task<HttpResponseMessage> Try(string password) =>
            visitor.PostAsync("/sign-in", new() { ["initials"] = "ik", ["password"] = password });
        Assert.Contains("do not go together", await (await Try("wrong password")).Content.ReadAsStringAsync());
        Assert.Equal("/", (await Try("ten letters and more")).Headers.Location!.OriginalString);
        // Somebody else guesses, of the same address and under the same initials.
        var owner = visitor;
        visitor = new Visitor(studio.Address);
        for (var i = 0; i < 5; i++)
            await Try("wrong password");
        var clock = System.Diagnostics.Stopwatch.StartNew();
        await Try("wrong password");
        Assert.InRange(clock.Elapsed.TotalSeconds, 0.9, 20);
        // The owner's own browser is not held up by it, and the right password is taken at once.
        await owner.PostAsync("/sign-out", [], from: "/people");
        visitor = owner;
        clock.Restart();
        Assert.Equal("/", (await Try("ten letters and more")).Headers.Location!.OriginalString);
        Assert.InRange(clock.Elapsed.TotalSeconds, 0, 0.89);
        // Nor is anybody locked out elsewhere.
        visitor = new Visitor(studio.Address);
        Assert.Equal("/", (await Try("ten letters and more")).Headers.Location!.OriginalString);
    }

    [Fact]
    public async Task A_return_address_elsewhere_is_not_followed()
    {
        await using var studio = await ServedStudio.OpenAsync();
        await studio.FoundAsync();
        var visitor = new Visitor(studio.Address);
        var response = await visitor.PostAsync(
            "/sign-in",
            new()
            {
                ["initials"] = "IK",
                ["password"] = "ten letters and more",
                ["returnUrl"] = "https://elsewhere.example/",
            }
        );
        Assert.Equal("/", response.Headers.Location!.OriginalString);
    }

    [Fact]
    public async Task Nobody_signs_in_without_a_password_unless_the_studio_is_a_demo()
    {
        await using var studio = await ServedStudio.OpenAsync();
        await studio.FoundAsync();
        var visitor = new Visitor(studio.Address);
        var response = await visitor.PostAsync("/sign-in?handler=Demo", new() { ["initials"] = "IK" }, from: "/sign-in");
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await visitor.GetAsync("/")).StatusCode);
    }

    [Fact]
    public async Task A_form_without_its_token_does_nothing()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync([1], "a.lay");
        await owner.SaveAsync([2], "a.lay");
        foreach (
            var path in new[]
            {
                "/projects/new",
                "/people",
                "/sign-out",
                "/?handler=Keep",
                "/projects/TIDES/TIM_moonpull-poster_key?handler=Keep",
                "/projects/TIDES/TIM_moonpull-poster_key?handler=Milestone",
            }
        )
        {
            var response = await owner.SendAsync(new HttpRequestMessage(HttpMethod.Post, path) { Content = new FormUrlEncodedContent([]) });
            Assert.Equal((path, HttpStatusCode.BadRequest), (path, response.StatusCode));
            Assert.Contains("nothing is lost", await response.Content.ReadAsStringAsync());
        }
        var upload = await owner.UploadAsync("/projects/TIDES/TIM_moonpull-poster_key/saves", [3], "a.lay", token: "made up");
        Assert.Equal(HttpStatusCode.BadRequest, upload.StatusCode);
        Assert.Contains("nothing was taken", await upload.Content.ReadAsStringAsync());
        Assert.Equal([1, null], (await studio.SavesAsync()).Select(s => s.Number));
    }

    [Fact]
    public async Task Pages_forbid_what_they_do_not_use_and_hold_nothing_inline()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.OpenRaster(30, 30, new Samples.OraLayer("Sky", 30, 30)), "a.ora");
        await owner.SaveAsync(Samples.OpenRaster(30, 30, new Samples.OraLayer("Sky", 30, 30, Red: 3)));
        foreach (
            var path in new[]
            {
                "/",
                "/projects",
                "/projects/new",
                "/projects/TIDES",
                "/people",
                "/projects/TIDES/TIM_moonpull-poster_key",
                "/projects/TIDES/TIM_moonpull-poster_key?a=1&look=wipe&table=true",
                "/nowhere",
            }
        )
        {
            var response = await owner.GetAsync(path);
            var policy = response.Headers.GetValues("Content-Security-Policy").Single();
            Assert.Contains("default-src 'none'", policy);
            Assert.DoesNotContain("unsafe", policy);
            Assert.Equal("nosniff", response.Headers.GetValues("X-Content-Type-Options").Single());
            var html = await response.Content.ReadAsStringAsync();
            Assert.DoesNotMatch(Inline(), html);
            Assert.DoesNotMatch(Elsewhere(), html);
        }
    }

    [Fact]
    public async Task Cookies_are_out_of_scripts_reach_and_other_sites()
    {
        await using var studio = await ServedStudio.OpenAsync();
        await studio.FoundAsync();
        var visitor = new Visitor(studio.Address);
        var page = await visitor.GetAsync("/sign-in");
        var token = await visitor.TokenAsync("/sign-in");
        var signIn = await visitor.SendAsync(
            new HttpRequestMessage(HttpMethod.Post, "/sign-in")
            {
                Content = new FormUrlEncodedContent(
                    new Dictionary<string, string>
                    {
                        ["initials"] = "IK",
                        ["password"] = "ten letters and more",
                        ["__RequestVerificationToken"] = token,
                    }
                ),
            }
        );
        var cookies = page.Headers.GetValues("Set-Cookie").Concat(signIn.Headers.GetValues("Set-Cookie")).ToList();
        Assert.Equal(3, cookies.Count);
        Assert.All(cookies, c => Assert.Contains("httponly", c));
        Assert.All(cookies, c => Assert.Matches("samesite=(strict|lax)", c));
    }

    [Fact]
    public async Task A_studio_on_loopback_answers_to_no_other_name()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var request = new HttpRequestMessage(HttpMethod.Get, "/healthz");
        request.Headers.Host = "elsewhere.example";
        Assert.Equal(HttpStatusCode.BadRequest, (await new Visitor(studio.Address).SendAsync(request)).StatusCode);
    }

    [Fact]
    public async Task Only_the_owner_adds_people()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.FoundAsync();
        await owner.PostAsync(
            "/people",
            new()
            {
                ["name"] = "Odo Barreau",
                ["initials"] = "OB",
                ["password"] = "ten letters and more",
            }
        );
        var odo = new Visitor(studio.Address);
        await odo.PostAsync("/sign-in", new() { ["initials"] = "OB", ["password"] = "ten letters and more" });
        Assert.DoesNotContain("Add someone", await odo.PageAsync("/people"));
        var response = await odo.PostAsync(
            "/people",
            new()
            {
                ["name"] = "Eve",
                ["initials"] = "EV",
                ["password"] = "ten letters and more",
            }
        );
        Assert.Equal(HttpStatusCode.Forbidden, response.StatusCode);
        Assert.DoesNotContain("Eve", await owner.PageAsync("/people"));
    }

    [GeneratedRegex("""<script(?![^>]*\bsrc=)|<style|\son[a-z]+=|\sstyle=|javascript:""", RegexOptions.IgnoreCase)]
    private static partial Regex Inline();

    [GeneratedRegex("""(src|href|action)="(https?:)?//""", RegexOptions.IgnoreCase)]
    private static partial Regex Elsewhere();
}
