using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Studio.Readers;
using Microsoft.Data.Sqlite;

namespace Chronotype.Web;

/// <summary>What an exception that nobody expected is to whoever sent the request.</summary>
/// <param name="Status">As RFC 9110 numbers it.</param>
/// <param name="Sentence">What happened, that nothing was lost, and what to do.</param>
public sealed record Failure(int Status, string Heading, string Sentence)
{
    public static Failure Of(Exception? exception)
    {
        for (var e = exception; e is not null; e = e.InnerException)
        {
            switch (e)
            {
                case CommitNotFlushedException failed:
                    return new(StatusCodes.Status503ServiceUnavailable, "The disk did not keep it", failed.Message);
                case StorageFullException or SqliteException { SqliteErrorCode: SQLitePCL.raw.SQLITE_FULL }:
                case IOException io when DataFolder.IsFull(io):
                    return new(
                        StatusCodes.Status507InsufficientStorage,
                        "The disk is full",
                        "The disk that holds the studio’s data is full, so this was not done. Nothing that was stored before is "
                            + "lost; make room and send it again."
                    );
                case SqliteException { SqliteErrorCode: SQLitePCL.raw.SQLITE_BUSY or SQLitePCL.raw.SQLITE_LOCKED }:
                    return new(
                        StatusCodes.Status503ServiceUnavailable,
                        "Somebody else is writing",
                        "The records were busy for too long, so this was not done. Nothing is lost; send it again."
                    );
                case UnauthorizedAccessException:
                case SqliteException
                {
                    SqliteErrorCode: SQLitePCL.raw.SQLITE_READONLY or SQLitePCL.raw.SQLITE_CANTOPEN or SQLitePCL.raw.SQLITE_PERM
                }:
                    return new(
                        StatusCodes.Status503ServiceUnavailable,
                        "The data folder cannot be written",
                        "The account that runs the studio may not write there any more, so this was not done. Nothing that was stored before is "
                            + "lost; give the folder back to that account and send it again."
                    );
                case SqliteException
                {
                    SqliteErrorCode: SQLitePCL.raw.SQLITE_IOERR or SQLitePCL.raw.SQLITE_CORRUPT or SQLitePCL.raw.SQLITE_NOTADB
                }:
                    return new(
                        StatusCodes.Status503ServiceUnavailable,
                        "The records could not be read or written",
                        "The disk or the records on it failed, so this was not done. Whoever looks after the studio finds more in the log; what is "
                            + "kept in the content store can be had back with ./chronotype studio rebuild."
                    );
                case MissingContentException or DamagedContentException:
                    return new(
                        StatusCodes.Status503ServiceUnavailable,
                        "This file is damaged on disk here",
                        "Some bytes of it are not as they were stored, so it is not given out. Everything else is untouched. Hand in "
                            + "any copy of it on the Storage page, or save the same file here once more, and it is whole again."
                    );
                case ReaderFailedException:
                    return new(
                        StatusCodes.Status503ServiceUnavailable,
                        "It could not be read just now",
                        $"{e.Message} Nothing is lost; load the page again."
                    );
                case BadHttpRequestException bad:
                    return new(
                        bad.StatusCode,
                        "That request was cut short or is not well formed",
                        "Nothing was done and nothing is lost. Load the page anew and send it again."
                    );
                case InvalidDataException:
                    return new(
                        StatusCodes.Status400BadRequest,
                        "That form could not be read",
                        "It was cut short or holds more than any form here, so nothing was done and nothing is lost. Load the page "
                            + "anew and send it again."
                    );
            }
        }
        return new(
            StatusCodes.Status500InternalServerError,
            "Something went wrong here",
            "It was written to the log. What was stored before is untouched; if you were sending a file, look whether it arrived "
                + "before you send it again."
        );
    }
}
