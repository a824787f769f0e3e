using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Maintenance;

namespace Chronotype.Web.Words;

/// <summary>What goes on in the queue, in words.</summary>
public static class JobWords
{
    public static string Of(JobKind kind) =>
        kind switch
        {
            JobKind.ReadContent => "Reading what is inside",
            JobKind.DrawPreview => "Drawing a preview",
            JobKind.CompareContents => "Measuring what changed",
            JobKind.CutTiles => "Cutting a picture for zooming",
            JobKind.PrepareSound => "Preparing a sound to be shown and played",
            JobKind.MakeOutput => "Making an output",
            JobKind.MatchOutput => "Finding the version that an output is of",
            JobKind.MendSpec => "Converting a file to the spec",
            JobKind.PutParts => "Putting parts of another piece in",
            JobKind.KeepBySetting => "Keeping a save",
            JobKind.VerifyStore => "Verifying",
            JobKind.VerifySample => "Verifying a sample",
            JobKind.CompactStore => "Freeing",
            JobKind.EndGrace => "Ending grace periods",
            JobKind.CountStorage => "Counting what it takes on disk",
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "No one has found words for it."),
        };

    /// <summary>What is done just now, how far it is and how long it still takes, once that can be told.</summary>
    public static string Progress(Job job, DateTimeOffset now)
    {
        var what = Of(job.Kind);
        if (job.State == JobState.Waiting)
            return $"Waiting for its turn: {char.ToLowerInvariant(what[0])}{what[1..]}…";
        if (job is not { Total: > 0, Done: > 0, StartedAt: { } started })
            return $"{what}…";
        var share = Math.Min(1, (double)job.Done / job.Total);
        var left = (now - started) * (1 - share) / share;
        return share < 0.02 ? $"{what}…" : $"{what}: {share * 100:0} %, {Left(left)} left";
    }

    private static string Left(TimeSpan left) =>
        left.TotalSeconds < 1.5 ? "a moment"
        : left.TotalSeconds < 90 ? $"about {left.TotalSeconds:0} s"
        : $"about {left.TotalMinutes:0} min";

    /// <summary>Why something that is looked at could not be made, and what to do.</summary>
    /// <param name="fault">What is wrong with the file; null where that is not why.</param>
    /// <param name="nothing">What is said where the file simply has nothing of it.</param>
    public static string NotMade(JobError error, FileFault? fault, string nothing) =>
        error switch
        {
            JobError.Damaged => "The content of this save is damaged on disk here. Its page says how to mend it.",
            JobError.Full => "The disk is full, so this cannot be prepared. Nothing is lost; make room and load the page again.",
            not JobError.None => "This could not be prepared just now. Load the page again.",
            _ => fault is null ? nothing : FactWords.Of(fault),
        };

    /// <summary>Why a job was not done, and what to do.</summary>
    public static string Of(JobError error) =>
        error switch
        {
            JobError.None => "it was stopped. Ask for it again when you want it.",
            JobError.Disk => "the disk could not be read or written. Nothing is lost; it is tried again by itself.",
            JobError.Damaged => "a content that it needs is damaged on disk here. The Storage page says which, and how to mend it.",
            JobError.Full => "the disk is full. Nothing is lost; make room and try it again.",
            JobError.Records => "the records were busy or could not be read. Nothing is lost; it is tried again by itself.",
            JobError.Refused =>
                "something that it needs was deleted, moved or changed meanwhile. Nothing is lost; look at it, and try it again.",
            JobError.Unexpected => "something happened that nobody thought of. Nothing is lost; it was written to the log.",
            _ => throw new ArgumentOutOfRangeException(nameof(error), error, "No one has found words for it."),
        };

    /// <summary>What compacting came to.</summary>
    public static string Of(Compacted result)
    {
        var dropped =
            result.Dropped == 0
                ? ""
                : $" {DisplayText.Count(result.Dropped, "content that no save names was", "contents that no save names were")} let go.";
        var kept =
            result.Kept == 0
                ? ""
                : $" {DisplayText.Count(result.Kept, "segment holds", "segments hold")} something damaged that is still needed, and "
                    + $"stays as it is.";
        return $"{DisplayText.Size(result.Freed)} were freed.{dropped}{kept}";
    }
}
