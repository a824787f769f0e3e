namespace Chronotype.Content.Segments;

/// <summary>
/// Which records are known to be on the disk as they should be: those written since the store was opened, those in segments that
/// were verified since, and those that were read lately. Everything else has to be read before it is relied on.
/// </summary>
internal sealed class CheckedPlaces
{
    // About 16 MB of memory; past it, what was read is forgotten and read again.
    private const int MostRead = 400_000;

    private readonly Lock gate = new();
    private readonly HashSet<ulong> read = [];
    private readonly HashSet<uint> whole = [];
    private (uint Segment, long Offset) writtenFrom = (uint.MaxValue, 0);

    /// <summary>All that stands at or behind a place is written by this process.</summary>
    public void WrittenFrom(uint segment, long offset)
    {
        lock (gate)
            writtenFrom = (segment, offset);
    }

    public bool Has(Location at)
    {
        lock (gate)
        {
            return at.Segment > writtenFrom.Segment
                || (at.Segment == writtenFrom.Segment && at.Offset >= writtenFrom.Offset)
                || whole.Contains(at.Segment)
                || read.Contains(at.Place);
        }
    }

    public void Add(Location at)
    {
        lock (gate)
        {
            if (read.Count >= MostRead)
                read.Clear();
            read.Add(at.Place);
        }
    }

    public void AddWhole(uint segment)
    {
        lock (gate)
            whole.Add(segment);
    }

    public void Remove(Location at)
    {
        lock (gate)
        {
            read.Remove(at.Place);
            whole.Remove(at.Segment);
        }
    }
}
