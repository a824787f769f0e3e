using System.CommandLine;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats;

namespace Chronotype.Cli.Tree;

/// <summary>The commands <c>tree</c>, <c>references</c> and <c>users</c>: a project's files and who uses what, in a studio or a folder.</summary>
internal static class TreeCommands
{
    private static Option<bool> TextOption() => new("--text") { Description = "Answers for people, instead of JSON." };

    private static Option<DirectoryInfo?> DataOption() =>
        new("--data") { Description = "A studio's data folder; then a project is named by its code.", HelpName = "DIR" };

    private static Option<DirectoryInfo?> RootOption() =>
        new("--root")
        {
            Description =
                "The project's top, which references may not leave; the folder that one is in, where the file lies in it, else the file's.",
            HelpName = "DIR",
        };

    private static Option<string[]> PatternOption() =>
        new("--pattern")
        {
            Description =
                "How texts with an ending write a path, as ENDING:LINE with {file} in the line where the path stands. May be given "
                + "several times; a studio's own hold, too.",
            HelpName = "ENDING:LINE",
        };

    private static IReadOnlyList<ReferencePattern> Patterns(ParseResult parsed, Option<string[]> option)
    {
        var patterns = new List<ReferencePattern>();
        foreach (var given in parsed.GetValue(option) ?? [])
        {
            var at = given.IndexOf(':');
            var pattern = new ReferencePattern(at < 0 ? "" : given[..at].ToLowerInvariant(), given[(at + 1)..].Trim());
            if (pattern.Fault() is { } fault)
                throw new UnusableInputException(
                    $"--pattern: “{given}” "
                        + fault switch
                        {
                            PatternFault.Ending => "does not begin with the ending of its files, such as “.scene:”.",
                            PatternFault.IsRead => "is for files that are read for what they refer to already.",
                            PatternFault.TooLong => $"is longer than {ReferencePattern.MaxLength} letters.",
                            _ => $"must hold {ReferencePattern.FileMark} once, where the path stands.",
                        }
                );
            patterns.Add(pattern);
        }
        return patterns;
    }

    public static Command Tree()
    {
        var which = new Argument<string>("DIR|PROJECT") { Description = "A folder; or with --data, a project's code." };
        var (data, text, pattern) = (DataOption(), TextOption(), PatternOption());
        var command = new Command("tree", "Lists a project's files: what each is, what it refers to, and what of that is not found.")
        {
            which,
            data,
            text,
            pattern,
        };
        command.SetAction(parsed =>
        {
            var patterns = Patterns(parsed, pattern);
            using var tree = parsed.GetValue(data) is { } studio
                ? FileTree.OfProject(studio.FullName, parsed.GetRequiredValue(which), patterns)
                : FileTree.OfFolder(parsed.GetRequiredValue(which), patterns);
            var files = tree
                .Files.Select(f => (File: f, Facts: Facts(tree, f)))
                .Select(f => (f.File, f.Facts, Links: tree.References(f.File, f.Facts)))
                .ToList();
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
            {
                foreach (var (file, facts, links) in files)
                    output.Text($"{file.Path}  {file.Size:N0} bytes{(facts is null ? "" : $", {Name(facts.Format)}")}{Told(links)}");
            }
            else
                output.Object(json =>
                {
                    json.WriteString("top", tree.Top);
                    json.WriteStartArray("files");
                    foreach (var (file, facts, links) in files)
                    {
                        json.WriteStartObject();
                        json.WriteString("path", file.Path);
                        json.WriteNumber("size", file.Size);
                        if (file.Role is not null)
                            json.WriteString("role", file.Role);
                        json.WriteString("format", Name(facts?.Format ?? FileFormat.Other));
                        if (links is not null)
                        {
                            json.WriteNumber("references", links.Count);
                            json.WriteNumber("notFound", links.Count(l => l.Resolved.State.IsBroken()));
                        }
                        json.WriteEndObject();
                    }
                    json.WriteEndArray();
                });
            return files.Any(f => f.Links?.Any(l => l.Resolved.State.IsBroken()) == true) ? ExitCodes.Found : ExitCodes.Done;
        });
        return command;
    }

