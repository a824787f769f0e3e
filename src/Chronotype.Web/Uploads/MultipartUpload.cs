using System.Text;
using Chronotype.Core.Content;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Uploads;

/// <summary>
/// A form whose file is read as it comes (RFC 7578), so that its size costs no memory and no second copy on the disk.
/// Fields stand before the file; what follows it is not read.
/// </summary>
public sealed class MultipartUpload
{
    private const int MaxFieldBytes = 16 * 1024,
        MaxFields = 40;

    /// <summary>The fields before the file.</summary>
    public required IReadOnlyDictionary<string, string> Fields { get; init; }

    /// <summary>The name as the browser gave it; null when the form has no file.</summary>
    public required string? FileName { get; init; }

    public required Stream File { get; init; }

    /// <returns>Null when the request is no such form.</returns>
    /// <exception cref="InvalidDataException">The form is broken or has more or longer fields than any form here.</exception>
    public static async Task<MultipartUpload?> ReadAsync(HttpRequest request, CancellationToken cancel)
    {
        if (
            !MediaTypeHeaderValue.TryParse(request.ContentType, out var type)
            || !type.MediaType.Equals("multipart/form-data", StringComparison.OrdinalIgnoreCase)
        )
            return null;
        var boundary = HeaderUtilities.RemoveQuotes(type.Boundary).Value;
        if (string.IsNullOrEmpty(boundary) || boundary.Length > 100)
            return null;

        var reader = new MultipartReader(boundary, request.Body) { BodyLengthLimit = null };
        var fields = new Dictionary<string, string>();
        while (await ArrivingStream.Reading(() => reader.ReadNextSectionAsync(cancel)) is { } section)
        {
            if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition))
                throw new InvalidDataException("A part of the form has no name.");
            if (disposition.IsFileDisposition())
            {
                var name = HeaderUtilities
                    .RemoveQuotes(disposition.FileNameStar.HasValue ? disposition.FileNameStar : disposition.FileName)
                    .Value;
                // A form sent with no file chosen has a file part with no name.
                return new MultipartUpload
                {
                    Fields = fields,
                    FileName = string.IsNullOrEmpty(name) ? null : name,
                    File = new ArrivingStream(section.Body),
                };
            }
            if (fields.Count == MaxFields)
                throw new InvalidDataException("The form has more fields than any form here.");
            fields[HeaderUtilities.RemoveQuotes(disposition.Name).Value ?? ""] = await FieldAsync(section.Body, cancel);
        }
        return new MultipartUpload
        {
            Fields = fields,
            FileName = null,
            File = Stream.Null,
        };
    }

    public string Field(string name) => Fields.TryGetValue(name, out var value) ? value : "";

    private static async Task<string> FieldAsync(Stream body, CancellationToken cancel)
    {
        var buffer = new byte[MaxFieldBytes + 1];
        var length = await body.ReadAtLeastAsync(buffer, buffer.Length, throwOnEndOfStream: false, cancel);
        return length <= MaxFieldBytes
            ? Encoding.UTF8.GetString(buffer, 0, length)
            : throw new InvalidDataException("A field of the form is longer than any field here.");
    }
}

/// <summary>Tells a connection that broke from a disk that failed: the first is the sender's to mend.</summary>
internal sealed class ArrivingStream(Stream inner) : ForwardStream
{
    /// <exception cref="InvalidDataException">What arrives ended before it was whole.</exception>
    public static async Task<T> Reading<T>(Func<Task<T>> read)
    {
        try
        {
            return await read();
        }
        catch (IOException e)
        {
            throw new InvalidDataException("The form ended before it was whole.", e);
        }
    }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default) =>
        await Reading(() => inner.ReadAsync(buffer, cancel).AsTask());
}
