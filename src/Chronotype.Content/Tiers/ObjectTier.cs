using System.Net;
using Amazon.Runtime;
using Amazon.S3;
using Amazon.S3.Model;
using Chronotype.Content.Files;

namespace Chronotype.Content.Tiers;

/// <summary>
/// Segments as objects of a bucket, over the S3 protocol. What is read is kept for a while in blocks, since one request costs
/// as much as reading a megabyte. The key and the secret come from the environment, as the protocol's programs all take them
/// (<c>AWS_ACCESS_KEY_ID</c>, <c>AWS_SECRET_ACCESS_KEY</c>), so that they stand in no file of the store.
/// </summary>
internal sealed class ObjectTier : ISegmentTier
{
    private const int BlockBytes = 1 << 20,
        MostBlocks = 32;

    private readonly AmazonS3Client client;
    private readonly ObjectStoreConfiguration place;
    private readonly Lock gate = new();
    private readonly Dictionary<(string Name, long Block), LinkedListNode<((string Name, long Block) Key, byte[] Bytes)>> blocks = [];
    private readonly LinkedList<((string Name, long Block) Key, byte[] Bytes)> lately = new();

    /// <param name="place">The service, the bucket and the prefix.</param>
    /// <param name="credentials">Null for those of the environment.</param>
    public ObjectTier(ObjectStoreConfiguration place, AWSCredentials? credentials = null)
    {
        this.place = place;
        var config = new AmazonS3Config
        {
            ForcePathStyle = place.Endpoint is not null,
            // Servers that speak the protocol need not know the newer sums and the chunked signing; each record has a sum of its own.
            RequestChecksumCalculation = RequestChecksumCalculation.WHEN_REQUIRED,
            ResponseChecksumValidation = ResponseChecksumValidation.WHEN_REQUIRED,
            MaxErrorRetry = 4,
        };
        if (place.Endpoint is not null)
            (config.ServiceURL, config.AuthenticationRegion) = (place.Endpoint, place.Region);
        else
            config.RegionEndpoint = Amazon.RegionEndpoint.GetBySystemName(place.Region);
        client = new AmazonS3Client(credentials ?? FromEnvironment(), config);
    }

    public string Name => $"{place.Endpoint ?? place.Region}, bucket {place.Bucket}{(place.Prefix.Length > 0 ? $", {place.Prefix}" : "")}";

    public IReadOnlyDictionary<string, long> List()
    {
        var found = new Dictionary<string, long>();
        string? next = null;
        do
        {
            var token = next;
            var page = Ask(() =>
                client.ListObjectsV2Async(
                    new ListObjectsV2Request
                    {
                        BucketName = place.Bucket,
                        Prefix = place.Prefix,
                        ContinuationToken = token,
                    }
                )
            );
            foreach (var entry in page.S3Objects ?? [])
                found[entry.Key[place.Prefix.Length..]] = entry.Size ?? 0;
            next = page.IsTruncated == true ? page.NextContinuationToken : null;
        } while (next is not null);
        return found;
    }

    public void Place(string name, IStoreFile segment)
    {
        Ask(() =>
            client.PutObjectAsync(
                new PutObjectRequest
                {
                    BucketName = place.Bucket,
                    Key = place.Prefix + name,
                    InputStream = new FileReader(segment),
                    UseChunkEncoding = false,
                }
            )
        );
        Forget(name);
        // An answer is a promise of the server; the length is what it really has.
        var there = Ask(() => client.GetObjectMetadataAsync(place.Bucket, place.Prefix + name)).ContentLength;
        if (there != segment.Length)
            throw new IOException($"The segment {name} has {there} bytes at {Name} instead of {segment.Length}. It stays on this disk.");
    }

