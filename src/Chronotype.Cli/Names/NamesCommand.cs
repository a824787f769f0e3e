using System.CommandLine;
using System.Text.Json;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Core.Naming.Learning;
using Chronotype.Core.Naming.Renaming;

namespace Chronotype.Cli.Names;

/// <summary>The commands about names: <c>check</c>, <c>prove</c>, <c>format</c>, <c>learn</c>, <c>plan</c>.</summary>
internal static class NamesCommand
{
    private static Option<FileInfo> ConventionOption(string name, string description) =>
        new(name)
        {
            Description = description,
            HelpName = "FILE",
            Required = true,
        };

    private static Option<bool> TextOption() => new("--text") { Description = "Answers for people, instead of JSON." };

    public static Command Make() =>
        new("names", "Checks, repairs, writes, learns and renames under a convention.") { Check(), Prove(), Format(), Learn(), Plan() };

    private static Command Check()
    {
        var file = ConventionOption("--convention", "The convention to check against.");
        var form = new Option<string>("--form")
        {
            Description = "The form that the names should have, or any.",
            HelpName = "FORM",
            DefaultValueFactory = _ => "working",
        };
        var text = TextOption();
        var input = new NameInput();
        var command = new Command(
            "check",
            "Says of each name whether it is legal, every fault with its place, and the repair that costs least."
        )
        {
            file,
            form,
            text,
        };
        input.AddTo(command);
        command.SetAction(parsed =>
        {
            var convention = NameInput.Read(parsed.GetRequiredValue(file));
            var checker = new NameChecker(convention.GrammarOf(NameInput.Forms(convention, parsed.GetRequiredValue(form))));
            var known = input.KnownOf(parsed);
            var folder = input.FolderOf(parsed);
            var checks = input.NamesOf(parsed).Select(n => checker.Check(n, known, folder));
            // Only what lies in one folder has neighbours.
            if (folder is not null)
                checks = NameChecker.WithNeighbours([.. checks]);
            using var output = new JsonOutput();
            var found = false;
            foreach (var check in checks)
            {
                found |= !check.IsLegal;
                if (parsed.GetValue(text))
                    Tell(output, check);
                else
                    Write(output, check);
            }
            return found ? ExitCodes.Found : ExitCodes.Done;
        });
        return command;
    }

    private static void Write(JsonOutput output, NameCheck check) =>
        output.Object(json =>
        {
            json.WriteString("name", check.Name);
            json.WriteBoolean("legal", check.IsLegal);
            json.WritePropertyName("reading");
            if (check.Reading is { } reading)
                Reading(json, reading);
            else
                json.WriteNullValue();
            json.WriteStartArray("faults");
            foreach (var fault in check.Faults)
            {
                json.WriteStartObject();
                json.WriteString("slot", fault.Slot);
                json.WriteNumber("at", fault.At);
                json.WriteNumber("length", fault.Length);
                json.WriteString("code", fault.Code);
                json.WriteString("message", fault.Message);
                json.WriteEndObject();
            }
            json.WriteEndArray();
            json.WriteStartArray("repairs");
            foreach (var repair in check.Repairs)
            {
                json.WriteStartObject();
                json.WriteString("name", repair.Name);
                json.WriteNumber("cost", repair.Cost);
                Strings(json, "reasons", repair.Reasons);
                json.WriteEndObject();
            }
            json.WriteEndArray();
        });

    private static void Tell(JsonOutput output, NameCheck check)
    {
        output.Text($"{(check.IsLegal ? "legal  " : "FAULTY ")} {Shown(check.Name)}");
        foreach (var fault in check.Faults)
            output.Text($"    {fault.At + 1}{(fault.Length > 1 ? $"–{fault.At + fault.Length}" : "")}: {fault.Message}");
        if (check.Repairs.Count > 1)
            output.Text("    These cost the same, so the choice is yours:");
        foreach (var repair in check.Repairs)
            output.Text($"    → {repair.Name}    {string.Join("; ", repair.Reasons)}");
        if (check.MoreRepairs)
            output.Text("    → and more that cost the same");
    }

    // A terminal must not be led astray by what a name holds.
    private static string Shown(string name) =>
        string.Concat(name.Length > 300 ? name.AsSpan(0, 300).ToString().Select(Plain).Append("…") : name.Select(Plain));

