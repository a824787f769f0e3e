using System.Collections.Concurrent;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.References;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Readers;

/// <summary>Reads what is inside contents, each once for each version of the reader, and records it.</summary>
public sealed class ContentReader(FileReader reader, RedoneContexts contexts) : IJobWork
{
    // Two who want the same at once read it once.
    private readonly ConcurrentDictionary<ContentHash, Lazy<Task<FileFacts>>> underWay = new();

    /// <summary>What is known of a content; null where it was not read yet, or by an older reader.</summary>
    public static async Task<FileFacts?> KnownAsync(StudioDb db, ContentHash content, CancellationToken cancel = default) =>
        await Current(db).Where(f => f.Content == content).Select(f => f.Facts).FirstOrDefaultAsync(cancel) is { } json
            ? RecordJson.Read<FileFacts>(json)
            : null;

    /// <summary>What the present reader found in contents.</summary>
    public static IQueryable<ContentFacts> Current(StudioDb db) =>
        db.ContentFacts.AsNoTracking().Where(f => f.Reader == ReaderVersions.FileFacts && f.Version == ReaderVersions.FileFactsVersion);

    /// <summary>From the records, or read now.</summary>
    /// <exception cref="IOException">
    /// The content could not be read from where it is kept, or no reader be had; nothing is recorded.
    /// </exception>
    public Task<FileFacts> ReadAsync(ContentHash content, CancellationToken cancel = default) => ReadAsync(content, null, cancel);

    private async Task<FileFacts> ReadAsync(ContentHash content, IProgress<(long Done, long Total)>? progress, CancellationToken cancel)
    {
        await using (var db = contexts.CreateDbContext())
        {
            if (await KnownAsync(db, content, cancel) is { } known)
                return known;
        }
        var reading = underWay.GetOrAdd(content, _ => new Lazy<Task<FileFacts>>(() => ReadNowAsync(content, progress)));
        return await reading.Value.WaitAsync(cancel);
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        await ReadAsync(ContentHash.Parse(job.Subject), progress, cancel);
        return null;
    }

    private async Task<FileFacts> ReadNowAsync(ContentHash content, IProgress<(long Done, long Total)>? progress)
    {
        try
        {
            // Whoever stops waiting does not stop it for the others; what it may take is bounded.
            while (true)
            {
                string? patterns;
                await using (var db = contexts.CreateDbContext())
                    patterns = await ReferencePatterns.WrittenAsync(db);
                var facts = await reader.ReadAsync(content, progress, ReferencePatterns.Read(patterns));
                // What the patterns say may have been changed meanwhile: a text is read by those that hold.
                if (await RecordAsync(content, facts, patterns))
                    return facts;
            }
        }
        finally
        {
            underWay.TryRemove(content, out _);
        }
    }

    private async Task<bool> RecordAsync(ContentHash content, FileFacts facts, string? patterns)
    {
        await using var db = contexts.CreateDbContext();
        var state = facts.Fault switch
        {
            null => FactsState.Read,
            { IsBeyondReading: true } => FactsState.Beyond,
            _ => FactsState.Faulty,
        };
        await using var transaction = await Writing.BeginAsync(db);
        if (facts.Format == FileFormat.Text && await ReferencePatterns.WrittenAsync(db) != patterns)
            return false;
        await db.ContentFacts.Where(f => f.Content == content && f.Reader == ReaderVersions.FileFacts).ExecuteDeleteAsync();
        db.ContentFacts.Add(
            new ContentFacts
            {
                Content = content,
                Reader = ReaderVersions.FileFacts,
                Version = ReaderVersions.FileFactsVersion,
                State = state,
                Format = facts.Format,
                Inside = facts.Inside,
                Measures = FileMeasures.Of(facts),
                Facts = RecordJson.Write(facts),
            }
        );
        await db.SaveChangesAsync();
        // What it refers to is known from now on, of every file that holds it.
        await FileLinks.OfContentAsync(db, content, facts);
        // What turns out to be cut short or damaged is not what a piece's current file holds, where there is anything sound.
        var pieces = await db
            .Saves.Where(s => s.MainHash == content && (s.IsCurrent || state != FactsState.Faulty))
            .Select(s => s.PieceId)
            .Distinct()
            .ToListAsync();
        foreach (var piece in pieces)
            await CurrentSaves.SettleAsync(db, piece);
        await transaction.CommitAsync();
        return true;
    }
}
