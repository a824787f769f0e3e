using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content.Maintenance;

/// <summary>Counts exactly what contents take on disk: every record that they need once, its header included.</summary>
internal sealed class Accounting(RecordLog records)
{
    private const int Several = -1;

    /// <summary>Bytes on disk that would be needed by nothing any more if these contents were dropped.</summary>
    public long OnlyHeldBy(IReadOnlySet<ContentHash> contents)
    {
        var mine = contents.Select(Digest.From).ToHashSet();
        var others = new ContentWalk(records) { OnUnreadable = Ignore };
        foreach (var (content, _) in ContentWalk.ContentsOf(records))
        {
            if (!mine.Contains(content))
                others.Visit(content);
        }
        var bytes = 0L;
        var own = new ContentWalk(records)
        {
            OnMet = at =>
            {
                if (!others.Met.Contains(at.Place))
                    bytes += at.RecordBytes;
            },
            OnUnreadable = Ignore,
        };
        foreach (var content in mine)
            own.Visit(content);
        return bytes;
    }

    /// <summary>What each of several groups of contents holds alone, and what it shares with others.</summary>
    public IReadOnlyList<Holding> Of(IReadOnlyList<IReadOnlySet<ContentHash>> groups)
    {
        // The first group that holds a record, or that several do.
        var holders = new Dictionary<ulong, int>();
        var grouped = new HashSet<Digest>();
        var walks = new ContentWalk[groups.Count];
        for (var i = 0; i < groups.Count; i++)
        {
            var group = i;
            walks[i] = new ContentWalk(records)
            {
                OnMet = at => holders[at.Place] = holders.ContainsKey(at.Place) ? Several : group,
                OnUnreadable = Ignore,
            };
            foreach (var content in groups[i].Select(Digest.From))
            {
                grouped.Add(content);
                walks[i].Visit(content);
            }
        }
        var rest = new ContentWalk(records) { OnMet = at => holders[at.Place] = Several, OnUnreadable = Ignore };
        foreach (var (content, _) in ContentWalk.ContentsOf(records))
        {
            if (!grouped.Contains(content))
                rest.Visit(content);
        }
        return [.. walks.Select((_, i) => Sum(groups[i], i, holders))];
    }

    private Holding Sum(IReadOnlySet<ContentHash> group, int index, Dictionary<ulong, int> holders)
    {
        long alone = 0,
            shared = 0;
        var walk = new ContentWalk(records)
        {
            OnMet = at =>
            {
                // A record that was moved meanwhile counts as it would have counted where it stood, as far as that is known.
                if (holders.GetValueOrDefault(at.Place, index) == index)
                    alone += at.RecordBytes;
                else
                    shared += at.RecordBytes;
            },
            OnUnreadable = Ignore,
        };
        foreach (var content in group)
            walk.Visit(Digest.From(content));
        return new Holding(alone, shared);
    }

    // What cannot be found takes no room that could be told.
    private static void Ignore(RecordUnreadableException unreadable) { }
}

/// <summary>What some contents take on disk.</summary>
/// <param name="Alone">Bytes that only they need.</param>
/// <param name="Shared">Bytes that others need as well.</param>
public readonly record struct Holding(long Alone, long Shared);
