using System.Net;
using Chronotype.Storage.Entities;
using Chronotype.Studio.People;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

/// <summary>Sessions, passwords, and who may do what to whom.</summary>
public class PeopleTests
{
    private const string First = "ten letters and more",
        Second = "another row of words";

    private static async Task<(Visitor Owner, Visitor Odo, Guid OdoId)> WithOdoAsync(ServedStudio studio)
    {
        var owner = await studio.WithProjectAsync();
        await owner.PostAsync(
            "/people",
            new()
            {
                ["name"] = "Odo Barreau",
                ["initials"] = "OB",
                ["password"] = First,
            }
        );
        return (
            owner,
            await SignedInAsync(studio, "OB", First),
            await studio.Read(db => db.Users.Where(p => p.Initials == "OB").Select(p => p.Id).SingleAsync())
        );
    }

    private static async Task<Visitor> SignedInAsync(ServedStudio studio, string initials, string password)
    {
        var visitor = new Visitor(studio.Address);
        Assert.Equal(
            "/",
            (await visitor.PostAsync("/sign-in", new() { ["initials"] = initials, ["password"] = password }))
                .Headers
                .Location
                ?.OriginalString
        );
        return visitor;
    }

    private static async Task AssertOutAsync(Visitor visitor) =>
        Assert.StartsWith("/sign-in", (await visitor.GetAsync("/")).Headers.Location!.PathAndQuery);

