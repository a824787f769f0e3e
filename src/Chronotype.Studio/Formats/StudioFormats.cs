using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Formats;

/// <summary>How many files of a kind the studio has.</summary>
/// <param name="Ending">Of their names, in small letters; empty for none.</param>
/// <param name="Content">What they are inside.</param>
/// <param name="Files">Kept versions, loose saves and files of their own.</param>
public sealed record FormatInUse(string Ending, FileFormat Content, int Files);

/// <summary>What the studio says of file formats: native or a copy, who can open it, what to use instead.</summary>
public sealed class StudioFormats(DeedRunner deeds)
{
    /// <summary>The most that a studio says of its own.</summary>
    public const int Most = 200;

    public static async Task<IReadOnlyList<FormatNote>> OfAsync(StudioDb db, CancellationToken cancel = default) =>
        Read(await db.Studio.Select(s => s.Formats).SingleOrDefaultAsync(cancel));

    /// <summary>Says something of a format, in the place of what was said of it before.</summary>
    public Task<Outcome<FormatNote>> SayAsync(Actor actor, FormatNote note, CancellationToken cancel = default) =>
        deeds.DoAsync<FormatNote>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var ending = note.Ending.Trim().ToLowerInvariant();
                ending = ending.StartsWith('.') ? ending : $".{ending}";
                if (!FormatNote.IsEnding(ending) || FileNames.Extension($"x{ending}") != ending)
                    return new Refusal.EndingNotLegal(note.Ending);
                var said = note with
                {
                    Ending = ending,
                    Name = TypedText.Line(note.Name),
                    OpenedBy = TypedText.Line(note.OpenedBy),
                    Advice = TypedText.Line(note.Advice),
                    // By its ending alone: what a content is, it says itself.
                    Content = FileFormat.Other,
                };
                if (said.Name.Length is < 1 or > FormatNote.MaxName)
                    return new Refusal.Length("Name", 1, FormatNote.MaxName);
                if (said.OpenedBy.Length > FormatNote.MaxTold || said.Advice.Length > FormatNote.MaxTold)
                    return new Refusal.Length(said.OpenedBy.Length > FormatNote.MaxTold ? "OpenedBy" : "Advice", 0, FormatNote.MaxTold);
                var record = await deed.Db.Studio.SingleAsync(cancel);
                var all = Read(record.Formats).Where(n => n.Ending != ending).Append(said).OrderBy(n => n.Ending, StringComparer.Ordinal);
                if (all.Count() > Most)
                    return new Refusal.Length("Ending", 0, Most);
                record.Formats = RecordJson.Write(all.ToList());
                return said;
            },
            cancel
        );

    /// <summary>Takes back what the studio says of a format: what every studio knows of it holds again.</summary>
    public Task<Outcome<Done>> ForgetAsync(Actor actor, string ending, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var record = await deed.Db.Studio.SingleAsync(cancel);
                var left = Read(record.Formats).Where(n => n.Ending != ending).ToList();
                record.Formats = left.Count == 0 ? null : RecordJson.Write(left);
                return Done.It;
            },
            cancel
        );

    /// <summary>The kinds of files that the studio has, the most frequent first.</summary>
    public static async Task<IReadOnlyList<FormatInUse>> InUseAsync(StudioDb db, CancellationToken cancel = default)
    {
        var files = await db.SaveFiles.Where(f => f.IsMain).Select(f => new { Name = f.Path, f.Hash }).ToListAsync(cancel);
        files.AddRange(
            await db
                .Entries.Where(e => e.DeletedAt == null)
                .Join(db.FileContents, e => e.Id, c => c.EntryId, (e, c) => new { Name = c.ReceivedName, c.Hash })
                .ToListAsync(cancel)
        );
        var formats = (await ContentReader.Current(db).Select(f => new { f.Content, f.Format }).ToListAsync(cancel))
            .GroupBy(f => f.Content)
            .ToDictionary(f => f.Key, f => f.First().Format);
        return
        [
            .. files
                .GroupBy(f => (FileNames.Extension(f.Name), formats.GetValueOrDefault(f.Hash, FileFormat.Other)))
                .Select(g => new FormatInUse(g.Key.Item1, g.Key.Item2, g.Count()))
                .OrderByDescending(u => u.Files)
                .ThenBy(u => u.Ending, StringComparer.Ordinal),
        ];
    }

    private static IReadOnlyList<FormatNote> Read(string? written) => written is null ? [] : RecordJson.Read<List<FormatNote>>(written);
}
