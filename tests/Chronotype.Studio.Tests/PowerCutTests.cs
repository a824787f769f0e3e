using System.Globalization;
using Chronotype.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging.Abstractions;

namespace Chronotype.Studio.Tests;

/// <summary>What a deed has answered lasts, whatever the power takes; and a start after a cut comes up by itself.</summary>
public sealed class PowerCutTests : IDisposable
{
    private readonly StudioFolder folder = new();

    public void Dispose() => folder.Dispose();

    private static SqliteConnection Open(string file)
    {
        var connection = new SqliteConnection($"Data Source={file};Pooling=False");
        connection.Open();
        return connection;
    }

    private static void Backup(string from, string to)
    {
        using var source = Open(from);
        using var target = Open(to);
        source.BackupDatabase(target);
    }

    /// <summary>All that is copied of the records, a line each.</summary>
    private static List<string> Told(string file)
    {
        using var connection = Open(file);
        var told = new List<string>();
        foreach (var table in MirroredTable.All)
        {
            using var command = connection.CreateCommand();
            command.CommandText = $"SELECT * FROM \"{table.Name}\" ORDER BY \"{table.Key}\"";
            using var reader = command.ExecuteReader();
            while (reader.Read())
                told.Add(
                    $"{table.Name}: "
                        + string.Join(
                            " | ",
                            Enumerable
                                .Range(0, reader.FieldCount)
                                .Where(i => !table.Left.ContainsKey(reader.GetName(i)))
                                .Select(i => $"{reader.GetName(i)}={Convert.ToString(reader.GetValue(i), CultureInfo.InvariantCulture)}")
                        )
                );
        }
        return told;
    }

    private static async Task<PlayedBack?> StartAsync(string root)
    {
        using var data = new DataFolder(root);
        using var store = ContentStore.Open(data.Content);
        var start = new StudioStart(data, store, new RecordMirror(data, store), TimeProvider.System, NullLogger<StudioStart>.Instance);
        await start.RunAsync();
        SqliteConnection.ClearAllPools();
        return start.PlayedBack;
    }

    /// <summary>A studio in which each flush of the records does something instead.</summary>
    /// <param name="flush">Given the database.</param>
    private static Task<StudioInUse> OpenAsync(Action<string> flush) =>
        StudioInUse.OpenAsync(otherwise: services =>
            services.AddSingleton(s =>
            {
                var database = s.GetRequiredService<DataFolder>().Database;
                return new CommitFlush(database, _ => flush(database));
            })
        );

