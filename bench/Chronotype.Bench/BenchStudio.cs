using System.Net;
using System.Text.RegularExpressions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Bench;

/// <summary>A real server on a free port with one person, one project and one piece.</summary>
internal sealed partial class BenchStudio : IAsyncDisposable
{
    private const string Password = "ten letters and more";
    private readonly string folder;

    private BenchStudio(WebApplication app, string folder) => (App, this.folder) = (app, folder);

    public WebApplication App { get; }
    public Guid Person { get; private set; }
    public Piece Piece { get; private set; } = null!;
    public HttpClient Client { get; private set; } = null!;

    public static async Task<BenchStudio> OpenAsync()
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-").FullName;
        var app = StudioApp.Build(new Settings(folder, IPAddress.Loopback, 0));
        await StudioApp.PrepareAsync(app);
        await app.StartAsync();
        var studio = new BenchStudio(app, folder);
        await using (var scope = app.Services.CreateAsyncScope())
        {
            scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
            var services = scope.ServiceProvider;
            studio.Person = (
                await services.GetRequiredService<FoundStudio>().DoAsync("Bench", new NewPerson("Ilse Korhonen", "IK", Password))
            )
                .Expect()
                .Id;
            var project = (
                await services
                    .GetRequiredService<StartProject>()
                    .DoAsync(Actor.Person(studio.Person), new NewProject("TIDES", "Tides", "Museum", "TIM", "print"))
            ).Expect();
            studio.Piece = (
                await services
                    .GetRequiredService<StartPiece>()
                    .DoAsync(
                        Actor.Person(studio.Person),
                        project.Id,
                        new Dictionary<string, string> { ["subject"] = "poster", ["function"] = "key" }
                    )
            ).Expect();
        }
        studio.Client = new HttpClient { BaseAddress = new Uri(app.Urls.First()), Timeout = Timeout.InfiniteTimeSpan };
        await studio.Client.PostAsync(
            "/sign-in",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["initials"] = "IK",
                    ["password"] = Password,
                    ["__RequestVerificationToken"] = await studio.TokenAsync("/sign-in"),
                }
            )
        );
        return studio;
    }

    public async Task<string> TokenAsync(string page) => Token().Match(await Client.GetStringAsync(page)).Groups[1].Value;

    public async Task In(Func<StudioDb, Task> work)
    {
        await using var scope = App.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        await work(scope.ServiceProvider.GetRequiredService<StudioDb>());
    }

    public async ValueTask DisposeAsync()
    {
        Client.Dispose();
        await App.StopAsync();
        await App.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(folder, recursive: true);
    }

    [GeneratedRegex("""name="__RequestVerificationToken" type="hidden" value="([^"]+)""")]
    private static partial Regex Token();
}
