using System.Buffers.Binary;
using System.IO.Compression;
using System.IO.Hashing;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;

namespace Chronotype.Studio.Saves;

/// <summary>Unpacks a folder that came as a zip, trusting nothing that the zip says.</summary>
internal static class FolderZip
{
    private const int MaxFiles = 20_000;
    private const long BombBytes = 256L << 20;

    // A zip's end record alone; and the year that zips write where they know none.
    private const int SmallestZip = 22,
        Zip64LocatorBytes = 20,
        FirstZipYear = 1980;

    // An entry takes 46 bytes, its name and its extra fields.
    private const long MostDirectoryBytes = 16 << 20;
    private const int BombRatio = 200,
        LinkType = 0xA000,
        TypeMask = 0xF000;

    /// <summary>A zip that is kept as one file; the notice says why it was not unpacked.</summary>
    public sealed class NotUnpackedException(ArrivalNotice notice) : Exception(notice.Code.ToString())
    {
        public ArrivalNotice Notice { get; } = notice;
    }

    /// <param name="Files">Each with when it was last changed, where the zip says so.</param>
    /// <param name="EmptyFolders">Folders that have nothing in them.</param>
    public sealed record Unpacked(
        List<(ProjectPath Path, StagedContent Content, DateTime? ChangedAt)> Files,
        IReadOnlyList<ProjectPath> EmptyFolders
    ) : IDisposable
    {
        public void Dispose()
        {
            foreach (var (_, content, _) in Files)
                content.Dispose();
        }
    }

    /// <summary>Stages every file of the zip. The caller disposes of what is staged.</summary>
    /// <exception cref="NotUnpackedException">The zip is damaged, leads out of its folder, or is no folder of work.</exception>
    public static async Task<Unpacked> UnpackAsync(StagedContent zipped, IContentStore store, CancellationToken cancel)
    {
        if (zipped.Size < SmallestZip)
            throw Damaged();
        var files = new List<(ProjectPath, StagedContent, DateTime?)>();
        try
        {
            await using var stream = zipped.OpenRead();
            // The platform's reader makes a tree of all entries that there are, however many that is, before it can be asked.
            if (DirectoryBytes(stream) > MostDirectoryBytes)
                throw TooMany();
            stream.Position = 0;
            await using var zip = await ZipArchive.CreateAsync(
                stream,
                ZipArchiveMode.Read,
                leaveOpen: true,
                entryNameEncoding: null,
                cancel
            );
            var (planned, empty) = Plan(zip);
            var room = Math.Max(BombBytes, zipped.Size * BombRatio);
            // The sizes that it says itself are enough to refuse it, and too little to trust it.
            if (planned.Sum(p => (decimal)p.Entry.Length) > room)
                throw Bomb();
            foreach (var (path, entry) in planned)
            {
                await using var content = await entry.OpenAsync(cancel);
                var entryBytes = new EntryBytes(content, room);
                var staged = await store.StageAsync(entryBytes, cancel);
                room -= staged.Size;
                files.Add((path, staged, entry.LastWriteTime.DateTime is var at && at.Year > FirstZipYear ? at : null));
                // The platform does not hold what it unpacked against the zip's own sum, and the zip is thrown away afterwards.
                if (entryBytes.Crc32 != entry.Crc32)
                    throw new InvalidDataException($"The part {path} differs from its check sum.");
            }
            return new Unpacked(files, empty);
        }
        catch (Exception e)
        {
            foreach (var (_, staged, _) in files)
                staged.Dispose();
            // What the platform's reader makes of a zip that no zip writer made.
            if (
                e
                is InvalidDataException
                    or NotSupportedException
                    or ArgumentException
                    or EndOfStreamException
                    or OverflowException
                    or IndexOutOfRangeException
            )
                throw Damaged();
            throw;
        }
    }

    /// <summary>
    /// Bytes from where the list of parts begins to where the zip's end record stands (APPNOTE 6.3.10, 4.3.16; 4.3.14 for ZIP64).
    /// </summary>
    private static long DirectoryBytes(Stream zip)
    {
        var tail = new byte[(int)Math.Min(zip.Length, ushort.MaxValue + SmallestZip + Zip64LocatorBytes)];
        var tailAt = zip.Length - tail.Length;
        zip.Position = tailAt;
        zip.ReadExactly(tail);
        var end = tail.AsSpan().LastIndexOf("PK\x05\x06"u8);
        if (end < 0 || end + SmallestZip > tail.Length)
            throw new InvalidDataException("There is no end record.");
        long directory = BinaryPrimitives.ReadUInt32LittleEndian(tail.AsSpan(end + 16));
        if (end >= Zip64LocatorBytes && tail.AsSpan(end - Zip64LocatorBytes).StartsWith("PK\x06\x07"u8))
        {
            var record = new byte[56];
            zip.Position = BinaryPrimitives.ReadInt64LittleEndian(tail.AsSpan(end - Zip64LocatorBytes + 8));
            zip.ReadExactly(record);
            directory = BinaryPrimitives.ReadInt64LittleEndian(record.AsSpan(48));
        }
        return tailAt + end - directory;
    }

