using System.IO.Compression;
using System.IO.Hashing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Storage.Content;

namespace Chronotype.Studio.Saves;

/// <summary>Unpacks a folder that came as a zip, trusting nothing that the zip says.</summary>
internal static class FolderZip
{
    private const int MaxFiles = 20_000;
    private const long BombBytes = 1L << 30;
    private const int BombRatio = 200, LinkType = 0xA000, TypeMask = 0xF000;

    /// <summary>A zip that is kept as one file; the message says why it was not unpacked.</summary>
    public sealed class NotUnpackedException(string message) : Exception(message);

    /// <summary>Stages every file of the zip. The caller disposes of what is staged.</summary>
    /// <exception cref="NotUnpackedException">The zip is damaged, leads out of its folder, or is no folder of work.</exception>
    public static async Task<List<(ProjectPath Path, StagedContent Content)>> UnpackAsync(StagedContent zipped, IContentStore store, CancellationToken cancel)
    {
        var files = new List<(ProjectPath, StagedContent)>();
        try
        {
            await using var stream = zipped.OpenRead();
            await using var zip = await ZipArchive.CreateAsync(stream, ZipArchiveMode.Read, leaveOpen: true, entryNameEncoding: null, cancel);
            long total = 0;
            foreach (var (path, entry) in Plan(zip))
            {
                await using var content = await entry.OpenAsync(cancel);
                var room = Math.Max(BombBytes, zipped.Size * BombRatio) - total;
                var entryBytes = new EntryBytes(content, room);
                var staged = await store.StageAsync(entryBytes, cancel);
                total += staged.Size;
                files.Add((path, staged));
                // The platform does not hold what it unpacked against the zip's own sum, and the zip is thrown away afterwards.
                if (entryBytes.Crc32 != entry.Crc32) throw new InvalidDataException($"The part {path} differs from its check sum.");
            }
            return files;
        }
        catch (Exception e)
        {
            foreach (var (_, staged) in files) staged.Dispose();
            if (e is InvalidDataException or NotSupportedException)
                throw new NotUnpackedException("This zip is cut short or damaged, so it was not unpacked; it is kept as the one file that it is.");
            throw;
        }
    }

    /// <summary>The main file: the one that was it before, or has the piece's extension; else the only one at the top, else the largest.</summary>
    public static ProjectPath Main(IReadOnlyList<ContentFile> files, string? before, string extension)
    {
        if (files.FirstOrDefault(f => f.Path.Text == before) is { } same) return same.Path;
        var visible = files.Where(f => !f.Path.Name.StartsWith('.')).ToList();
        if (visible.Count == 0) visible = [.. files];
        var fitting = visible.Where(f => extension.Length > 0 && FileNames.Extension(f.Path.Name) == extension).ToList();
        if (fitting.Count > 0) visible = fitting;
        var top = visible.Where(f => !f.Path.Text.Contains('/')).ToList();
        return (top.Count == 1 ? top[0] : (top.Count > 0 ? top : visible).MaxBy(f => f.Size)!).Path;
    }

    private static List<(ProjectPath Path, ZipArchiveEntry Entry)> Plan(ZipArchive zip)
    {
        var entries = zip.Entries.Where(e => !e.FullName.EndsWith('/') && !e.FullName.EndsWith('\\')).ToList();
        if (entries.Count == 0) throw new NotUnpackedException("This zip has no files in it; it is kept as the one file that it is.");
        if (entries.Count > MaxFiles) throw new NotUnpackedException($"This zip has more than {MaxFiles:N0} files in it; it is kept as the one file that it is.");
        var planned = new List<(ProjectPath Path, ZipArchiveEntry Entry)>();
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var entry in entries)
        {
            if ((entry.ExternalAttributes >> 16 & TypeMask) == LinkType) throw new NotUnpackedException($"This zip has a link in it (“{entry.FullName}”), and links are never followed; it is kept as the one file that it is.");
            if (entry.IsEncrypted) throw new NotUnpackedException("This zip is locked with a password, so it was not unpacked; it is kept as the one file that it is.");
            if (!ProjectPath.TryParse(entry.FullName, out var path, out var fault)) throw new NotUnpackedException($"{fault} The zip was not unpacked; it is kept as the one file that it is.");
            if (!seen.Add(path.Text)) throw new NotUnpackedException($"This zip has two files called “{path}”; it is kept as the one file that it is.");
            planned.Add((path, entry));
        }
        return WithoutTopFolder(planned);
    }

    // A zip of a folder holds the folder itself; its name is the piece's to say.
    private static List<(ProjectPath Path, ZipArchiveEntry Entry)> WithoutTopFolder(List<(ProjectPath Path, ZipArchiveEntry Entry)> planned)
    {
        var top = planned[0].Path.Text.Split('/')[0] + "/";
        return planned.TrueForAll(p => p.Path.Text.StartsWith(top, StringComparison.Ordinal))
            ? planned.ConvertAll(p => (ProjectPath.Parse(p.Path.Text[top.Length..]), p.Entry))
            : planned;
    }

    private sealed class EntryBytes(Stream inner, long room) : ForwardStream
    {
        private readonly Crc32 crc = new();
        private long left = room;

        public uint Crc32 => crc.GetCurrentHashAsUInt32();

        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default)
        {
            var read = await inner.ReadAsync(buffer, cancel);
            left -= read;
            crc.Append(buffer.Span[..read]);
            return left >= 0 ? read : throw new NotUnpackedException("This zip unpacks to far more than its size; it is kept as the one file that it is.");
        }
    }
}
