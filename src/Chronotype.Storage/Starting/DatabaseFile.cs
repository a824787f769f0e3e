using System.Buffers.Binary;
using System.Globalization;
using Chronotype.Content.Files;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Finding;
using Chronotype.Storage.Mirror;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage.Starting;

/// <summary>What lies at the place of the database.</summary>
public enum DatabaseState
{
    /// <summary>No file, or one without a single table.</summary>
    None,

    /// <summary>A file of no bytes, or one whose beginning is gone while its log is still there.</summary>
    Empty,

    /// <summary>Shorter than it says, no database, or one that does not fit itself.</summary>
    Damaged,

    Sound,
}

/// <summary>
/// The file that holds the records. It is made, and brought to the present model, beside its place, and takes it only when it is
/// whole and on the disk, so that a stop at any moment leaves either the old one or the new one.
/// </summary>
public sealed class DatabaseFile(string path, TimeProvider time, Action<DbContextOptionsBuilder>? configure = null)
{
    /// <summary>How many databases from before an upgrade are kept.</summary>
    public const int KeptBefore = 2;

    // Reading all of a larger one would hold up every start.
    private const long CheckedAtStart = 256 << 20;
    private const int HeaderBytes = 100;

    private static readonly string[] Beside = ["-journal", "-wal", "-shm"];

    private readonly string folder = Path.GetDirectoryName(path)!;

    private string Passing => path + ".new";

    private static ReadOnlySpan<byte> Magic => "SQLite format 3\0"u8;

