using System.Data.Common;
using System.Net;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>Somebody changes what a page shows while it is read, between any two of its queries.</summary>
public sealed class MeanwhileTests
{
    private static readonly string[] Pages =
    [
        "/",
        "/?state=risk",
        "/projects",
        "/projects/TIDES",
        "/projects/TIDES/TIM_moonpull-poster_key",
        "/outputs/TIDES/TIM_moonpull-poster_key",
        "/tidy/TIDES/TIM_moonpull-poster_key",
        "/references/TIDES/TIM_moonpull-poster_key",
        "/tree/TIDES/working",
        "/then/TIDES",
        "/web/TIDES",
        "/find?q=moonpull",
        "/sheets/TIDES",
    ];

    [Fact]
    public async Task A_page_is_whole_though_a_save_is_kept_while_it_is_read()
    {
        var (studio, owner, trap, piece, ilse) = await OpenAsync();
        await using var closing = studio;
        byte red = 1;
        await TryAsync(
            studio,
            owner,
            trap,
            ["/", "/?state=risk", "/projects/TIDES", "/projects/TIDES/TIM_moonpull-poster_key"],
            async () =>
            {
                await owner.SaveAsync(Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20, Red: ++red)));
                await studio.SettledAsync();
            },
            d => d.GetRequiredService<KeepSave>().DoAsync(ilse, piece, null, null, insist: true),
            () => Task.CompletedTask
        );
    }

    [Fact]
    public async Task A_page_is_whole_though_its_piece_is_deleted_while_it_is_read()
    {
        var (studio, owner, trap, piece, ilse) = await OpenAsync();
        await using var closing = studio;
        await TryAsync(
            studio,
            owner,
            trap,
            Pages,
            () => Task.CompletedTask,
            d => d.GetRequiredService<Remove>().PieceAsync(ilse, piece),
            () => studio.App.Services.GetRequiredService<Remove>().TakeBackPieceAsync(ilse, piece)
        );
    }

    [Fact]
    public async Task A_page_is_whole_though_its_project_is_deleted_while_it_is_read()
    {
        var (studio, owner, trap, piece, ilse) = await OpenAsync();
        await using var closing = studio;
        var project = await studio.Read(db => db.Projects.Select(p => p.Id).SingleAsync());
        await TryAsync(
            studio,
            owner,
            trap,
            [.. Pages, "/spec/TIDES", "/tidy/TIDES", "/recipes/TIDES", "/references/TIDES", "/storage"],
            () => Task.CompletedTask,
            d => d.GetRequiredService<Remove>().ProjectAsync(ilse, project),
            () => studio.App.Services.GetRequiredService<Remove>().TakeBackProjectAsync(ilse, project)
        );
    }

    private static async Task<(ServedStudio, Visitor, Trap, Guid, Actor)> OpenAsync()
    {
        var trap = new Trap();
        var studio = await ServedStudio.OpenAsync(s => s.ConfigureDbContext<StudioDb>(o => o.AddInterceptors(trap)));
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20, Red: 1)), "poster.ora");
        await studio.SettledAsync();
        await owner.SaveAsync(Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20, Red: 2)));
        await studio.SettledAsync();
        var ilse = Actor.Person(await studio.Read(db => db.Users.Select(u => u.Id).SingleAsync()));
        return (studio, owner, trap, await studio.Read(db => db.Pieces.Select(p => p.Id).SingleAsync()), ilse);
    }

    private static async Task TryAsync(
        ServedStudio studio,
        Visitor owner,
        Trap trap,
        string[] pages,
        Func<Task> before,
        Func<IServiceProvider, Task> deed,
        Func<Task> after
    )
    {
        var failed = new List<string>();
        foreach (var page in pages)
        {
            var sprung = true;
            for (var at = 0; sprung; at++)
            {
                Assert.True(at < 200, $"{page} never ends.");
                await before();
                trap.Set(at, () => deed(studio.App.Services));
                var answer = await owner.GetAsync(page);
                sprung = !trap.Take();
                await after();
                if (answer.StatusCode is not (HttpStatusCode.OK or HttpStatusCode.NotFound or HttpStatusCode.Redirect))
                    failed.Add($"{page}, changed at its query {at}: {answer.StatusCode}");
            }
        }
        Assert.Empty(failed);
    }

    // Does something at one of the queries that follow.
    private sealed class Trap : DbCommandInterceptor
    {
        private readonly Lock gate = new();
        private Func<Task>? deed;
        private int left;

        public void Set(int at, Func<Task> deed)
        {
            lock (gate)
                (left, this.deed) = (at, deed);
        }

        /// <returns>Whether it was there still.</returns>
        public bool Take()
        {
            lock (gate)
            {
                var was = deed;
                deed = null;
                return was is not null;
            }
        }

        public override async ValueTask<InterceptionResult<DbDataReader>> ReaderExecutingAsync(
            DbCommand command,
            CommandEventData eventData,
            InterceptionResult<DbDataReader> result,
            CancellationToken cancellationToken = default
        )
        {
            Func<Task>? now = null;
            lock (gate)
            {
                if (deed is not null && left-- == 0)
                    (now, deed) = (deed, null);
            }
            if (now is not null)
                await now();
            return result;
        }
    }
}
