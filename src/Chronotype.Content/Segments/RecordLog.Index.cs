using Chronotype.Content.Index;
using Chronotype.Content.Tiers;

namespace Chronotype.Content.Segments;

/// <content>The index kept in step with the segments: at the start, after a crash, beside another process, and made anew.</content>
internal sealed partial class RecordLog
{
    /// <summary>Beside a process that writes, sees the store as it is by now. The one who writes always does.</summary>
    public void LookAgain()
    {
        if (writer is not null)
            return;
        lock (gate)
        {
            changes++;
            Segments.Load();
            LoadIndex();
            Replay(null);
            changes++;
        }
    }

    /// <summary>Makes the index anew from the segments alone.</summary>
    public void Rebuild(IProgress<StoreProgress>? progress = null)
    {
        if (writer is null)
        {
            lock (gate)
                Refill(progress);
        }
        else
        {
            writer.WhenDurable(
                (segment, offset) =>
                {
                    Refill(progress);
                    Index.Checkpoint(segment, offset);
                }
            );
        }
    }

    /// <summary>Writes the index to disk, and moves full segments to the tier. What fails now is tried again the next time.</summary>
    /// <returns>What failed, if anything.</returns>
    public IOException? TryCheckpoint(bool mergeAll = false)
    {
        try
        {
            var active = 0u;
            Writer.WhenDurable(
                (segment, offset) =>
                {
                    active = segment;
                    Index.Checkpoint(segment, offset, mergeAll);
                }
            );
            if (Tier is not null && TryHoldStill() is { } still)
            {
                using (still)
                    foreach (var full in Segments.LocalNumbers.Where(n => n != active))
                        Segments.MoveToTier(full);
            }
            return null;
        }
        catch (IOException e)
        {
            return e;
        }
    }

    private void Open()
    {
        LoadIndex();
        if (writer is not null)
            Segments.DeleteUnbegun();
        var end = Replay(null);
        if (writer is null)
            return;
        if (Index.Covered is (var known, > 0))
            writer.NeverAgain(known);
        Segments.WriteManifest();
        checkedPlaces.WrittenFrom(end.Number, end.Length);
        // What a process that was killed left may be seen and still not be on the disk; from here on it counts as being there.
        if (end.Number > 0)
            Segments.Flush(end.Number);
        // What a crash left at a segment's end stays there, and a new segment is begun: nothing is cut away that cannot be told for sure.
        if (end is { IsResumable: true } && end.Length < FullBytes)
            writer.Resume(end.Number, end.Length, end.Records);
        else if (end is { Number: > 0, IsEnded: false })
            writer.Leave(end.Number, end.WholeUpTo, end.Records);
        Index.Tidy();
    }

    private void LoadIndex()
    {
        for (var tries = 1; ; tries++)
        {
            try
            {
                Index.Load();
                // An index that knows more than there is belongs to other segments, of a backup perhaps.
                if (Index.Covered is var (segment, offset) && Segments.Has(segment) && Segments.LengthOf(segment) < offset)
                    throw new IndexDamagedException("The index knows of records beyond the end of a segment.");
                return;
            }
            catch (IndexDamagedException) when (writer is null && tries < ReadOnlyTries)
            {
                // Beside a writer it may only have changed in this very moment.
                Segments.Load();
            }
            catch (IndexDamagedException e)
            {
                IndexFault = e.Message;
                Index.Clear();
                return;
            }
        }
    }

    private void Refill(IProgress<StoreProgress>? progress)
    {
        if (changes % 2 == 0)
            changes++;
        Index.Clear();
        Replay(progress);
        mustRelearn = false;
        changes++;
    }

    /// <summary>
    /// Takes out of the index what was lost. An older record of a key may count again, so all since the last checkpoint is read.
    /// </summary>
    private void Relearn(uint segment, long from)
    {
        if (changes % 2 == 0)
            changes++;
        mustRelearn = true;
        Index.ForgetRecent();
        Replay(null);
        mustRelearn = false;
        changes++;
    }

    private LastSegment Replay(IProgress<StoreProgress>? progress) =>
        SegmentReplay.Into(Index, Segments, mayWrite: writer is not null, progress);
}
