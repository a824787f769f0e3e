using System.Text.Json;
using System.Text.Json.Nodes;

namespace Chronotype.Core.Content;

/// <summary>What is wrong with a file of settings (a convention, a folder plan), and where.</summary>
/// <param name="Place">As a path into its file: <c>slots[3].width</c>, <c>lists.client[0].code</c>; empty for the whole.</param>
/// <param name="Message">A sentence for a person.</param>
public sealed record SettingFault(string Place, string Message)
{
    /// <inheritdoc />
    public override string ToString() => Place.Length == 0 ? Message : $"{Place}: {Message}";
}

/// <summary>A place in a JSON document that is read with care: what is not as it should be becomes a fault of that place.</summary>
internal sealed class JsonPlace(JsonNode? node, string path, List<SettingFault> faults)
{
    /// <summary>The document's root; null where it is no JSON, with the fault that says so.</summary>
    /// <param name="text">Comments and commas at an end are let pass.</param>
    /// <param name="most">The longest text that is read, in characters.</param>
    /// <param name="faults">Takes what is found.</param>
    public static JsonPlace? Parse(string text, int most, List<SettingFault> faults)
    {
        if (text.Length > most)
        {
            faults.Add(new("", $"The file is larger than {most >> 20} MB, which none of its kind needs. Nothing of it was read."));
            return null;
        }
        try
        {
            var root = JsonNode.Parse(
                text.TrimStart('\uFEFF'),
                null,
                new JsonDocumentOptions
                {
                    CommentHandling = JsonCommentHandling.Skip,
                    AllowTrailingCommas = true,
                    AllowDuplicateProperties = false,
                    MaxDepth = 16,
                }
            );
            Touch(root);
            return new JsonPlace(root, "", faults);
        }
        catch (JsonException e)
        {
            var place = e.LineNumber is { } line ? $"line {line + 1}, column {e.BytePositionInLine + 1}" : "";
            faults.Add(new(place, "This is no JSON: " + e.Message.Split(" Path:")[0].Split(" LineNumber:")[0]));
        }
        catch (InvalidOperationException)
        {
            // The platform takes such texts until they are looked at.
            faults.Add(new("", "This is no JSON: it holds half of a character (a lone surrogate)."));
        }
        return null;
    }

    // Texts and names are decoded when they are looked at: here, where what they hold wrongly becomes a fault.
    private static void Touch(JsonNode? node)
    {
        if (node is JsonObject fields)
        {
            foreach (var (_, value) in fields)
                Touch(value);
        }
        else if (node is JsonArray items)
        {
            foreach (var item in items)
                Touch(item);
        }
        else if (node?.GetValueKind() == JsonValueKind.String)
            _ = node.GetValue<string>();
    }

    public bool IsText => node?.GetValueKind() == JsonValueKind.String;

    public bool HasText(string key) => (node as JsonObject)?[key]?.GetValueKind() == JsonValueKind.String;

    public void Fault(string message) => faults.Add(new SettingFault(path, message));

    public bool IsObject(string otherwise)
    {
        if (node is JsonObject)
            return true;
        Fault(otherwise);
        return false;
    }

    public JsonPlace Child(string key) => new((node as JsonObject)?[key], path.Length == 0 ? key : $"{path}.{key}", faults);

    public void Only(params IReadOnlyList<string> keys)
    {
        foreach (var (key, _) in (JsonObject)node!)
        {
            if (!keys.Contains(key))
                Child(key).Fault($"There is no setting “{key}” here. The settings are {string.Join(", ", keys)}.");
        }
    }

    public string Text()
    {
        if (IsText)
            return node!.GetValue<string>();
        Fault("This is a text in quotes.");
        return "";
    }

    /// <param name="key">The property's name.</param>
    /// <param name="usual">What it is where nothing is said; null where something must be.</param>
    public string Text(string key, string? usual = null)
    {
        if (node is JsonObject all && all.ContainsKey(key))
            return Child(key).Text();
        if (usual is not null)
            return usual;
        Child(key).Fault("This is missing.");
        return "";
    }

    public int Int(string key, int usual)
    {
        if (node is not JsonObject all || !all.ContainsKey(key))
            return usual;
        if (all[key]?.GetValueKind() == JsonValueKind.Number && all[key]!.AsValue().TryGetValue<int>(out var number))
            return number;
        Child(key).Fault("This is a whole number.");
        return usual;
    }

    /// <returns>Null where nothing is said.</returns>
    public double? Number(string key)
    {
        if (node is not JsonObject all || !all.ContainsKey(key))
            return null;
        if (all[key]?.GetValueKind() == JsonValueKind.Number && all[key]!.AsValue().TryGetValue<double>(out var number))
            return number;
        Child(key).Fault("This is a number.");
        return null;
    }

    /// <inheritdoc cref="Number"/>
    public int? Whole(string key)
    {
        if (Number(key) is not { } number)
            return null;
        if (number == Math.Truncate(number) && Math.Abs(number) <= int.MaxValue)
            return (int)number;
        Child(key).Fault("This is a whole number.");
        return null;
    }

    public bool Has(string key) => (node as JsonObject)?.ContainsKey(key) == true;

    /// <summary>The place's own text, as JSON.</summary>
    public string Json() => node?.ToJsonString() ?? "null";

    public bool Flag(string key)
    {
        if (node is not JsonObject all || !all.ContainsKey(key))
            return false;
        var kind = all[key]?.GetValueKind();
        if (kind is not (JsonValueKind.True or JsonValueKind.False))
            Child(key).Fault("This is true or false.");
        return kind == JsonValueKind.True;
    }

    public IEnumerable<JsonPlace> Items(string key, bool required)
    {
        if (node is JsonObject all && all.ContainsKey(key))
            return Child(key).Items();
        if (required)
            Child(key).Fault("This is missing.");
        return [];
    }

    public IEnumerable<JsonPlace> Items()
    {
        if (node is JsonArray array)
            return array.Select((item, i) => new JsonPlace(item, $"{path}[{i}]", faults));
        Fault("This is a list in square brackets.");
        return [];
    }

    public IEnumerable<(string Key, JsonPlace Place)> Fields() => ((JsonObject)node!).Select(f => (f.Key, Child(f.Key)));

    public IEnumerable<(string Key, JsonPlace Place)> Fields(string key, bool required)
    {
        var place = Child(key);
        if ((node as JsonObject)?[key] is JsonObject)
            return place.Fields();
        if (required || (node as JsonObject)?.ContainsKey(key) == true)
            place.Fault(node is JsonObject all && all.ContainsKey(key) ? "This is an object in curly brackets." : "This is missing.");
        return [];
    }
}
