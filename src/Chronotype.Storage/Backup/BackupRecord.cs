using System.Text.Json;

namespace Chronotype.Storage.Backup;

/// <summary>One backup, as it is told beside the copy and beside what was copied.</summary>
/// <param name="At">The moment that it is a copy of, in UTC.</param>
/// <param name="From">The data folder that was copied.</param>
/// <param name="To">Where the copy lies.</param>
/// <param name="Bytes">Bytes of the copy.</param>
/// <param name="Copied">Bytes that had to be copied this time.</param>
/// <param name="Verified">When all of it was last read and held against what was written; null for never.</param>
public sealed record BackupRecord(DateTimeOffset At, string From, string To, long Bytes, long Copied, DateTimeOffset? Verified)
{
    /// <summary>Beside the copy.</summary>
    public const string InCopy = "backup.json";

    /// <summary>Beside what was copied.</summary>
    public const string InStudio = "last-backup.json";

    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    /// <returns>Null where there is none that can be read.</returns>
    public static BackupRecord? Read(string path)
    {
        try
        {
            return File.Exists(path) ? JsonSerializer.Deserialize<BackupRecord>(File.ReadAllBytes(path), Options) : null;
        }
        catch (Exception e) when (e is JsonException or IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    public byte[] Write() => JsonSerializer.SerializeToUtf8Bytes(this, Options);
}