    private static string Plain(char c) => FileSystemRules.IsUnseen(c) ? $"[U+{(int)c:X4}]" : c.ToString();

    private static Command Prove()
    {
        var file = ConventionOption("--convention", "The convention to prove.");
        var text = TextOption();
        var command = new Command("prove", "Proves that no name has two readings, or shows one that has.") { file, text };
        command.SetAction(parsed =>
        {
            var twice = NameInput.Read(parsed.GetRequiredValue(file)).Grammar.FindAmbiguity();
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
            {
                output.Text(
                    twice is null
                        ? "Every name has one reading."
                        : $"“{twice.Name}” has two readings:\n    {twice.First}\n    {twice.Second}"
                );
            }
            else
            {
                output.Object(json =>
                {
                    json.WriteBoolean("proved", twice is null);
                    if (twice is null)
                        return;
                    json.WriteString("name", twice.Name);
                    json.WriteStartArray("readings");
                    foreach (var reading in new[] { twice.First, twice.Second })
                        Reading(json, reading);
                    json.WriteEndArray();
                });
            }
            return twice is null ? ExitCodes.Done : ExitCodes.Found;
        });
        return command;
    }

    private static Command Format()
    {
        var file = ConventionOption("--convention", "The convention to write under.");
        var form = new Option<string>("--form")
        {
            Description = "The form to write.",
            HelpName = "FORM",
            Required = true,
        };
        var text = TextOption();
        var values = new Argument<string[]>("slot=value")
        {
            Description = "What each slot holds; extension=ora gives the extension.",
            Arity = ArgumentArity.ZeroOrMore,
        };
        var command = new Command("format", "Writes a name from what its slots hold.") { file, form, text, values };
        command.SetAction(parsed =>
        {
            var convention = NameInput.Read(parsed.GetRequiredValue(file));
            var asked = NameInput.Forms(convention, parsed.GetRequiredValue(form));
            if (asked.Count > 1)
                throw new UnusableInputException("--form: a name is written in one form.");
            var given = NameInput.Values(parsed.GetValue(values) ?? [], "slot=value");
            given.Remove("extension", out var extension);
            extension = extension is { Length: > 0 } ? "." + extension.TrimStart('.') : "";
            var form1 = convention.Form(asked[0]);
            if (given.Keys.FirstOrDefault(k => !form1.Any(s => s.Label == k)) is { } stray)
                throw new UnusableInputException(
                    $"The form has no slot “{stray}”. It has {string.Join(", ", form1.Select(s => s.Label))}."
                );
            if (extension.Length > 0 && FileNames.Extension("x" + extension).Length == 0)
                throw new UnusableInputException($"“{extension}” is no extension: 1 to 16 letters and digits.");
            var (name, faults) = convention.Format(asked[0], given, extension);
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
            {
                if (name is not null)
                    output.Text(name.ToString());
                foreach (var fault in faults)
                    Console.Error.WriteLine(fault.Message);
                foreach (var cut in name?.Cuts ?? [])
                    Console.Error.WriteLine($"The {cut.Slot} has room for {cut.Room} characters, so it is cut to “{cut.Text}”.");
            }
            else
            {
                output.Object(json =>
                {
                    json.WriteString("name", name?.ToString());
                    json.WriteStartArray("cuts");
                    foreach (var cut in name?.Cuts ?? [])
                    {
                        json.WriteStartObject();
                        json.WriteString("slot", cut.Slot);
                        json.WriteNumber("room", cut.Room);
                        json.WriteString("text", cut.Text);
                        json.WriteEndObject();
                    }
                    json.WriteEndArray();
                    json.WriteStartArray("faults");
                    foreach (var fault in faults)
                    {
                        json.WriteStartObject();
                        json.WriteString("slot", fault.Slot);
                        json.WriteString("message", fault.Message);
                        json.WriteEndObject();
                    }
                    json.WriteEndArray();
                });
            }
            return name is null ? ExitCodes.Found : ExitCodes.Done;
        });
        return command;
    }

    private static Command Learn()
    {
        var text = TextOption();
        var input = new NameInput();
        var command = new Command("learn", "Proposes the convention that explains most of the names most simply.") { text };
        input.AddTo(command, withKnown: false);
        command.SetAction(parsed =>
        {
            var learned = NameLearner.Learn(input.NamesOf(parsed));
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
                Tell(output, learned);
            else
                Write(output, learned);
            return learned.Convention is null ? ExitCodes.Found : ExitCodes.Done;
        });
        return command;
    }

