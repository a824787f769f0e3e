using System.CommandLine;
using Chronotype.Content;
using Chronotype.Core.Content;

namespace Chronotype.Cli.Content;

/// <summary>
/// The commands that put content into a store and get it out again; <see cref="MaintenanceCommands"/> has those that keep it in order.
/// </summary>
internal static class ContentCommand
{
    private const int CopyBytes = 1 << 20;

    public static Command Make() =>
        new("content", "Keeps content in a store that holds only what changed.")
        {
            Put(),
            Get(),
            MaintenanceCommands.Verify(),
            MaintenanceCommands.Stat(),
            Drop(),
            MaintenanceCommands.Compact(),
            MaintenanceCommands.Rebuild(),
            MaintenanceCommands.Repair(),
        };

    public static ContentHash HashOf(string text) =>
        ContentHash.TryParse(text.ToLowerInvariant(), out var hash)
            ? hash
            : throw new UnusableInputException($"“{text}” is no content hash: 64 hexadecimal digits.");

    /// <summary>
    /// Does something with each file in turn, and answers with what came of it. One that cannot be read is told, and does not keep the
    /// others from it.
    /// </summary>
    /// <param name="what">What is done, for the line that shows how far it is.</param>
    /// <param name="act">Gives the content that the file was, and the bytes that it added on disk.</param>
    public static int WithEach(IEnumerable<string> files, string what, Func<Stream, (StagedContent Content, long NewBytes)> act)
    {
        using var output = new JsonOutput(atOnce: true);
        var code = ExitCodes.Done;
        foreach (var file in files)
        {
            try
            {
                if (Directory.Exists(file))
                    throw new IOException("It is a folder. Give the files in it.");
                using var source =
                    file == "-"
                        ? Console.OpenStandardInput()
                        : new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete, bufferSize: 0);
                StagedContent content;
                long newBytes;
                using (var progress = new ProgressLine(file == "-" ? what : $"{what} {Path.GetFileName(file)}"))
                using (var counted = new CountedStream(source, source.CanSeek ? source.Length : 0, progress))
                    (content, newBytes) = act(counted);
                output.Object(json =>
                {
                    json.WriteString("file", file);
                    json.WriteString("hash", content.Hash.ToString());
                    json.WriteNumber("bytes", content.Size);
                    json.WriteNumber("newBytes", newBytes);
                });
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                Console.Error.WriteLine($"{file}: {e.Message}");
                code = ExitCodes.Unusable;
            }
        }
        return code;
    }

    private static Command Put()
    {
        var files = new Argument<string[]>("FILE")
        {
            Description = "Files to keep; - is the standard input.",
            Arity = ArgumentArity.OneOrMore,
        };
        var option = StoreOption.Make();
        var command = new Command(
            "put",
            "Keeps files, and says of each its hash, its bytes, and the bytes that it added on disk. The store is made where there is none."
        )
        {
            files,
            option,
        };
        command.SetAction(parsed =>
        {
            using var store = option.Open(parsed, mayMake: true);
            return WithEach(
                parsed.GetRequiredValue(files),
                "keeping",
                source =>
                {
                    using var staged = store.StageAsync(source).GetAwaiter().GetResult();
                    var isNew = !store.Has(staged.Hash);
                    store.CommitAsync(staged).GetAwaiter().GetResult();
                    return (staged, isNew ? store.EntryOf(staged.Hash).NewBytes : staged.NewBytes);
                }
            );
        });
        return command;
    }

    private static Command Get()
    {
        var hash = new Argument<string>("HASH") { Description = "The content's SHA-256." };
        var option = StoreOption.Make();
        var to = new Option<FileInfo?>("--to")
        {
            Description = "The file to write, instead of the standard output. What had its name is replaced once all of it is written.",
            HelpName = "FILE",
        };
        var from = new Option<long>("--from") { Description = "The first byte to give, from 0.", HelpName = "N" };
        var bytes = new Option<long?>("--bytes") { Description = "How many bytes to give at most.", HelpName = "N" };
        var command = new Command("get", "Gives a content out, or a part of it. Every byte is checked first.")
        {
            hash,
            option,
            to,
            from,
            bytes,
        };
        command.SetAction(parsed =>
        {
            var wanted = HashOf(parsed.GetRequiredValue(hash));
            if (parsed.GetValue(to) is null && !Console.IsOutputRedirected)
                throw new UnusableInputException("The bytes would go to the terminal. Give --to FILE, or pipe them on.");
            if (parsed.GetValue(from) < 0 || parsed.GetValue(bytes) < 0)
                throw new UnusableInputException("--from and --bytes: numbers from 0.");
            using var store = option.OpenReadOnly(parsed);
            try
            {
                using var content = store.OpenRead(wanted);
                content.Position = Math.Min(parsed.GetValue(from), content.Length);
                var length = Math.Min(parsed.GetValue(bytes) ?? long.MaxValue, content.Length - content.Position);
                if (parsed.GetValue(to) is { } file)
                    WriteFile(content, length, file);
                else
                {
                    using var output = Console.OpenStandardOutput();
                    Copy(content, length, output);
                }
                return ExitCodes.Done;
            }
            catch (Exception e) when (e is MissingContentException or DamagedContentException)
            {
                Console.Error.WriteLine(e.Message);
                return ExitCodes.Found;
            }
        });
        return command;
    }

    private static void WriteFile(Stream content, long length, FileInfo file)
    {
        var passing = $"{file.FullName}.{Guid.CreateVersion7():N}.part";
        try
        {
            using (var output = new FileStream(passing, FileMode.CreateNew, FileAccess.Write, FileShare.None, bufferSize: 0))
            {
                Copy(content, length, output);
                output.Flush(flushToDisk: true);
            }
            File.Move(passing, file.FullName, overwrite: true);
        }
        catch (Exception e) when (e is DirectoryNotFoundException or UnauthorizedAccessException)
        {
            throw new UnusableInputException($"--to: {e.Message}");
        }
        finally
        {
            File.Delete(passing);
        }
    }

    private static void Copy(Stream content, long length, Stream output)
    {
        using var progress = Console.IsOutputRedirected || output is FileStream ? new ProgressLine("giving") : null;
        var buffer = new byte[CopyBytes];
        for (long done = 0; done < length; )
        {
            var read = content.Read(buffer, 0, (int)Math.Min(buffer.Length, length - done));
            output.Write(buffer, 0, read);
            progress?.Report(new StoreProgress(done += read, length));
        }
    }

    private static Command Drop()
    {
        var hashes = new Argument<string[]>("HASH") { Description = "The contents' SHA-256.", Arity = ArgumentArity.OneOrMore };
        var option = StoreOption.Make();
        var command = new Command(
            "drop",
            "Takes contents back; compact then frees what nothing else needs of them. A studio's own store is not touched: thin its "
                + "versions instead."
        )
        {
            hashes,
            option,
        };
        command.SetAction(parsed =>
        {
            var wanted = parsed.GetRequiredValue(hashes).Select(HashOf).ToList();
            if (option.IsOfStudio(parsed))
                throw new UnusableInputException(
                    "--store: a studio's versions may need this content, so nothing was dropped. Drop versions in the studio instead."
                );
            using var store = option.Open(parsed);
            using var output = new JsonOutput(atOnce: true);
            var code = ExitCodes.Done;
            foreach (var hash in wanted)
            {
                var isDropped = store.Drop(hash);
                if (!isDropped)
                    code = ExitCodes.Found;
                output.Object(json =>
                {
                    json.WriteString("hash", hash.ToString());
                    json.WriteBoolean("dropped", isDropped);
                });
            }
            return code;
        });
        return command;
    }
}
