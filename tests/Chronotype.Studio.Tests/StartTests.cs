using System.Data.Common;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Saves;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Microsoft.Extensions.Logging.Abstractions;

namespace Chronotype.Studio.Tests;

/// <summary>A start always starts, or says in a sentence why not, and changes nothing.</summary>
public sealed class StartTests : IDisposable
{
    private readonly StudioFolder folder = new();

    public void Dispose() => folder.Dispose();

    private static string Database(string root) => Path.Combine(root, "studio.db");

    /// <summary>What the server does at its start.</summary>
    private static async Task StartAsync(string root)
    {
        using var data = new DataFolder(root);
        using var store = ContentStore.Open(data.Content);
        var mirror = new RecordMirror(data, store);
        await new StudioStart(data, store, mirror, TimeProvider.System, NullLogger<StudioStart>.Instance).RunAsync();
        SqliteConnection.ClearAllPools();
    }

    private static StudioDb Open(string path) =>
        new(new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={path};Pooling=False").Options) { Sees = null };

    /// <summary>A studio with saves, versions, a milestone and a folder of several files, and what it holds.</summary>
    private static async Task<(
        string Root,
        List<(string Piece, int? Number, string? Name, string? Note, string? Reason, string Hash)> Held
    )> MakeAsync(string root)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync();
        await studio.VersionAsync(poster, Samples.Noise(90_000, 1), "poster.lay");
        await studio.VersionAsync(poster, Samples.Noise(90_000, 2), "poster.lay");
        await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, poster.Id, null, "before the sky is repainted"));
        var kept = (await studio.SavesAsync(poster))[^1];
        await studio.Do((WriteNote d) => d.DoAsync(studio.Ilse, poster.Id, kept.Id, "Ferries are back."));
        await studio.TakeAsync(poster, Samples.Noise(90_000, 3), "poster.lay");
        var folderPiece = await studio.PieceAsync("Icons");
        await studio.TakeAsync(folderPiece, Samples.Zip(("icons/a.svg", "<svg/>"), ("icons/sub/b.txt", "words")), "icons.zip");
        await studio.PieceAsync("Reserved");
        await studio.SettledAsync();
        var held = await HeldAsync(studio);
        StudioFolder.Copy(studio.DataFolder, root);
        return (root, held);
    }

    private static Task<List<(string, int?, string?, string?, string?, string)>> HeldAsync(StudioInUse studio) =>
        studio.Do((StudioDb db) => HeldAsync(db));

    private static async Task<List<(string, int?, string?, string?, string?, string)>> HeldAsync(StudioDb db) =>
        [
            .. (
                await db
                    .Saves.AsNoTracking()
                    .Include(s => s.Piece)
                    .Include(s => s.Milestone)
                    .Include(s => s.Files)
                    .OrderBy(s => s.Piece.CurrentName)
                    .ThenBy(s => s.Sequence)
                    .ToListAsync()
            ).SelectMany(
                s => s.Files.OrderBy(f => f.Path, StringComparer.Ordinal),
                (s, f) => (s.Piece.CurrentName, s.Number, s.ExactName, s.Note, s.Milestone?.Reason, $"{f.Path} {f.Hash}")
            ),
        ];

    [Fact]
    public async Task Without_its_database_a_studio_is_not_a_new_one_and_is_made_anew_from_its_content()
    {
        var (root, held) = await MakeAsync(folder.Path);
        foreach (var extension in new[] { "", "-wal", "-shm" })
            File.Delete(Database(root) + extension);
        var refusal = await Assert.ThrowsAsync<StudioUnusableException>(() => StartAsync(root));
        Assert.Contains("studio rebuild", refusal.Message);
        Assert.False(File.Exists(Database(root)));

        using (var data = new DataFolder(root))
        using (var store = ContentStore.Open(data.Content))
        {
            var rebuilt = await new StudioRebuild(data, store, TimeProvider.System).RunAsync(evenIfSound: false);
            Assert.Empty(rebuilt.Left);
            Assert.Empty(rebuilt.Missing);
            Assert.Equal(16, Assert.Single(rebuilt.Passwords).Value.Length);
            await Assert.ThrowsAsync<StudioUnusableException>(() =>
                new StudioRebuild(data, store, TimeProvider.System).RunAsync(evenIfSound: false)
            );
        }
        await StartAsync(root);
        await using var db = Open(Database(root));
        // Readers do not wait for the writer.
        Assert.Equal("wal", db.Database.SqlQuery<string>($"SELECT journal_mode AS Value FROM pragma_journal_mode").Single());
        Assert.Equal(held, await HeldAsync(db));
        Assert.Equal(3, await db.Pieces.CountAsync());
        Assert.Equal(2, await db.Users.CountAsync());
        Assert.Equal(11 + 3 + 2 + 1, await db.Entries.CountAsync());
        // No number is given twice afterwards, and what was inside is read again.
        Assert.Equal(2, await db.Lines.MaxAsync(l => l.HighestNumber));
        Assert.Empty(await db.ContentFacts.ToListAsync());
    }

    [Theory]
    [InlineData("empty")]
    [InlineData("cut")]
    [InlineData("garbage")]
    [InlineData("torn")]
    [InlineData("no tables")]
    [InlineData("a young one without its log")]
    public async Task A_database_that_is_not_whole_is_said_to_be_so_and_left_as_it_is(string how)
    {
        var (root, _) = await MakeAsync(folder.Path);
        await StartAsync(root);
        var path = Database(root);
        using (var connection = new SqliteConnection($"Data Source={path};Pooling=False"))
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA wal_checkpoint(TRUNCATE)";
            command.ExecuteNonQuery();
        }
        foreach (var extension in new[] { "-wal", "-shm" })
            File.Delete(path + extension);
        var whole = File.ReadAllBytes(path);
        switch (how)
        {
            case "empty":
                File.WriteAllBytes(path, []);
                break;
            case "cut":
                File.WriteAllBytes(path, whole[..(whole.Length / 2)]);
                break;
            case "garbage":
                File.WriteAllBytes(path, Samples.Noise(whole.Length, 9));
                break;
            case "torn":
                for (var page = 2; page < whole.Length / 4096; page += 2)
                    Samples.Noise(4096, page).CopyTo(whole, page * 4096);
                File.WriteAllBytes(path, whole);
                break;
            case "no tables":
                File.Delete(path);
                using (var empty = new SqliteConnection($"Data Source={path};Pooling=False"))
                {
                    empty.Open();
                    using var command = empty.CreateCommand();
                    command.CommandText = "CREATE TABLE t (x); DROP TABLE t";
                    command.ExecuteNonQuery();
                }
                break;
            default:
                File.Delete(path);
                await new DatabaseFile(path, TimeProvider.System).MakeAsync();
                break;
        }
        var before = File.ReadAllBytes(path);
        var refusal = await Assert.ThrowsAsync<StudioUnusableException>(() => StartAsync(root));
        Assert.Contains("Nothing was changed", refusal.Message);
        Assert.DoesNotContain('\n', refusal.Message);
        Assert.Equal(before, File.ReadAllBytes(path));
    }

    [Fact]
    public async Task A_young_studio_loses_nothing_with_its_log()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.TakeAsync(await studio.PieceAsync(), Samples.Noise(5000, 1), "a.lay");
        // As it is when the save is acknowledged; what stands only in the log is lost.
        StudioFolder.Copy(studio.DataFolder, folder.Path);
        foreach (var log in new[] { "-wal", "-shm" })
            File.Delete(Database(folder.Path) + log);
        await StartAsync(folder.Path);
        await using var db = Open(Database(folder.Path));
        Assert.Equal("a.lay", (await db.Saves.SingleAsync()).ReceivedName);
    }

    [Fact]
    public async Task Records_beside_the_content_of_another_studio_are_refused()
    {
        var (root, _) = await MakeAsync(folder.Path);
        Directory.Delete(Path.Combine(root, "content"), recursive: true);
        Assert.Contains("do not belong", (await Assert.ThrowsAsync<StudioUnusableException>(() => StartAsync(root))).Message);
    }

    [Fact]
    public async Task An_empty_key_is_said_in_a_sentence()
    {
        var (root, _) = await MakeAsync(folder.Path);
        Directory.CreateDirectory(Path.Combine(root, "keys"));
        File.WriteAllBytes(Path.Combine(root, "keys", "key-1.xml"), []);
        Assert.Contains("key-1.xml", (await Assert.ThrowsAsync<StudioUnusableException>(() => StartAsync(root))).Message);
    }

    [Fact]
    public async Task A_start_with_nothing_to_do_writes_nothing_and_clears_the_lock_of_a_dead_one()
    {
        var (root, _) = await MakeAsync(folder.Path);
        await StartAsync(root);
        using (var connection = new SqliteConnection($"Data Source={Database(root)};Pooling=False"))
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText =
                """INSERT INTO "__EFMigrationsLock" ("Id", "Timestamp") VALUES (1, '2026-01-01'); PRAGMA wal_checkpoint(TRUNCATE)""";
            command.ExecuteNonQuery();
        }
        var before = File.ReadAllBytes(Database(root));
        await StartAsync(root).WaitAsync(TimeSpan.FromSeconds(30));
        Assert.Equal(before, File.ReadAllBytes(Database(root)));
        Assert.False(new FileInfo(Database(root) + "-wal") is { Exists: true, Length: > 0 });
    }

    public static TheoryData<string> Released =>
        [
            "20261124021419_Founding",
            "20261125022827_Conventions",
            "20261125092039_StoreChecks",
            "20261125163746_MirrorAndPeople",
            "20261125193727_FactsAndJobs",
            "20261125204607_LinesAndTree",
            "20261126020830_PlacesAndSessions",
            "20261126061911_LooseSaves",
            "20261126092611_InsideFiles",
            "20261126124547_Faces",
            "20261126175026_PlacesAndLinks",
            "20261126204658_PlansAndSpecs",
            "20261126225903_CompanionsAndPatterns",
            "20261127004635_Outputs",
            "20261127021342_MastersAndRecipes",
            "20261127132956_PartsAndShare",
        ];

    /// <summary>Copies the database's files as they are before every statement: what a kill at that moment leaves.</summary>
    private sealed class EveryStatement(string root, string copies) : DbCommandInterceptor, IDbTransactionInterceptor
    {
        public int Count { get; private set; }

        public void Take()
        {
            var to = Directory.CreateDirectory(Path.Combine(copies, $"{Count++:d4}")).FullName;
            foreach (var file in Directory.GetFiles(root, "studio*"))
                File.Copy(file, Path.Combine(to, Path.GetFileName(file)));
        }

        public override ValueTask<InterceptionResult<int>> NonQueryExecutingAsync(
            DbCommand command,
            CommandEventData eventData,
            InterceptionResult<int> result,
            CancellationToken cancellationToken = default
        )
        {
            Take();
            return ValueTask.FromResult(result);
        }

        public override InterceptionResult<int> NonQueryExecuting(
            DbCommand command,
            CommandEventData eventData,
            InterceptionResult<int> result
        )
        {
            Take();
            return result;
        }

        public ValueTask<InterceptionResult> TransactionCommittingAsync(
            DbTransaction transaction,
            TransactionEventData eventData,
            InterceptionResult result,
            CancellationToken cancellationToken = default
        )
        {
            Take();
            return ValueTask.FromResult(result);
        }
    }

    [Theory]
    [MemberData(nameof(Released))]
    public async Task An_upgrade_is_whole_or_undone_at_a_kill_before_every_statement(string released)
    {
        var root = Directory.CreateDirectory(Path.Combine(folder.Path, "old")).FullName;
        var copies = Path.Combine(folder.Path, "copies");
        await FillOldAsync(Database(root), released);
        // As a version that was killed at its start left it.
        await using (var db = Open(Database(root)))
            await db.Database.ExecuteSqlRawAsync(
                """INSERT OR IGNORE INTO "__EFMigrationsLock" ("Id", "Timestamp") VALUES (1, '2026-01-01')"""
            );

        var every = new EveryStatement(root, copies);
        await new DatabaseFile(Database(root), TimeProvider.System, o => o.AddInterceptors(every)).UpgradeAsync();
        every.Take();
        Assert.True(every.Count > 8, $"Only {every.Count} statements.");
        foreach (var copy in Thorough.Some([.. Directory.GetDirectories(copies).Order()], 9))
        {
            Assert.Equal(DatabaseState.Sound, new DatabaseFile(Database(copy), TimeProvider.System).Look(out _));
            await new DatabaseFile(Database(copy), TimeProvider.System).UpgradeAsync().WaitAsync(TimeSpan.FromSeconds(60));
            await using var db = Open(Database(copy));
            Assert.Empty(await db.Database.GetPendingMigrationsAsync());
            var save = await db.Saves.Include(s => s.Files).Include(s => s.Piece).ThenInclude(p => p.Project).SingleAsync();
            Assert.Equal(
                ("TIM_tide-table_layout_IK_007.lay", 7, "TIDES", "TIM_tide-table_layout"),
                (save.ExactName, save.Number, save.Piece.Project.Code, save.Piece.CurrentName)
            );
            Assert.Equal(ContentHash.Of([1]), Assert.Single(save.Files).Hash);
            Assert.InRange(Directory.GetFiles(copy, "studio-before-*.db").Length, 1, DatabaseFile.KeptBefore);
        }
    }

    private static async Task FillOldAsync(string path, string released)
    {
        await using var db = Open(path);
        await db.GetService<IMigrator>().MigrateAsync(released);
        var (client, project, piece, save) = (Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid());
        var convention = """
            {"slots":[{"label":"client","rule":{"kind":"code","list":"client"},"join":""},
            {"label":"subject","rule":{"kind":"words","maxLength":40,"joiner":"-"},"join":"_"},
            {"label":"function","rule":{"kind":"code","list":"function"},"join":"_"},
            {"label":"hand","rule":{"kind":"hand"},"join":"_"},
            {"label":"version","rule":{"kind":"version","width":3,"start":1,"lead":""},"join":"_"},
            {"label":"milestone","rule":{"kind":"milestone","width":2,"lead":"M"},"join":"_"}],"forms":{}}
            """;
        var hash = ContentHash.Of([1]).ToString();
        var hasLines = string.CompareOrdinal(released, "20261125204607_LinesAndTree") >= 0;
        await db.Database.ExecuteSqlAsync($"INSERT INTO Clients (Id, Code, Name) VALUES ({client}, 'TIM', 'Museum')");
        await db.Database.ExecuteSqlAsync(
            $"""
            INSERT INTO Projects (Id, Code, Title, ClientId, Plan, Convention, Keep, StartedAt, StartedById) VALUES ({project},
            'TIDES', 'Tides', {client}, 'print', {convention}, 0, 0, {Guid.Empty})
            """
        );
        if (released.EndsWith("Founding", StringComparison.Ordinal))
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO Pieces (Id, ProjectId, Subject, Function, CurrentName, Extension, Folder, HighestMilestone,
                HighestSequence, StartedAt, StartedById) VALUES ({piece}, {project}, 'tide-table', 'layout',
                'TIM_tide-table_layout', '.lay', 'working', 0, 1, 0, {Guid.Empty})
                """
            );
        else if (hasLines)
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO Pieces (Id, ProjectId, Slots, CurrentName, Extension, HighestMilestone, HighestSequence, StartedAt,
                StartedById) VALUES ({piece}, {project}, {"{}"}, 'TIM_tide-table_layout', '.lay', 0, 1, 0, {Guid.Empty})
                """
            );
        else
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO Pieces (Id, ProjectId, Slots, CurrentName, Extension, Folder, HighestMilestone, HighestSequence,
                StartedAt, StartedById) VALUES ({piece}, {project}, {"{}"}, 'TIM_tide-table_layout', '.lay', 'working', 0,
                1, 0, {Guid.Empty})
                """
            );
        if (hasLines)
        {
            var line = Guid.NewGuid();
            await db.Database.ExecuteSqlAsync(
                $"INSERT INTO Lines (Id, PieceId, Name, IsCurrent, HighestNumber, StartedAt) VALUES ({line}, {piece}, '', 1, 7, 0)"
            );
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO Saves (Id, PieceId, LineId, Sequence, ArrivedAt, ArrivedById, ReceivedName, Identity, MainHash, Size, Number,
                ExactName) VALUES ({save}, {piece}, {line}, 1, 0, {Guid.Empty}, 'a.lay', {hash}, {hash}, 1, 7,
                'TIM_tide-table_layout_IK_007.lay')
                """
            );
        }
        else if (string.CompareOrdinal(released, "20261125193727_FactsAndJobs") >= 0)
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO Saves (Id, PieceId, Sequence, ArrivedAt, ArrivedById, ReceivedName, Identity, MainHash, Size, Number,
                ExactName) VALUES ({save}, {piece}, 1, 0, {Guid.Empty}, 'a.lay', {hash}, {hash}, 1, 7,
                'TIM_tide-table_layout_IK_007.lay')
                """
            );
        else
            await db.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO Saves (Id, PieceId, Sequence, ArrivedAt, ArrivedById, ReceivedName, Identity, MainHash, Size, Format,
                Number, ExactName, ChangeState) VALUES ({save}, {piece}, 1, 0, {Guid.Empty}, 'a.lay', {hash}, {hash}, 1, 0, 7,
                'TIM_tide-table_layout_IK_007.lay', 0)
                """
            );
        await db.Database.ExecuteSqlAsync(
            $"INSERT INTO SaveFiles (SaveId, Path, Hash, Size, IsMain) VALUES ({save}, 'a.lay', {hash}, 1, 1)"
        );
    }
}