    private static NotUnpackedException Damaged() => new(new ArrivalNotice(ArrivalNoticeCode.ZipDamaged));

    /// <summary>
    /// The main file: the one that was it before, or has the piece's extension; else the only one at the top, else the largest.
    /// </summary>
    public static ProjectPath Main(IReadOnlyList<ContentFile> files, string? before, string extension)
    {
        if (files.FirstOrDefault(f => f.Path.Text == before) is { } same)
            return same.Path;
        var visible = files.Where(f => !f.Path.Name.StartsWith('.')).ToList();
        if (visible.Count == 0)
            visible = [.. files];
        var fitting = visible.Where(f => extension.Length > 0 && FileNames.Extension(f.Path.Name) == extension).ToList();
        if (fitting.Count > 0)
            visible = fitting;
        var top = visible.Where(f => !f.Path.Text.Contains('/')).ToList();
        return (top.Count == 1 ? top[0] : (top.Count > 0 ? top : visible).MaxBy(f => f.Size)!).Path;
    }

    private static (List<(ProjectPath Path, ZipArchiveEntry Entry)> Files, List<ProjectPath> EmptyFolders) Plan(ZipArchive zip)
    {
        if (zip.Entries.Count > 2 * MaxFiles)
            throw TooMany();
        var planned = new List<(ProjectPath Path, ZipArchiveEntry Entry)>();
        var folders = new List<ProjectPath>();
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var entry in zip.Entries)
        {
            if ((entry.ExternalAttributes >> 16 & TypeMask) == LinkType)
                throw new NotUnpackedException(new(ArrivalNoticeCode.ZipHasLink, entry.FullName));
            if (entry.IsEncrypted)
                throw new NotUnpackedException(new(ArrivalNoticeCode.ZipLocked));
            var isFolder = entry.FullName.EndsWith('/') || entry.FullName.EndsWith('\\');
            if (isFolder && entry.Length > 0)
                throw new NotUnpackedException(new(ArrivalNoticeCode.ZipFolderWithBytes, entry.FullName));
            if (!ProjectPath.TryParse(isFolder ? entry.FullName[..^1] : entry.FullName, out var path, out var fault))
                throw new NotUnpackedException(new(ArrivalNoticeCode.ZipPathRefused, entry.FullName, Path: fault));
            if (isFolder)
                folders.Add(path);
            else if (seen.Add(path.Text))
                planned.Add((path, entry));
            else
                throw new NotUnpackedException(new(ArrivalNoticeCode.ZipNameTwice, path.Text));
        }
        if (planned.Count == 0)
            throw new NotUnpackedException(new(ArrivalNoticeCode.ZipEmpty));
        if (planned.Count > MaxFiles)
            throw TooMany();
        var full = planned
            .Select(p => p.Path.Text)
            .Concat(folders.Select(f => f.Text))
            .SelectMany(Above)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        return WithoutTopFolder(planned, [.. folders.DistinctBy(f => f.Text).Where(f => !full.Contains(f.Text))]);
    }

    private static NotUnpackedException Bomb() => new(new ArrivalNotice(ArrivalNoticeCode.ZipBomb));

    private static NotUnpackedException TooMany() => new(new ArrivalNotice(ArrivalNoticeCode.ZipTooManyFiles, Number: MaxFiles));

    // The folders that something lies in.
    private static IEnumerable<string> Above(string path)
    {
        for (var slash = path.LastIndexOf('/'); slash > 0; slash = path.LastIndexOf('/', slash - 1))
            yield return path[..slash];
    }

    // A zip of a folder holds the folder itself; its name is the piece's to say.
    private static (List<(ProjectPath Path, ZipArchiveEntry Entry)>, List<ProjectPath>) WithoutTopFolder(
        List<(ProjectPath Path, ZipArchiveEntry Entry)> planned,
        List<ProjectPath> empty
    )
    {
        var top = planned[0].Path.Text.Split('/')[0] + "/";
        if (!planned.Select(p => p.Path).Concat(empty).All(p => p.Text.StartsWith(top, StringComparison.Ordinal)))
            return (planned, empty);
        ProjectPath Below(ProjectPath path) => ProjectPath.Parse(path.Text[top.Length..]);
        return (planned.ConvertAll(p => (Below(p.Path), p.Entry)), empty.ConvertAll(Below));
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
            return left >= 0 ? read : throw Bomb();
        }
    }
}
