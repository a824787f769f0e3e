using System.Text.Json;
using System.Text.Json.Nodes;

namespace Chronotype.Storage.Mirror;

/// <summary>A record as it is kept beside the content.</summary>
/// <param name="Row">Its columns and their values; null where the record is gone.</param>
public sealed record RecordNote(string Table, string Key, JsonObject? Row)
{
    /// <summary>A note that says that a record is gone.</summary>
    public static byte[] Gone(string table, string key) =>
        JsonSerializer.SerializeToUtf8Bytes(new JsonObject { ["table"] = table, ["key"] = key });

    /// <returns>Null where it is no such note.</returns>
    public static RecordNote? Read(byte[] payload)
    {
        try
        {
            return JsonNode.Parse(payload) is JsonObject note && (string?)note["table"] is { } table && (string?)note["key"] is { } key
                ? new RecordNote(table, key, note["row"] as JsonObject)
                : null;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            return null;
        }
    }
}
