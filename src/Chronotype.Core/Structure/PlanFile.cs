using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;

namespace Chronotype.Core.Structure;

/// <summary>A folder plan read from a file, or every fault that stands in its way; exactly one of the two is there.</summary>
public sealed record ReadPlan(FolderPlan? Plan, IReadOnlyList<SettingFault> Faults);

/// <summary>Writes folder plans as JSON (RFC 8259) and reads them back; <c>docs/plan.schema.json</c> describes the file.</summary>
public static class PlanFile
{
    /// <summary>The longest file that is read, in characters.</summary>
    public const int MaxLength = 1 << 20;

    private const int Format = 1;

    /// <summary>The plan as a file: what reads back as an equal one.</summary>
    public static string Write(FolderPlan plan)
    {
        using var buffer = new MemoryStream();
        using (
            var json = new Utf8JsonWriter(
                buffer,
                new JsonWriterOptions { Indented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }
            )
        )
        {
            json.WriteStartObject();
            json.WriteNumber("chronotype", Format);
            json.WriteString("plan", plan.Key);
            json.WriteString("title", plan.Title);
            json.WriteString("purpose", plan.Purpose);
            json.WriteString("keep", KeyOf(plan.Keep));
            WriteAll(
                json,
                "folders",
                plan.Folders,
                f =>
                {
                    json.WriteString("path", f.Path.Text);
                    json.WriteString("role", KeyOf(f.Role));
                    json.WriteString("purpose", f.Purpose);
                }
            );
            WriteAll(
                json,
                "functions",
                plan.Functions,
                f =>
                {
                    json.WriteString("code", f.Code);
                    json.WriteString("meaning", f.Meaning);
                }
            );
            WriteSpec(json, plan.Spec);
            if (plan.Convention is { } convention)
            {
                json.WritePropertyName("convention");
                json.WriteRawValue(ConventionFile.Write(convention, withLists: false));
            }
            if (plan.Reserved.Count > 0)
                WriteAll(
                    json,
                    "reserved",
                    plan.Reserved,
                    r =>
                    {
                        foreach (var (label, value) in r.Slots)
                            json.WriteString(label, value);
                    }
                );
            json.WriteEndObject();
        }
        return Encoding.UTF8.GetString(buffer.ToArray());
    }

    /// <summary>Reads a file, and finds every fault in it.</summary>
    /// <param name="text">JSON, as <c>docs/plan.schema.json</c> describes it.</param>
    public static ReadPlan Read(string text)
    {
        var faults = new List<SettingFault>();
        if (JsonPlace.Parse(text, MaxLength, faults) is not { } root || !root.IsObject("A folder plan is an object."))
            return new(null, faults);
        root.Only("$schema", "chronotype", "plan", "title", "purpose", "keep", "folders", "functions", "spec", "convention", "reserved");
        if (root.Int("chronotype", Format) is var format && format != Format)
            return new(null, [new("chronotype", $"This file has the format {format}; this program reads {Format}.")]);
        var plan = new FolderPlan(
            root.Text("plan"),
            root.Text("title"),
            root.Text("purpose", ""),
            [.. root.Items("folders", required: true).Select(ReadFolder).OfType<PlanFolder>()],
            [.. root.Items("functions", required: false).Select(ReadFunction)],
            Choice<KeepSetting>(root, "keep", KeepSetting.WhenAsked)
        )
        {
            Spec = root.Has("spec") ? ReadSpec(root.Child("spec")) : new(),
            Convention = root.Has("convention") ? ReadConvention(root.Child("convention"), faults) : null,
            Reserved = [.. root.Items("reserved", required: false).Select(ReadReserved)],
        };
        if (faults.Count == 0)
            faults.AddRange(PlanRules.Check(plan));
        return faults.Count > 0 ? new(null, faults) : new(plan, []);
    }

    private static string KeyOf<T>(T value)
        where T : struct, Enum => JsonNamingPolicy.CamelCase.ConvertName(value.ToString());

    private static void WriteAll<T>(Utf8JsonWriter json, string name, IEnumerable<T> items, Action<T> write)
    {
        json.WriteStartArray(name);
        foreach (var item in items)
        {
            json.WriteStartObject();
            write(item);
            json.WriteEndObject();
        }
        json.WriteEndArray();
    }

