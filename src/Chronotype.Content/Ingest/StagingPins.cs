using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content.Ingest;

/// <summary>
/// Knows which records the contents rely on that are staged and not yet committed, so that compaction, which may run at the
/// same time, takes none of them away.
/// </summary>
internal sealed class StagingPins(RecordLog records) : IDisposable
{
    // Taken for reading to look a record up and note it, for writing to change what the answer means.
    private readonly ReaderWriterLockSlim gate = new();
    private readonly HashSet<Stage> stages = [];
    private HashSet<ulong>? noted;
    private bool isDisposed;
    private IReadOnlySet<uint> victims = new HashSet<uint>();

    /// <summary>One content on its way in.</summary>
    public sealed class Stage(StagingPins owner) : IDisposable
    {
        // Below it, compaction may do it some day.
        private const long WorthTakingBack = 1 << 20;

        private (uint Segment, long From, long To) newest;

        internal HashSet<uint> Segments { get; } = [];

        /// <summary>Whether what was appended is relied on from now on, and stays.</summary>
        public bool IsKept { get; set; }

        /// <summary>The content that was staged; null before that is known.</summary>
        internal ContentHash? Leased { get; private set; }

        /// <summary>Nobody takes this content back until the stage is disposed of, whether it was there already or not.</summary>
        public void Lease(ContentHash content)
        {
            lock (owner.stages)
                Leased = content;
        }

        /// <summary>Finds a record that can be relied on until the stage is disposed of.</summary>
        public bool TryFind(RecordKey key, out Location location) => owner.TryFind(this, key, out location);

        /// <summary>Appends records that are kept until the stage is disposed of.</summary>
        public void Append(RecordBatch batch)
        {
            var appended = owner.Append(this, batch);
            var goesOn = appended.First == newest.Segment && appended.From == newest.To && appended.Last == newest.Segment;
            newest = goesOn
                ? newest with
                {
                    To = appended.To,
                }
                : (appended.Last, appended.First == appended.Last ? appended.From : SegmentFormat.SegmentHeaderBytes, appended.To);
        }

        public void Dispose()
        {
            bool isOpen;
            lock (owner.stages)
                isOpen = owner.stages.Remove(this);
            if (isOpen && !IsKept && newest.To - newest.From >= WorthTakingBack)
                owner.TakeBack(newest.Segment, newest.From, newest.To);
        }
    }

    public Stage Begin()
    {
        var stage = new Stage(this);
        lock (stages)
            stages.Add(stage);
        return stage;
    }

    /// <summary>Whether somebody has staged a content and still holds it.</summary>
    public bool IsLeased(ContentHash content)
    {
        lock (stages)
            return stages.Any(s => s.Leased == content);
    }

    /// <summary>From now on notes every record that is relied on.</summary>
    /// <returns>The segments that what is staged now relies on.</returns>
    public HashSet<uint> BeginNoting()
    {
        gate.EnterWriteLock();
        try
        {
            noted = [];
            lock (stages)
                return [.. stages.SelectMany(s => s.Segments)];
        }
        finally
        {
            gate.ExitWriteLock();
        }
    }

    /// <summary>From now on only records in <paramref name="live"/> can be relied on in the segments that are to go.</summary>
    /// <param name="going">The segments' numbers.</param>
    /// <param name="live">The places that are kept; those that were noted are added.</param>
    public void Freeze(IReadOnlySet<uint> going, HashSet<ulong> live)
    {
        gate.EnterWriteLock();
        try
        {
            live.UnionWith(noted!);
            (noted, victims) = (live, going);
        }
        finally
        {
            gate.ExitWriteLock();
        }
    }

    public void EndNoting()
    {
        gate.EnterWriteLock();
        (noted, victims) = (null, new HashSet<uint>());
        gate.ExitWriteLock();
    }

    public void Dispose()
    {
        isDisposed = true;
        gate.Dispose();
    }

    private bool TryFind(Stage stage, RecordKey key, out Location location)
    {
        gate.EnterReadLock();
        try
        {
            if (!records.TryFind(key, out location) || records.IsDamaged(location))
                return false;
            if (noted is not null)
            {
                lock (noted)
                {
                    if (victims.Contains(location.Segment))
                        return noted.Contains(location.Place);
                    if (victims.Count == 0)
                        noted.Add(location.Place);
                }
            }
            lock (stages)
                stage.Segments.Add(location.Segment);
            return true;
        }
        finally
        {
            gate.ExitReadLock();
        }
    }

    /// <summary>Frees at once what was appended last, by a stage that was given up, unless another found it meanwhile.</summary>
    private void TakeBack(uint segment, long from, long to)
    {
        // A store that was closed before its last stage was given up needs its room no more.
        if (isDisposed)
            return;
        gate.EnterWriteLock();
        try
        {
            lock (stages)
            {
                if (stages.Any(s => s.Segments.Contains(segment)))
                    return;
            }
            // Bytes that are being copied stay; compaction frees them.
            using var still = records.TryHoldStill();
            if (still is not null)
                records.Writer.TakeBack(segment, from, to, records.Index.Covered);
        }
        catch (IOException)
        {
            // It stays for compaction.
        }
        finally
        {
            gate.ExitWriteLock();
        }
    }

    private Appended Append(Stage stage, RecordBatch batch)
    {
        gate.EnterReadLock();
        try
        {
            var appended = records.Append(batch);
            lock (stages)
            {
                for (var segment = appended.First; segment <= appended.Last; segment++)
                    stage.Segments.Add(segment);
            }
            return appended;
        }
        finally
        {
            gate.ExitReadLock();
        }
    }
}
