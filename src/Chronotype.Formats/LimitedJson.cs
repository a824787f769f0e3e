using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>JSON (RFC 8259) of a file that may be hostile: bounded in length and depth before it is walked.</summary>
internal static class LimitedJson
{
    private const int MaxDepth = 128;

    /// <exception cref="UnreadableFileException">It is too long, too deep, or not well formed.</exception>
    public static JsonDocument Parse(Stream content)
    {
        if (content.Length > Limits.JsonBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.JsonBytes));
        content.Position = 0;
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        return Parse(bytes);
    }

    /// <inheritdoc cref="Parse(Stream)"/>
    public static JsonDocument Parse(ReadOnlyMemory<byte> utf8)
    {
        if (utf8.Span.StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]))
            utf8 = utf8[3..];
        try
        {
            return JsonDocument.Parse(utf8, new JsonDocumentOptions { MaxDepth = MaxDepth });
        }
        catch (JsonException e) when (e.Message.Contains("depth", StringComparison.OrdinalIgnoreCase))
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.TooDeep, "", MaxDepth), e);
        }
        catch (JsonException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.NotWellFormed, "", (e.LineNumber ?? 0) + 1), e);
        }
    }

    /// <summary>As <see cref="Parse(ReadOnlyMemory{byte})"/>, to be changed and written; it is an object.</summary>
    /// <exception cref="UnreadableFileException">As there; or it is no object, holds a member twice, or a text that is none.</exception>
    public static JsonObject Tree(byte[] utf8)
    {
        try
        {
            var root = JsonNode.Parse(
                utf8.AsSpan(utf8 is [0xEF, 0xBB, 0xBF, ..] ? 3 : 0),
                null,
                new JsonDocumentOptions { MaxDepth = MaxDepth, AllowDuplicateProperties = false }
            );
            Touch(root);
            return root as JsonObject ?? throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
        catch (InvalidOperationException e)
        {
            throw new UnreadableFileException(FileFaultCode.NotUnderstood, e);
        }
        catch (JsonException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.NotWellFormed, "", (e.LineNumber ?? 0) + 1), e);
        }
    }

    /// <summary>As UTF-8; numbers and texts as they were read.</summary>
    public static byte[] Write(JsonObject tree, bool isIndented = false) =>
        Encoding.UTF8.GetBytes(
            tree.ToJsonString(
                new JsonSerializerOptions
                {
                    WriteIndented = isIndented,
                    Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                    MaxDepth = MaxDepth + 2,
                }
            )
        );

    // Texts are decoded when they are looked at: all of them here, where one that is none is a fault of the file.
    private static void Touch(JsonNode? node)
    {
        foreach (var (_, value) in node as JsonObject ?? [])
            Touch(value);
        foreach (var item in node as JsonArray ?? [])
            Touch(item);
        if (node is JsonValue text && text.GetValueKind() == JsonValueKind.String)
            _ = text.GetValue<string>();
    }

    /// <summary>A member of an object; nothing where this is none, or has none of the name.</summary>
    public static JsonElement? Get(this JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object && element.TryGetProperty(name, out var found) ? found : null;

    /// <summary>A text, shortened; empty where it is none.</summary>
    public static string Text(this JsonElement element, string name) =>
        element.Get(name) is { ValueKind: JsonValueKind.String } found && found.GetString() is { } text
            ? text.Length > ReferenceFacts.Most
                ? text[..ReferenceFacts.Most]
                : text
            : "";

    /// <summary>A number that is one; <paramref name="otherwise"/> where it is none.</summary>
    public static double Number(this JsonElement element, string name, double otherwise = 0) =>
        element.Get(name) is { ValueKind: JsonValueKind.Number } found && found.TryGetDouble(out var number) && double.IsFinite(number)
            ? number
            : otherwise;

    /// <summary>A whole number from 0 up; null where it is none.</summary>
    public static int? Index(this JsonElement element, string name) =>
        element.Get(name) is { ValueKind: JsonValueKind.Number } found && found.TryGetInt32(out var number) && number >= 0 ? number : null;

    /// <summary>The elements of an array; none where it is none.</summary>
    public static IEnumerable<JsonElement> Items(this JsonElement element, string name) =>
        element.Get(name) is { ValueKind: JsonValueKind.Array } found ? found.EnumerateArray() : [];
}
