using Chronotype.Content.Files;
using Microsoft.Data.Sqlite;

namespace Chronotype.Storage.Connections;

/// <summary>A change was committed, and the disk did not keep it: whoever made it must be told that it may be gone.</summary>
public sealed class CommitNotFlushedException(Exception inner)
    : IOException(
        "The disk failed while this was being recorded, so it may not last. Everything recorded before is safe. Do it once more.",
        inner
    );

/// <summary>
/// Makes commits durable. SQLite's write-ahead log takes a commit in whole (sqlite.org/wal.html), and with <c>synchronous=NORMAL</c> it is
/// flushed by nobody until a checkpoint; here it is flushed after the commit, outside of the writers' turn, once for all who wait at the
/// same moment. SQLite itself flushes all that a checkpoint moves into the database meanwhile.
/// </summary>
public sealed class CommitFlush
{
    private readonly string database;
    private readonly Action<string> flush;
    private readonly SharedRun shared;

    // The log's file, once its entry in the folder is known to be on the disk.
    private DateTime known;
    private bool hasFailed;
    private long flushes;

    /// <param name="database">The file of the records.</param>
    /// <param name="flush">Makes a file durable; null for the system's own call (fsync).</param>
    public CommitFlush(string database, Action<string>? flush = null)
    {
        (this.database, this.flush) = (database, flush ?? FlushFile);
        shared = new SharedRun(() =>
        {
            Run();
            return Task.CompletedTask;
        });
    }

    /// <summary>How often the log was flushed.</summary>
    public long Flushes => Interlocked.Read(ref flushes);

    /// <summary>When it returns, all that was committed before the call is on the disk.</summary>
    /// <exception cref="CommitNotFlushedException">It is not.</exception>
    public Task FlushAsync() => shared.RunAsync();

    private void Run()
    {
        try
        {
            // After a failed flush the system may take for clean what never reached the disk, so no later flush of the log tells anything;
            // moving all of it into the database reads it back and writes it anew.
            if (hasFailed)
                MoveAll();
            else
                FlushLog();
            Interlocked.Increment(ref flushes);
            hasFailed = false;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or SqliteException)
        {
            if (hasFailed)
                throw new CommitNotFlushedException(e);
            hasFailed = true;
            Run();
        }
    }

    private void FlushLog()
    {
        var log = new FileInfo(database + "-wal");
        // Where there is none, all of it was moved into the database and flushed there when the last connection closed.
        if (!log.Exists)
            return;
        try
        {
            flush(log.FullName);
        }
        catch (FileNotFoundException)
        {
            return;
        }
        if (known == log.CreationTimeUtc)
            return;
        FolderFlush.Flush(Path.GetDirectoryName(database)!);
        known = log.CreationTimeUtc;
    }

    private void MoveAll()
    {
        using var connection = RecordConnection.Open(database, ConnectionUse.Alone);
        using var command = connection.CreateCommand();
        command.CommandText = "PRAGMA wal_checkpoint(TRUNCATE)";
        using var reader = command.ExecuteReader();
        if (!reader.Read() || reader.GetInt64(0) != 0)
            throw new IOException("Somebody reads the records just now, so that what was committed could not be written anew.");
    }

    private static void FlushFile(string path)
    {
        using var file = File.OpenHandle(path, FileMode.Open, FileAccess.ReadWrite, FileShare.ReadWrite | FileShare.Delete);
        RandomAccess.FlushToDisk(file);
    }
}
