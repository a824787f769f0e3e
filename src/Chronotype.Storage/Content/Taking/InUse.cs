using Chronotype.Storage.Content.Segments;

namespace Chronotype.Storage.Content.Taking;

/// <summary>
/// Knows which records the contents rely on that are staged and not yet committed, so that compaction, which may run at the
/// same time, takes none of them away.
/// </summary>
internal sealed class InUse(RecordStore records) : IDisposable
{
    // Taken for reading to look a record up and note it, for writing to change what the answer means.
    private readonly ReaderWriterLockSlim gate = new();
    private readonly HashSet<Stage> stages = [];
    private HashSet<ulong>? noted;
    private IReadOnlySet<uint> victims = new HashSet<uint>();

    /// <summary>One content on its way in.</summary>
    public sealed class Stage(InUse owner) : IDisposable
    {
        internal HashSet<uint> Segments { get; } = [];

        /// <summary>Finds a record that can be relied on until the stage is disposed of.</summary>
        public bool TryFind(RecordKey key, out Location location) => owner.TryFind(this, key, out location);

        /// <summary>Appends records that are kept until the stage is disposed of.</summary>
        public Appended Append(RecordBatch batch) => owner.Append(this, batch);

        public void Dispose()
        {
            lock (owner.stages) owner.stages.Remove(this);
        }
    }

    public Stage Begin()
    {
        var stage = new Stage(this);
        lock (stages) stages.Add(stage);
        return stage;
    }

    /// <summary>From now on notes every record that is relied on.</summary>
    /// <returns>The segments that what is staged now relies on.</returns>
    public HashSet<uint> BeginNoting()
    {
        gate.EnterWriteLock();
        try
        {
            noted = [];
            lock (stages) return [.. stages.SelectMany(s => s.Segments)];
        }
        finally
        {
            gate.ExitWriteLock();
        }
    }

    /// <summary>From now on only records in <paramref name="live"/> can be relied on in the segments that are to go.</summary>
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

    public void Dispose() => gate.Dispose();

    private bool TryFind(Stage stage, RecordKey key, out Location location)
    {
        gate.EnterReadLock();
        try
        {
            if (!records.TryFind(key, out location)) return false;
            if (noted is not null)
            {
                lock (noted)
                {
                    if (victims.Contains(location.Segment)) return noted.Contains(location.Place);
                    if (victims.Count == 0) noted.Add(location.Place);
                }
            }
            lock (stages) stage.Segments.Add(location.Segment);
            return true;
        }
        finally
        {
            gate.ExitReadLock();
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
                for (var segment = appended.First; segment <= appended.Last; segment++) stage.Segments.Add(segment);
            }
            return appended;
        }
        finally
        {
            gate.ExitReadLock();
        }
    }
}
