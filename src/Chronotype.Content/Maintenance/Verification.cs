using System.Collections.Concurrent;
using Chronotype.Content.Index;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content.Maintenance;

/// <summary>
/// Reads segments from end to end and holds every payload against its SHA-256, then asks of every content whether all of it is
/// there and whole, then reads the index.
/// </summary>
internal sealed class Verification(RecordLog records, int atOnce)
{
    private readonly ConcurrentDictionary<ulong, byte> bad = new();
    private readonly ConcurrentQueue<DamagedPlace> places = new();
    private readonly Dictionary<Digest, long> lists = [];
    private long read,
        done,
        total;
    private uint newest;

    public Verified Run(double share, IProgress<StoreProgress>? progress, CancellationToken cancel)
    {
        var all = records.Segments.Numbers;
        var numbers = share >= 1 ? all : Sample(all, share);
        total = numbers.Sum(LengthOf);
        newest = all.LastOrDefault();
        var (coveredSegment, coveredOffset) = records.Index.Covered;
        Aside.ForEach(
            numbers,
            atOnce,
            number =>
            {
                try
                {
                    Scan(
                        number,
                        number < coveredSegment ? long.MaxValue
                            : number == coveredSegment ? coveredOffset
                            : 0,
                        progress,
                        cancel
                    );
                }
                catch (SegmentGoneException)
                {
                    // Compacted away meanwhile.
                }
            },
            cancel
        );
        // A manifest that names it is all that is left of it.
        foreach (var missing in records.Segments.Missing)
            places.Enqueue(new DamagedPlace(missing, 0, 0, "the segment is missing"));
        var damaged = share >= 1 || !bad.IsEmpty || !places.IsEmpty ? Contents(cancel) : [];
        var indexFault = VerifyIndex();
        return new Verified(
            share,
            read,
            numbers.Length,
            damaged,
            [.. places.OrderBy(p => p.Segment, StringComparer.Ordinal).ThenBy(p => p.Offset)],
            indexFault
        );
    }

    private static uint[] Sample(uint[] all, double share)
    {
        var drawn = all.ToArray();
        Random.Shared.Shuffle(drawn);
        return drawn[..Math.Clamp((int)Math.Ceiling(all.Length * share), Math.Min(1, all.Length), all.Length)];
    }

    private long LengthOf(uint number) => records.Segments.Has(number) ? records.Segments.LengthOf(number) : 0;

    private void Scan(uint number, long covered, IProgress<StoreProgress>? progress, CancellationToken cancel)
    {
        var name = SegmentSet.NameOf(number, records.Segments.NonceOf(number));
        var header = new byte[SegmentFormat.SegmentHeaderBytes];
        if (
            records.Segments.Read(number, header, 0) == header.Length
            && !(
                SegmentFormat.TryReadSegmentHeader(header, out var read)
                && read.Number == number
                && read.Nonce == records.Segments.NonceOf(number)
            )
        )
            places.Enqueue(
                new DamagedPlace(
                    name,
                    0,
                    header.Length,
                    "the segment's header is damaged; its name tells the same, so nothing is lost with it"
                )
            );

        var scanner = new SegmentScanner(records.Segments, number);
        var raw = new byte[SegmentFormat.MaxPayload];
        var suspects = new List<DamagedPlace>();
        var isEnded = false;
        while (scanner.Next(out var found))
        {
            cancel.ThrowIfCancellationRequested();
            isEnded = found is { IsWhole: true, Header.Kind: RecordKind.End };
            if (found.Header is not { } record)
            {
                if (!found.IsLeft)
                    suspects.Add(new DamagedPlace(name, found.Offset, found.Length, "no record can be read here"));
            }
            else if (!found.IsWhole || !IsAsNamed(record, scanner.Payload, raw))
            {
                var at = new Location(number, (uint)found.Offset, 0);
                bad[at.Place] = 0;
                records.NoteDamage(at);
                suspects.Add(new DamagedPlace(name, found.Offset, found.Length, "a record's bytes are damaged"));
            }
            Interlocked.Add(ref this.read, found.Length);
            progress?.Report(new StoreProgress(Interlocked.Add(ref done, found.Length), total));
        }
        // The newest segment is open: behind what the index on disk knows there may be what a crash left, too.
        if (number == newest)
            suspects.RemoveAll(s => s.Offset >= covered && s.Offset + s.Length == scanner.Position);
        else if (!isEnded)
            suspects.Add(new DamagedPlace(name, scanner.Position, 0, "the segment's end is missing"));
        foreach (var place in suspects)
            places.Enqueue(place);
        if (suspects.Count == 0 && number != newest)
            records.NoteWhole(number);
    }