    public int Read(string name, Span<byte> into, long at)
    {
        var done = 0;
        while (done < into.Length)
        {
            var from = at + done;
            var block = Block(name, from / BlockBytes);
            var start = (int)(from % BlockBytes);
            if (start >= block.Length)
                break;
            var length = Math.Min(into.Length - done, block.Length - start);
            block.AsSpan(start, length).CopyTo(into[done..]);
            done += length;
        }
        return done;
    }

    public void Delete(string name)
    {
        Ask(() => client.DeleteObjectAsync(place.Bucket, place.Prefix + name));
        Forget(name);
    }

    public void Dispose() => client.Dispose();

    private byte[] Block(string name, long number)
    {
        lock (gate)
        {
            if (blocks.TryGetValue((name, number), out var there))
            {
                lately.Remove(there);
                lately.AddFirst(there);
                return there.Value.Bytes;
            }
        }
        var bytes = Fetch(name, number);
        lock (gate)
        {
            if (blocks.ContainsKey((name, number)))
                return bytes;
            blocks[(name, number)] = lately.AddFirst(((name, number), bytes));
            if (lately.Count > MostBlocks)
            {
                blocks.Remove(lately.Last!.Value.Key);
                lately.RemoveLast();
            }
        }
        return bytes;
    }

    private byte[] Fetch(string name, long number)
    {
        var request = new GetObjectRequest
        {
            BucketName = place.Bucket,
            Key = place.Prefix + name,
            ByteRange = new ByteRange(number * BlockBytes, (number + 1) * BlockBytes - 1),
        };
        try
        {
            return Ask(async () =>
            {
                using var response = await client.GetObjectAsync(request);
                using var bytes = new MemoryStream();
                await response.ResponseStream.CopyToAsync(bytes);
                return bytes.ToArray();
            });
        }
        catch (IOException e) when (e.InnerException is AmazonS3Exception { StatusCode: HttpStatusCode.RequestedRangeNotSatisfiable })
        {
            // Behind the segment's end.
            return [];
        }
    }

    private void Forget(string name)
    {
        lock (gate)
        {
            for (var node = lately.First; node is not null; )
            {
                var next = node.Next;
                if (node.Value.Key.Name == name)
                {
                    blocks.Remove(node.Value.Key);
                    lately.Remove(node);
                }
                node = next;
            }
        }
    }

    private T Ask<T>(Func<Task<T>> ask)
    {
        try
        {
            return Task.Run(ask).GetAwaiter().GetResult();
        }
        catch (AmazonS3Exception e) when (e.StatusCode == HttpStatusCode.NotFound)
        {
            throw new FileNotFoundException($"It is not at {Name}.", e);
        }
        catch (Exception e) when (e is AmazonServiceException or AmazonClientException or HttpRequestException or TaskCanceledException)
        {
            throw new IOException($"The object store at {Name} did not answer as it should: {e.Message}", e);
        }
    }

    private static BasicAWSCredentials FromEnvironment()
    {
        string? key = Environment.GetEnvironmentVariable("AWS_ACCESS_KEY_ID"),
            secret = Environment.GetEnvironmentVariable("AWS_SECRET_ACCESS_KEY");
        return key is { Length: > 0 } && secret is { Length: > 0 }
            ? new BasicAWSCredentials(key, secret)
            : throw new IOException(
                "The store's segments are in an object store, and its key is not given. Set AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY."
            );
    }

    /// <summary>A segment to be sent, once or, where the first time failed, again.</summary>
    private sealed class FileReader(IStoreFile file) : Stream
    {
        public override bool CanRead => true;
        public override bool CanSeek => true;
        public override bool CanWrite => false;
        public override long Length => file.Length;
        public override long Position { get; set; }

        public override int Read(Span<byte> buffer)
        {
            var read = file.Read(buffer, Position);
            Position += read;
            return read;
        }

        public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

        public override long Seek(long offset, SeekOrigin origin) =>
            Position = origin switch
            {
                SeekOrigin.Begin => offset,
                SeekOrigin.Current => Position + offset,
                _ => Length + offset,
            };

        public override void Flush() { }

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
