using System.CommandLine;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Cli.Studio;

/// <summary>Keys for programs, from a shell, also while the studio runs.</summary>
internal static class KeyCommand
{
    public static Command Make() => new("key", "Keys that programs sign in with, on the share.") { New() };

    private static Command New()
    {
        var data = StudioCommand.DataOption();
        var person = new Option<string>("--person")
        {
            Description = "Whose key it is, by initials.",
            HelpName = "IK",
            Required = true,
        };
        var name = new Option<string>("--name")
        {
            Description = "The machine or the program that gets it.",
            HelpName = "NAME",
            Required = true,
        };
        var command = new Command("new", "Makes a key and prints it, this once: it is not kept, and cannot be shown again.")
        {
            data,
            person,
            name,
        };
        command.SetAction(
            async (parsed, cancel) =>
            {
                var database = Path.Combine(parsed.GetRequiredValue(data).FullName, "studio.db");
                if (!File.Exists(database))
                    throw new UnusableInputException($"--data: there is no studio in {parsed.GetRequiredValue(data)}.");
                var called = parsed.GetRequiredValue(name).Trim();
                if (called.Length is < 1 or > 80 || called.Any(char.IsControl))
                    throw new UnusableInputException("--name: a key is called by 1 to 80 characters.");
                var initials = parsed.GetRequiredValue(person).Trim().ToUpperInvariant();
                var secret = KeySecret.New();
                try
                {
                    await using var db = new StudioDb(
                        new DbContextOptionsBuilder<StudioDb>()
                            .UseSqlite(RecordConnection.Text(database, ConnectionUse.Alone))
                            .AddInterceptors(RecordConnection.Setting(ConnectionUse.Alone))
                            .Options
                    )
                    {
                        Sees = null,
                    };
                    if (await db.Users.FirstOrDefaultAsync(p => p.Initials == initials && !p.IsOff, cancel) is not { } owner)
                        throw new UnusableInputException($"--person: nobody in this studio has the initials {initials}.");
                    db.DeviceKeys.Add(
                        new DeviceKey
                        {
                            PersonId = owner.Id,
                            Name = called,
                            Hash = KeySecret.HashOf(secret),
                            MadeAt = DateTimeOffset.UtcNow,
                        }
                    );
                    await db.SaveChangesAsync(cancel);
                }
                catch (Exception e) when (e is SqliteException or DbUpdateException)
                {
                    throw new UnusableInputException(
                        $"--data: the records in {database} cannot be written: {(e.InnerException ?? e).Message}. Start the studio once with this version."
                    );
                }
                using var output = new JsonOutput();
                output.Object(json =>
                {
                    json.WriteString("person", initials);
                    json.WriteString("name", called);
                    json.WriteString("key", secret);
                });
                return ExitCodes.Done;
            }
        );
        return command;
    }
}
