using System.IO.Compression;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;

namespace Chronotype.Studio.Saves;

/// <summary>What became of a wish for tiles: the tiles, or why there are none.</summary>
/// <param name="Tiles">Null where there are none.</param>
/// <param name="Fault">Why the picture cannot be drawn; null where it was.</param>
/// <param name="Error">Why it could not be drawn just now; then asking again may help.</param>
public sealed record CutTiles(TiledPicture? Tiles, FileFault? Fault, JobError Error = JobError.None);

/// <summary>
/// Pictures, and differences of two, cut into tiles: made once, kept beside the previews, and thrown away when they take too much room,
/// those first that nobody looked at for longest.
/// </summary>
public sealed class TileStore(FileReader reader, ContentReader contents, JobQueue queue, DataFolder data) : IJobWork
{
    /// <summary>Bytes that all tiles together may take.</summary>
    public const long MostBytes = 4L << 30;

    private readonly KeptFiles files = new(data.Tiles, ReaderVersions.TilesVersion, MostBytes);

    /// <param name="first">The picture, or the earlier of two.</param>
    /// <param name="second">The later of two, for their difference; null for one picture.</param>
    /// <param name="piece">The piece that it is looked at for.</param>
    public async Task<CutTiles> GetAsync(PictureView first, PictureView? second, Guid piece, CancellationToken cancel = default)
    {
        if (Find(first, second) is { } known)
            return known;
        var error = await queue.DoAsync(JobRequest.Cut(first, second, piece), cancel);
        return Find(first, second) ?? new CutTiles(null, null, error == JobError.None ? JobError.Unexpected : error);
    }

    /// <summary>One tile's file.</summary>
    /// <returns>Null where there is none.</returns>
    public byte[]? Tile(PictureView first, PictureView? second, int level, int x, int y)
    {
        if (Find(first, second) is not { Tiles: { } tiles })
            return null;
        try
        {
            using var zip = ZipFile.OpenRead(PathOf(first, second) + ".zip");
            // The archive's own name for its folder is the reader's; the places within it are the standard's.
            var name = FormattableString.Invariant($"_files/{level}/{x}_{y}{tiles.Extension}");
            var entry = zip.Entries.FirstOrDefault(e => e.FullName.EndsWith(name, StringComparison.Ordinal));
            if (entry is null)
                return null;
            using var stream = entry.Open();
            var bytes = new byte[entry.Length];
            stream.ReadExactly(bytes);
            return bytes;
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            // Thrown away in this very moment; whoever looks asks for them again.
            return null;
        }
    }

    /// <summary>Throws away the tiles of a content.</summary>
    public void Drop(ContentHash content) => files.Drop(content);

    /// <summary>Throws away what an earlier version of the program cut.</summary>
    public void DropOlder() => files.DropOlder();

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var views = job.Subject.Split('/').Select(PictureView.Parse).ToList();
        var (first, second) = (views[0], views.Count > 1 ? views[1] : null);
        if (Find(first, second) is not null)
            return null;
        var read = new List<(PictureView, FileFacts)>();
        foreach (var view in views)
            read.Add((view, await contents.ReadAsync(view.Content, cancel)));
        var target = PathOf(first, second);
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var (tiles, fault) = await reader.CutAsync(read, made => File.Move(made, target + ".zip", overwrite: true), progress, cancel);
        await files.WriteNoteAsync(target, ".json", RecordJson.Write(new CutTiles(tiles, fault)), cancel);
        return null;
    }

    private CutTiles? Find(PictureView first, PictureView? second)
    {
        var path = PathOf(first, second);
        if (KeptFiles.ReadNote(path, ".json") is not { } note)
            return null;
        var found = RecordJson.Read<CutTiles>(note);
        return found.Tiles is not null && !File.Exists(path + ".zip") ? null : found;
    }

    private string PathOf(PictureView first, PictureView? second) =>
        files.PathOf(first.Content, second is null ? $"{first}" : $"{first}~{second}");
}
