using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging.Abstractions;

namespace Chronotype.Studio.Tests;

/// <summary>The queue of jobs, on real records, real contents and real readers.</summary>
public class JobTests
{
    [Fact]
    public async Task The_same_job_is_asked_for_once_and_goes_further_to_the_front()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.Runner.StopAsync(default);
        var content = await studio.StoreAsync(Samples.Png(9, 9));
        await studio.Do(
            (JobQueue q) =>
                q.AddAsync([
                    JobRequest.Read(content, Guid.Empty, JobPriority.Background),
                    JobRequest.Read(content, Guid.Empty, JobPriority.Looked),
                    JobRequest.Read(content, Guid.Empty),
                ])
        );
        var job = Assert.Single(await studio.JobsAsync());
        Assert.Equal((JobState.Waiting, JobPriority.Looked, true), (job.State, job.Priority, job.IsNeeded));
    }

    [Fact]
    public async Task What_a_stop_cut_off_is_taken_up_and_what_was_only_looked_at_is_not()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.Runner.StopAsync(default);
        var piece = await studio.PieceAsync();
        var received = await studio.TakeAsync(piece, Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20)));
        Assert.IsType<KeepResult.Pending>(received.Keep);
        Assert.Equal([JobKind.ReadContent, JobKind.KeepBySetting], (await studio.JobsAsync()).Select(j => j.Kind));
        await studio.Do((JobQueue q) => q.AddAsync([JobRequest.Draw(received.Save.MainHash, 480, piece.Id)]));
        // As a process that was killed leaves it.
        await studio.Do((StudioDb db) => db.Jobs.ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Running)));

        await studio.RunAgainAsync();
        await studio.SettledAsync();
        Assert.Empty(await studio.JobsAsync());
        var save = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal(1, save.Number);
        Assert.NotNull(await studio.FactsAsync(save));
    }

    [Fact]
    public async Task One_bad_save_never_stops_another_pieces_keeping()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (bad, good) = (await studio.BegunAsync("Bad"), await studio.BegunAsync("Good"));
        foreach (var piece in new[] { bad, good })
            await studio.Do<SetKeepSetting>(d => d.DoAsync(studio.Ilse, piece.Id, KeepSetting.OncePerSitting));
        var lost = await studio.TakeAsync(
            bad,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Lost", 30, 20), new Samples.OraLayer("a", 2, 2))
        );
        await studio.TakeAsync(good, Samples.OpenRaster(30, 20, new Samples.OraLayer("Found", 30, 20), new Samples.OraLayer("b", 2, 2)));
        await studio.SettledAsync();
        // Its content is gone from the store, and what was read of it from the records.
        await studio.Do((ContentStore store) => Task.FromResult(store.Drop(lost.Save.MainHash)));
        await studio.Do((StudioDb db) => db.ContentFacts.Where(f => f.Content == lost.Save.MainHash).ExecuteDeleteAsync());
        studio.Time.Advance(TimeSpan.FromHours(1));
        Assert.Equal(2, await studio.Do((KeepBySetting d) => d.AskAfterSittingsAsync()));
        await studio.SettledAsync();
        Assert.Equal(2, (await studio.SavesAsync(good))[^1].Number);
        Assert.Null((await studio.SavesAsync(bad))[^1].Number);
        var failed = Assert.Single(await studio.JobsAsync());
        Assert.Equal((JobKind.KeepBySetting, JobState.Failed, JobError.Damaged), (failed.Kind, failed.State, failed.Error));
        // No verdict on the file was made of the disk's trouble.
        Assert.Null(await studio.FactsAsync(lost.Save));

        // With a copy handed in, and the job tried again, it is kept too.
        await studio.TakeAsync(
            await studio.BegunAsync("Copy"),
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Lost", 30, 20), new Samples.OraLayer("a", 2, 2))
        );
        (await studio.Do((TendJobs d) => d.TryAgainAsync(studio.Ilse, failed.Id))).Expect();
        await studio.SettledAsync();
        Assert.Equal(2, (await studio.SavesAsync(bad))[^1].Number);
        Assert.Empty(await studio.JobsAsync());
    }

    [Fact]
    public async Task What_is_asked_for_while_it_runs_is_run_again()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        await studio.Runner.StopAsync(default);
        var request = JobRequest.Keep((await studio.SavesAsync(piece))[0].Id, piece.Id);
        await studio.Do((JobQueue q) => q.AddAsync([request]));
        // It runs, as if it had looked at everything already.
        await studio.Do((StudioDb db) => db.Jobs.ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Running)));
        await studio.Do((JobQueue q) => q.AddAsync([request]));
        var job = Assert.Single(await studio.JobsAsync());
        await studio.Do((RedoneContexts c) => new JobEnds(c, studio.Time, NullLogger.Instance).DoneAsync(job, null));
        Assert.Equal(JobState.Waiting, Assert.Single(await studio.JobsAsync()).State);
        // And once only.
        await studio.RunAgainAsync();
        await studio.SettledAsync();
        Assert.Empty(await studio.JobsAsync());
    }

    [Fact]
    public async Task What_is_read_for_a_keep_waits_for_no_other_work_of_its_piece()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var save = (await studio.SavesAsync(piece))[0];
        Assert.NotEqual(JobRequest.Make($"{save.Id}/x", piece.Id).Lane, JobRequest.Read(save.MainHash, piece.Id).Lane);
        Assert.NotEqual(JobRequest.Compare(save.Identity, save.Identity, piece.Id).Lane, JobRequest.Read(save.MainHash, piece.Id).Lane);
    }

    [Fact]
    public async Task A_reader_that_is_killed_takes_what_it_started_with_it()
    {
        var start = new System.Diagnostics.ProcessStartInfo(
            "setsid",
            ["sh", "-c", "ffmpeg -nostdin -re -f lavfi -i anullsrc -t 600 -f null - 2>/dev/null & echo $!; wait"]
        )
        {
            RedirectStandardOutput = true,
        };
        using var leader = System.Diagnostics.Process.Start(start)!;
        var child = int.Parse((await leader.StandardOutput.ReadLineAsync())!, System.Globalization.CultureInfo.InvariantCulture);
        Assert.True(IsRunning(child));
        ProcessGroup.Kill(leader, leader.Id);
        await leader.WaitForExitAsync();
        for (var tries = 0; IsRunning(child); tries++)
        {
            Assert.True(tries < 200, "ffmpeg goes on.");
            await Task.Delay(50);
        }

        static bool IsRunning(int id) =>
            File.Exists($"/proc/{id}/stat") && !File.ReadAllText($"/proc/{id}/stat").Contains(") Z ", StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_reads_foreign_files_reaches_no_network_where_the_system_allows_that()
    {
        const string Interfaces = "cat /proc/net/dev | tail -n +3 | cut -d: -f1 | tr -d ' \n'";
        var start = ReaderIsolation.Here.Start(Path.GetTempPath(), "/bin/sh", "-c", Interfaces);
        start.RedirectStandardOutput = true;
        using var process = System.Diagnostics.Process.Start(start)!;
        var seen = await process.StandardOutput.ReadToEndAsync();
        if (ReaderIsolation.Here.HasNoNetwork)
            // Its own, which leads nowhere and is down.
            Assert.Equal("lo", seen);
        else
            Assert.NotEqual("", seen);
        // Without it, a program is started as it is.
        Assert.Equal("/bin/true", ReaderIsolation.None.Start(Path.GetTempPath(), "/bin/true").FileName);
    }

    [Fact]
    public async Task What_reads_foreign_files_sees_no_file_but_its_own_where_the_system_allows_that()
    {
        using var folder = new StudioFolder();
        var (own, secret) = (Directory.CreateDirectory(Path.Combine(folder.Path, "own")).FullName, Path.Combine(folder.Path, "secret"));
        await File.WriteAllTextAsync(secret, "the database of the studio");
        var start = ReaderIsolation.Here.Start(
            own,
            "/bin/sh",
            "-c",
            $"cat '{secret}' /etc/passwd; echo mine > made; echo no > '{secret}'; ls /home /root"
        );
        start.RedirectStandardOutput = start.RedirectStandardError = true;
        using var process = System.Diagnostics.Process.Start(start)!;
        var (seen, _) = (await process.StandardOutput.ReadToEndAsync(), await process.StandardError.ReadToEndAsync());
        if (ReaderIsolation.Here.Reach == ReaderReach.OwnFolder)
            Assert.Equal("", seen);
        else
            Assert.StartsWith("the database of the studio", seen, StringComparison.Ordinal);
        Assert.Equal("mine\n", await File.ReadAllTextAsync(Path.Combine(own, "made")));
    }

    [Fact]
    public async Task A_reader_leads_a_group_of_its_own()
    {
        var program = Path.Combine(AppContext.BaseDirectory, "Chronotype.Reader.dll");
        var start = new System.Diagnostics.ProcessStartInfo("dotnet", [program, "600000000", "1000000"]) { RedirectStandardInput = true };
        using var reader = System.Diagnostics.Process.Start(start)!;
        try
        {
            for (var tries = 0; GroupOf(reader.Id) != reader.Id; tries++)
            {
                Assert.True(tries < 600, "It is in another's group.");
                await Task.Delay(50);
            }
        }
        finally
        {
            reader.Kill();
        }

        // The fifth field (proc_pid_stat(5)), after the name in brackets.
        static int GroupOf(int id) =>
            int.Parse(
                File.ReadAllText($"/proc/{id}/stat").Split(") ")[^1].Split(' ')[2],
                System.Globalization.CultureInfo.InvariantCulture
            );
    }

    [Fact]
    public async Task A_disk_that_fails_is_tried_again_later()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var previews = Path.Combine(studio.DataFolder, "previews");
        if (Directory.Exists(previews))
            Directory.Delete(previews, recursive: true);
        // A file stands where the folder of previews has to be.
        await File.WriteAllTextAsync(previews, "in the way");
        var content = (await studio.SavesAsync(piece))[0].MainHash;
        await studio.Do((JobQueue q) => q.AddAsync([JobRequest.Draw(content, 480, piece.Id, priority: JobPriority.Follows)]));
        await studio.SettledAsync();
        var waiting = Assert.Single(await studio.JobsAsync());
        Assert.Equal(
            (JobState.Waiting, JobError.Disk, 1, studio.Time.GetUtcNow() + TimeSpan.FromMinutes(1)),
            (waiting.State, waiting.Error, waiting.Tries, waiting.NotBefore)
        );
        File.Delete(previews);
        await studio.SettledAsync();
        Assert.Single(await studio.JobsAsync());
        studio.Time.Advance(TimeSpan.FromMinutes(2));
        await studio.SettledAsync();
        Assert.Empty(await studio.JobsAsync());
        Assert.NotNull((await studio.Do((Previews d) => d.GetAsync(content, piece.Id, 480))).Path);
    }

    [Fact]
    public async Task A_newer_reader_reads_anew_what_an_older_one_read()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(
            piece,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20), new Samples.OraLayer("Other", 9, 2))
        );
        await studio.SettledAsync();
        await studio.Runner.StopAsync(default);
        await studio.Do(
            async (StudioDb db) =>
            {
                await db.ContentFacts.ExecuteUpdateAsync(u => u.SetProperty(f => f.Version, 0).SetProperty(f => f.Facts, "{}"));
                await db.Comparisons.ExecuteUpdateAsync(u => u.SetProperty(c => c.Version, 0));
            }
        );
        var saves = await studio.SavesAsync(piece);
        Assert.Null(await studio.FactsAsync(saves[0]));
        await studio.RunAgainAsync();
        await studio.SettledAsync();
        Assert.Equal(2, (await studio.FactsAsync(saves[0]))!.Layers.Count);
        Assert.NotNull(await studio.Do((StudioDb db) => CompareSaves.KnownAsync(db, saves[0].Identity, saves[1].Identity)));
    }

    [Fact]
    public async Task What_was_derived_from_damage_is_derived_anew_when_the_damage_is_mended()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var content = Samples.Noise(300_000, 5);
        await studio.VersionAsync(piece, Samples.Noise(300_000, 4), "x.lay");
        await studio.VersionAsync(piece, content, "x.lay");
        await studio.SettledAsync();
        var save = (await studio.SavesAsync(piece))[^1];
        Assert.NotNull(await studio.FactsAsync(save));
        studio.Damage(450_000);
        (await studio.Do((RepairContent d) => d.DoAsync(studio.Ilse, new MemoryStream(content)))).Expect();
        Assert.Null(await studio.FactsAsync(save));
        Assert.Empty(await studio.Do((StudioDb db) => db.Comparisons.Where(c => c.After == save.Identity).ToListAsync()));
    }

    [Fact]
    public async Task Content_that_no_record_holds_is_let_go_after_a_day_but_not_while_somebody_is_about_to_record_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var (orphan, leased) = (Samples.Noise(50_000, 1), Samples.Noise(60_000, 2));
        await studio.StoreAsync(orphan);
        await studio.StoreAsync(leased);
        Assert.Equal(0, await studio.Do((HeldContent h) => h.DropUnheldAsync()));
        studio.Time.Advance(TimeSpan.FromHours(25));
        await studio.Do(
            async (ContentStore store) =>
            {
                // It arrives once more at this very moment: stored, and not yet recorded.
                using var staged = await store.StageAsync(new MemoryStream(leased));
                await store.CommitAsync([staged]);
                Assert.Equal(1, await studio.Do((HeldContent h) => h.DropUnheldAsync()));
                Assert.False(store.Has(ContentHash.Of(orphan)));
                Assert.True(store.Has(ContentHash.Of(leased)));
            }
        );
        await studio.TakeAsync(piece, leased, "a.ora");
        studio.Time.Advance(TimeSpan.FromDays(3));
        Assert.Equal(0, await studio.Do((HeldContent h) => h.DropUnheldAsync()));
    }

    [Fact]
    public async Task Two_first_saves_of_one_piece_at_once_are_both_stored_and_the_first_is_kept()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var received = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(i =>
                    Task.Run(() => studio.TakeAsync(piece, Samples.Noise(5000, i), "poster.lay", i % 2 == 0 ? studio.Ilse : studio.Odo))
                )
        );
        await studio.SettledAsync();
        var saves = await studio.SavesAsync(piece);
        Assert.Equal(8, saves.Count);
        Assert.Equal(Enumerable.Range(1, 8), saves.Select(s => s.Sequence));
        Assert.Equal([1], saves.Where(s => s.Number is not null).Select(s => s.Number!.Value));
        // A machine that is busy reads it later than a person would wait, and says that its number follows.
        Assert.Single(received, r => r.Keep is KeepResult.Kept or KeepResult.Pending);
    }

    [Fact]
    public async Task Every_deed_asks_whether_its_actor_may()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var save = (await studio.SavesAsync(piece))[0].Id;
        var nobody = Actor.Person(Guid.NewGuid());
        Refusal?[] refusals =
        [
            (
                await studio.Do(
                    (ReceiveSave d) =>
                        d.DoAsync(nobody, new SaveTarget.OfPiece(piece.Id), new ArrivingContent("a.ora", new MemoryStream([1])))
                )
            ).Refusal,
            (await studio.Do((KeepSave d) => d.DoAsync(nobody, piece.Id, null, null))).Refusal,
            (await studio.Do((StartPiece d) => d.DoAsync(nobody, studio.Project.Id, StudioInUse.Called("Other", "key")))).Refusal,
            (await studio.Do((WriteNote d) => d.DoAsync(nobody, piece.Id, save, "x"))).Refusal,
            (await studio.Do((MarkMilestone d) => d.DoAsync(nobody, piece.Id, new VersionNumber(1), "x"))).Refusal,
            (await studio.Do((BringBack d) => d.DoAsync(nobody, piece.Id, save))).Refusal,
            (await studio.Do((SetKeepSetting d) => d.DoAsync(nobody, piece.Id, null))).Refusal,
            (await studio.Do((MaintainStorage d) => d.AskAsync(studio.Odo, JobKind.VerifyStore))).Refusal,
            (await studio.Do((Conventions.SetConvention d) => d.UndoAsync(studio.Odo))).Refusal,
            (await studio.Do((Conventions.SetCode d) => d.AddAsync(studio.Odo, "function", "x", ""))).Refusal,
            (await studio.Do((People.AddPerson d) => d.DoAsync(studio.Odo, new("Eve", "EV", "ten letters and more")))).Refusal,
        ];
        Assert.All(refusals, r => Assert.IsType<Refusal.NotAllowed>(r));
        // Who was switched off may nothing from then on, also with a page that is still open.
        (await studio.Do((People.Accounts d) => d.SwitchAsync(studio.Ilse, studio.Odo.PersonId, isOff: true))).Expect();
        Assert.IsType<Refusal.NotAllowed>((await studio.Do((KeepSave d) => d.DoAsync(studio.Odo, piece.Id, null, null))).Refusal);
        Assert.Single(await studio.SavesAsync(piece));
    }

    [Fact]
    public async Task Very_many_of_one_lane_hold_nobody_else_up()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var contents = new List<ContentHash>();
        for (var i = 0; i < 90; i++)
            contents.Add(await studio.StoreAsync(System.Text.Encoding.UTF8.GetBytes($"note {i}")));
        var (lane, other) = (Guid.NewGuid(), Guid.NewGuid());
        await studio.Do(
            (JobQueue q) =>
                q.AddAsync([
                    .. contents.SkipLast(1).Select(c => JobRequest.Read(c, lane)),
                    JobRequest.Read(contents[^1], other, JobPriority.Background),
                ])
        );

        await studio.SettledAsync();

        Assert.Equal(90, await studio.Do((StudioDb db) => ContentReader.Current(db).CountAsync(f => contents.Contains(f.Content))));
    }
}
