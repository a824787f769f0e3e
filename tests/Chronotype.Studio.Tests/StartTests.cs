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

    /// <summary>A version after this one, which has the table of saves made anew.</summary>
    [DbContext(typeof(StudioDb))]
    [Migration("29991231235959_Later")]
    private sealed class Later : Migration
    {
        public override Microsoft.EntityFrameworkCore.Metadata.IModel TargetModel => new Chronotype.Storage.Migrations.First().TargetModel;

        protected override void Up(MigrationBuilder builder)
        {
            builder.AddColumn<string>("Mood", "Pieces", nullable: true);
            builder.Sql("""UPDATE "Pieces" SET "Mood" = 'calm' """);
            builder.AlterColumn<string>("ReceivedName", "Saves", type: "TEXT", nullable: true, oldNullable: false);
            builder.CreateIndex("IX_Pieces_Mood", "Pieces", "Mood");
        }
    }

#pragma warning disable EF1001 // The one place where the tools' own list of migrations can be added to.
    private sealed class WithLater(
        ICurrentDbContext context,
        IDbContextOptions options,
        IMigrationsIdGenerator ids,
        IDiagnosticsLogger<DbLoggerCategory.Migrations> log
    ) : Microsoft.EntityFrameworkCore.Migrations.Internal.MigrationsAssembly(context, options, ids, log)
    {
        private SortedList<string, System.Reflection.TypeInfo>? all;

        public override IReadOnlyDictionary<string, System.Reflection.TypeInfo> Migrations =>
            all ??= new(base.Migrations.ToDictionary())
            {
                ["29991231235959_Later"] = System.Reflection.IntrospectionExtensions.GetTypeInfo(typeof(Later)),
            };
    }
#pragma warning restore EF1001

    [Fact]
    public async Task An_upgrade_is_whole_or_undone_at_a_kill_before_every_statement()
    {
        var (root, held) = await MakeAsync(Path.Combine(folder.Path, "old"));
        var copies = Path.Combine(folder.Path, "copies");
        // As a version that was killed at its start left it.
        await using (var db = Open(Database(root)))
            await db.Database.ExecuteSqlRawAsync(
                """INSERT OR IGNORE INTO "__EFMigrationsLock" ("Id", "Timestamp") VALUES (1, '2026-01-01')"""
            );
        SqliteConnection.ClearAllPools();

        var every = new EveryStatement(root, copies);
        Assert.True(await Upgrading(root, every).UpgradeAsync());
        every.Take();
        Assert.True(every.Count > 8, $"Only {every.Count} statements.");
        foreach (var copy in Thorough.Some([.. Directory.GetDirectories(copies).Order()], 12))
        {
            Assert.Equal(DatabaseState.Sound, new DatabaseFile(Database(copy), TimeProvider.System).Look(out _));
            await Upgrading(copy).UpgradeAsync().WaitAsync(TimeSpan.FromSeconds(60));
            await using var db = Open(Database(copy));
            Assert.Equal(held, await HeldAsync(db));
            Assert.Equal(
                3,
                await db.Database.SqlQuery<int>($"""SELECT count(*) AS Value FROM "Pieces" WHERE "Mood" = 'calm' """).SingleAsync()
            );
            Assert.InRange(Directory.GetFiles(copy, "studio-before-*.db").Length, 1, DatabaseFile.KeptBefore);
        }

        static DatabaseFile Upgrading(string root, params IInterceptor[] watching) =>
            new(Database(root), TimeProvider.System, o => o.ReplaceService<IMigrationsAssembly, WithLater>().AddInterceptors(watching));
    }

    [Theory]
    [InlineData("20261124021419_Founding", "before the first version")]
    [InlineData("30001231235959_Later", "later version")]
    public async Task Records_of_a_version_that_is_not_known_are_left_as_they_are(string migration, string said)
    {
        var (root, _) = await MakeAsync(folder.Path);
        await using (var db = Open(Database(root)))
            await db.Database.ExecuteSqlAsync(
                $"""INSERT INTO "__EFMigrationsHistory" ("MigrationId", "ProductVersion") VALUES ({migration}, '10')"""
            );
        var before = File.ReadAllBytes(Database(root));
        Assert.Contains(said, (await Assert.ThrowsAsync<StudioUnusableException>(() => StartAsync(root))).Message);
        Assert.Equal(before, File.ReadAllBytes(Database(root)));
    }
}
