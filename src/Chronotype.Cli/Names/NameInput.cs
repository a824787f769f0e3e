using System.CommandLine;
using System.Text;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;

namespace Chronotype.Cli.Names;

/// <summary>Where a command's names and conventions come from.</summary>
internal sealed class NameInput
{
    private readonly Option<DirectoryInfo?> folder = new("--folder")
    {
        Description = "The files of this folder, instead of names on standard input.",
        HelpName = "DIR",
    };
    private readonly Option<bool> isNull = new("--null", "-0")
    {
        Description = "Names on standard input end in a NUL instead of a line break, so that they may hold line breaks.",
    };
    private readonly Option<string[]> known = new("--known")
    {
        Description = "What is known beside the names, such as client=TIM.",
        HelpName = "slot=value",
        AllowMultipleArgumentsPerToken = false,
    };

    public void AddTo(Command command, bool withKnown = true)
    {
        command.Options.Add(folder);
        command.Options.Add(isNull);
        if (withKnown)
            command.Options.Add(known);
    }

    /// <summary>The folder's path; null where the names come from standard input.</summary>
    public string? FolderOf(ParseResult parsed) => parsed.GetValue(folder)?.FullName;

    /// <summary>The names, as they come.</summary>
    /// <exception cref="UnusableInputException">The folder cannot be read.</exception>
    public IEnumerable<string> NamesOf(ParseResult parsed)
    {
        if (parsed.GetValue(folder) is not { } from)
            return Lines(parsed.GetValue(isNull) ? '\0' : '\n');
        try
        {
            return [.. from.EnumerateFiles().Select(f => f.Name).Order(StringComparer.Ordinal)];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"The folder {from.FullName} cannot be read: {e.Message}");
        }
    }

    /// <exception cref="UnusableInputException">A word is no <c>slot=value</c>.</exception>
    public NameKnowledge KnownOf(ParseResult parsed) => new(Values(parsed.GetValue(known) ?? [], "--known"));

    /// <exception cref="UnusableInputException">A word is no <c>slot=value</c>, or a slot stands twice.</exception>
    public static Dictionary<string, string> Values(IEnumerable<string> words, string place)
    {
        var values = new Dictionary<string, string>();
        foreach (var word in words)
        {
            var at = word.IndexOf('=');
            if (at <= 0)
                throw new UnusableInputException($"{place}: “{word}” is no slot=value, such as client=TIM.");
            if (!values.TryAdd(word[..at], word[(at + 1)..]))
                throw new UnusableInputException($"{place}: “{word[..at]}” stands twice.");
        }
        return values;
    }

    /// <exception cref="UnusableInputException">The file cannot be read, or is no convention; each fault has its place.</exception>
    public static Convention Read(FileInfo file)
    {
        ReadConvention read;
        try
        {
            using var stream = file.OpenRead();
            read = ConventionFile.Read(stream);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"{file}: the file cannot be read: {e.Message}");
        }
        return read.Convention
            ?? throw new UnusableInputException([
                .. read.Faults.Select(f => f.Place.Length == 0 ? $"{file}: {f.Message}" : $"{file}, {f.Place}: {f.Message}"),
            ]);
    }

    /// <summary>The forms that a key names.</summary>
    /// <exception cref="UnusableInputException">There is no such form, or the convention has none of it.</exception>
    public static IReadOnlyList<NameForm> Forms(Convention convention, string key)
    {
        if (key == "any")
            return [.. convention.Forms];
        var has = string.Join(", ", convention.Forms.Select(ConventionFile.KeyOf));
        if (ConventionFile.FormOf(key) is not { } form || !convention.Has(form))
            throw new UnusableInputException($"--form: the convention has no form “{key}”. It has {has}.");
        return [form];
    }

    // A line break of Windows is no part of a name.
    private static IEnumerable<string> Lines(char end)
    {
        using var reader = new StreamReader(
            Console.OpenStandardInput(),
            new UTF8Encoding(false),
            detectEncodingFromByteOrderMarks: true,
            bufferSize: 1 << 16
        );
        var line = new StringBuilder();
        var part = new char[1 << 14];
        int count;
        while ((count = reader.Read(part)) > 0)
        {
            var from = 0;
            for (var at = 0; (at = Array.IndexOf(part, end, from, count - from)) >= 0; from = at + 1)
            {
                line.Append(part, from, at - from);
                yield return Take();
            }
            line.Append(part, from, count - from);
        }
        if (line.Length > 0)
            yield return Take();

        string Take()
        {
            if (end == '\n' && line.Length > 0 && line[^1] == '\r')
                line.Length--;
            var name = line.ToString();
            line.Clear();
            return name;
        }
    }
}
