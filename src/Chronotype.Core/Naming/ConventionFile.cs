using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Chronotype.Core.Content;

namespace Chronotype.Core.Naming;

/// <summary>A convention read from a file, or every fault that stands in its way; exactly one of the two is there.</summary>
public sealed record ReadConvention(Convention? Convention, IReadOnlyList<SettingFault> Faults);

/// <summary>Writes conventions as JSON (RFC 8259) and reads them back; <c>docs/conventions.md</c> describes the file.</summary>
public static class ConventionFile
{
    /// <summary>The largest file that is read, in bytes: far more than the longest lists of codes need.</summary>
    public const int MaxBytes = 4 << 20;

    private const int Format = 1;

    private static readonly IReadOnlyList<NameForm> AllForms = Enum.GetValues<NameForm>();

    /// <summary>The form's key in a file and on the command line: <c>handOff</c>.</summary>
    public static string KeyOf(NameForm form) => JsonNamingPolicy.CamelCase.ConvertName(form.ToString());

    /// <returns>Null when no form has the key.</returns>
    public static NameForm? FormOf(string key) => AllForms.Select(f => (NameForm?)f).FirstOrDefault(f => KeyOf(f!.Value) == key);

    /// <summary>The convention as a file: what reads back as an equal one.</summary>
    /// <param name="convention">Written as a whole.</param>
    /// <param name="withLists">False for a studio's own record, where the lists are kept apart.</param>
    public static string Write(Convention convention, bool withLists = true)
    {
        using var buffer = new MemoryStream();
        using (
            var json = new Utf8JsonWriter(
                buffer,
                new JsonWriterOptions { Indented = withLists, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }
            )
        )
        {
            json.WriteStartObject();
            json.WriteNumber("chronotype", Format);
            json.WriteString("filler", convention.Filler);
            json.WriteStartArray("slots");
            foreach (var slot in convention.Slots)
                SlotJson.Write(json, slot);
            json.WriteEndArray();
            json.WriteStartObject("forms");
            foreach (var form in convention.Forms)
            {
                json.WriteStartArray(KeyOf(form));
                foreach (var slot in convention.Form(form))
                    json.WriteStringValue(slot.Label);
                json.WriteEndArray();
            }
            json.WriteEndObject();
            if (withLists)
                WriteLists(json, convention.Lists);
            json.WriteEndObject();
        }
        return Encoding.UTF8.GetString(buffer.ToArray());
    }

    /// <summary>Reads a file, and finds every fault in it.</summary>
    /// <param name="file">JSON in UTF-8, as docs/conventions.md describes it.</param>
    /// <param name="lists">Lists that are kept apart from the file; null where the file must hold the lists that its slots name.</param>
    public static ReadConvention Read(Stream file, IReadOnlyDictionary<string, CodeList>? lists = null)
    {
        return SettingText.Read(file, MaxBytes) is { } text
            ? Read(text, lists)
            : Fault("", $"The file is larger than {MaxBytes >> 20} MB, which no convention needs. Nothing of it was read.");
    }

    /// <inheritdoc cref="Read(Stream, IReadOnlyDictionary{string, CodeList}?)"/>
    public static ReadConvention Read(string text, IReadOnlyDictionary<string, CodeList>? lists = null)
    {
        var faults = new List<SettingFault>();
        return JsonPlace.Parse(text, MaxBytes, faults) is { } root ? Read(root, faults, lists) : new(null, faults);
    }

    private static ReadConvention Read(JsonPlace reader, List<SettingFault> faults, IReadOnlyDictionary<string, CodeList>? lists)
    {
        if (!reader.IsObject("A convention is an object."))
            return new(null, faults);
        reader.Only("$schema", "chronotype", "filler", "slots", "forms", "lists");
        if (reader.Int("chronotype", Format) is var format && format != Format)
            return Fault("chronotype", $"This file has the format {format}; this program reads {Format}.");
        var filler = reader.Text("filler", Convention.UsualFiller);
        var slots = reader.Items("slots", required: true).Select(SlotJson.Read).ToList();
        var forms = ReadForms(reader);
        var own = ReadLists(reader);
        var known = lists ?? own;
        if (lists is null)
        {
            for (var i = 0; i < slots.Count; i++)
            {
                if (
                    slots[i]?.Rule is CodeRule { List.Length: > 0 } code
                    && !own.ContainsKey(code.List)
                    && !faults.Any(f => f.Place.StartsWith("lists", StringComparison.Ordinal))
                )
                    faults.Add(new($"slots[{i}].list", $"The file has no list “{code.List}”. Add it under “lists”."));
            }
        }
        if (faults.Count > 0)
            return new(null, faults);
        var rules = ConventionRules.Check(slots!, forms, known, filler);
        return rules.Count > 0 ? new(null, rules) : new(new Convention(slots!, forms, known, filler), []);
    }

    private static ReadConvention Fault(string place, string message) => new(null, [new SettingFault(place, message)]);

    private static Dictionary<NameForm, IReadOnlyList<string>> ReadForms(JsonPlace root)
    {
        var forms = new Dictionary<NameForm, IReadOnlyList<string>>();
        foreach (var (key, form) in root.Fields("forms", required: true))
        {
            if (FormOf(key) is not { } known)
                form.Fault($"There is no form “{key}”. The forms are {string.Join(", ", AllForms.Select(KeyOf))}.");
            else
                forms[known] = [.. form.Items().Select(i => i.Text())];
        }
        return forms;
    }

    private static Dictionary<string, CodeList> ReadLists(JsonPlace root)
    {
        var lists = new Dictionary<string, CodeList>();
        foreach (var (name, list) in root.Fields("lists", required: false))
        {
            lists[name] = new CodeList([
                .. list.Items()
                    .Select(entry =>
                    {
                        if (entry.IsText)
                            return new CodeMeaning(entry.Text());
                        if (!entry.IsObject("A code is an object with “code” and “meaning”, or the code alone in quotes."))
                            return new CodeMeaning("");
                        entry.Only("code", "meaning");
                        return new CodeMeaning(entry.Text("code"), entry.Text("meaning", ""));
                    }),
            ]);
        }
        return lists;
    }

    private static void WriteLists(Utf8JsonWriter json, IReadOnlyDictionary<string, CodeList> lists)
    {
        json.WriteStartObject("lists");
        foreach (var (name, list) in lists)
        {
            json.WriteStartArray(name);
            foreach (var (code, meaning) in list.Codes)
            {
                json.WriteStartObject();
                json.WriteString("code", code);
                if (meaning.Length > 0)
                    json.WriteString("meaning", meaning);
                json.WriteEndObject();
            }
            json.WriteEndArray();
        }
        json.WriteEndObject();
    }
}
