using System.Text.Json;
using Chronotype.Content;
using Chronotype.Content.Maintenance;
using Chronotype.Storage.Backup;

namespace Chronotype.Cli.Content;

/// <summary>Verifies a store, and what a studio's records name of it, and writes what was found.</summary>
internal static class Verifying
{
    public static bool Run(JsonOutput output, string folder, string database, double share, CancellationToken cancel)
    {
        using var store = ContentStore.OpenReadOnly(folder);
        return Run(output, store, database, share, cancel);
    }

    /// <param name="database">The studio's, beside the store; null where the store stands for itself.</param>
    /// <returns>Whether all is sound.</returns>
    public static bool Run(JsonOutput output, ContentStore store, string? database, double share, CancellationToken cancel)
    {
        Verified found;
        using (var progress = new ProgressLine("verifying"))
            found = store.Maintenance.Verify(share, progress, cancel);
        foreach (var content in found.Damaged)
        {
            output.Object(json =>
            {
                json.WriteString("damaged", content.Hash.ToString());
                Number(json, "bytes", content.Size);
                Number(json, "unreadableBytes", content.UnreadableBytes);
            });
        }
        foreach (var place in found.Places)
        {
            output.Object(json =>
            {
                json.WriteString("segment", place.Segment);
                json.WriteNumber("offset", place.Offset);
                json.WriteNumber("length", place.Length);
                json.WriteString("message", place.What);
            });
        }
        var touched = database is null ? [] : NamedContents.Touched(database, store, found);
        foreach (var named in touched)
        {
            output.Object(json =>
            {
                json.WriteString("touched", named.Name);
                json.WriteString("project", named.Project);
                json.WriteString("piece", named.Piece);
                Number(json, "version", named.Number);
                json.WriteString("file", named.Path);
                json.WriteString("hash", named.Hash.ToString());
                json.WriteString("message", store.Has(named.Hash) ? "part of it cannot be read" : "it is not in the store");
            });
        }
        var isSound = found.IsSound && touched.Count == 0;
        output.Object(json =>
        {
            json.WriteBoolean("sound", isSound);
            json.WriteNumber("share", found.Share);
            json.WriteNumber("bytesRead", found.BytesRead);
            json.WriteNumber("segments", found.Segments);
            json.WriteNumber("damagedContents", found.Damaged.Count);
            if (database is not null)
                json.WriteNumber("touchedFiles", touched.Count);
            json.WriteString("index", found.IndexFault ?? "sound");
        });
        return isSound;
    }

    private static void Number(Utf8JsonWriter json, string name, long? number)
    {
        if (number is { } n)
            json.WriteNumber(name, n);
        else
            json.WriteNull(name);
    }
}
