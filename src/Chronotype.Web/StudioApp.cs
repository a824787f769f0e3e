using System.Net;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Starting;
using Chronotype.Studio;
using Chronotype.Studio.People;
using Chronotype.Studio.Readers;
using Chronotype.Web.Pages.Jobs;
using Chronotype.Web.Pages.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Pages.Then;
using Chronotype.Web.Pages.Tree;
using Chronotype.Web.Security;
using Chronotype.Web.Share;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Connections;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.StaticFiles;
using Serilog;
using Serilog.Events;

namespace Chronotype.Web;

/// <summary>Puts the web application together.</summary>
public static class StudioApp
{
    /// <param name="otherwise">Puts something else in the place of a part.</param>
    public static WebApplication Build(Settings settings, Action<IServiceCollection>? otherwise = null)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions
            {
                ApplicationName = typeof(StudioApp).Assembly.GetName().Name,
                ContentRootPath = AppContext.BaseDirectory,
                WebRootPath = Path.Combine(AppContext.BaseDirectory, "wwwroot"),
                Args = ["--hostBuilder:reloadConfigOnChange=false"],
            }
        );
        Directory.CreateDirectory(builder.Environment.WebRootPath);
        builder.Environment.WebRootFileProvider = new UnwatchedFiles(builder.Environment.WebRootFileProvider);
        builder.WebHost.ConfigureKestrel(k =>
        {
            k.Listen(settings.Listen, settings.Port);
            k.AddServerHeader = false;
        });
        // A page of another site must not reach a studio on loopback by giving it a name of its own.
        if (settings.IsLoopback)
            builder.Configuration["AllowedHosts"] = "localhost;127.0.0.1;[::1]";
        builder.Host.UseSerilog(
            (_, log) =>
                log
                    .MinimumLevel.Information()
                    .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
                    // The keys lie in the data folder, which only its owner may read; there is no second secret to lock them with.
                    .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
                    // Programs ask without a key first, each time.
                    .MinimumLevel.Override("Chronotype.Web.Security.DeviceKeyHandler", LogEventLevel.Warning)
                    // A start that fails is told in one sentence by the program itself.
                    .MinimumLevel.Override("Microsoft.Extensions.Hosting.Internal.Host", LogEventLevel.Fatal)
                    .WriteTo.Console(outputTemplate: "{Timestamp:HH:mm:ss} {Level:u3} {Message:lj}{NewLine}{Exception}")
        );
        AddServices(builder.Services, new DataFolder(settings.Data));
        otherwise?.Invoke(builder.Services);
        var app = builder.Build();
        Map(app, settings.TrustedProxy);
        return app;
    }

    public static void AddServices(IServiceCollection services, DataFolder data)
    {
        services.AddStudio(data).AddSignInManager().AddClaimsPrincipalFactory<PersonClaims>();
        // What is under way is cut off then: it is taken up at the next start, and no upload that was not answered counts.
        services.Configure<HostOptions>(o => o.ShutdownTimeout = TimeSpan.FromSeconds(3));
        services.AddStudioWork();
        ShareEndpoints.AddServices(services);
        services.AddScoped<UploadDoor>();
        services.AddScoped<UploadEndpoints>();
        services.AddScoped<FolderUploads>();
        services.AddScoped<FolderList>();
        services.AddHttpContextAccessor();
        services.AddScoped<SoundEndpoints.Asked>();
        services.AddScoped<PlaceEndpoint>();
        services.AddSingleton<IMemoryPoolFactory<byte>, LargeBlocks>();
        services.AddSingleton<JobLine>();
        services.AddSingleton<ThemeColours>();
        services.AddSingleton<FirstSteps>();
        services.AddDataProtection().SetApplicationName("Chronotype").PersistKeysToFileSystem(new DirectoryInfo(data.Keys));

        services
            .AddAuthentication(IdentityConstants.ApplicationScheme)
            .AddCookie(
                IdentityConstants.ApplicationScheme,
                o =>
                {
                    o.LoginPath = "/sign-in";
                    o.AccessDeniedPath = "/not-allowed";
                    o.Cookie.Name = "chronotype";
                    o.Cookie.HttpOnly = true;
                    o.Cookie.SameSite = SameSiteMode.Lax;
                    o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
                    o.ExpireTimeSpan = Sessions.Lasts;
                    o.SlidingExpiration = true;
                    o.Events.OnValidatePrincipal = EndedSessions.RefuseAsync;
                }
            );
        services.AddAuthentication().AddScheme<AuthenticationSchemeOptions, DeviceKeyHandler>(DeviceKeyHandler.Name, null);
        services.AddAuthorization(o => o.FallbackPolicy = new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());
        services.AddAntiforgery(o =>
        {
            o.HeaderName = "X-Form-Token";
            o.Cookie.Name = "chronotype-form";
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Strict;
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        });
        services.Configure<CookieTempDataProviderOptions>(o =>
        {
            o.Cookie.Name = "chronotype-notice";
            o.Cookie.SameSite = SameSiteMode.Strict;
        });
        services.AddSingleton<SignInPace>();
        services.AddSingleton<KnownBrowser>();
        services.AddScoped<SignInNow>();
        services
            .AddRazorPages()
            .AddMvcOptions(o =>
            {
                // What is left out is worded by the deed that needs it; what cannot be read is refused here.
                o.SuppressImplicitRequiredAttributeForNonNullableReferenceTypes = true;
                o.Filters.Add<BoundForms>();
                // No form here names its fields in the way of a script library, and one that does badly would be an error of ours.
                o.ValueProviderFactories.RemoveType<JQueryFormValueProviderFactory>();
            });
    }

    public static void Map(WebApplication app, IPAddress? proxy = null)
    {
        app.UseForwardedHeaders(Forwarded(proxy));
        app.UseMiddleware<SecurityHeaders>();
        app.UseMiddleware<KeptBeforeTold>();
        app.UseExceptionHandler(
            new ExceptionHandlerOptions { ExceptionHandlingPath = "/oops", StatusCodeSelector = e => Failure.Of(e).Status }
        );
        app.UseMiddleware<ProgramErrors>();
        // A program is answered by a status and a sentence, and not with a page.
        app.UseWhen(
            c => !c.Request.Path.StartsWithSegments(SharePlace.Root),
            pages => pages.UseStatusCodePagesWithReExecute("/oops", "?code={0}")
        );
        app.UseMiddleware<ReadableForms>();
        app.UseStaticFiles(
            new StaticFileOptions
            {
                ContentTypeProvider = new FileExtensionContentTypeProvider
                {
                    // Letters and typefaces that documents name without bringing them along.
                    Mappings = { [".bcmap"] = "application/octet-stream", [".pfb"] = "application/octet-stream" },
                },
                OnPrepareResponse = c =>
                    SecurityHeaders.Keep(
                        c.Context,
                        c.Context.Request.Query.ContainsKey("v") || c.File.Name.EndsWith(".woff2", StringComparison.Ordinal)
                            ? "public, max-age=31536000, immutable"
                            : "no-cache"
                    ),
            }
        );
        app.UseRouting();
        app.UseMiddleware<FirstVisit>();
        app.UseAuthentication();
        app.UseAuthorization();
        app.UseMiddleware<Viewing>();
        app.UseMiddleware<DateChoice>();
        app.MapGet("/healthz", () => Results.Text("ready")).AllowAnonymous();
        app.MapRazorPages();
        UploadEndpoints.Map(app);
        FolderUploads.Map(app);
        TusEndpoints.Map(app);
        PlaceEndpoint.Map(app);
        FirstSteps.Map(app);
        DownloadEndpoints.Map(app);
        TileEndpoints.Map(app);
        SoundEndpoints.Map(app);
        GoingOn.Map(app);
        ThenEndpoints.Map(app);
        GatheredEndpoint.Map(app);
        ShareEndpoints.Map(app);
        ArrivingSaves.Map(app);
    }

    // A proxy on this machine is believed about the scheme. Who asks is taken from the header of a proxy that somebody named, and of no other:
    // anybody could write it, and guess under a new address each time.
    private static ForwardedHeadersOptions Forwarded(IPAddress? proxy)
    {
        var options = new ForwardedHeadersOptions { ForwardedHeaders = ForwardedHeaders.XForwardedProto, ForwardLimit = 1 };
        if (proxy is null)
            return options;
        options.ForwardedHeaders |= ForwardedHeaders.XForwardedFor;
        options.KnownIPNetworks.Clear();
        options.KnownProxies.Clear();
        options.KnownProxies.Add(proxy);
        // As a socket for both kinds of addresses tells it.
        if (proxy.AddressFamily == System.Net.Sockets.AddressFamily.InterNetwork)
            options.KnownProxies.Add(proxy.MapToIPv6());
        return options;
    }

    /// <summary>Brings the database and the content store up to date before anyone is let in.</summary>
    public static async Task PrepareAsync(WebApplication app)
    {
        await app.Services.GetRequiredService<StudioStart>().RunAsync();
        switch (app.Services.GetRequiredService<ReaderIsolation>().Reach)
        {
            case ReaderReach.Everything:
                app.Logger.LogWarning(
                    "The system lets nobody start a program without a network (unshare with a user namespace), so the processes that read "
                        + "foreign files have one, and reach what this account does. Their limits of memory and time hold all the same."
                );
                break;
            case ReaderReach.NoNetwork:
                app.Logger.LogWarning(
                    "The processes that read foreign files have no network, but can read what this account can: bubblewrap is not installed, "
                        + "or may not be used here. With it they see no file but their own."
                );
                break;
        }
    }
}