    public static Command References()
    {
        var file = new Argument<string>("FILE") { Description = "The file; or with --data, PROJECT/path." };
        var (root, data, text, pattern) = (RootOption(), DataOption(), TextOption(), PatternOption());
        var command = new Command(
            "references",
            "Says what a file refers to, and what becomes of each reference. Nothing is fetched. Ends with 1 where one is not found."
        )
        {
            file,
            root,
            data,
            text,
            pattern,
        };
        command.SetAction(parsed =>
        {
            var (tree, asked) = Open(parsed, file, root, data, Patterns(parsed, pattern));
            using var _ = tree;
            var facts =
                asked.Read(tree.Patterns) ?? throw new UnusableInputException($"{asked.Path}: it cannot be read, or holds nothing yet.");
            var links = tree.References(asked, facts);
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
            {
                if (links is null)
                    output.Text($"{asked.Path}: {Unknown(facts)}");
                foreach (var (reference, resolved) in links ?? [])
                    output.Text($"{StateOf(resolved.State)}: {Shown(reference, resolved)} ({reference.Place})");
            }
            else
                output.Object(json =>
                {
                    json.WriteString("file", asked.Path);
                    json.WriteString("format", Name(facts.Format));
                    if (facts.Fault is { } fault)
                    {
                        json.WritePropertyName("fault");
                        json.WriteRawValue(RecordJson.Write(fault));
                    }
                    json.WriteBoolean("known", links is not null || FileTree.RefersToNothing(facts.Format));
                    json.WriteStartArray("references");
                    foreach (var (reference, resolved) in links ?? [])
                        Write(json, reference, resolved);
                    json.WriteEndArray();
                });
            return links?.Any(l => l.Resolved.State.IsBroken()) == true ? ExitCodes.Found : ExitCodes.Done;
        });
        return command;
    }

    public static Command Users()
    {
        var file = new Argument<string>("FILE") { Description = "The file; or with --data, PROJECT/path." };
        var (root, data, text, pattern) = (RootOption(), DataOption(), TextOption(), PatternOption());
        var command = new Command("users", "Says which files of its project refer to a file, and which cannot be read for that.")
        {
            file,
            root,
            data,
            text,
            pattern,
        };
        command.SetAction(parsed =>
        {
            var (tree, asked) = Open(parsed, file, root, data, Patterns(parsed, pattern));
            using var _ = tree;
            var (users, unknown) = (new List<(TreeFile User, ReferenceFacts Reference, ReferenceState State)>(), new List<string>());
            foreach (var other in tree.Files.Where(f => f != asked))
            {
                var facts = Facts(tree, other);
                if (tree.References(other, facts) is { } links)
                    users.AddRange(links.Where(l => l.Resolved.Target == asked).Select(l => (other, l.Reference, l.Resolved.State)));
                else if (facts is null || facts.Fault is not null || !FileTree.RefersToNothing(facts.Format))
                    unknown.Add(other.Path);
            }
            using var output = new JsonOutput();
            if (parsed.GetValue(text))
            {
                foreach (var (user, reference, state) in users)
                    output.Text(
                        $"{user.Path} ({reference.Place}): {reference.Written}{(state == ReferenceState.Found ? "" : $", {StateOf(state)}")}"
                    );
                if (users.Count == 0)
                    output.Text("Nothing that can be read refers to it.");
                if (unknown.Count > 0)
                    output.Text(
                        $"{unknown.Count:N0} cannot be read for that: {string.Join(", ", unknown.Take(20))}{(unknown.Count > 20 ? ", …" : "")}"
                    );
            }
            else
                output.Object(json =>
                {
                    json.WriteString("file", asked.Path);
                    json.WriteStartArray("users");
                    foreach (var (user, reference, state) in users)
                    {
                        json.WriteStartObject();
                        json.WriteString("file", user.Path);
                        json.WriteString("written", reference.Written);
                        json.WriteString("place", reference.Place);
                        json.WriteString("state", StateOf(state));
                        json.WriteEndObject();
                    }
                    json.WriteEndArray();
                    json.WriteStartArray("unknown");
                    foreach (var path in unknown)
                        json.WriteStringValue(path);
                    json.WriteEndArray();
                });
            return ExitCodes.Done;
        });
        return command;
    }

    /// <summary>What a state is called in answers.</summary>
    public static string StateOf(ReferenceState state) =>
        state switch
        {
            ReferenceState.OtherCase => "found under another case",
            _ => state.ToString().ToLowerInvariant(),
        };