    private static void WriteSpec(Utf8JsonWriter json, ProjectSpec spec)
    {
        if (spec.IsEmpty)
            return;
        json.WriteStartObject("spec");
        Part("sound", spec.Sound, [("sampleRate", spec.Sound?.SampleRate), ("bits", spec.Sound?.Bits), ("channels", spec.Sound?.Channels)]);
        Part(
            "picture",
            spec.Picture,
            [
                ("width", spec.Picture?.Width),
                ("height", spec.Picture?.Height),
                ("resolution", spec.Picture?.Resolution),
                ("depth", spec.Picture?.Depth),
            ],
            () =>
            {
                if (spec.Picture?.Colour is { } colour)
                    json.WriteString("colour", KeyOf(colour));
            }
        );
        Part(
            "motion",
            spec.Motion,
            [("width", spec.Motion?.Width), ("height", spec.Motion?.Height), ("framesPerSecond", spec.Motion?.FramesPerSecond)]
        );
        json.WriteEndObject();

        void Part(string name, object? part, (string Name, double? Value)[] numbers, Action? also = null)
        {
            if (part is null)
                return;
            json.WriteStartObject(name);
            foreach (var (key, value) in numbers)
            {
                if (value is { } number)
                    json.WriteNumber(key, number);
            }
            also?.Invoke();
            json.WriteEndObject();
        }
    }

    private static PlanFolder? ReadFolder(JsonPlace place)
    {
        if (!place.IsObject("A folder is an object with a path and a role."))
            return null;
        place.Only("path", "role", "purpose");
        var text = place.Text("path");
        var role = Choice<FolderRole>(place, "role", null);
        if (ProjectPath.TryParse(text, out var path, out _))
            return new PlanFolder(path, role, place.Text("purpose", ""));
        if (place.HasText("path"))
            place.Child("path").Fault($"“{text}” is no path of folders within a project, such as “working/scenes”.");
        return null;
    }

    private static FunctionCode ReadFunction(JsonPlace place)
    {
        if (!place.IsObject("A function is an object with “code” and “meaning”."))
            return new FunctionCode("", "");
        place.Only("code", "meaning");
        return new FunctionCode(place.Text("code"), place.Text("meaning", ""));
    }

    private static ReservedName ReadReserved(JsonPlace place) =>
        new(
            place.IsObject("A reserved name is an object: slots by their label, such as “subject”.")
                ? place.Fields().ToDictionary(f => f.Key, f => f.Place.Text())
                : []
        );

    private static ProjectSpec ReadSpec(JsonPlace place)
    {
        if (!place.IsObject("A spec is an object with “sound”, “picture” and “motion”."))
            return new();
        place.Only("sound", "picture", "motion");
        var (sound, picture, motion) = (Part("sound"), Part("picture"), Part("motion"));
        sound?.Only("sampleRate", "bits", "channels");
        picture?.Only("width", "height", "resolution", "colour", "depth");
        motion?.Only("width", "height", "framesPerSecond");
        return new ProjectSpec
        {
            Sound = sound is null ? null : new(sound.Whole("sampleRate"), sound.Whole("bits"), sound.Whole("channels")),
            Picture = picture is null
                ? null
                : new(
                    picture.Whole("width"),
                    picture.Whole("height"),
                    picture.Whole("resolution"),
                    picture.Has("colour") ? Choice<ColourModel>(picture, "colour", null) : null,
                    picture.Whole("depth")
                ),
            Motion = motion is null ? null : new(motion.Whole("width"), motion.Whole("height"), motion.Number("framesPerSecond")),
        }.Trimmed();

        JsonPlace? Part(string key) =>
            place.Has(key) && place.Child(key) is var part && part.IsObject("This is an object in curly brackets.") ? part : null;
    }

    private static Convention? ReadConvention(JsonPlace place, List<SettingFault> faults)
    {
        var read = ConventionFile.Read(place.Json(), new Dictionary<string, CodeList>());
        faults.AddRange(read.Faults.Select(f => f with { Place = f.Place.Length == 0 ? "convention" : $"convention.{f.Place}" }));
        return read.Convention;
    }

    // One of an enumeration, by its key.
    private static T Choice<T>(JsonPlace place, string key, T? usual)
        where T : struct, Enum
    {
        if (usual is { } value && !place.Has(key))
            return value;
        var text = place.Text(key);
        foreach (var choice in Enum.GetValues<T>())
        {
            if (KeyOf(choice) == text)
                return choice;
        }
        if (place.HasText(key))
            place.Child(key).Fault($"There is no “{text}” here. It is one of {string.Join(", ", Enum.GetValues<T>().Select(KeyOf))}.");
        return default;
    }
}
