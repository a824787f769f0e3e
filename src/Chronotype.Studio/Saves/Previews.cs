using System.Globalization;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;

namespace Chronotype.Studio.Saves;

/// <summary>A picture of a content that was made, or why there is none.</summary>
/// <param name="Path">The file; null where there is no picture.</param>
/// <param name="MediaType">As RFC 6838 names it.</param>
/// <param name="Fault">Why the content cannot be drawn; null where it was, or where its kind has nothing to see.</param>
/// <param name="Error">Why it could not be drawn just now; then asking again may help.</param>
public sealed record Preview(string? Path, string MediaType, FileFault? Fault, JobError Error = JobError.None);

/// <summary>Pictures of contents for the screen, made once and kept beside the content; they can be thrown away at any time.</summary>
public sealed class Previews(FileReader reader, JobQueue queue, DataFolder data) : IJobWork
{
    private const string None = ".none";

    /// <summary>The longer sides that are made, in pixels.</summary>
    public static readonly IReadOnlyList<int> Sides = [480, 1600];

    /// <summary>So many pages of a picture can be looked at.</summary>
    public const int MostPages = 100;

    private readonly string folder = Path.Combine(data.Previews, $"v{ReaderVersions.PreviewVersion}");

    /// <param name="piece">The piece that it is looked at for.</param>
    /// <param name="page">Of a picture with pages, which, from 0 and below <see cref="MostPages"/>.</param>
    public async Task<Preview> GetAsync(ContentHash main, Guid piece, int side, int page = 0, CancellationToken cancel = default)
    {
        if (!Sides.Contains(side))
            throw new ArgumentOutOfRangeException(nameof(side), side, $"Previews have a side of {string.Join(" or ", Sides)} pixels.");
        if (Find(main, side, page) is { } known)
            return known;
        var error = await queue.DoAsync(JobRequest.Draw(main, side, piece, page), cancel);
        return Find(main, side, page) ?? new Preview(null, "", null, error == JobError.None ? JobError.Unexpected : error);
    }

    /// <summary>What was drawn already; null where nothing was yet. Jobs ask so: one that waited for another could wait for ever.</summary>
    public Preview? Known(ContentHash main, int side) => Find(main, side, 0);

    /// <summary>Throws away what was drawn of a content.</summary>
    public void Drop(ContentHash main)
    {
        if (!Directory.Exists(Path.GetDirectoryName(PathOf(main, Sides[0], 0))))
            return;
        var first = PathOf(main, 0, 0);
        foreach (var drawn in Directory.GetFiles(Path.GetDirectoryName(first)!, $"{Path.GetFileName(first)[..^1]}*"))
            File.Delete(drawn);
    }

    /// <summary>Throws away what an earlier version of the program drew.</summary>
    public void DropOlder()
    {
        if (!Directory.Exists(data.Previews))
            return;
        foreach (var older in Directory.GetDirectories(data.Previews).Where(d => d != folder))
            Directory.Delete(older, recursive: true);
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var (hash, side, page) = job.Subject.Split('/') is [var h, var s, .. var p]
            ? (ContentHash.Parse(h), Number(s), p.Length > 0 ? Number(p[0]) : 0)
            : throw new FormatException(job.Subject);
        if (Find(hash, side, page) is not null)
            return null;
        var (drawing, fault) = await reader.DrawAsync(hash, side, page, cancel);
        if (drawing is null)
            Write(hash, side, page, None, fault is null ? default : Encoding.UTF8.GetBytes(RecordJson.Write(fault)));
        else
            Write(hash, side, page, drawing.MediaType == "image/webp" ? ".webp" : ".svg", drawing.Bytes);
        return null;
    }

    private void Write(ContentHash main, int side, int page, string extension, ReadOnlyMemory<byte> bytes)
    {
        var target = PathOf(main, side, page) + extension;
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var temporary = $"{target}.{Guid.NewGuid():N}";
        try
        {
            using (var file = File.Create(temporary))
                file.Write(bytes.Span);
            File.Move(temporary, target, overwrite: true);
        }
        catch
        {
            File.Delete(temporary);
            throw;
        }
    }

    private Preview? Find(ContentHash main, int side, int page)
    {
        foreach (var (extension, mediaType) in new[] { (".webp", "image/webp"), (".svg", "image/svg+xml") })
        {
            var path = PathOf(main, side, page) + extension;
            if (File.Exists(path))
                return new Preview(path, mediaType, null);
        }
        var none = PathOf(main, side, page) + None;
        if (!File.Exists(none))
            return null;
        return new Preview(null, "", File.ReadAllText(none) is { Length: > 0 } json ? RecordJson.Read<FileFault>(json) : null);
    }

    private static int Number(string text) => int.Parse(text, CultureInfo.InvariantCulture);

    private string PathOf(ContentHash main, int side, int page) =>
        Path.Combine(folder, main.ToString()[..2], $"{main.ToString()[2..]}-{side}{(page > 0 ? $"-{page}" : "")}");
}
