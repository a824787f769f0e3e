using System.CommandLine;
using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Mirror;

namespace Chronotype.Cli.Studio;

/// <summary>What is done with a whole studio while nobody works in it.</summary>
internal static class StudioCommand
{
    public static Command Make() => new("studio", "A whole studio.") { Rebuild() };

    private static Command Rebuild()
    {
        var data = DataOption();
        var replace = new Option<bool>("--replace")
        {
            Description = "Also where the records that are there are whole. They are set aside under a dated name, not deleted.",
        };
        var command = new Command(
            "rebuild",
            "Makes the records anew from what the content store keeps of them, when studio.db is lost or damaged. Chronotype must "
                + "not be running."
        )
        {
            data,
            replace,
        };
        command.SetAction(
            async (parsed, cancel) =>
            {
                var root = parsed.GetRequiredValue(data).FullName;
                if (!Directory.Exists(Path.Combine(root, "content")))
                    throw new UnusableInputException($"--data: there is no studio's content in {root}.");
                using var folder = new DataFolder(root);
                using var store = ContentStore.Open(folder.Content);
                var rebuilt = await new StudioRebuild(folder, store, TimeProvider.System).RunAsync(parsed.GetValue(replace), cancel);
                using var output = new JsonOutput(atOnce: true);
                output.Object(json =>
                {
                    json.WriteStartObject("rows");
                    foreach (var (table, rows) in rebuilt.Rows)
                        json.WriteNumber(table, rows);
                    json.WriteEndObject();
                    json.WriteString("setAside", rebuilt.SetAside);
                    json.WriteNumber("contentsThatNoSaveNames", rebuilt.Unnamed);
                    Strings("left", rebuilt.Left);
                    Strings("missing", rebuilt.Missing);
                    json.WriteStartObject("firstPasswords");
                    foreach (var (initials, password) in rebuilt.Passwords)
                        json.WriteString(initials, password);
                    json.WriteEndObject();

                    void Strings(string name, IEnumerable<string> values)
                    {
                        json.WriteStartArray(name);
                        foreach (var value in values)
                            json.WriteStringValue(value);
                        json.WriteEndArray();
                    }
                });
                return rebuilt.Left.Count + rebuilt.Missing.Count == 0 ? ExitCodes.Done : ExitCodes.Found;
            }
        );
        return command;
    }

    public static Option<DirectoryInfo> DataOption() =>
        new("--data")
        {
            Description = "The studio's data folder.",
            HelpName = "DIR",
            Required = true,
        };
}
