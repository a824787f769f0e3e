using System.CommandLine;
using Chronotype.Content;
using Chronotype.Content.Maintenance;
using Chronotype.Core.Content;

namespace Chronotype.Cli.Content;

/// <summary>The commands that keep a store in order.</summary>
internal static class MaintenanceCommands
{
    public static Command Verify()
    {
        var option = StoreOption.Make();
        var sample = new Option<double>("--sample")
        {
            Description = "The share of the segments to read, drawn by chance, above 0 and up to 1.",
            HelpName = "SHARE",
            DefaultValueFactory = _ => 1,
        };
        var command = new Command(
            "verify",
            "Reads all that is kept, or a sample, and lists what is not as it was written. Ends with 1 where something is."
        )
        {
            option,
            sample,
        };
        command.SetAction((parsed, cancel) => Task.FromResult(Verify(option, parsed, parsed.GetValue(sample), cancel)));
        return command;
    }

    private static int Verify(StoreOption option, ParseResult parsed, double share, CancellationToken cancel)
    {
        if (share is not (> 0 and <= 1))
            throw new UnusableInputException("--sample: a share above 0 and up to 1.");
        using var store = option.OpenReadOnly(parsed);
        using var output = new JsonOutput(atOnce: true);
        return Verifying.Run(output, store, option.DatabaseOf(parsed), share, cancel) ? ExitCodes.Done : ExitCodes.Found;
    }

    public static Command Stat()
    {
        var option = StoreOption.Make();
        var list = new Option<bool>("--contents") { Description = "Also every content, from the oldest." };
        var command = new Command("stat", "Says what the store holds, and what it takes on disk.") { option, list };
        command.SetAction(parsed =>
        {
            using var store = option.OpenReadOnly(parsed);
            using var output = new JsonOutput(atOnce: true);
            if (parsed.GetValue(list))
            {
                foreach (var content in store.Maintenance.Contents())
                    Write(output, content);
            }
            var stat = store.Maintenance.Stat();
            output.Object(json =>
            {
                json.WriteNumber("contents", stat.Contents);
                json.WriteNumber("contentBytes", stat.ContentBytes);
                json.WriteNumber("segments", stat.Segments);
                json.WriteNumber("segmentBytes", stat.SegmentBytes);
                json.WriteNumber("neededBytes", stat.NeededBytes);
                json.WriteNumber("noteBytes", stat.NoteBytes);
                json.WriteNumber("records", stat.Records);
                json.WriteNumber("indexBytes", stat.IndexBytes);
                if (stat.Tier is not null)
                    json.WriteString("shelf", stat.Tier);
            });
        });
        return command;
    }

    private static void Write(JsonOutput output, ContentEntry content) =>
        output.Object(json =>
        {
            json.WriteString("hash", content.Hash.ToString());
            json.WriteNumber("bytes", content.Size);
            json.WriteNumber("newBytes", content.NewBytes);
            json.WriteString("keptAt", content.KeptAt.UtcDateTime);
        });

    public static Command Compact()
    {
        var option = StoreOption.Make();
        var verify = new Option<bool>("--verify")
        {
            Description = "Verify first, and clear away segments with damage that nothing needs any more.",
        };
        var command = new Command("compact", "Frees on disk what no content needs any more.") { option, verify };
        command.SetAction((parsed, cancel) => Task.FromResult(Compact(option, parsed, parsed.GetValue(verify), cancel)));
        return command;
    }

    private static int Compact(StoreOption option, ParseResult parsed, bool isVerified, CancellationToken cancel)
    {
        using var store = option.Open(parsed);
        Verified? damage = null;
        if (isVerified)
        {
            using var verifying = new ProgressLine("verifying");
            damage = store.Maintenance.Verify(1, verifying, cancel);
        }
        CompactionResult result;
        using (var progress = new ProgressLine("compacting"))
            result = store.Maintenance.Compact(damage, progress, cancel);
        using var output = new JsonOutput(atOnce: true);
        output.Object(json =>
        {
            json.WriteNumber("bytesBefore", result.BytesBefore);
            json.WriteNumber("bytesAfter", result.BytesAfter);
            json.WriteNumber("deletedSegments", result.Deleted);
            json.WriteStartArray("skippedSegments");
            foreach (var skipped in result.Skipped)
                json.WriteStringValue(skipped);
            json.WriteEndArray();
        });
        return result.Skipped.Count == 0 ? ExitCodes.Done : ExitCodes.Found;
    }

    public static Command Rebuild()
    {
        var option = StoreOption.Make();
        var command = new Command("rebuild", "Makes the index anew from the segments alone.") { option };
        command.SetAction(parsed =>
        {
            using var store = option.Open(parsed);
            using (var progress = new ProgressLine("rebuilding"))
                store.Maintenance.RebuildIndex(progress);
            using var output = new JsonOutput(atOnce: true);
            var stat = store.Maintenance.Stat();
            output.Object(json =>
            {
                json.WriteNumber("records", stat.Records);
                json.WriteNumber("segments", stat.Segments);
                json.WriteNumber("indexBytes", stat.IndexBytes);
            });
        });
        return command;
    }

    public static Command Repair()
    {
        var files = new Argument<string[]>("FILE")
        {
            Description = "Copies of damaged contents, or of others that share bytes with them; - is the standard input.",
            Arity = ArgumentArity.OneOrMore,
        };
        var option = StoreOption.Make();
        var command = new Command("repair", "Keeps anew, from other copies, whatever is damaged or missing here.") { files, option };
        command.SetAction(parsed =>
        {
            using var store = option.Open(parsed);
            return ContentCommand.WithEach(
                parsed.GetRequiredValue(files),
                "reading",
                source =>
                {
                    var repaired = store.RepairAsync(source).GetAwaiter().GetResult();
                    return (repaired, repaired.NewBytes);
                }
            );
        });
        return command;
    }

    private static void Number(System.Text.Json.Utf8JsonWriter json, string name, long? value)
    {
        if (value is { } number)
            json.WriteNumber(name, number);
        else
            json.WriteNull(name);
    }
}
