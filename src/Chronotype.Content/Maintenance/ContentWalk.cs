using Chronotype.Content.Segments;

namespace Chronotype.Content.Maintenance;

/// <summary>Goes through everything that contents consist of. What several of them share is met once.</summary>
internal sealed class ContentWalk(RecordLog records)
{
    private readonly HashSet<Digest> lists = [];

    /// <summary>The places of the records that were met.</summary>
    public HashSet<ulong> Met { get; } = [];

    /// <summary>Told of every record that is met for the first time.</summary>
    public Action<Location>? OnMet { get; init; }

    /// <summary>Told of every part that is missing, or a list that cannot be read; what lies under it is not met.</summary>
    public required Action<RecordUnreadableException> OnUnreadable { get; init; }

    /// <summary>The contents that are kept, with the places of their records.</summary>
    public static IReadOnlyList<KeyValuePair<Digest, Location>> ContentsOf(RecordLog records) =>
        [.. records.AllOf(RecordKind.Content).Where(c => !c.Value.IsDropped).OrderBy(c => c.Value.Place)];

    /// <summary>Meets a content's own record and all that it consists of.</summary>
    public void Visit(Digest content)
    {
        var key = new RecordKey(RecordKind.Content, content);
        try
        {
            // Dropped since it was listed.
            if (records.TryFindRaw(key, out var now) && now.IsDropped)
                return;
            if (!Meet(key))
                return;
            var record = ContentRecord.Read(records.Load(key));
            if (record.Size > 0)
                Visit(record.Root);
        }
        catch (RecordUnreadableException e)
        {
            OnUnreadable(e);
        }
    }

    private void Visit(Part part)
    {
        if (part.Level > 0 && !lists.Add(part.Id))
            return;
        try
        {
            if (!Meet(part.Key) || part.Level == 0)
                return;
            foreach (var below in PartList.Open(records.Load(part.Key), part))
                Visit(below);
        }
        catch (RecordUnreadableException e)
        {
            OnUnreadable(e);
        }
    }

    private bool Meet(RecordKey key)
    {
        if (!records.TryFind(key, out var at))
            throw new RecordUnreadableException(key, null);
        if (!Met.Add(at.Place))
            return false;
        OnMet?.Invoke(at);
        return true;
    }
}
