using Chronotype.Content;
using Chronotype.Content.Files;
using Chronotype.Content.Segments;
using Chronotype.Content.Tiers;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Starting;
using Microsoft.Data.Sqlite;

namespace Chronotype.Storage.Backup;

/// <summary>
/// Copies a studio while people work in it: first the segments, most of which never change and are copied once for ever; then
/// the database as it is at one moment; then what came in meanwhile. What the copied records name is in the copy, and nothing
/// in the copy is taken away before all of the new one is there. It may be stopped at any moment and begun again.
/// </summary>
public sealed class StudioBackup(string from, string to, TimeProvider time)
{
    private const string Content = "content",
        Database = "studio.db",
        Keys = "keys",
        Part = ".part";
    private const int Block = 1 << 20;

    private readonly DiskFiles files = DiskFiles.Instance;
    private readonly string from = Path.GetFullPath(from),
        to = Path.GetFullPath(to);
    private long copied;

    /// <exception cref="StudioUnusableException">There is no studio, or the target is no place for its copy.</exception>
    /// <exception cref="IOException">It could not be read or written. What the target held before is as it was.</exception>
    public BackupRecord Run(IProgress<StoreProgress>? progress = null, CancellationToken cancel = default)
    {
        Check();
        files.CreateFolder(Path.Combine(to, Content, RecordLog.SegmentFolder));
        if (!OperatingSystem.IsWindows())
            File.SetUnixFileMode(to, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        var before = BackupRecord.Read(Path.Combine(to, BackupRecord.InCopy));
        // From the first moment on the folder is known to be this studio's copy, also when it is not whole yet.
        if (before is null)
            Place(BackupRecord.InCopy, new BackupRecord(default, from, to, 0, 0, null).Write());

        using var still = KeepStill.Wait(files, Path.Combine(from, Content), cancel);
        CopySegments(withNewest: false, progress, cancel);
        var at = time.GetUtcNow();
        CopyDatabase(Path.Combine(to, Database + Part));
        var kept = CopySegments(withNewest: true, progress, cancel);
        CopyKeys();
        CopySettings();
        SegmentManifest.Write(files, Path.Combine(to, Content), kept);
        foreach (var beside in new[] { "-wal", "-shm", "-journal" })
            File.Delete(Path.Combine(to, Database + beside));
        File.Move(Path.Combine(to, Database + Part), Path.Combine(to, Database), overwrite: true);
        FolderFlush.Flush(to);
        Clear([.. kept.Select(k => SegmentSet.NameOf(k.Key, k.Value))]);
        var record = new BackupRecord(at, from, to, BytesOf(to), copied, null);
        Place(BackupRecord.InCopy, record.Write());
        Tell(record);
        return record;
    }

    /// <summary>Writes down, on both sides, that a backup was verified.</summary>
    public BackupRecord NoteVerified(BackupRecord record)
    {
        record = record with { Verified = time.GetUtcNow() };
        Place(BackupRecord.InCopy, record.Write());
        Tell(record);
        return record;
    }

    private void Check()
    {
        if (!File.Exists(Path.Combine(from, Database)))
            throw new StudioUnusableException($"There is no studio in {from}, so nothing was copied.");
        if (IsWithin(to, from) || IsWithin(from, to))
            throw new StudioUnusableException(
                $"{to} lies in the studio's own folder, or around it. Nothing was copied; name another place, best on another disk."
            );
        if (!Directory.Exists(to) || !Directory.EnumerateFileSystemEntries(to).Any())
            return;
        if (BackupRecord.Read(Path.Combine(to, BackupRecord.InCopy)) is not { } there)
            throw new StudioUnusableException(
                $"{to} is not empty and holds no backup of Chronotype's, so nothing was copied. Name an empty folder."
            );
        if (there.From != from && !SharesSegments())
            throw new StudioUnusableException(
                $"{to} holds the backup of another studio ({there.From}), so nothing was copied. Name another folder."
            );
    }

    // A studio that was moved to another folder has the segments that it had.
    private bool SharesSegments()
    {
        var folder = Path.Combine(Content, RecordLog.SegmentFolder);
        return files.List(Path.Combine(from, folder)).Intersect(files.List(Path.Combine(to, folder))).Any();
    }

    private static bool IsWithin(string inner, string outer) =>
        (inner + Path.DirectorySeparatorChar).StartsWith(outer + Path.DirectorySeparatorChar, StringComparison.Ordinal);

    /// <summary>Segments that the studio must have and has lost, by name. What the copy holds of them stays.</summary>
    public IReadOnlyList<string> Lost { get; private set; } = [];

    /// <returns>The numbers and nonces of the segments that there are, or must be.</returns>
    private Dictionary<uint, ulong> CopySegments(bool withNewest, IProgress<StoreProgress>? progress, CancellationToken cancel)
    {
        var configuration = StoreConfiguration.Of(Path.Combine(from, Content));
        using var tier = configuration.Tier is { } place ? new ObjectTier(place) : null;
        using var segments = new SegmentSet(files, Path.Combine(from, Content, RecordLog.SegmentFolder), tier);
        segments.Load();
        var folder = Path.Combine(to, Content, RecordLog.SegmentFolder);
        var lost = segments.Missing.ToList();
        var newest = segments.Numbers.LastOrDefault();
        long done = 0,
            total = segments.TotalBytes;
        foreach (var number in segments.Numbers)
        {
            cancel.ThrowIfCancellationRequested();
            var (name, length) = (SegmentSet.NameOf(number, segments.NonceOf(number)), segments.LengthOf(number));
            var target = new FileInfo(Path.Combine(folder, name));
            // Only the newest is still written to; its length alone would not tell. Any other that has become shorter was cut off
            // by damage, and the copy has the whole of it.
            if (target.Exists && target.Length > length && number != newest)
                lost.Add(name);
            else if (number == newest ? withNewest : !target.Exists || target.Length != length)
                CopySegment(segments, number, length, target.FullName, cancel);
            progress?.Report(new StoreProgress(done += length, total));
        }
        FolderFlush.Flush(folder);
        Lost = lost;
        return segments.Expected;
    }

    private void CopySegment(SegmentSet segments, uint number, long length, string target, CancellationToken cancel)
    {
        var buffer = new byte[Block];
        using (var part = new FileStream(target + Part, FileMode.Create, FileAccess.Write, FileShare.None, bufferSize: 0))
        {
            for (long at = 0; at < length; )
            {
                cancel.ThrowIfCancellationRequested();
                var read = segments.Read(number, buffer.AsSpan(0, (int)Math.Min(Block, length - at)), at);
                if (read == 0)
                    throw new IOException(
                        $"The segment {number} ended before its end. Nothing of the copy before was touched; begin again."
                    );
                part.Write(buffer, 0, read);
                at += read;
            }
            part.Flush(flushToDisk: true);
        }
        File.Move(target + Part, target, overwrite: true);
        copied += length;
    }

    private void CopyDatabase(string target)
    {
        File.Delete(target);
        using (var source = RecordConnection.Open(Path.Combine(from, Database), ConnectionUse.Alone))
        using (var copy = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = target, Pooling = false }.ToString()))
        {
            copy.Open();
            Copy(source, copy);
            using var command = copy.CreateCommand();
            // One file, which needs nothing beside it.
            command.CommandText = "PRAGMA journal_mode=DELETE";
            command.ExecuteNonQuery();
        }
        using var whole = new FileStream(target, FileMode.Open, FileAccess.ReadWrite);
        whole.Flush(flushToDisk: true);
        copied += whole.Length;
    }

    // Somebody may hold the records in this very moment; the copy is begun anew then.
    private static void Copy(SqliteConnection source, SqliteConnection copy)
    {
        for (var left = 40; ; left--)
        {
            try
            {
                source.BackupDatabase(copy);
                return;
            }
            catch (SqliteException e) when (left > 0 && e.SqliteErrorCode is SQLitePCL.raw.SQLITE_BUSY or SQLitePCL.raw.SQLITE_LOCKED)
            {
                Thread.Sleep(250);
            }
        }
    }

    private void CopyKeys()
    {
        var target = Path.Combine(to, Keys);
        files.CreateFolder(target);
        var there = Directory.Exists(Path.Combine(from, Keys)) ? Directory.GetFiles(Path.Combine(from, Keys)) : [];
        foreach (var key in there)
            CopyFile(key, Path.Combine(target, Path.GetFileName(key)));
        foreach (var old in Directory.GetFiles(target).Where(f => there.All(k => Path.GetFileName(k) != Path.GetFileName(f))))
            File.Delete(old);
        FolderFlush.Flush(target);
    }

    // A copy lies whole in one place, whatever beyond this disk the studio uses.
    private void CopySettings()
    {
        var settings = Path.Combine(from, Content, "store.json");
        if (File.Exists(settings) && StoreConfiguration.Of(Path.Combine(from, Content)).Tier is null)
            CopyFile(settings, Path.Combine(to, Content, "store.json"));
        else
            File.Delete(Path.Combine(to, Content, "store.json"));
    }

    private static void CopyFile(string source, string target)
    {
        using (var read = new FileStream(source, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete))
        using (var part = new FileStream(target + Part, FileMode.Create, FileAccess.Write))
        {
            read.CopyTo(part);
            part.Flush(flushToDisk: true);
        }
        File.Move(target + Part, target, overwrite: true);
    }

    // What was needed by the records before goes only now, and the index, which is made anew from the segments.
    private void Clear(HashSet<string> kept)
    {
        foreach (
            var old in Directory
                .GetFiles(Path.Combine(to, Content, RecordLog.SegmentFolder))
                .Where(f => !kept.Contains(Path.GetFileName(f)))
        )
            File.Delete(old);
        if (Directory.Exists(Path.Combine(to, Content, RecordLog.IndexFolder)))
            Directory.Delete(Path.Combine(to, Content, RecordLog.IndexFolder), recursive: true);
    }

    private void Place(string name, byte[] bytes) => WholeFile.Write(files, to, name, bytes);

    private void Tell(BackupRecord record)
    {
        try
        {
            WholeFile.Write(files, from, BackupRecord.InStudio, record.Write());
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // The backup is whole; only the studio's page does not tell of it.
        }
    }

    private static long BytesOf(string folder) =>
        new DirectoryInfo(folder).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length);
}