    private static (FileTree Tree, TreeFile File) Open(
        ParseResult parsed,
        Argument<string> file,
        Option<DirectoryInfo?> root,
        Option<DirectoryInfo?> data,
        IReadOnlyList<ReferencePattern> patterns
    )
    {
        var asked = parsed.GetRequiredValue(file);
        if (parsed.GetValue(data) is { } studio)
        {
            var slash = asked.IndexOf('/');
            if (slash <= 0)
                throw new UnusableInputException($"{asked}: with --data a file is named as PROJECT/path.");
            return Found(FileTree.OfProject(studio.FullName, asked[..slash], patterns), asked[(slash + 1)..]);
        }
        var full = Path.GetFullPath(asked);
        if (!File.Exists(full))
            throw new UnusableInputException($"{asked}: there is no such file.");
        var here = Directory.GetCurrentDirectory();
        var top = parsed.GetValue(root)?.FullName ?? (IsIn(full, here) ? here : Path.GetDirectoryName(full)!);
        if (!IsIn(full, top))
            throw new UnusableInputException($"--root: {asked} does not lie in {top}.");
        return Found(FileTree.OfFolder(top, patterns), Path.GetRelativePath(top, full).Replace(Path.DirectorySeparatorChar, '/'));
    }

    private static (FileTree Tree, TreeFile File) Found(FileTree tree, string path)
    {
        if (tree.Index.Find(path) is { Difference: SpellingDifference.None } found)
            return (tree, found.File);
        tree.Dispose();
        throw new UnusableInputException($"{path}: there is no such file in {tree.Top}.");
    }

    private static bool IsIn(string file, string folder) =>
        file.StartsWith(Path.TrimEndingDirectorySeparator(folder) + Path.DirectorySeparatorChar, StringComparison.Ordinal);

    // Of what cannot refer to anything only the beginning is looked at.
    private static FileFacts? Facts(FileTree tree, TreeFile file)
    {
        if (file.Open is null)
            return null;
        try
        {
            using var content = file.Open();
            var format = content.Length == 0 ? null : FormatList.Of(content);
            return format is null ? new FileFacts()
                : tree.IsRead(file, format.Format) ? FormatReader.Read(content, tree.Patterns)
                : new FileFacts { Format = format.Format };
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    private static void Write(Utf8JsonWriter json, ReferenceFacts reference, Resolved<TreeFile> resolved)
    {
        json.WriteStartObject();
        json.WriteString("written", reference.Written);
        json.WriteString("place", reference.Place);
        json.WriteString("state", StateOf(resolved.State));
        if (resolved.Path is { } path)
            json.WriteString("path", path);
        if (resolved.Difference != SpellingDifference.None)
            json.WriteString(
                "spelling",
                resolved.Difference switch
                {
                    SpellingDifference.Case => "case",
                    SpellingDifference.UnicodeForm => "unicode form",
                    _ => "case and unicode form",
                }
            );
        if (reference.EmbeddedBytes is { } bytes)
            json.WriteNumber("embeddedBytes", bytes);
        json.WriteEndObject();
    }

    private static string Shown(ReferenceFacts reference, Resolved<TreeFile> resolved) =>
        reference.EmbeddedBytes is { } bytes ? $"{bytes:N0} bytes"
        : resolved.Path is { } path && resolved.State != ReferenceState.Missing ? $"{reference.Written} → {path}"
        : reference.Written;

    private static string Told(IReadOnlyList<(ReferenceFacts, Resolved<TreeFile> Resolved)>? links)
    {
        if (links is not { Count: > 0 })
            return "";
        var broken = links.Count(l => l.Resolved.State.IsBroken());
        return $", refers to {links.Count:N0}{(broken > 0 ? $", {broken:N0} not found" : "")}";
    }

    private static string Unknown(FileFacts facts) =>
        facts.Fault is not null ? "it cannot be read, so what it refers to is not known."
        : FileTree.RefersToNothing(facts.Format) ? "it refers to no other file."
        : "its format is not read for that, so what it refers to is not known.";

    private static string Name(FileFormat format) => JsonNamingPolicy.CamelCase.ConvertName(format.ToString());
}
