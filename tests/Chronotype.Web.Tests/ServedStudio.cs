using System.Net;
using System.Net.Http.Headers;
using System.Text.RegularExpressions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Microsoft.AspNetCore.Builder;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace Chronotype.Web.Tests;

/// <summary>The real server on a free port of loopback, on a data folder of the test's own.</summary>
public sealed class ServedStudio : IAsyncDisposable
{
    private readonly StudioFolder folder;

    private ServedStudio(WebApplication app, StudioFolder folder) => (App, this.folder) = (app, folder);

    public WebApplication App { get; }

    /// <summary>Where its data lies.</summary>
    public string Folder => folder.Path;

    public Uri Address => new(App.Urls.First());

    /// <summary>How long the files of its content store are together.</summary>
    public long StoredBytes() =>
        new DirectoryInfo(System.IO.Path.Combine(Folder, "content")).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length);

    public static async Task<ServedStudio> OpenAsync(Action<IServiceCollection>? otherwise = null)
    {
        var folder = await NewStudio.FolderAsync();
        var app = StudioApp.Build(
            new Settings(folder.Path, IPAddress.Loopback, 0),
            services =>
            {
                NewStudio.HashPasswordsQuickly(services);
                // What is under way comes to its end before its folder goes, however busy the machine is.
                services.Configure<HostOptions>(o => o.ShutdownTimeout = TimeSpan.FromMinutes(1));
                otherwise?.Invoke(services);
            }
        );
        await StudioApp.PrepareAsync(app);
        await app.StartAsync();
        return new ServedStudio(app, folder);
    }

    /// <summary>Founds the studio with its owner, who comes back signed in.</summary>
    public Task<Visitor> FoundAsync() => Visitor.FoundAsync(Address);

    /// <summary>Founds the studio and starts the project TIDES.</summary>
    public Task<Visitor> WithProjectAsync() => Visitor.WithProjectAsync(Address);

    /// <summary>Waits until nothing is left that could be done now.</summary>
    public Task SettledAsync() => App.Services.GetRequiredService<JobRunner>().IdleAsync();

    public async Task<T> Read<T>(Func<StudioDb, Task<T>> query)
    {
        await using var scope = App.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        return await query(scope.ServiceProvider.GetRequiredService<StudioDb>());
    }

    /// <summary>All saves, with the numbers that they have when nothing is left to be read; a busy machine gives them later.</summary>
    public async Task<List<Save>> SavesAsync()
    {
        await SettledAsync();
        return await Read(db => db.Saves.AsNoTracking().Include(s => s.Files).OrderBy(s => s.Sequence).ToListAsync());
    }

    public async ValueTask DisposeAsync()
    {
        await App.StopAsync();
        await App.DisposeAsync();
        folder.Dispose();
    }
}

/// <summary>Somebody with a browser's cookies.</summary>
public sealed partial class Visitor
{
    private readonly HttpClient client;

    public Visitor(Uri address)
    {
        Cookies = new CookieContainer();
        client = new HttpClient(new HttpClientHandler { CookieContainer = Cookies, AllowAutoRedirect = false }) { BaseAddress = address };
    }

    public CookieContainer Cookies { get; }

    /// <summary>The owner of the studio at an address, which is founded with that.</summary>
    public static async Task<Visitor> FoundAsync(Uri address)
    {
        var owner = new Visitor(address);
        await owner.PostAsync(
            "/welcome",
            new()
            {
                ["studioName"] = "Spring Tide",
                ["name"] = "Ilse Korhonen",
                ["initials"] = "IK",
                ["password"] = "ten letters and more",
            }
        );
        return owner;
    }

    /// <summary>The same, with the project TIDES started.</summary>
    public static async Task<Visitor> WithProjectAsync(Uri address)
    {
        var owner = await FoundAsync(address);
        await owner.BeginProjectAsync("TIDES", "Tides");
        return owner;
    }

    /// <summary>Starts a project for the client that all tests have.</summary>
    public Task<HttpResponseMessage> BeginProjectAsync(string code, string title) =>
        PostAsync(
            "/projects/new",
            new()
            {
                ["Title"] = title,
                ["Code"] = code,
                ["ClientName"] = "Museum",
                ["ClientCode"] = "TIM",
                ["Plan"] = "print",
                ["FirstNumber"] = "1",
            }
        );

    public Task<HttpResponseMessage> GetAsync(string path) => client.GetAsync(path);

    /// <summary>The beginning of an answer, which may go on being written for ever.</summary>
    public Task<HttpResponseMessage> BeginAsync(HttpRequestMessage request, CancellationToken cancel) =>
        client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancel);

    public Task<byte[]> BytesAsync(string path) => client.GetByteArrayAsync(path);

    public Task<HttpResponseMessage> SendAsync(HttpRequestMessage request) => client.SendAsync(request);

    public async Task<string> PageAsync(string path)
    {
        var response = await client.GetAsync(path);
        Assert.Equal((path, HttpStatusCode.OK), (path, response.StatusCode));
        return WebUtility.HtmlDecode(await response.Content.ReadAsStringAsync());
    }

    /// <summary>The form token of a page; the page of the address itself unless another is named.</summary>
    public async Task<string> TokenAsync(string path) =>
        Token().Match(await (await client.GetAsync(path)).Content.ReadAsStringAsync()).Groups[1].Value;

    public async Task<HttpResponseMessage> PostAsync(string path, Dictionary<string, string> fields, string? from = null)
    {
        fields["__RequestVerificationToken"] = await TokenAsync(from ?? path);
        return await client.PostAsync(path, new FormUrlEncodedContent(fields));
    }

    /// <summary>Posts a form with a file, as the script does.</summary>
    public async Task<HttpResponseMessage> UploadAsync(
        string path,
        byte[] content,
        string name,
        Dictionary<string, string>? fields = null,
        string? token = null
    )
    {
        // As browsers do.
        using var form = new MultipartFormDataContent { HeaderEncodingSelector = (_, _) => System.Text.Encoding.UTF8 };
        foreach (var (key, value) in fields ?? [])
            form.Add(new StringContent(value), key);
        var part = new ByteArrayContent(content);
        // Written by hand: the client would refuse to send what a hostile sender may.
        part.Headers.TryAddWithoutValidation("Content-Disposition", $"form-data; name=\"file\"; filename=\"{name}\"");
        form.Add(part);
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = form };
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        request.Headers.Add("X-Form-Token", token ?? await TokenAsync("/people"));
        return await client.SendAsync(request);
    }

    public Task<HttpResponseMessage> StartPieceAsync(byte[] content, string name, string subject = "Moonpull poster") =>
        UploadAsync("/projects/TIDES/pieces", content, name, new() { ["slot.subject"] = subject, ["slot.function"] = "key" });

    public Task<HttpResponseMessage> SaveAsync(byte[] content, string name = "poster.ora") =>
        UploadAsync("/projects/TIDES/TIM_moonpull-poster_key/saves", content, name);

    public Task<HttpResponseMessage> ActAsync(string handler, Dictionary<string, string> fields) =>
        PostAsync($"/projects/TIDES/TIM_moonpull-poster_key?handler={handler}", fields, from: "/people");

    public Task<string> PiecePageAsync() => PageAsync("/projects/TIDES/TIM_moonpull-poster_key");

    [GeneratedRegex("""name="__RequestVerificationToken" type="hidden" value="([^"]+)""")]
    private static partial Regex Token();
}
