using System.Globalization;
using System.Text.RegularExpressions;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>A file among the outputs that is of no version yet.</summary>
public sealed record WaitingOutput(TreeEntry Entry, DateTimeOffset At);

/// <summary>A version that a file may be of.</summary>
/// <param name="Piece">The piece's current name.</param>
public sealed record ShownMatch(OutputMatch Match, string Piece, VersionNumber Number);

/// <summary>
/// Finds the version that a flat file was made from outside of here: by its name, by when it came, and by what is seen or heard in it.
/// Where that is certain it is recorded with the reasons; else a person is asked.
/// </summary>
public sealed partial class MatchOutputs(
    DeedRunner deeds,
    Likenesses likenesses,
    ContentReader contentReader,
    IDbContextFactory<StudioDb> contexts
) : IJobWork
{
    // Of a piece that the name speaks of, so many versions are looked at, the newest first; of any other, those around the time it came.
    private const int MostOfNamed = 60,
        MostOfOthers = 3,
        MostInAll = 240;

    /// <summary>The files among a project's outputs that are of no version, the newest first.</summary>
    public static async Task<IReadOnlyList<WaitingOutput>> WaitingAsync(StudioDb db, Guid projectId, CancellationToken cancel = default)
    {
        var waiting = await Waiting(db)
            .AsNoTracking()
            .Where(e => e.ProjectId == projectId)
            .Select(e => new { Entry = e, At = e.Contents.Max(c => c.At) })
            .ToListAsync(cancel);
        return [.. waiting.OrderByDescending(w => w.At).Select(w => new WaitingOutput(w.Entry, w.At))];
    }

    /// <summary>The versions that a file may be of, the likeliest first, as far as it was looked into.</summary>
    public static async Task<IReadOnlyList<ShownMatch>> RankAsync(StudioDb db, Guid entryId, CancellationToken cancel = default)
    {
        if (await FindAsync(db, entryId, cancel) is not { } file)
            return [];
        var candidates = await CandidatesAsync(db, file, cancel);
        var known = await Likenesses.KnownAsync(db, [file.Hash, .. candidates.Select(c => c.Seen)], cancel);
        return
        [
            .. OutputMatch
                .Rank(candidates.Select(c => c.With(known.GetValueOrDefault(file.Hash), known.GetValueOrDefault(c.Seen))))
                .Select(m => (m, Of: candidates.First(c => c.Match.Save == m.Save)))
                .Select(m => new ShownMatch(m.m, m.Of.Piece, m.Of.Number)),
        ];
    }

    /// <summary>Says of which version a file is; what was recorded of it before gives way.</summary>
    public Task<Outcome<Output>> SayAsync(Actor actor, Guid entryId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync(actor, Right.Work, deed => RecordAsync(deed, entryId, saveId, null, cancel), cancel);

    /// <summary>Says that a file is of no version; it is not asked about again.</summary>
    public Task<Outcome<TreeEntry>> OfNoneAsync(Actor actor, Guid entryId, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                var entry = await deed.Db.Entries.FirstOrDefaultAsync(e => e.Id == entryId && e.Kind == EntryKind.OwnFile, cancel);
                if (entry is null)
                    return new Refusal.NoSuchEntry();
                entry.IsOfNoVersion = true;
                deed.Db.Outputs.RemoveRange(await deed.Db.Outputs.Where(o => o.EntryId == entryId && o.Recipe == "").ToListAsync(cancel));
                return entry;
            },
            cancel
        );

    /// <summary>Records what came as an output of a version, as part of a deed that does more.</summary>
    /// <param name="reasons">Null where a person said so.</param>
    internal static async Task<Outcome<Output>> RecordAsync(
        Deed deed,
        Guid entryId,
        Guid saveId,
        MatchReasons? reasons,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        if (await FindAsync(db, entryId, cancel) is not { } file)
            return new Refusal.NoSuchEntry();
        var save = await db.Saves.FirstOrDefaultAsync(
            s => s.Id == saveId && db.Pieces.Any(p => p.Id == s.PieceId && p.ProjectId == file.Entry.ProjectId),
            cancel
        );
        if (save is null)
            return new Refusal.NoSuchSave();
        if (save.Number is null)
            return new Refusal.OnlyFromVersions();
        db.Outputs.RemoveRange(await db.Outputs.Where(o => o.EntryId == entryId && o.Recipe == "").ToListAsync(cancel));
        var output = new Output
        {
            EntryId = entryId,
            PieceId = save.PieceId,
            SaveId = saveId,
            Source = save.MainHash,
            RecipeKey = "",
            Recipe = "",
            Reasons = reasons is null ? null : RecordJson.Write(reasons),
            Hash = file.Hash,
            At = deed.Now,
            ById = deed.Actor.PersonId,
        };
        db.Outputs.Add(output);
        file.Entry.IsOfNoVersion = false;
        return output;
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var id = Guid.Parse(job.Subject);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        // Somebody may have said it meanwhile, or it is what was made here.
        if (!await Waiting(db).AnyAsync(e => e.Id == id, cancel) || await FindAsync(db, id, cancel) is not { } file)
            return null;
        if (await contentReader.ReadAsync(file.Hash, cancel) is not { Fault: null } facts)
            return null;
        var candidates = await CandidatesAsync(db, file, cancel);
        var copy = await likenesses.GetAsync(file.Hash, facts.Format, cancel);
        var matches = new List<OutputMatch>();
        foreach (var (candidate, i) in candidates.Select((c, i) => (c, i)))
        {
            progress.Report((i, candidates.Count));
            var version = copy is null ? null : await likenesses.GetAsync(candidate.Seen, candidate.Format, cancel);
            matches.Add(candidate.With(copy, version));
        }
        if (OutputMatch.Certain(OutputMatch.Rank(matches)) is not { } certain)
            return null;
        var by = job.AskedById ?? file.By;
        (
            await deeds.DoAsync(
                Actor.StudioFor(by),
                Right.Work,
                deed => RecordAsync(deed, id, certain.Save, certain.Reasons, CancellationToken.None),
                CancellationToken.None
            )
        ).OrFail();
        return null;
    }

    private static IQueryable<TreeEntry> Waiting(StudioDb db) =>
        db.Entries.Where(e =>
            e.Kind == EntryKind.OwnFile
            && e.Role == FolderRole.Outputs
            && e.DeletedAt == null
            && !e.IsOfNoVersion
            && !db.Outputs.Any(o => o.EntryId == e.Id)
        );

    private sealed record Came(TreeEntry Entry, ContentHash Hash, string Name, DateTimeOffset At, Guid By);

    private static async Task<Came?> FindAsync(StudioDb db, Guid entryId, CancellationToken cancel)
    {
        var entry = await db
            .Entries.Include(e => e.Contents)
            .FirstOrDefaultAsync(
                e => e.Id == entryId && e.Kind == EntryKind.OwnFile && e.Role == FolderRole.Outputs && e.DeletedAt == null,
                cancel
            );
        return entry?.Contents.MaxBy(c => c.Sequence) is { } now ? new Came(entry, now.Hash, entry.Path.Name, now.At, now.ById) : null;
    }

    private sealed record Candidate(OutputMatch Match, string Piece, VersionNumber Number, ContentHash Seen, FileFormat Format)
    {
        public OutputMatch With(Likeness? copy, Likeness? version) =>
            copy is not null && version is not null && Likeness.Of(copy, version) is var (alike, at)
                ? Match with
                {
                    Reasons = Match.Reasons with { Alike = Math.Round(alike, 4), At = at },
                }
                : Match;
    }

    private static async Task<IReadOnlyList<Candidate>> CandidatesAsync(StudioDb db, Came file, CancellationToken cancel)
    {
        var isSound = await ContentReader.KnownAsync(db, file.Hash, cancel) is { Sound: not null };
        var pieces = await db
            .Pieces.AsNoTracking()
            .Where(p => p.ProjectId == file.Entry.ProjectId)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .ToListAsync(cancel);
        var stem = FileNames.Stem(file.Name);
        // The longest name that it begins with is the piece's that it speaks of.
        var spoken = pieces.Where(p => Begins(stem, p.CurrentName)).MaxBy(p => p.CurrentName.Length);
        var reading = pieces.Count == 0 ? null : PieceNames.Of(pieces[0]).Convention.Grammar.Read(FileNames.Received(file.Name));
        var values = reading?.Values();
        if (values is not null)
            spoken = pieces.Find(p => PieceNames.Of(p).IsOwn(values)) ?? spoken;
        var kept = (
            await db
                .Saves.AsNoTracking()
                .Where(s => s.Piece.ProjectId == file.Entry.ProjectId && s.Number != null && s.Line.IsCurrent)
                .OrderByDescending(s => s.Number)
                .Select(s => new
                {
                    s.Id,
                    s.PieceId,
                    s.Number,
                    s.KeptAt,
                    Seen = s.FaceHash ?? s.MainHash,
                    Format = ContentReader
                        .Current(db)
                        .Where(f => f.Content == (s.FaceHash ?? s.MainHash))
                        .Select(f => (FileFormat?)f.Format)
                        .FirstOrDefault(),
                })
                .ToListAsync(cancel)
        ).ToLookup(s => s.PieceId);
        var candidates = new List<Candidate>();
        foreach (var piece in pieces)
        {
            var versions = kept[piece.Id].ToList();
            var newestThen = versions.Find(v => v.KeptAt <= file.At)?.Number;
            var near =
                piece == spoken
                    ? versions.Take(MostOfNamed)
                    : versions.OrderBy(v => Math.Abs((v.KeptAt!.Value - file.At).Ticks)).Take(MostOfOthers);
            foreach (var version in near)
            {
                var format = version.Format;
                // What cannot be seen or heard is told by its name and time alone; a sound is never of a picture.
                if (format is { } known && known != FileFormat.Other && FaceRule.IsSound(known) != isSound)
                    continue;
                var number = new VersionNumber(version.Number!.Value);
                var name =
                    spoken is null ? NameEvidence.None
                    : piece != spoken ? NameEvidence.Other
                    : Said(piece, stem, values) is not { } said ? NameEvidence.Piece
                    : said == number ? NameEvidence.Version
                    : NameEvidence.Other;
                var hours = (file.At - version.KeptAt!.Value).TotalHours;
                candidates.Add(
                    new(
                        new OutputMatch(
                            piece.Id,
                            version.Id,
                            new MatchReasons(name, version.Number == newestThen, Math.Round(hours, 3), null)
                        ),
                        piece.CurrentName,
                        number,
                        version.Seen,
                        format ?? FileFormat.Other
                    )
                );
            }
        }
        return
        [
            .. candidates
                .OrderBy(c => c.Match.Reasons.Name == NameEvidence.Other)
                .ThenBy(c => Math.Abs(c.Match.Reasons.Hours))
                .Take(MostInAll),
        ];
    }

    // The version that the name says: in its slot, or as a number behind the piece's name.
    private static VersionNumber? Said(Piece piece, string stem, IReadOnlyDictionary<string, string>? values)
    {
        var names = PieceNames.Of(piece);
        if (
            values is not null
            && names.Convention.Slots.Any(s => s.Rule is VersionRule)
            && values.TryGetValue(names.VersionLabel, out var said)
            && int.TryParse(said, CultureInfo.InvariantCulture, out var number)
        )
            return new VersionNumber(number);
        if (!Begins(stem, piece.CurrentName))
            return null;
        var behind = stem[Math.Min(stem.Length, piece.CurrentName.Length)..];
        return
            Number().Match(behind) is { Success: true } match
            && int.TryParse(match.Groups[1].Value, CultureInfo.InvariantCulture, out var written)
            ? new VersionNumber(written)
            : null;
    }

    private static bool Begins(string stem, string name) =>
        stem.StartsWith(name, StringComparison.OrdinalIgnoreCase)
        && (stem.Length == name.Length || !char.IsLetterOrDigit(stem[name.Length]));

    // Of three digits and more, not of a size or a rate: 014, v014.
    [GeneratedRegex(@"(?:^|[_\-. ])v?(\d{3,6})(?=$|[_\-. (])", RegexOptions.IgnoreCase)]
    private static partial Regex Number();
}
