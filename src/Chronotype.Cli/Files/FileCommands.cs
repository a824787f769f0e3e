using System.CommandLine;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;
using Chronotype.Formats;

namespace Chronotype.Cli.Files;

/// <summary>The commands <c>look</c> and <c>compare</c>: what is inside files, without a studio.</summary>
internal static class FileCommands
{
    private static Option<bool> TextOption() => new("--text") { Description = "Answers for people, instead of JSON." };

    public static Command Look()
    {
        var file = new Argument<FileInfo>("FILE") { Description = "The file to look into." };
        var text = TextOption();
        var command = new Command(
            "look",
            "Says what is inside a file: its picture, layers, sound, level, markers, or why it cannot be read."
        )
        {
            file,
            text,
        };
        command.SetAction(parsed =>
        {
            using var content = Open(parsed.GetRequiredValue(file));
            var facts = FormatReader.Read(content);
            Answer(parsed.GetValue(text), JsonNode.Parse(RecordJson.Write(facts))!.AsObject());
            return facts.Fault is null ? ExitCodes.Done : ExitCodes.Found;
        });
        return command;
    }

    public static Command Compare()
    {
        var before = new Argument<FileInfo>("A") { Description = "The earlier file." };
        var after = new Argument<FileInfo>("B") { Description = "The later file." };
        var text = TextOption();
        var pictures = new Option<DirectoryInfo?>("--out")
        {
            Description = "A folder for pictures: where the two differ, or how each looks. What is in it already stays.",
            HelpName = "DIR",
        };
        var command = new Command(
            "compare",
            "Says what changed from one file to another: by layers, by area, by what is heard, or by bytes. Ends with 1 where something did."
        )
        {
            before,
            after,
            text,
            pictures,
        };
        command.SetAction(parsed =>
        {
            using var first = Open(parsed.GetRequiredValue(before));
            using var second = Open(parsed.GetRequiredValue(after));
            var (factsA, factsB) = (FormatReader.Read(first), FormatReader.Read(second));
            var comparison = SaveComparer.Compare(first, factsA, second, factsB);
            var answer = Written(comparison);
            if (parsed.GetValue(pictures) is { } folder)
                answer["pictures"] = new JsonArray([.. ComparedPictures.Write(folder, (first, factsA), (second, factsB))]);
            Answer(parsed.GetValue(text), answer);
            return comparison.Change == 0 ? ExitCodes.Done : ExitCodes.Found;
        });
        return command;
    }

    private static FileStream Open(FileInfo file)
    {
        try
        {
            return new FileStream(file.FullName, FileMode.Open, FileAccess.Read, FileShare.ReadWrite, 1 << 16);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"{file}: {e.Message}");
        }
    }

    // Of a sound, each difference is told with its place and length in both; of anything else, each part with what became of it.
    private static JsonObject Written(Comparison comparison)
    {
        var written = JsonNode.Parse(RecordJson.Write(comparison with { Parts = [], Matches = [] }))!.AsObject();
        written.Remove("parts");
        written.Remove("matches");
        if (comparison.Companions.Count == 0)
            written.Remove("companions");
        // That it cannot be measured is an answer, too.
        written["change"] = comparison.Change;
        if (comparison.Basis == ComparisonBasis.Time)
        {
            written["differences"] = new JsonArray([.. comparison.Parts.Select(p => Difference(p.Stretch!))]);
            written["matches"] = new JsonArray([
                .. comparison.Matches.Select(m => new JsonObject
                {
                    ["at"] = new JsonArray(Seconds(m.Before), Seconds(m.After)),
                    ["length"] = Seconds(m.Length),
                }),
            ]);
        }
        else if (comparison.Parts.Count > 0)
            written["parts"] = JsonNode.Parse(RecordJson.Write(comparison.Parts));
        return written;
    }

    private static JsonObject Difference(SoundDifference difference)
    {
        var written = new JsonObject
        {
            ["kind"] = JsonNamingPolicy.CamelCase.ConvertName(difference.Kind.ToString()),
            ["at"] = new JsonArray(Seconds(difference.Before), Seconds(difference.After)),
            ["length"] = new JsonArray(Seconds(difference.BeforeLength), Seconds(difference.AfterLength)),
        };
        if (difference.Gain is { } gain)
            written["gain"] = Math.Round(gain, 2);
        return written;
    }

    private static JsonNode Seconds(double seconds) => Math.Round(seconds, 4);

    private static void Answer(bool forPeople, JsonObject answer)
    {
        using var output = new JsonOutput();
        if (forPeople)
            Tell(output, answer, "");
        else
            output.Object(json =>
            {
                foreach (var (name, value) in answer)
                {
                    json.WritePropertyName(name);
                    if (value is null)
                        json.WriteNullValue();
                    else
                        value.WriteTo(json);
                }
            });
    }

    // One fact a line, what belongs together indented; many alike as lines of their own.
    private static void Tell(JsonOutput output, JsonObject answer, string indent)
    {
        foreach (var (name, value) in answer)
        {
            switch (value)
            {
                case JsonArray { Count: 0 }:
                    break;
                case JsonObject inside:
                    output.Text($"{indent}{Words(name)}:");
                    Tell(output, inside, indent + "  ");
                    break;
                case JsonArray { Count: > 0 } many when many[0] is JsonObject:
                    output.Text($"{indent}{Words(name)}:");
                    foreach (var one in many)
                        output.Text($"{indent}  {string.Join(", ", one!.AsObject().Select(f => $"{Words(f.Key)} {Said(f.Value)}"))}");
                    break;
                default:
                    output.Text($"{indent}{Words(name)}: {Said(value)}");
                    break;
            }
        }
    }

    private static string Words(string name) =>
        string.Concat(name.Select(c => char.IsAsciiLetterUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{c}"));

    private static string Said(JsonNode? value) =>
        value switch
        {
            null => "not measurable",
            JsonArray many => string.Join(" → ", many.Select(Said)),
            JsonObject one => string.Join(", ", one.Select(f => $"{Words(f.Key)} {Said(f.Value)}")),
            JsonValue number when number.TryGetValue<double>(out var n) => n.ToString("0.####", CultureInfo.InvariantCulture),
            _ => value.ToString(),
        };
}