    private static void Write(JsonOutput output, LearnedConvention learned) =>
        output.Object(json =>
        {
            json.WritePropertyName("convention");
            if (learned.Convention is null)
                json.WriteNullValue();
            else
                json.WriteRawValue(
                    System
                        .Text.Json.Nodes.JsonNode.Parse(ConventionFile.Write(learned.Convention))!
                        .ToJsonString(new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping })
                );
            json.WriteNumber("names", learned.Names);
            json.WriteNumber("explained", learned.Explained);
            json.WriteNumber("coverage", Math.Round(learned.Coverage, 4));
            json.WriteStartObject("why");
            foreach (var (label, why) in learned.Why)
                json.WriteString(label, why);
            json.WriteEndObject();
            Strings(json, "leftOut", learned.LeftOut);
        });

    private static void Tell(JsonOutput output, LearnedConvention learned)
    {
        if (learned.Convention is null)
        {
            output.Text("These names have no convention in common.");
            return;
        }
        output.Text(ConventionFile.Write(learned.Convention));
        output.Text($"It explains {learned.Explained:N0} of {learned.Names:N0} names ({learned.Coverage:P0}).");
        foreach (var (label, why) in learned.Why)
            output.Text($"    {label}: {why}");
        foreach (var name in learned.LeftOut)
            output.Text($"left out: {Shown(name)}");
    }

    private static Command Plan()
    {
        var from = ConventionOption("--from", "The convention that the names have.");
        var to = ConventionOption("--to", "The convention that they shall have.");
        var text = TextOption();
        var input = new NameInput();
        var command = new Command(
            "plan",
            "Lists the renames from one convention to another in an order that is safe, or why there is none. It renames nothing."
        )
        {
            from,
            to,
            text,
        };
        input.AddTo(command);
        command.SetAction(parsed =>
        {
            var known = input.KnownOf(parsed);
            var translation = NameTranslation.Between(
                NameInput.Read(parsed.GetRequiredValue(from)),
                NameInput.Read(parsed.GetRequiredValue(to)),
                input.NamesOf(parsed).Distinct(StringComparer.Ordinal).ToList(),
                _ => known
            );
            var plan = translation.Plan();
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
                Tell(output, translation, plan);
            else
                Write(output, translation, plan);
            return plan.Obstacles.Count > 0 ? ExitCodes.Found : ExitCodes.Done;
        });
        return command;
    }

    private static void Write(JsonOutput output, NameTranslation translation, RenamePlan plan)
    {
        foreach (var (old, next) in plan.Steps)
            output.Object(json =>
            {
                json.WriteString("from", old);
                json.WriteString("to", next);
            });
        foreach (var (names, message) in plan.Obstacles)
            output.Object(json =>
            {
                Strings(json, "names", names);
                json.WriteString("message", message);
            });
        foreach (var name in translation.Unread)
            output.Object(json =>
            {
                json.WriteString("stays", name);
                json.WriteString("message", "It is not a name of the first convention.");
            });
    }

    private static void Tell(JsonOutput output, NameTranslation translation, RenamePlan plan)
    {
        foreach (var (old, next) in plan.Steps)
            output.Text($"{old} → {next}");
        if (plan.Obstacles.Count > 0)
            output.Text("There is no safe plan:");
        foreach (var obstacle in plan.Obstacles)
            output.Text($"    {obstacle.Message}");
        if (translation.Unread.Count > 0)
            output.Text($"{translation.Unread.Count:N0} names are not of the first convention and stay as they are.");
    }

    private static void Reading(Utf8JsonWriter json, NameReading reading)
    {
        json.WriteStartObject();
        foreach (var (label, value) in reading.Values())
            json.WriteString(label, value);
        if (reading.Extension.Length > 0)
            json.WriteString("extension", reading.Extension);
        json.WriteEndObject();
    }

    private static void Strings(Utf8JsonWriter json, string name, IEnumerable<string> all)
    {
        json.WriteStartArray(name);
        foreach (var text in all)
            json.WriteStringValue(text);
        json.WriteEndArray();
    }
}
