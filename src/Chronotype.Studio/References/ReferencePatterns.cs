using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>Patterns as they are from now on.</summary>
/// <param name="Texts">How many texts are read anew by them.</param>
public sealed record SetPatterns(IReadOnlyList<ReferencePattern> Patterns, int Texts);

/// <summary>How text formats of the studio's own say what they refer to: reading them, and setting them.</summary>
public sealed class ReferencePatterns(DeedRunner deeds)
{
    /// <summary>The most that a studio has.</summary>
    public const int Most = 40;

    public static async Task<IReadOnlyList<ReferencePattern>> OfAsync(StudioDb db, CancellationToken cancel = default) =>
        Read(await WrittenAsync(db, cancel));

    /// <summary>As they are recorded.</summary>
    internal static Task<string?> WrittenAsync(StudioDb db, CancellationToken cancel = default) =>
        db.Studio.Select(s => s.ReferencePatterns).SingleOrDefaultAsync(cancel);

    internal static IReadOnlyList<ReferencePattern> Read(string? written) =>
        written is null ? [] : RecordJson.Read<List<ReferencePattern>>(written);

    /// <summary>Sets them. Every text that is stored is read by them then, those of kept versions, too.</summary>
    public Task<Outcome<SetPatterns>> SetAsync(Actor actor, IReadOnlyList<ReferencePattern> patterns, CancellationToken cancel = default) =>
        deeds.DoAsync<SetPatterns>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var told = patterns.Select(p => new ReferencePattern(Ended(p.Ending), p.Line.Trim())).Distinct().ToList();
                foreach (var pattern in told)
                {
                    if (pattern.Fault() is { } fault)
                        return new Refusal.PatternNotLegal(pattern.Ending, pattern.Line, fault);
                }
                if (told.Count > Most)
                    return new Refusal.Length("patterns", 0, Most);
                var db = deed.Db;
                var record = await db.Studio.SingleAsync(cancel);
                var written = told.Count == 0 ? null : RecordJson.Write(told);
                if (record.ReferencePatterns == written)
                    return new SetPatterns(told, 0);
                record.ReferencePatterns = written;
                var texts = await ContentReader
                    .Current(db)
                    .Where(f => f.Format == FileFormat.Text)
                    .Select(f => f.Content)
                    .ToListAsync(cancel);
                await db
                    .ContentFacts.Where(f => f.Reader == ReaderVersions.FileFacts && f.Format == FileFormat.Text)
                    .ExecuteUpdateAsync(u => u.SetProperty(f => f.Version, 0), cancel);
                foreach (var text in texts)
                    await deed.QueueAsync(JobRequest.Read(text, Guid.Empty), cancel);
                return new SetPatterns(told, texts.Count);
            },
            cancel
        );

    /// <summary>An ending as it was typed, with its dot and in lower case.</summary>
    public static string Ended(string ending) =>
        ending.Trim().ToLowerInvariant() is [not '.', ..] and var plain ? $".{plain}" : ending.Trim().ToLowerInvariant();
}
