using Chronotype.Content.Segments;

namespace Chronotype.Content.Streams;

/// <summary>Goes through the chunks of a content in order, from any place in it, reading only the lists on the way there.</summary>
internal sealed class PartCursor(RecordLog records, Part root)
{
    private readonly Stack<(Part[] Parts, int Next)> open = new();
    private bool hasBegun;

    /// <summary>Bytes from the content's beginning to the next chunk.</summary>
    public long Position { get; private set; }

    /// <summary>Goes to the chunk that holds a byte.</summary>
    /// <param name="at">From 0 and below the content's size.</param>
    /// <exception cref="RecordUnreadableException">A list on the way is missing or damaged.</exception>
    public void Seek(long at)
    {
        open.Clear();
        hasBegun = true;
        Position = 0;
        open.Push(([root], 0));
        while (true)
        {
            var (parts, next) = open.Pop();
            while (Position + parts[next].Length <= at)
                Position += parts[next++].Length;
            if (parts[next].Level == 0)
            {
                open.Push((parts, next));
                return;
            }
            open.Push((parts, next + 1));
            open.Push((ListOf(parts[next]), 0));
        }
    }

    /// <summary>Stands nowhere until it is told to go to a place.</summary>
    public void Reset()
    {
        open.Clear();
        (hasBegun, Position) = (true, -1);
    }

    /// <summary>The next chunk; false at the content's end.</summary>
    /// <exception cref="RecordUnreadableException">A list on the way is missing or damaged.</exception>
    public bool Next(out Part chunk)
    {
        if (!hasBegun)
            open.Push(([root], 0));
        hasBegun = true;
        while (open.TryPop(out var top))
        {
            if (top.Next == top.Parts.Length)
                continue;
            open.Push((top.Parts, top.Next + 1));
            chunk = top.Parts[top.Next];
            if (chunk.Level == 0)
            {
                Position += chunk.Length;
                return true;
            }
            open.Push((ListOf(chunk), 0));
        }
        chunk = default;
        return false;
    }

    private Part[] ListOf(Part list) => PartList.Open(records.Load(list.Key), list);
}
