using System.Diagnostics;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Bench;

/// <summary>A project's tree and its references, at the sizes that a studio comes to.</summary>
internal static class Tree
{
    private const int WarmUp = 40,
        Times = 100;

    public static async Task RunAsync()
    {
        Resolving();
        await using var studio = await BenchStudio.OpenAsync();
        await FillAsync(studio, "TIDES", files: 2000, pieces: 60);
        var small = await StartAsync(studio, "SMALL");
        await FillAsync(studio, "SMALL", files: 240, pieces: 60);
        await Page(studio, "project page, 2,000 files and 60 pieces", "/projects/TIDES");
        await Page(studio, "a folder of 2,000 files", "/tree/TIDES/assets/set-00");
        await Page(studio, "web of 300 files", $"/web/{small.Code}");
        await Page(studio, "web of 2,060 files", "/web/TIDES");
        await UsersAsync(studio);
        await ManyAsync(studio);
        await Page(studio, "tree of 22,000 files: its top", "/tree/TIDES");
        await Page(studio, "tree of 22,000 files: a folder of 4,000", "/tree/TIDES/documents/many-0");
        await Page(studio, "tree of 22,000 files: the project page", "/projects/TIDES");
    }

    private static void Resolving()
    {
        var (files, references) = (20_000, 100_000);
        var random = new Random(3);
        var paths = Enumerable.Range(0, files).Select(i => $"assets/set-{i % 97:00}/part-{i % 11}/Picture {i}.png").ToArray();
        var written = Enumerable
            .Range(0, references)
            .Select(i =>
                (
                    From: $"working/scenes/s{i % 300}",
                    To: i % 20 == 0
                        ? $"../../../assets/none-{i}.png"
                        : "../../../" + Uri.EscapeDataString(paths[random.Next(files)]).Replace("%2F", "/", StringComparison.Ordinal)
                )
            )
            .ToArray();
        var times = new List<double>();
        var found = 0;
        for (var run = 0; run < 7; run++)
        {
            var watch = Stopwatch.StartNew();
            var index = new FileIndex<string>();
            foreach (var path in paths)
                index.Add(path, path);
            found = written.Count(w =>
                ReferenceResolver.Resolve(index, w.From, WrittenReference.Read(w.To, ReferenceSyntax.Uri)).State == ReferenceState.Found
            );
            times.Add(watch.Elapsed.TotalMilliseconds);
        }
        Tell($"resolving {references:N0} references of {files:N0} files ({found:N0} found)", times);
    }

    private static async Task<Project> StartAsync(BenchStudio studio, string code)
    {
        await using var scope = studio.App.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        return (
            await scope
                .ServiceProvider.GetRequiredService<StartProject>()
                .DoAsync(Actor.Person(studio.Person), new NewProject(code, code, "Museum", "TIM", "print"))
        ).Expect();
    }

    // Through the same deeds as a drop: every file is stored, recorded and read.
    private static async Task FillAsync(BenchStudio studio, string code, int files, int pieces)
    {
        var actor = Actor.Person(studio.Person);
        await using var scope = studio.App.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        var services = scope.ServiceProvider;
        var project = await services.GetRequiredService<StudioDb>().Projects.FirstAsync(p => p.Code == code);
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < files; i++)
        {
            var content = new ArrivingContent($"picture-{i}.txt", new MemoryStream(Encoding.UTF8.GetBytes($"{code} {i}")));
            var folder = ProjectPath.Parse(files > 1000 ? "assets/set-00" : $"assets/set-{i % 6:00}");
            (await services.GetRequiredService<TendFiles>().ReceiveAsync(actor, project.Id, folder, content)).Expect();
        }
        Console.WriteLine($"{files:N0} files of {code} stored one after another: {watch.Elapsed.TotalSeconds:0.0} s");
        for (var i = 0; i < pieces; i++)
        {
            var links = Enumerable.Range(0, 6).Select(n => (i * 7 + n * 13) % files);
            var svg =
                $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\">{string.Concat(links.Select(l => $"<image href=\"../assets/set-{(files > 1000 ? 0 : l % 6):00}/picture-{l}.txt\"/>"))}<image href=\"gone-{i}.png\"/></svg>";
            var target = new SaveTarget.NewPiece(
                project.Id,
                new Dictionary<string, string> { ["subject"] = $"sheet {i}", ["function"] = "layout" }
            );
            (
                await services
                    .GetRequiredService<ReceiveSave>()
                    .DoAsync(actor, target, new ArrivingContent("sheet.svg", new MemoryStream(Encoding.UTF8.GetBytes(svg))))
            ).Expect();
        }
        await studio.App.Services.GetRequiredService<JobRunner>().IdleAsync();
    }

    private static async Task Page(BenchStudio studio, string what, string address)
    {
        var times = new List<double>();
        var length = 0;
        for (var i = 0; i < Times + WarmUp; i++)
        {
            var watch = Stopwatch.StartNew();
            var page = await studio.Client.GetStringAsync(address);
            if (i >= WarmUp)
                times.Add(watch.Elapsed.TotalMilliseconds);
            length = page.Length;
        }
        Tell($"{what} ({length / 1000.0:0} kB)", times);
    }

    private static async Task UsersAsync(BenchStudio studio)
    {
        var times = new List<double>();
        var users = 0;
        await studio.In(async db =>
        {
            var asset = await db.Entries.FirstAsync(e => e.PathKey == "assets/set-00/picture-13.txt");
            for (var i = 0; i < Times; i++)
            {
                var watch = Stopwatch.StartNew();
                var found = await new WhoUses(db).OfAsync(asset);
                times.Add(watch.Elapsed.TotalMilliseconds);
                users = found.Today.Count + found.Versions.Count;
            }
        });
        Tell($"who uses an asset ({users} do)", times.Skip(3).ToList());
    }

    // Rows alone: how they came there is measured above.
    private static async Task ManyAsync(BenchStudio studio) =>
        await studio.In(async db =>
        {
            var project = await db.Projects.FirstAsync(p => p.Code == "TIDES");
            for (var folder = 0; folder < 5; folder++)
            {
                var path = ProjectPath.Parse($"documents/many-{folder}");
                db.Entries.Add(Entry(project.Id, path, EntryKind.Folder));
                for (var i = 0; i < 4000; i++)
                {
                    var entry = Entry(project.Id, path.Append($"note-{i}.txt"), EntryKind.OwnFile);
                    entry.Contents.Add(
                        new FileContent
                        {
                            Sequence = 1,
                            Hash = ContentHash.Of(Encoding.UTF8.GetBytes($"TIDES {i % 2000}")),
                            Size = 10,
                            ReceivedName = "n",
                            At = DateTimeOffset.UtcNow,
                            ById = studio.Person,
                        }
                    );
                    db.Entries.Add(entry);
                }
                await db.SaveChangesAsync();
                db.ChangeTracker.Clear();
            }
        });

    private static TreeEntry Entry(Guid project, ProjectPath path, EntryKind kind) =>
        new()
        {
            ProjectId = project,
            Kind = kind,
            Path = path,
            PathKey = path.Key,
            Role = FolderRole.Documents,
            Order = int.MaxValue,
        };

    private static void Tell(string what, IReadOnlyList<double> times)
    {
        var sorted = times.Order().ToList();
        Console.WriteLine($"{what}: median {sorted[sorted.Count / 2]:0.0} ms, {sorted[0]:0.0} to {sorted[^1]:0.0} ms");
    }
}
