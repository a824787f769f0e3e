using System.Xml;
using Chronotype.Content;
using Chronotype.Storage.Backup;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Finding;
using Chronotype.Storage.Mirror;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.Logging;

namespace Chronotype.Storage.Starting;

/// <summary>
/// Brings a studio's data to where work can begin: the database is there, whole, of the present model, belongs to the content beside it,
/// and knows all that the copies of its records tell. Anything else is said, and nothing is changed.
/// </summary>
public sealed class StudioStart(DataFolder data, ContentStore store, RecordMirror mirror, TimeProvider time, ILogger<StudioStart> log)
{
    /// <summary>So many contents are looked for, to see whether the records are those of this content.</summary>
    private const int Sample = 200;

    /// <exception cref="StudioUnusableException">The message is for a person: what was found, and how to go on.</exception>
    public async Task RunAsync(CancellationToken cancel = default)
    {
        try
        {
            CheckKeys();
            await PrepareAsync(cancel);
        }
        catch (SqliteException e)
        {
            throw new StudioUnusableException(
                e.SqliteErrorCode switch
                {
                    SQLitePCL.raw.SQLITE_FULL =>
                        $"The disk that holds {data.Root} is full. Nothing was changed and nothing is lost; make room and start again.",
                    SQLitePCL.raw.SQLITE_READONLY or SQLitePCL.raw.SQLITE_CANTOPEN or SQLitePCL.raw.SQLITE_PERM =>
                        $"The records in {data.Database} cannot be written by this account. Nothing was changed; give the folder to "
                            + $"the account that runs Chronotype.",
                    SQLitePCL.raw.SQLITE_BUSY or SQLitePCL.raw.SQLITE_LOCKED =>
                        $"The records in {data.Database} are in use by another program. Nothing was changed; end that program first.",
                    SQLitePCL.raw.SQLITE_CORRUPT or SQLitePCL.raw.SQLITE_NOTADB => Lost("are damaged"),
                    _ => $"The records in {data.Database} could not be opened ({e.Message.TrimEnd('.')}). Nothing was changed.",
                },
                e
            );
        }
        catch (UnauthorizedAccessException e)
        {
            throw new StudioUnusableException(
                $"Something in {data.Root} cannot be used by this account ({e.Message.TrimEnd('.')}). Nothing was changed; give the "
                    + $"folder to the account that runs Chronotype.",
                e
            );
        }
        var (taken, damaged) = await FolderLayout.TakeOverAsync(store, cancel: cancel);
        if (taken > 0)
            log.LogInformation("{Taken} files of an older layout were taken into the content store.", taken);
        foreach (var file in damaged)
            log.LogError("{File} is not what its name says, so it was left where it is.", file);
    }

    private async Task PrepareAsync(CancellationToken cancel)
    {
        var database = new DatabaseFile(data.Database, time);
        switch (database.Look(out var found))
        {
            case DatabaseState.None when store.HasContents || FolderLayout.IsThere(store):
                throw new StudioUnusableException(Lost("are missing"));
            case DatabaseState.None:
                await database.MakeAsync(cancel: cancel);
                break;
            case DatabaseState.Sound:
                var isUpgraded = await database.UpgradeAsync(cancel);
                if (isUpgraded)
                    log.LogInformation("The records were brought to the present version; the file from before lies beside them.");
                break;
            default:
                throw new StudioUnusableException(Lost("are not whole", $" (the file {found})"));
        }
        using (var connection = RecordConnection.Open(data.Database, ConnectionUse.Alone))
        {
            CheckOrigin(connection);
            // Readers do not wait for the writer.
            RecordMirror.Run(connection, "PRAGMA journal_mode=WAL");
            RecordMirror.NoteChanges(connection);
            FindIndex.Prepare(connection);
            PlayedBack = new RecordPlayback(store, log).Run(connection);
            CheckFit(connection);
            // The file by which a backup tells of itself comes back with it.
            var copied = Path.Combine(data.Root, BackupRecord.InCopy);
            if (File.Exists(copied))
                File.Move(copied, Path.Combine(data.Root, "restored-from-backup.json"), overwrite: true);
        }
        await mirror.DrainAsync(cancel);
    }

    /// <summary>Changes that this start brought back from the copies beside the content; null for none.</summary>
    public PlayedBack? PlayedBack { get; private set; }

    // Records and content that were never together are worse than none: numbers would be given twice.
    private void CheckOrigin(SqliteConnection connection)
    {
        var known = RecordMirror.Names(connection, """SELECT CAST("Id" AS TEXT) FROM "Studio" """);
        if (store.ReadNotesBeyond("Studio", known).Any())
            throw new StudioUnusableException(
                Lost(known.Count == 0 ? "are empty, though the content tells of a studio" : "are those of another studio", isSound: true)
            );
    }

    private void CheckFit(SqliteConnection connection)
    {
        var hashes = RecordMirror.Names(connection, $"""SELECT "Hash" FROM "SaveFiles" ORDER BY random() LIMIT {Sample}""");
        var missing = hashes.Count(h => !Core.Content.ContentHash.TryParse(h, out var hash) || !store.Has(hash));
        if (hashes.Count > 0 && missing * 2 > hashes.Count)
            throw new StudioUnusableException(
                $"The records in {data.Database} do not belong to the content beside them: of {hashes.Count} files that were looked "
                    + $"for, {missing} are not there. Nothing was changed. Put the content back that belongs to them, or restore the "
                    + $"whole folder from a backup."
            );
    }

    private void CheckKeys()
    {
        if (!Directory.Exists(data.Keys))
            return;
        foreach (var file in Directory.GetFiles(data.Keys, "*.xml"))
        {
            try
            {
                new XmlDocument { XmlResolver = null }.Load(file);
            }
            catch (XmlException e)
            {
                throw new StudioUnusableException(
                    $"The key {file}, which signs who is signed in, is empty or damaged. Nothing was changed. Delete it, and "
                        + $"everybody signs in anew, or restore it from a backup.",
                    e
                );
            }
        }
    }

    private string Lost(string how, string more = "", bool isSound = false) =>
        $"The records of this studio in {data.Database} {how}{more}, while its content is in {data.Content}. Nothing was changed, "
        + $"and nobody can become its owner by it. "
        + $"Restore the folder from a backup, or have the records made anew from the content: ./chronotype studio rebuild --data "
        + $"{data.Root}{(isSound ? " --replace" : "")}";
}