    private static async Task ProjectAsync(StudioInUse studio, string code) =>
        (await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new NewProject(code, "Gulls", "Museum", "TIM", "print", 1)))).Expect();

    [Fact]
    public async Task Whichever_of_the_last_commits_the_records_lost_a_start_brings_them_back_from_the_copies()
    {
        var cuts = new List<string>();
        var isCutting = false;
        // As the records are when a flush is asked for: all commits before it, and none that come after.
        await using var studio = await OpenAsync(database =>
        {
            if (!isCutting)
                return;
            cuts.Add(Path.Combine(folder.Path, $"cut-{cuts.Count:d4}.db"));
            Backup(database, cuts[^1]);
        });
        isCutting = true;
        var poster = await studio.PieceAsync();
        await studio.VersionAsync(poster, Samples.Noise(9_000, 1), "poster.lay");
        await studio.VersionAsync(poster, Samples.Noise(9_000, 2), "poster.lay");
        await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, poster.Id, null, "before the sky is repainted"));
        var kept = (await studio.SavesAsync(poster))[^1];
        await studio.Do((WriteNote d) => d.DoAsync(studio.Ilse, poster.Id, kept.Id, "Ferries are back."));
        // Names that change places: what one of them is called by now, another was called before.
        var (other, third) = (await studio.PieceAsync("Quay"), await studio.PieceAsync("Pier"));
        await RenameAsync(other, "Harbour");
        await RenameAsync(third, "Quay");
        var loose = await studio.TakeAsync(poster, Samples.Noise(9_000, 3), "poster.lay");
        await studio.Do((BringBack d) => d.DoAsync(studio.Ilse, poster.Id, kept.Id));
        var made = (
            await studio.Do(
                (TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, Core.Content.ProjectPath.Parse("assets/paper"))
            )
        ).Expect();
        await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, made.Id));
        await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, third.Id));
        await studio.SettledAsync();
        await studio.Do((RecordMirror m) => m.DrainAsync());
        isCutting = false;
        Assert.NotNull(loose);

        var whole = Told(Path.Combine(studio.DataFolder, "studio.db"));
        Assert.True(cuts.Count > 12, $"Only {cuts.Count} commits.");
        var played = 0;
        foreach (var cut in cuts)
        {
            var root = Directory.CreateDirectory(Path.Combine(folder.Path, "root")).FullName;
            StudioFolder.Copy(studio.DataFolder, root);
            foreach (var beside in new[] { "-wal", "-shm" })
                File.Delete(Path.Combine(root, "studio.db" + beside));
            File.Copy(cut, Path.Combine(root, "studio.db"), overwrite: true);
            var before = Told(cut);
            var back = await StartAsync(root);
            Assert.Equal(whole, Told(Path.Combine(root, "studio.db")));
            if (!before.SequenceEqual(whole))
            {
                Assert.True(back is { Records: > 0, Left.Count: 0 }, cut);
                played++;
            }
            // Once more there is nothing to do.
            Assert.Null(await StartAsync(root));
            Directory.Delete(root, recursive: true);
        }
        Assert.True(played > 10, $"Only {played} cuts took anything.");

        async Task RenameAsync(Storage.Entities.Piece piece, string subject) =>
            (
                await studio.Do(
                    (RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, studio.Project.Code, StudioInUse.Called(subject, "key"))
                )
            ).Expect();
    }

    [Fact]
    public async Task Passwords_stay_when_records_are_brought_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var database = Path.Combine(studio.DataFolder, "studio.db");
        Backup(database, Path.Combine(folder.Path, "older.db"));
        await studio.Do((People.Accounts d) => d.SwitchAsync(studio.Ilse, studio.Odo.PersonId, isOff: true));
        var root = Path.Combine(folder.Path, "root");
        StudioFolder.Copy(studio.DataFolder, root);
        foreach (var beside in new[] { "-wal", "-shm" })
            File.Delete(Path.Combine(root, "studio.db" + beside));
        File.Copy(Path.Combine(folder.Path, "older.db"), Path.Combine(root, "studio.db"), overwrite: true);
        Assert.NotNull(await StartAsync(root));
        using var connection = Open(Path.Combine(root, "studio.db"));
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT IsOff, PasswordHash IS NOT NULL FROM People WHERE Initials = 'OB'";
        using var reader = command.ExecuteReader();
        Assert.True(reader.Read());
        Assert.Equal((1L, 1L), (reader.GetInt64(0), reader.GetInt64(1)));
    }

    [Fact]
    public async Task Those_who_wait_at_the_same_moment_share_one_flush()
    {
        using var go = new SemaphoreSlim(0);
        var isHeld = false;
        await using var studio = await OpenAsync(_ =>
        {
            if (isHeld)
                go.Wait();
        });
        var flush = await studio.Do((CommitFlush f) => Task.FromResult(f));
        isHeld = true;
        var before = flush.Flushes;
        var projects = Enumerable.Range(0, 12).Select(i => ProjectAsync(studio, $"P{i}")).ToList();
        // All are committed, and nobody is told so.
        while (CountProjects() < 13)
            await Task.Delay(20);
        Assert.All(projects, p => Assert.False(p.IsCompleted));
        isHeld = false;
        go.Release(100);
        await Task.WhenAll(projects);
        Assert.InRange(flush.Flushes - before, 2, 8);

        long CountProjects()
        {
            using var connection = Open(Path.Combine(studio.DataFolder, "studio.db"));
            using var command = connection.CreateCommand();
            command.CommandText = "SELECT count(*) FROM Projects";
            return (long)command.ExecuteScalar()!;
        }
    }

    [Fact]
    public async Task A_flush_that_fails_is_made_good_by_writing_the_records_anew()
    {
        var fails = false;
        await using var studio = await OpenAsync(_ =>
        {
            if (fails)
                throw new IOException("The disk failed.");
        });
        await studio.SettledAsync();
        fails = true;
        await ProjectAsync(studio, "GULL");
        fails = false;
        // The file alone, without its log, has it.
        File.Copy(Path.Combine(studio.DataFolder, "studio.db"), Path.Combine(folder.Path, "alone.db"));
        Assert.Contains(
            Told(Path.Combine(folder.Path, "alone.db")),
            l => l.StartsWith("Projects", StringComparison.Ordinal) && l.Contains("GULL")
        );
    }

    [Fact]
    public async Task Where_the_disk_keeps_nothing_nobody_is_told_that_it_was_done()
    {
        var fails = false;
        await using var studio = await OpenAsync(_ =>
        {
            if (fails)
                throw new IOException("The disk failed.");
        });
        await studio.SettledAsync();
        using var reader = Open(Path.Combine(studio.DataFolder, "studio.db"));
        using var command = reader.CreateCommand();
        // Somebody who reads keeps the log from being moved, so that there is no other way either.
        command.CommandText = "BEGIN; SELECT count(*) FROM Projects";
        command.ExecuteScalar();
        fails = true;
        await Assert.ThrowsAsync<CommitNotFlushedException>(() => ProjectAsync(studio, "GULL"));
        command.CommandText = "COMMIT";
        command.ExecuteNonQuery();
        fails = false;
        // With the next one it is whole again.
        await ProjectAsync(studio, "TERN");
    }
}
