using System.IO.Compression;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Studio.References;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>
/// Packs a timeline with its media into one file, as OpenTimelineIO has file bundles: a zip with <c>content.otio</c>, <c>version.txt</c>
/// and a folder <c>media</c>, in which nothing is packed a second time.
/// </summary>
internal sealed class PackTimeline(StudioDb db, Rewriting rewriting, IContentStore store)
{
    /// <returns>The file, or why it could not be made.</returns>
    /// <exception cref="IOException">A content could not be read from where it is kept, or the new one not be written.</exception>
    public async Task<(MadeFile? File, FileFault? Fault)> MakeAsync(Guid saveId, CancellationToken cancel)
    {
        var save = await db.Saves.AsNoTracking().Include(s => s.Files).Include(s => s.Piece).FirstAsync(s => s.Id == saveId, cancel);
        if (save.Files.Count > 1)
            return (null, new FileFault(FileFaultCode.NotUnderstood));
        var gathered = await new GatherFiles(db).OfAsync(save, asThen: true, cancel);
        if (gathered.Missing.FirstOrDefault(m => m.In == gathered.Main) is { Written: { } missing })
            return (null, new FileFault(FileFaultCode.ReferenceMissing, missing));
        var leads = gathered.Leads.Where(l => l.In == gathered.Main).ToList();
        // Two files of one name in different folders stand beside one another there.
        var places = new Dictionary<ProjectPath, string>();
        foreach (var to in leads.Select(l => l.To).Distinct())
        {
            var (stem, extension) = (Path.GetFileNameWithoutExtension(to.Name), Path.GetExtension(to.Name));
            var place = to.Name;
            for (var n = 2; places.ContainsValue(place); n++)
                place = $"{stem} ({n}){extension}";
            places[to] = place;
        }
        var (written, fault) = await rewriting.MakeAsync(
            new ReaderJob
            {
                Kind = ReaderJobKind.Relink,
                Rewritten =
                [
                    .. leads
                        .DistinctBy(l => l.Written)
                        .Select(l => new RewrittenReference(l.Written, $"media/{Uri.EscapeDataString(places[l.To])}")),
                ],
            },
            () => [store.OpenRead(save.MainHash)],
            cancel
        );
        if (written is null)
            return (null, fault);
        using (written)
        {
            var packed = $"{written.Path}.zip";
            try
            {
                await using (var output = new FileStream(packed, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16, true))
                await using (var zip = await ZipArchive.CreateAsync(output, ZipArchiveMode.Create, false, null, cancel))
                {
                    await AddAsync(zip, "content.otio", File.OpenRead(written.Path), CompressionLevel.Optimal, cancel);
                    await AddAsync(zip, "version.txt", new MemoryStream("1.0.0"u8.ToArray()), CompressionLevel.NoCompression, cancel);
                    foreach (var (path, place) in places)
                    {
                        var hash = gathered.Files.First(f => f.Path == path).Hash;
                        await AddAsync(zip, $"media/{place}", store.OpenRead(hash), CompressionLevel.NoCompression, cancel);
                    }
                }
                return (new MadeFile(packed, new ReaderAnswer()), null);
            }
            catch
            {
                File.Delete(packed);
                throw;
            }
        }
    }

    private static async Task AddAsync(ZipArchive zip, string name, Stream content, CompressionLevel level, CancellationToken cancel)
    {
        await using var bytes = content;
        var entry = zip.CreateEntry(name, level);
        // The same media make the same file.
        entry.LastWriteTime = new DateTimeOffset(1980, 1, 1, 0, 0, 0, TimeSpan.Zero);
        await using var into = await entry.OpenAsync(cancel);
        await bytes.CopyToAsync(into, cancel);
    }
}
