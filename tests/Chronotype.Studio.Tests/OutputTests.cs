using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Copies for use, from versions by recipes.</summary>
public class OutputTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    private static Task<Outcome<AskedOutput>> AskAsync(StudioInUse studio, Piece piece, Guid save, string recipe) =>
        studio.Do((MakeOutputs d) => d.AskAsync(studio.Odo, piece.Id, save, recipe));

    private static Task<IReadOnlyList<ShownOutput>> MadeAsync(StudioInUse studio, Piece piece) =>
        studio.Do((StudioDb db) => PieceOutputs.OfAsync(db, piece.Id));

    [Fact]
    public async Task An_output_is_made_of_a_version_once_and_says_when_that_is_not_the_newest_any_more()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        await studio.SettledAsync();
        var second = (await studio.SavesAsync(piece))[^1];

        Assert.Null((await AskAsync(studio, piece, second.Id, "screen-1080")).Expect().Already);
        await studio.SettledAsync();
        var made = Assert.Single(await MadeAsync(studio, piece));
        Assert.Equal(("outputs/screen/TIM_moonpull-poster_key_1620x1080px.webp", false), (made.Entry.Path.Text, made.IsStale));
        Assert.Equal((new VersionNumber(2), second.MainHash, studio.Odo.PersonId), (made.Number, made.Record.Source, made.Record.ById));
        var facts = await studio.Do((StudioDb db) => Readers.ContentReader.KnownAsync(db, made.Record.Hash));
        Assert.Equal((FileFormat.WebP, 1620, 1080), (facts!.Format, facts.Picture!.Width, facts.Picture.Height));

        Assert.Equal(made.Record.Id, (await AskAsync(studio, piece, second.Id, "screen-1080")).Expect().Already?.Id);
        await studio.SettledAsync();
        Assert.Single(await MadeAsync(studio, piece));

        var web = await studio.Do((References.ProjectWeb w) => w.LoadAsync(studio.Project.Id));
        Assert.Contains(web.Edges, e => e.To == made.Entry.Id.ToString());

        await studio.VersionAsync(piece, Picture(80));
        var stale = Assert.Single(await MadeAsync(studio, piece));
        Assert.Equal((true, new VersionNumber(3)), (stale.IsStale, stale.Newest));
        await studio.SettledAsync();
        (await AskAsync(studio, piece, (await studio.SavesAsync(piece))[^1].Id, "screen-1080")).Expect();
        await studio.SettledAsync();
        // The new one stands beside it.
        Assert.Equal(
            [("TIM_moonpull-poster_key_1620x1080px (2).webp", false), ("TIM_moonpull-poster_key_1620x1080px.webp", true)],
            (await MadeAsync(studio, piece)).Select(m => (m.Entry.Path.Name, m.IsStale))
        );
    }

    [Fact]
    public async Task What_is_deleted_is_made_again_and_what_is_not_kept_or_not_for_it_is_not_made()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        var first = (await studio.SavesAsync(piece))[0];
        (await AskAsync(studio, piece, first.Id, "flat-16")).Expect();
        await studio.SettledAsync();
        var made = Assert.Single(await MadeAsync(studio, piece));
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, made.Entry.Id))).Expect();
        Assert.Empty(await MadeAsync(studio, piece));
        (await AskAsync(studio, piece, first.Id, "flat-16")).Expect();
        await studio.SettledAsync();
        Assert.Single(await MadeAsync(studio, piece));

        var loose = await studio.TakeAsync(piece, Picture(50));
        Assert.IsType<Refusal.OnlyFromVersions>((await AskAsync(studio, piece, loose.Save.Id, "flat-16")).Refusal);
        Assert.IsType<Refusal.NotForThis>((await AskAsync(studio, piece, first.Id, "wav-48-24")).Refusal);
        Assert.IsType<Refusal.NoSuchRecipe>((await AskAsync(studio, piece, first.Id, "none")).Refusal);
        Assert.IsType<Refusal.NoSuchSave>((await AskAsync(studio, piece, Guid.NewGuid(), "flat-16")).Refusal);

        studio.Time.Advance(GracePeriod.Length + TimeSpan.FromMinutes(1));
        await studio.Do((Jobs.JobQueue q) => q.AddAsync([Jobs.JobRequest.Store(JobKind.EndGrace, JobPriority.Follows)]));
        await studio.SettledAsync();
        Assert.Equal(1, await studio.Do((StudioDb db) => db.Outputs.CountAsync()));
    }

    [Fact]
    public async Task A_sound_is_made_at_another_rate_and_a_content_that_is_gone_leaves_no_half_file()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var mix = await studio.PieceAsync("Guide");
        await studio.TakeAsync(mix, Samples.Wave(2), "guide.wav");
        await studio.KeepAsync(mix);
        await studio.SettledAsync();
        var version = (await studio.SavesAsync(mix))[0];
        (await AskAsync(studio, mix, version.Id, "wav-44.1-16")).Expect();
        await studio.SettledAsync();
        var made = Assert.Single(await MadeAsync(studio, mix));
        Assert.EndsWith("TIM_guide_key_wav-44.1-16.wav", made.Entry.Path.Text);
        var facts = await studio.Do((StudioDb db) => Readers.ContentReader.KnownAsync(db, made.Record.Hash));
        Assert.Equal((44_100, 16), (facts!.Sound!.SampleRate, facts.Sound.Bits));

        (await AskAsync(studio, mix, version.Id, "wav-48-24")).Expect();
        await studio.Do((ContentStore store) => Task.FromResult(store.Drop([version.MainHash])));
        await studio.SettledAsync();
        var job = (await studio.JobsAsync()).Find(j => j.Kind == JobKind.MakeOutput);
        var outputs = await MadeAsync(studio, mix);
        // It was faster than its content went, or it could not be made; half of it is nowhere.
        Assert.True(outputs.Count == 2 || (outputs.Count == 1 && job is { Error: JobError.Damaged }), $"{outputs.Count}, {job?.Error}");
        Assert.Empty(Directory.GetFiles(Path.Combine(studio.DataFolder, "scratch"), "*.make"));
    }

    [Fact]
    public async Task A_version_that_makes_the_same_as_an_older_one_has_that_as_its_output()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        (await AskAsync(studio, piece, (await studio.SavesAsync(piece))[^1].Id, "screen-1080")).Expect();
        await studio.SettledAsync();
        // Another layer, and the whole looks as it did.
        await studio.VersionAsync(
            piece,
            Samples.OpenRaster(
                30,
                20,
                new Samples.OraLayer("Beginning", 30, 20, Red: 9),
                new Samples.OraLayer("More", 3, 2),
                new Samples.OraLayer("Hidden", 5, 5)
            )
        );
        await studio.SettledAsync();
        (await AskAsync(studio, piece, (await studio.SavesAsync(piece))[^1].Id, "screen-1080")).Expect();
        await studio.SettledAsync();
        var made = await MadeAsync(studio, piece);
        Assert.Equal([(3, false), (2, true)], made.Select(m => (m.Number.Value, m.IsStale)));
        Assert.Single(made.Select(m => m.Entry.Id).Distinct());
    }

    [Fact]
    public async Task An_output_of_some_layers_is_its_own_and_is_made_anew_of_these()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        Task<Outcome<AskedOutput>> OfAsync(Guid save, params string[] layers) =>
            studio.Do((MakeOutputs d) => d.AskAsync(studio.Odo, piece.Id, save, "flat-16", layers));
        var first = (await studio.SavesAsync(piece))[0].Id;
        (await OfAsync(first)).Expect();
        Assert.Null((await OfAsync(first, "More")).Expect().Already);
        await studio.SettledAsync();
        Assert.Equal(
            ["TIM_moonpull-poster_key_30x20px-more.tif", "TIM_moonpull-poster_key_30x20px.tif"],
            (await MadeAsync(studio, piece)).Select(m => m.Entry.Path.Name).Order()
        );
        Assert.NotNull((await OfAsync(first, "More")).Expect().Already);
        Assert.IsType<Refusal.NotForThis>((await OfAsync(first, "Nobody")).Refusal);
        Assert.IsType<Refusal.NoSuchRecipe>((await OfAsync(first, new string('x', 300))).Refusal);

        await studio.VersionAsync(piece, Picture(9));
        await studio.SettledAsync();
        Assert.Equal(2, (await studio.Do((MakeOutputs d) => d.AskAnewAsync(studio.Odo, studio.Project.Id, piece.Id))).Expect().Making);
        await studio.SettledAsync();
        var anew = (await MadeAsync(studio, piece)).Where(m => !m.IsStale).ToList();
        Assert.Equal(
            [
                [],
                ["More"],
            ],
            anew.Select(m => m.Layers).OrderBy(l => l.Count)
        );
        Assert.NotEqual(anew[0].Record.Hash, anew[1].Record.Hash);
    }

    [Fact]
    public async Task A_full_disk_leaves_no_half_output_and_it_is_made_when_there_is_room()
    {
        await using var studio = await StudioInUse.OpenAsync(otherwise: FullStore.Between);
        var store = (FullStore)(object)await studio.Do((IContentStore s) => Task.FromResult(s));
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        var version = (await studio.SavesAsync(piece))[0].Id;
        store.IsFull = true;
        (await AskAsync(studio, piece, version, "flat-16")).Expect();
        var until = DateTime.UtcNow.AddSeconds(60);
        Job? job = null;
        while (job?.Error is null or JobError.None && DateTime.UtcNow < until)
        {
            await Task.Delay(50);
            job = (await studio.JobsAsync()).Find(j => j.Kind == JobKind.MakeOutput);
        }
        Assert.Equal((JobState.Waiting, JobError.Full), (job!.State, job.Error));
        Assert.True(store.Refused > 0);
        Assert.Empty(await MadeAsync(studio, piece));
        Assert.Empty(Directory.GetFiles(Path.Combine(studio.DataFolder, "scratch"), "*.make"));
        Assert.DoesNotContain(await studio.PathsAsync(EntryKind.OwnFile), p => p.StartsWith("outputs", StringComparison.Ordinal));

        store.IsFull = false;
        studio.Time.Advance(TimeSpan.FromHours(2));
        until = DateTime.UtcNow.AddSeconds(60);
        while ((await MadeAsync(studio, piece)).Count == 0 && DateTime.UtcNow < until)
            await Task.Delay(50);
        Assert.Single(await MadeAsync(studio, piece));
    }

    [Fact]
    public async Task A_making_that_is_stopped_leaves_nothing_and_can_be_asked_for_again()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var mix = await studio.PieceAsync("Guide");
        // A minute and a half, with a loudness to be met: that is gone over twice, and takes a while.
        await studio.TakeAsync(mix, Samples.Wave(90, rate: 44_100), "guide.wav");
        await studio.KeepAsync(mix);
        await studio.SettledAsync();
        var version = (await studio.SavesAsync(mix))[0].Id;
        (await AskAsync(studio, mix, version, "wav-r128")).Expect();
        Job job;
        do
        {
            await Task.Delay(20);
            job = (await studio.JobsAsync()).Single(j => j.Kind == JobKind.MakeOutput);
        } while (job.State == JobState.Waiting);
        Assert.Equal(JobState.Running, job.State);
        (await studio.Do((Jobs.TendJobs d) => d.StopAsync(studio.Odo, job.Id))).Expect();
        await studio.SettledAsync();
        Assert.Equal(JobState.Stopped, (await studio.JobsAsync()).Single(j => j.Kind == JobKind.MakeOutput).State);
        Assert.Empty(await MadeAsync(studio, mix));
        Assert.Empty(Directory.GetFiles(Path.Combine(studio.DataFolder, "scratch"), "*.make"));
        (await AskAsync(studio, mix, version, "wav-r128")).Expect();
        await studio.SettledAsync();
        Assert.Single(await MadeAsync(studio, mix));
    }

    [Fact]
    public async Task An_output_whose_folder_is_deleted_while_it_is_made_says_so_and_leaves_no_file()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        await studio.Runner.StopAsync(default);
        (await AskAsync(studio, piece, (await studio.SavesAsync(piece))[0].Id, "flat-16")).Expect();
        foreach (var folder in await studio.Do((StudioDb db) => FoldersAsync(db).ToListAsync()))
            (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, folder))).Expect();
        await studio.RunAgainAsync();
        await studio.SettledAsync();
        var job = Assert.Single(await studio.JobsAsync(), j => j.Kind == JobKind.MakeOutput);
        Assert.Equal((JobState.Failed, JobError.Refused), (job.State, job.Error));
        Assert.Empty(await MadeAsync(studio, piece));
        Assert.Empty(await studio.Do((StudioDb db) => db.Outputs.ToListAsync()));

        static IQueryable<Guid> FoldersAsync(StudioDb db) =>
            db
                .Entries.Where(e => e.Kind == EntryKind.Folder && e.Role == FolderRole.Outputs && e.DeletedAt == null)
                .OrderByDescending(e => e.PathKey.Length)
                .Select(e => e.Id);
    }

    [Fact]
    public async Task Nothing_of_a_making_that_was_stopped_runs_on()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var mix = await studio.PieceAsync("Guide");
        await studio.TakeAsync(mix, Samples.Wave(400, rate: 44_100), "guide.wav");
        await studio.KeepAsync(mix);
        await studio.SettledAsync();
        var scratch = Path.Combine(studio.DataFolder, "scratch");
        (await AskAsync(studio, mix, (await studio.SavesAsync(mix))[0].Id, "mp3-192")).Expect();
        // Another program does the encoding.
        var until = System.Diagnostics.Stopwatch.StartNew();
        List<int> encoders;
        while ((encoders = Running("ffmpeg")).Count == 0)
        {
            Assert.True(until.Elapsed < TimeSpan.FromSeconds(60), "Nothing began to encode.");
            await Task.Delay(10);
        }
        var job = (await studio.JobsAsync()).Single(j => j.Kind == JobKind.MakeOutput);
        (await studio.Do((Jobs.TendJobs d) => d.StopAsync(studio.Odo, job.Id))).Expect();
        until.Restart();
        while (Running("ffmpeg").Intersect(encoders).Any())
        {
            Assert.True(until.Elapsed < TimeSpan.FromSeconds(5), "It goes on encoding.");
            await Task.Delay(50);
        }
        await studio.SettledAsync();
        Assert.Empty(await MadeAsync(studio, mix));

        // Of this studio alone, which others run beside.
        List<int> Running(string program) =>
            [
                .. Directory
                    .GetDirectories("/proc")
                    .Select(d => int.TryParse(Path.GetFileName(d), out var id) ? id : 0)
                    .Where(id => id > 0 && Told(id, "comm").StartsWith(program, StringComparison.Ordinal))
                    .Where(id => Told(id, "environ").Contains(scratch, StringComparison.Ordinal) && !Told(id, "stat").Contains(") Z ")),
            ];

        static string Told(int process, string what)
        {
            try
            {
                return File.ReadAllText($"/proc/{process}/{what}");
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                return "";
            }
        }
    }
}
