using System.Text.Json;
using System.Text.Json.Nodes;

namespace Chronotype.Storage.Mirror;

/// <summary>A record as it is kept beside the content.</summary>
/// <param name="Row">Its columns and their values; null where the record is gone.</param>
/// <param name="Number">Under which its change was noted in the records; 0 where it was copied before they were numbered.</param>
public sealed record RecordNote(string Table, string Key, JsonObject? Row, long Number)
{
    /// <summary>The note that tells up to which number all is copied; it is written behind all others.</summary>
    public const string Mark = "Copied";

    /// <inheritdoc cref="Mark"/>
    public static byte[] MarkOf(long number) =>
        JsonSerializer.SerializeToUtf8Bytes(
            new JsonObject
            {
                ["table"] = Mark,
                ["key"] = Mark,
                ["number"] = number,
            }
        );

    /// <returns>Null where it is no such note.</returns>
    public static RecordNote? Read(byte[] payload)
    {
        try
        {
            return JsonNode.Parse(payload) is JsonObject note && (string?)note["table"] is { } table && (string?)note["key"] is { } key
                ? new RecordNote(table, key, note["row"] as JsonObject, (long?)note["number"] ?? 0)
                : null;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            return null;
        }
    }
}
