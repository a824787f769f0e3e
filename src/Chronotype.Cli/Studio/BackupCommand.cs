using System.CommandLine;
using System.Diagnostics;
using Chronotype.Cli.Content;
using Chronotype.Content;
using Chronotype.Storage.Backup;

namespace Chronotype.Cli.Studio;

/// <summary>Copies a studio, also while it runs.</summary>
internal static class BackupCommand
{
    public static Command Make()
    {
        var data = StudioCommand.DataOption();
        var to = new Option<DirectoryInfo>("--to")
        {
            Description = "Where the copy lies, or will: an empty folder, or the backup before.",
            HelpName = "DIR",
            Required = true,
        };
        var verify = new Option<bool>("--verify")
        {
            Description = "Read all of the copy afterwards, and hold it against what was written and what the records name.",
        };
        var command = new Command(
            "backup",
            "Copies a studio to another folder, also while it runs. What is there from the last time is not copied again. Copy it "
                + "back to restore it."
        )
        {
            data,
            to,
            verify,
        };
        command.SetAction(
            (parsed, cancel) =>
            {
                // Saves that people make meanwhile come first.
                using (var self = Process.GetCurrentProcess())
                    self.PriorityClass = ProcessPriorityClass.BelowNormal;
                var target = parsed.GetRequiredValue(to).FullName;
                var backup = new StudioBackup(parsed.GetRequiredValue(data).FullName, target, TimeProvider.System);
                BackupRecord record;
                using (var progress = new ProgressLine("copying"))
                    record = backup.Run(progress, cancel);
                using var output = new JsonOutput(atOnce: true);
                var isSound = true;
                if (parsed.GetValue(verify))
                {
                    isSound = Verifying.Run(output, Path.Combine(target, "content"), Path.Combine(target, "studio.db"), 1, cancel);
                    if (isSound)
                        record = backup.NoteVerified(record);
                }
                output.Object(json =>
                {
                    json.WriteString("at", record.At.UtcDateTime);
                    json.WriteString("to", record.To);
                    json.WriteNumber("bytes", record.Bytes);
                    json.WriteNumber("copiedBytes", record.Copied);
                    json.WriteBoolean("verified", record.Verified is not null);
                    if (backup.Lost.Count == 0)
                        return;
                    // The disk that was copied is the damaged one; what the copy has of it from before stays there.
                    json.WriteStartArray("lostByTheStudio");
                    foreach (var segment in backup.Lost)
                        json.WriteStringValue(segment);
                    json.WriteEndArray();
                });
                return Task.FromResult(isSound && backup.Lost.Count == 0 ? ExitCodes.Done : ExitCodes.Found);
            }
        );
        return command;
    }
}
