using System.Text.Json;
using System.Text.Json.Serialization;

namespace Chronotype.Core.Content;

/// <summary>How readings and comparisons are written into records, and handed from one process to another.</summary>
public static class RecordJson
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase), new HashConverter() },
    };

    /// <summary>Writes a value as JSON.</summary>
    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Options);

    /// <summary>Reads what <see cref="Write"/> wrote.</summary>
    public static T Read<T>(string json) =>
        JsonSerializer.Deserialize<T>(json, Options) ?? throw new JsonException("A record is not null.");

    private sealed class HashConverter : JsonConverter<ContentHash>
    {
        public override ContentHash Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
            ContentHash.Parse(reader.GetString()!);

        public override void Write(Utf8JsonWriter writer, ContentHash value, JsonSerializerOptions options) =>
            writer.WriteStringValue(value.ToString());
    }
}
