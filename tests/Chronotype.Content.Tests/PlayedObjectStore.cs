using System.Collections.Concurrent;
using System.Globalization;
using System.Xml.Linq;
using Amazon.Runtime;
using Chronotype.Content;
using Chronotype.Content.Tiers;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;

namespace Chronotype.Content.Tests;

/// <summary>
/// A small object store that speaks as much of the S3 protocol as segments need: objects whole and in ranges, lists by the page.
/// </summary>
public sealed class PlayedObjectStore : IAsyncDisposable
{
    private const string Key = "studio-key",
        Bucket = "segments";
    private const int PageSize = 4;

    private static readonly XNamespace Xml = "http://s3.amazonaws.com/doc/2006-03-01/";

    private readonly WebApplication app;

    private PlayedObjectStore()
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        builder.WebHost.ConfigureKestrel(k => k.Limits.MaxRequestBodySize = null);
        app = builder.Build();
        app.Run(AnswerAsync);
    }

    /// <summary>What lies there, by its name.</summary>
    public ConcurrentDictionary<string, byte[]> Objects { get; } = new();

    /// <summary>How many of the next requests are answered with an error of the server.</summary>
    public int Failing { get; set; }

    /// <summary>Whether nothing is answered but an error.</summary>
    public bool IsDown { get; set; }

    /// <summary>How often part of an object was asked for.</summary>
    public int Reads { get; private set; }

    public static async Task<PlayedObjectStore> StartAsync()
    {
        var store = new PlayedObjectStore();
        await store.app.StartAsync();
        return store;
    }

    public ObjectStoreConfiguration Place =>
        new()
        {
            Endpoint = app.Urls.First(),
            Bucket = Bucket,
            Prefix = "chronotype/",
        };

    internal ObjectTier Tier() => new(Place, new BasicAWSCredentials(Key, "a secret"));

    public async ValueTask DisposeAsync() => await app.DisposeAsync();

    private async Task AnswerAsync(HttpContext context)
    {
        if (Failing > 0 || IsDown)
        {
            Failing--;
            await RefuseAsync(context, 503, "SlowDown");
            return;
        }
        if (!context.Request.Headers.Authorization.ToString().StartsWith($"AWS4-HMAC-SHA256 Credential={Key}/", StringComparison.Ordinal))
        {
            await RefuseAsync(context, 403, "InvalidAccessKeyId");
            return;
        }
        var path = context.Request.Path.Value!.Split('/', 3);
        if (path[1] != Bucket)
        {
            await RefuseAsync(context, 404, "NoSuchBucket");
            return;
        }
        var key = path.Length > 2 ? path[2] : "";
        switch (context.Request.Method)
        {
            case "PUT":
                using (var body = new MemoryStream())
                {
                    await context.Request.Body.CopyToAsync(body);
                    Objects[key] = body.ToArray();
                }
                context.Response.Headers.ETag = "\"0\"";
                break;
            case "DELETE":
                Objects.TryRemove(key, out _);
                context.Response.StatusCode = 204;
                break;
            case "GET" when key.Length == 0:
                await ListAsync(context);
                break;
            default:
                await GiveAsync(context, key);
                break;
        }
    }

    private async Task GiveAsync(HttpContext context, string key)
    {
        if (!Objects.TryGetValue(key, out var bytes))
        {
            await RefuseAsync(context, 404, "NoSuchKey");
            return;
        }
        if (context.Request.Method == "HEAD")
        {
            context.Response.ContentLength = bytes.Length;
            return;
        }
        Reads++;
        var range = context.Request.Headers.Range.ToString()["bytes=".Length..].Split('-');
        var (from, to) = (
            long.Parse(range[0], CultureInfo.InvariantCulture),
            Math.Min(bytes.Length - 1, long.Parse(range[1], CultureInfo.InvariantCulture))
        );
        if (from >= bytes.Length)
        {
            await RefuseAsync(context, 416, "InvalidRange");
            return;
        }
        context.Response.StatusCode = 206;
        context.Response.ContentLength = to - from + 1;
        context.Response.Headers.ContentRange = $"bytes {from}-{to}/{bytes.Length}";
        await context.Response.Body.WriteAsync(bytes.AsMemory((int)from, (int)(to - from + 1)));
    }

    private async Task ListAsync(HttpContext context)
    {
        var after = context.Request.Query["continuation-token"].ToString();
        var keys = Objects
            .Keys.Where(k =>
                k.StartsWith(context.Request.Query["prefix"].ToString(), StringComparison.Ordinal) && string.CompareOrdinal(k, after) > 0
            )
            .Order(StringComparer.Ordinal)
            .ToList();
        var page = keys.Take(PageSize).ToList();
        var answer = new XElement(
            Xml + "ListBucketResult",
            new XElement(Xml + "Name", Bucket),
            new XElement(Xml + "KeyCount", page.Count),
            new XElement(Xml + "IsTruncated", keys.Count > page.Count ? "true" : "false"),
            keys.Count > page.Count ? new XElement(Xml + "NextContinuationToken", page[^1]) : null,
            page.Select(k => new XElement(Xml + "Contents", new XElement(Xml + "Key", k), new XElement(Xml + "Size", Objects[k].Length)))
        );
        context.Response.ContentType = "application/xml";
        await context.Response.WriteAsync(answer.ToString());
    }

    private static async Task RefuseAsync(HttpContext context, int status, string code)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "application/xml";
        if (context.Request.Method != "HEAD")
            await context.Response.WriteAsync(new XElement("Error", new XElement("Code", code), new XElement("Message", code)).ToString());
    }
}