    /// <summary>Looks, and changes nothing.</summary>
    public DatabaseState Look(out string found)
    {
        found = "";
        var file = new FileInfo(path);
        var hasLog = new FileInfo(path + "-wal") is { Exists: true, Length: > 0 };
        if (!file.Exists)
            return hasLog
                ? Say(DatabaseState.Empty, "is missing, though the log that belongs to it is there", out found)
                : DatabaseState.None;
        if (file.Length == 0)
            return Say(DatabaseState.Empty, "has no bytes in it", out found);
        var header = new byte[HeaderBytes];
        using (var stream = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete))
        {
            if (stream.ReadAtLeast(header, HeaderBytes, throwOnEndOfStream: false) < HeaderBytes || !header.AsSpan().StartsWith(Magic))
                return Say(DatabaseState.Damaged, "is no database", out found);
        }
        // SQLite's file format, 1.3: the size of a page, and how many there are. While a log is there, a page may be on its way.
        var pageSize = BinaryPrimitives.ReadUInt16BigEndian(header.AsSpan(16)) is 1
            ? 65536
            : BinaryPrimitives.ReadUInt16BigEndian(header.AsSpan(16));
        if (!hasLog && file.Length < (long)pageSize * BinaryPrimitives.ReadUInt32BigEndian(header.AsSpan(28)))
            return Say(DatabaseState.Damaged, "is cut off", out found);
        try
        {
            using var connection = RecordConnection.Open(path, ConnectionUse.Alone);
            if (Scalar(connection, "SELECT count(*) FROM sqlite_schema") is 0L)
                return DatabaseState.None;
            if (file.Length <= CheckedAtStart && Scalar(connection, "PRAGMA quick_check(1)") is not "ok")
                return Say(DatabaseState.Damaged, "is damaged", out found);
            return DatabaseState.Sound;
        }
        catch (SqliteException e)
            when (e.SqliteErrorCode is SQLitePCL.raw.SQLITE_CORRUPT or SQLitePCL.raw.SQLITE_NOTADB or SQLitePCL.raw.SQLITE_FORMAT)
        {
            return Say(DatabaseState.Damaged, "is damaged", out found);
        }
    }

    /// <summary>Makes an empty database of the present model.</summary>
    /// <param name="fill">Puts rows into it before it takes its place.</param>
    public async Task MakeAsync(Func<StudioDb, Task>? fill = null, CancellationToken cancel = default)
    {
        Remove(Passing);
        await using (var db = Context(Passing))
        {
            await db.Database.MigrateAsync(cancel);
            if (fill is not null)
                await fill(db);
        }
        TakePlace();
    }

    /// <summary>Brings the database to the present model. Where it has it already, nothing is written.</summary>
    /// <returns>Whether anything was done.</returns>
    /// <exception cref="StudioUnusableException">
    /// A later version of the program wrote it, or the upgrade failed; it is as it was.
    /// </exception>
    public async Task<bool> UpgradeAsync(CancellationToken cancel = default)
    {
        await using (var db = Context(path))
        {
            var known = db.Database.GetMigrations().ToHashSet();
            var applied = (await db.Database.GetAppliedMigrationsAsync(cancel)).ToList();
            if (applied.Find(a => string.CompareOrdinal(a, known.Min()) < 0) is { } former)
                throw new StudioUnusableException(
                    $"The records in {path} were written before the first version of Chronotype that was given out ({former}), and no version "
                        + $"brings them over. Nothing was changed; take what you need out of them with the version that wrote them."
                );
            if (applied.Find(a => !known.Contains(a)) is { } later)
                throw new StudioUnusableException(
                    $"The records in {path} were written by a later version of Chronotype ({later}). Nothing was changed; use that version."
                );
            if (applied.Count == known.Count)
                return false;
        }
        SqliteConnection.ClearAllPools();
        OfOneFile();
        KeepBefore();
        try
        {
            Remove(Passing);
            Copy(path, Passing);
            await using (var db = Context(Passing))
            {
                // Two processes never hold the folder, so a lock that is there is that of one that was killed.
                if (await HasTableAsync(db, "__EFMigrationsLock", cancel))
                    await db.Database.ExecuteSqlRawAsync("""DELETE FROM "__EFMigrationsLock" """, cancel);
                await db.Database.OpenConnectionAsync(cancel);
                RecordMirror.NoteChangesNoMore((SqliteConnection)db.Database.GetDbConnection());
                FindIndex.Drop((SqliteConnection)db.Database.GetDbConnection());
                await db.Database.MigrateAsync(cancel);
                // A copy of a record tells its columns, so copies are made anew when these change.
                RecordMirror.NoteEverything((SqliteConnection)db.Database.GetDbConnection());
                if (Scalar((SqliteConnection)db.Database.GetDbConnection(), "PRAGMA quick_check(1)") is not "ok")
                    throw new InvalidDataException("The new database is not whole.");
            }
        }
        catch (Exception e)
            when (e is SqliteException or InvalidDataException or DbUpdateException or InvalidOperationException or FormatException)
        {
            SqliteConnection.ClearAllPools();
            Remove(Passing);
            throw new StudioUnusableException(
                $"The records in {path} could not be brought to this version of Chronotype ({e.Message.TrimEnd('.')}). They are as "
                    + $"they were; start the version that wrote them, or tell us.",
                e
            );
        }
        TakePlace();
        return true;
    }

    /// <summary>Moves what lies at the database's place aside, under a dated name.</summary>
    /// <returns>The new path; null where nothing was there.</returns>
    public string? SetAside()
    {
        if (Beside.All(b => !File.Exists(path + b)) && !File.Exists(path))
            return null;
        var aside = Path.Combine(folder, $"{Stem}-set-aside-{Stamp()}{Path.GetExtension(path)}");
        foreach (var extension in Beside.Append("").Where(e => File.Exists(path + e)))
            File.Move(path + extension, aside + extension);
        FolderFlush.Flush(folder);
        return aside;
    }

    /// <summary>A database of one studio on a connection of its own, which is closed with it.</summary>
    public StudioDb Context(string at)
    {
        // One that is not there yet is made.
        var opening = new SqliteConnectionStringBuilder(RecordConnection.Text(at, ConnectionUse.Alone))
        {
            Mode = SqliteOpenMode.ReadWriteCreate,
        };
        var options = new DbContextOptionsBuilder<StudioDb>()
            .UseSqlite(opening.ConnectionString)
            .AddInterceptors(RecordConnection.Setting(ConnectionUse.Alone));
        configure?.Invoke(options);
        return new StudioDb(options.Options) { Sees = null };
    }

    private string Stem => Path.GetFileNameWithoutExtension(path);

    private string Stamp() => time.GetUtcNow().ToString("yyyyMMdd-HHmmssfff", CultureInfo.InvariantCulture);

    private static DatabaseState Say(DatabaseState state, string what, out string found)
    {
        found = what;
        return state;
    }

    private static object? Scalar(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return command.ExecuteScalar();
    }

    private static async Task<bool> HasTableAsync(StudioDb db, string table, CancellationToken cancel) =>
        await db
            .Database.SqlQuery<long>($"SELECT count(*) AS Value FROM sqlite_schema WHERE type = 'table' AND name = {table}")
            .SingleAsync(cancel) > 0;

    // What stands in the log is written into the file, and the log goes, so that a copy of the one file is all of it.
    private void OfOneFile()
    {
        using var connection = RecordConnection.Open(path, ConnectionUse.Alone);
        Scalar(connection, "PRAGMA wal_checkpoint(TRUNCATE)");
        if (Scalar(connection, "PRAGMA journal_mode=DELETE") is not "delete")
            throw new StudioUnusableException(
                $"The records in {path} are in use by another program. Nothing was changed; end that program first."
            );
    }

    private void KeepBefore()
    {
        var kept = Path.Combine(folder, $"{Stem}-before-{Stamp()}{Path.GetExtension(path)}");
        Copy(path, kept + ".new");
        File.Move(kept + ".new", kept);
        foreach (
            var old in Directory
                .GetFiles(folder, $"{Stem}-before-*{Path.GetExtension(path)}")
                .OrderDescending(StringComparer.Ordinal)
                .Skip(KeptBefore)
        )
            File.Delete(old);
    }

    private void TakePlace()
    {
        SqliteConnection.ClearAllPools();
        using (var whole = new FileStream(Passing, FileMode.Open, FileAccess.ReadWrite))
            whole.Flush(flushToDisk: true);
        foreach (var extension in Beside)
            File.Delete(path + extension);
        File.Move(Passing, path, overwrite: true);
        FolderFlush.Flush(folder);
    }

    private static void Copy(string from, string to)
    {
        using var source = new FileStream(from, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
        using var target = new FileStream(to, FileMode.Create, FileAccess.Write);
        source.CopyTo(target);
        target.Flush(flushToDisk: true);
    }

    private static void Remove(string passing)
    {
        foreach (var extension in Beside.Append(""))
            File.Delete(passing + extension);
    }
}