    private static bool IsAsNamed(RecordHeader record, ReadOnlySpan<byte> stored, byte[] raw)
    {
        if (record.Kind is RecordKind.Content or RecordKind.Drop or RecordKind.End or RecordKind.Note)
            return true;
        if (record.Codec == Codec.Plain)
            return record.Stored == record.Raw && Digest.Of(stored) == record.Id;
        try
        {
            Payload.Unpack(stored, record, raw.AsSpan(0, (int)record.Raw));
            return Digest.Of(raw.AsSpan(0, (int)record.Raw)) == record.Id;
        }
        catch (RecordUnreadableException)
        {
            return false;
        }
    }

    private List<DamagedContent> Contents(CancellationToken cancel)
    {
        var damaged = new List<DamagedContent>();
        foreach (var (content, _) in ContentWalk.ContentsOf(records))
        {
            cancel.ThrowIfCancellationRequested();
            var key = new RecordKey(RecordKind.Content, content);
            if (!IsThere(key) || TryLoad(key) is not { } bytes)
            {
                damaged.Add(new DamagedContent(content.ToContentHash(), null, null));
                continue;
            }
            var record = ContentRecord.Read(bytes);
            var unreadable = record.Size == 0 ? 0 : Unreadable(record.Root);
            if (unreadable > 0)
                damaged.Add(new DamagedContent(content.ToContentHash(), record.Size, unreadable));
        }
        return damaged;
    }

    /// <summary>Bytes of content under a part that cannot be read.</summary>
    private long Unreadable(Part part)
    {
        if (!IsThere(part.Key))
            return part.Length;
        if (part.Level == 0)
            return 0;
        if (lists.TryGetValue(part.Id, out var known))
            return known;
        try
        {
            return lists[part.Id] = PartList.Open(records.Load(part.Key), part).Sum(Unreadable);
        }
        catch (RecordUnreadableException)
        {
            return lists[part.Id] = part.Length;
        }
    }

    // What was compacted meanwhile was read, and found whole, by the one who did it.
    private bool IsThere(RecordKey key) => records.TryFind(key, out var at) && !bad.ContainsKey(at.Place) && HasHeader(key, at);

    private bool HasHeader(RecordKey key, Location at)
    {
        Span<byte> header = stackalloc byte[SegmentFormat.RecordHeaderBytes];
        try
        {
            records.Segments.Read(at.Segment, header, at.Offset);
            return SegmentFormat.TryReadRecordHeader(header, records.Segments.NonceOf(at.Segment), at.Offset, out var found)
                && found.Key == key;
        }
        catch (SegmentGoneException)
        {
            return records.TryFind(key, out var now) && now != at;
        }
    }

    private byte[]? TryLoad(RecordKey key)
    {
        try
        {
            return records.Load(key);
        }
        catch (RecordUnreadableException)
        {
            return null;
        }
    }

    private string? VerifyIndex()
    {
        try
        {
            records.Index.Verify();
            return records.IndexFault;
        }
        catch (IndexDamagedException e)
        {
            return e.Message;
        }
    }
}

/// <summary>What verifying found.</summary>
/// <param name="Share">The share of the segments that was read, up to 1.</param>
/// <param name="BytesRead">Bytes that were read.</param>
/// <param name="Segments">How many segments were read.</param>
/// <param name="Damaged">Contents that cannot be read as a whole.</param>
/// <param name="Places">Where the damage is, whether or not anything needs what stood there.</param>
/// <param name="IndexFault">What is wrong with the index, in a sentence; null for nothing. It can be made anew.</param>
public sealed record Verified(
    double Share,
    long BytesRead,
    int Segments,
    IReadOnlyList<DamagedContent> Damaged,
    IReadOnlyList<DamagedPlace> Places,
    string? IndexFault
)
{
    /// <summary>Whether nothing was found wrong.</summary>
    public bool IsSound => Damaged.Count == 0 && Places.Count == 0 && IndexFault is null;
}

/// <param name="Hash">The content's.</param>
/// <param name="Size">Bytes of the content; null where its own record cannot be read.</param>
/// <param name="UnreadableBytes">How many of them cannot be read; null as for <paramref name="Size"/>.</param>
public sealed record DamagedContent(ContentHash Hash, long? Size, long? UnreadableBytes);

/// <param name="Segment">The segment's file name.</param>
/// <param name="Offset">Bytes from its beginning.</param>
/// <param name="Length">Bytes.</param>
/// <param name="What">What is wrong there.</param>
public sealed record DamagedPlace(string Segment, long Offset, long Length, string What);
