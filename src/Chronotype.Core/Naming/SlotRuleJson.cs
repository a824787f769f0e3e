using System.Text.Json;
using System.Text.Json.Serialization;

namespace Chronotype.Core.Naming;

/// <summary>Writes a rule as an object whose <c>kind</c> says which rule it is, beside the rule's own settings.</summary>
internal sealed class SlotRuleJson : JsonConverter<SlotRule>
{
    private static readonly Dictionary<string, Type> Kinds = new()
    {
        ["code"] = typeof(CodeRule),
        ["words"] = typeof(WordsRule),
        ["version"] = typeof(VersionRule),
        ["milestone"] = typeof(MilestoneRule),
        ["hand"] = typeof(HandRule),
    };

    public override SlotRule Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        using var document = JsonDocument.ParseValue(ref reader);
        var kind = document.RootElement.TryGetProperty("kind", out var k) ? k.GetString() : null;
        return kind is not null && Kinds.TryGetValue(kind, out var type)
            ? (SlotRule)document.RootElement.Deserialize(type, options)!
            : throw new JsonException($"A slot's kind is one of {string.Join(", ", Kinds.Keys)}; '{kind}' is none of them.");
    }

    public override void Write(Utf8JsonWriter writer, SlotRule value, JsonSerializerOptions options)
    {
        writer.WriteStartObject();
        writer.WriteString("kind", Kinds.Single(k => k.Value == value.GetType()).Key);
        foreach (var setting in JsonSerializer.SerializeToElement(value, value.GetType(), options).EnumerateObject())
        {
            setting.WriteTo(writer);
        }
        writer.WriteEndObject();
    }
}
