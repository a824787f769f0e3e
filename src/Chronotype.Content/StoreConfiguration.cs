using System.Text.Json;
using System.Text.Json.Serialization;
using Chronotype.Content.Segments;
using Chronotype.Content.Tiers;

namespace Chronotype.Content;

/// <summary>
/// What a store's own file, <c>store.json</c> in its folder, may say. Without the file everything stays on the local disk.
/// </summary>
public sealed record StoreConfiguration
{
    /// <summary>The name of the file that it is read from, in the data folder.</summary>
    public const string FileName = "store.json";

    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        ReadCommentHandling = JsonCommentHandling.Skip,
    };

    /// <summary>About as long as a segment becomes, in MiB, from 1 to 1024.</summary>
    public int SegmentMegabytes { get; init; } = SegmentFormat.FullBytes >> 20;

    /// <summary>
    /// Where full segments are kept beyond this disk; null for nowhere. The file calls it <c>shelf</c>, as it always did.
    /// </summary>
    [JsonPropertyName("shelf")]
    public ObjectStoreConfiguration? Tier { get; init; }

    /// <exception cref="StoreConfigurationException">The file is there and cannot be used; the message says why.</exception>
    public static StoreConfiguration Of(string folder)
    {
        var path = Path.Combine(folder, FileName);
        if (!File.Exists(path))
            return new StoreConfiguration();
        try
        {
            using var file = File.OpenRead(path);
            var read = JsonSerializer.Deserialize<StoreConfiguration>(file, Options) ?? throw new JsonException("It says nothing.");
            if (read.SegmentMegabytes is < 1 or > 1024)
                throw new JsonException("segmentMegabytes goes from 1 to 1024.");
            if (read.Tier is { Bucket.Length: 0 })
                throw new JsonException("shelf.bucket is not given.");
            if (
                read.Tier is { Endpoint: { } endpoint }
                && !(Uri.TryCreate(endpoint, UriKind.Absolute, out var uri) && uri.Scheme is "http" or "https")
            )
                throw new JsonException("shelf.endpoint is no address that begins with https:// or http://.");
            return read;
        }
        catch (JsonException e)
        {
            throw new StoreConfigurationException($"{path} cannot be used: {e.Message}", e);
        }
    }
}

/// <summary>A bucket of an object store that speaks the S3 protocol.</summary>
public sealed record ObjectStoreConfiguration
{
    /// <summary>The server's address; null for the one of <see cref="Region"/>.</summary>
    public string? Endpoint { get; init; }

    /// <summary>The region that requests are signed for, as the object store calls it.</summary>
    public string Region { get; init; } = "us-east-1";

    /// <summary>The bucket that segments are put into.</summary>
    public string Bucket { get; init; } = "";

    /// <summary>What the names of all objects begin with.</summary>
    public string Prefix { get; init; } = "";
}

/// <summary>A store's own file cannot be used.</summary>
public sealed class StoreConfigurationException(string message, Exception inner) : IOException(message, inner);