    [Fact]
    public async Task Signing_out_ends_every_session_of_that_person_and_of_nobody_else()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var (owner, odo, _) = await WithOdoAsync(studio);
        var elsewhere = await SignedInAsync(studio, "OB", First);
        await odo.PostAsync("/sign-out", [], from: "/people");
        await AssertOutAsync(elsewhere);
        await owner.PageAsync("/");
    }

    [Fact]
    public async Task A_changed_password_ends_every_other_session_at_once()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var (_, odo, _) = await WithOdoAsync(studio);
        var elsewhere = await SignedInAsync(studio, "OB", First);
        async Task<string> Change(string current, string next, string again) =>
            await (
                await odo.PostAsync(
                    "/me?handler=Password",
                    new()
                    {
                        ["current"] = current,
                        ["next"] = next,
                        ["again"] = again,
                    }
                )
            ).Content.ReadAsStringAsync();
        Assert.Contains("not your present password", await Change("wrong words here", Second, Second));
        Assert.Contains("two different ways", await Change(First, Second, First));
        foreach (
            var poor in new[]
            {
                "short",
                "1234567890",
                "Password1234!",
                "aaaaaaaaaaaa",
                "qwertyuiop",
                "P4ssw0rd!!!!",
                "odobarreau",
                "abcabcabcabc",
            }
        )
            Assert.Contains("fault", await Change(First, poor, poor));
        await elsewhere.PageAsync("/");
        await Change(First, Second, Second);
        Assert.Contains("Your password is changed", await odo.PageAsync("/me"));
        await AssertOutAsync(elsewhere);
        await SignedInAsync(studio, "OB", Second);
    }

    [Fact]
    public async Task The_owner_switches_people_off_and_gives_new_passwords()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var (owner, odo, id) = await WithOdoAsync(studio);
        var fields = new Dictionary<string, string>
        {
            ["person"] = id.ToString(),
            ["off"] = "true",
            ["next"] = Second,
        };
        foreach (var handler in new[] { "Switch", "Password" })
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (await odo.PostAsync($"/people?handler={handler}", new(fields), from: "/people")).StatusCode
            );
        await owner.PostAsync("/people?handler=Switch", new(fields), from: "/people");
        await AssertOutAsync(odo);
        var visitor = new Visitor(studio.Address);
        Assert.Contains(
            "do not go together",
            await (await visitor.PostAsync("/sign-in", new() { ["initials"] = "OB", ["password"] = First })).Content.ReadAsStringAsync()
        );
        Assert.Contains("switched off", await owner.PageAsync("/people"));

        fields["off"] = "false";
        await owner.PostAsync("/people?handler=Switch", new(fields), from: "/people");
        odo = await SignedInAsync(studio, "OB", First);
        await owner.PostAsync("/people?handler=Password", new(fields), from: "/people");
        await AssertOutAsync(odo);
        await SignedInAsync(studio, "OB", Second);
        var ownerId = await studio.Read(db => db.Users.Where(p => p.IsOwner).Select(p => p.Id).SingleAsync());
        Assert.Contains(
            "cannot switch yourself off",
            await (
                await owner.PostAsync(
                    "/people?handler=Switch",
                    new() { ["person"] = ownerId.ToString(), ["off"] = "true" },
                    from: "/people"
                )
            ).Content.ReadAsStringAsync()
        );
    }

    [Fact]
    public async Task The_care_of_the_store_is_the_owners()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var (_, odo, _) = await WithOdoAsync(studio);
        foreach (var handler in new[] { "Verify", "Compact", "Stop" })
            Assert.Equal(
                (handler, HttpStatusCode.Forbidden),
                (handler, (await odo.PostAsync($"/storage?handler={handler}", [], from: "/people")).StatusCode)
            );
        Assert.DoesNotContain("handler=Verify", await odo.PageAsync("/storage"));
    }

    [Fact]
    public async Task One_person_added_twenty_times_at_once_is_there_once()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.FoundAsync();
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(_ =>
                    owner.PostAsync(
                        "/people",
                        new()
                        {
                            ["name"] = "Tamsin Vale",
                            ["initials"] = "TV",
                            ["password"] = First,
                        }
                    )
                )
        );
        Assert.All(answers, a => Assert.True(a.StatusCode is HttpStatusCode.OK or HttpStatusCode.Redirect, a.StatusCode.ToString()));
        Assert.Equal(1, await studio.Read(db => db.Users.CountAsync(p => p.Initials == "TV")));
    }

    [Theory]
    [InlineData("ten letters and more", true)]
    [InlineData("gulls over low water", true)]
    [InlineData("passwordpassword", false)]
    [InlineData("Summer2026!!", false)]
    [InlineData("0987654321", false)]
    [InlineData("ninechars", false)]
    public void A_password_is_long_and_not_among_those_that_are_tried_first(string password, bool isTaken) =>
        Assert.Equal(isTaken, PasswordRule.Fault(password, new Person { Name = "Ilse Korhonen", Initials = "IK" }) is null);

    [Fact]
    public async Task Nothing_private_is_kept_by_a_browser_but_pictures_under_an_address_of_their_content()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Png(60, 40), "poster.png");
        foreach (var path in new[] { "/", "/people", "/projects/TIDES", "/storage", $"/saves/{(await studio.SavesAsync())[0].Id}/file" })
            Assert.Equal((path, "no-store, private"), (path, (await owner.GetAsync(path)).Headers.CacheControl!.ToString()));
        var save = (await studio.SavesAsync())[0];
        Assert.Equal("no-store, private", (await owner.GetAsync($"/saves/{save.Id}/preview/480")).Headers.CacheControl!.ToString());
        var named = (await owner.GetAsync($"/saves/{save.Id}/preview/480?of={save.MainHash.ToString()[..16]}")).Headers.CacheControl!;
        Assert.True(named is { Private: true, NoStore: false, MaxAge.TotalDays: > 300 });
        Assert.Contains($"of={save.MainHash.ToString()[..16]}", await owner.PiecePageAsync());
    }

    [Fact]
    public async Task A_range_in_other_units_is_as_if_none_were_asked_for()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(1000), "poster.lay");
        using var request = new HttpRequestMessage(HttpMethod.Get, $"/saves/{(await studio.SavesAsync())[0].Id}/file");
        request.Headers.TryAddWithoutValidation("Range", "pages=1-2");
        var answer = await owner.SendAsync(request);
        Assert.Equal((HttpStatusCode.OK, 1000L), (answer.StatusCode, answer.Content.Headers.ContentLength));
    }
}
