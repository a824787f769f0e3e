using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Formats;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Microsoft.Data.Sqlite;

namespace Chronotype.Cli.Tree;

/// <summary>A file of a tree.</summary>
/// <param name="Path">From the tree's top, with “/” between its parts, spelt as it is.</param>
/// <param name="Role">What it is by its folder, in a studio; null on a plain folder.</param>
/// <param name="Open">Its content; null where it has none yet.</param>
internal sealed record TreeFile(string Path, long Size, string? Role, Func<Stream>? Open)
{
    public string Folder => Path.LastIndexOf('/') is > 0 and var end ? Path[..end] : "";

    /// <summary>What is inside it; null where it cannot be opened.</summary>
    /// <param name="patterns">How texts say what they refer to.</param>
    public FileFacts? Read(IReadOnlyList<ReferencePattern> patterns)
    {
        if (Open is null)
            return null;
        try
        {
            using var content = Open();
            return FormatReader.Read(content, patterns);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}

/// <summary>A plain folder, or a project of a studio: the files in it, and nothing that a link leads to.</summary>
internal sealed class FileTree : IDisposable
{
    private readonly ContentStore? store;

    private FileTree(string top, IReadOnlyList<TreeFile> files, IReadOnlyList<ReferencePattern> patterns, ContentStore? store)
    {
        (Top, Files, Patterns, this.store) = (top, files, patterns, store);
        foreach (var file in files)
            Index.Add(file.Path, file);
    }

    /// <summary>What it is called.</summary>
    public string Top { get; }

    public IReadOnlyList<TreeFile> Files { get; }

    public FileIndex<TreeFile> Index { get; } = new();

    /// <summary>How texts say what they refer to.</summary>
    public IReadOnlyList<ReferencePattern> Patterns { get; }

    /// <summary>A folder of this machine.</summary>
    /// <param name="folder">Its path.</param>
    /// <param name="patterns">How texts say what they refer to.</param>
    /// <exception cref="UnusableInputException">It is not there.</exception>
    public static FileTree OfFolder(string folder, IReadOnlyList<ReferencePattern> patterns)
    {
        if (!Directory.Exists(folder))
            throw new UnusableInputException($"{folder}: there is no such folder.");
        var top = Path.TrimEndingDirectorySeparator(Path.GetFullPath(folder));
        // Links are not followed: they may lead out of the folder, or back into it.
        var options = new EnumerationOptions
        {
            RecurseSubdirectories = true,
            AttributesToSkip = FileAttributes.ReparsePoint,
            IgnoreInaccessible = true,
        };
        return new FileTree(
            top,
            [
                .. new DirectoryInfo(top)
                    .EnumerateFiles("*", options)
                    .Select(f => new TreeFile(
                        Path.GetRelativePath(top, f.FullName).Replace(Path.DirectorySeparatorChar, '/'),
                        f.Length,
                        null,
                        () => new FileStream(f.FullName, FileMode.Open, FileAccess.Read, FileShare.ReadWrite, 1 << 16)
                    ))
                    .OrderBy(f => f.Path, StringComparer.Ordinal),
            ],
            patterns,
            null
        );
    }

    /// <summary>A project as its studio has it now, also while that runs.</summary>
    /// <exception cref="UnusableInputException">There is no such studio, or no such project in it.</exception>
    /// <param name="data">The studio's data folder.</param>
    /// <param name="project">Its code.</param>
    /// <param name="patterns">Beside those of the studio.</param>
    public static FileTree OfProject(string data, string project, IReadOnlyList<ReferencePattern> patterns)
    {
        var database = Path.Combine(data, "studio.db");
        if (!File.Exists(database))
            throw new UnusableInputException($"--data: there is no studio in {data}.");
        var store = ContentStore.OpenReadOnly(Path.Combine(data, "content"));
        var files = new List<TreeFile>();
        try
        {
            using var connection = RecordConnection.Open(database, ConnectionUse.Alone);
            using var command = connection.CreateCommand();
            command.CommandText = """SELECT "Id" FROM "Projects" WHERE "Code" = $code COLLATE NOCASE AND "DeletedAt" IS NULL""";
            command.Parameters.AddWithValue("$code", project);
            if (command.ExecuteScalar() is not string id)
                throw new UnusableInputException($"There is no project {project} in the studio in {data}.");
            command.CommandText = """SELECT "ReferencePatterns" FROM "Studio" """;
            if (command.ExecuteScalar() is string written)
                patterns = [.. RecordJson.Read<List<ReferencePattern>>(written), .. patterns];
            // Of the piece what its current file holds; of an alt with a file of its own what that line has.
            const string holds = """
                n."PieceId" = e."PieceId" AND n."IsCurrent" AND e."LineId" IS NULL
                    OR n."LineId" = e."LineId" AND n."Aside" IS NULL AND n."DiscardedAt" IS NULL ORDER BY n."Sequence" DESC LIMIT 1
                """;
            command.Parameters.AddWithValue("$id", id);
            command.CommandText = $"""
                SELECT e."Path", e."Role", coalesce(c."Hash", s."MainHash"), coalesce(c."Size", s."Size", 0)
                FROM "Entries" e
                LEFT JOIN "FileContents" c ON c."EntryId" = e."Id"
                    AND c."Sequence" = (SELECT max(o."Sequence") FROM "FileContents" o WHERE o."EntryId" = e."Id")
                LEFT JOIN "Saves" s ON s."Id" = coalesce(e."SaveId", (SELECT n."Id" FROM "Saves" n WHERE {holds}))
                WHERE e."ProjectId" = $id AND e."DeletedAt" IS NULL AND e."Kind" <> {(int)EntryKind.Folder}
                ORDER BY e."PathKey"
                """;
            using var reader = command.ExecuteReader();
            while (reader.Read())
            {
                var hash = reader.IsDBNull(2) ? (ContentHash?)null : ContentHash.Parse(reader.GetString(2));
                var role = (FolderRole)reader.GetInt32(1);
                files.Add(
                    new TreeFile(
                        reader.GetString(0),
                        reader.GetInt64(3),
                        (role.IsWorking() ? FolderRole.Working : role).ToString().ToLowerInvariant(),
                        hash is { } held ? () => store.OpenRead(held) : null
                    )
                );
            }
        }
        catch (SqliteException e)
        {
            store.Dispose();
            throw new UnusableInputException($"--data: the records in {database} cannot be read: {e.Message}");
        }
        catch
        {
            store.Dispose();
            throw;
        }
        return new FileTree(project, files, patterns, store);
    }

    /// <summary>What each of a file's references leads to.</summary>
    /// <returns>Null where the file's format is not read for what it refers to, which says nothing about whether it does.</returns>
    public IReadOnlyList<(ReferenceFacts Reference, Resolved<TreeFile> Resolved)>? References(TreeFile file, FileFacts? facts)
    {
        if (facts is null || facts.Fault is not null || !IsRead(file, facts.Format))
            return null;
        var syntax = ReferenceSyntaxes.Of(facts.Format);
        return
        [
            .. facts
                .ReferencesOf(file.Path)
                .Select(r =>
                    (
                        r,
                        r.EmbeddedBytes is null
                            ? ReferenceResolver.Resolve(Index, file.Folder, WrittenReference.Read(r.Written, syntax))
                            : new Resolved<TreeFile>(ReferenceState.Embedded, null, null, default)
                    )
                ),
        ];
    }

    /// <summary>Whether a file of a format is read for what it refers to; others may refer to anything.</summary>
    public bool IsRead(TreeFile file, FileFormat format) =>
        format is FileFormat.Svg or FileFormat.Gltf or FileFormat.Timeline
        || (format == FileFormat.Text && Patterns.Any(p => p.Ending == FileNames.Extension(file.Path)));

    /// <summary>Whether files of a format refer to no other file, as far as anything here knows.</summary>
    public static bool RefersToNothing(FileFormat format) =>
        format
            is not (
                FileFormat.Other
                or FileFormat.Pdf
                or FileFormat.Film
                or FileFormat.Text
                or FileFormat.Svg
                or FileFormat.Gltf
                or FileFormat.Timeline
            );

    public void Dispose() => store?.Dispose();
}
