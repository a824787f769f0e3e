using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;

namespace Chronotype.Studio.Saves;

/// <summary>A file that was made of a sound, or why there is none.</summary>
/// <param name="Path">Null where there is none.</param>
/// <param name="Chart">What lies where in it, for a chart.</param>
/// <param name="Fault">Why it cannot be made; null where it was.</param>
/// <param name="Error">Why it could not be made just now; then asking again may help.</param>
public sealed record PreparedSound(string? Path, ChartedSound? Chart, FileFault? Fault, JobError Error = JobError.None);

/// <summary>Sounds as a page shows and plays them: made once, and thrown away when they take too much room.</summary>
public sealed class SoundStore(FileReader reader, ContentReader contents, CompareSaves compareSaves, JobQueue queue, DataFolder data)
    : IJobWork
{
    /// <summary>Bytes that all of them may take.</summary>
    public const long MostBytes = 4L << 30;

    private readonly KeptFiles files = new(data.Sounds, ReaderVersions.SoundsVersion, MostBytes);

    private sealed record Note(ChartedSound? Chart, FileFault? Fault);

    /// <summary>What a sound looks like over its time.</summary>
    /// <param name="piece">The piece that it is looked at for.</param>
    public Task<PreparedSound> ChartAsync(ContentHash content, Guid piece, CancellationToken cancel = default) =>
        GetAsync(content, $"{content}-chart", $"chart/{content}", piece, cancel);

    /// <summary>A block of its samples, from 0, of <see cref="ChartedSound.BlockFrames"/> frames.</summary>
    public Task<PreparedSound> SamplesAsync(ContentHash content, int block, Guid piece, CancellationToken cancel = default)
    {
        var number = block.ToString(CultureInfo.InvariantCulture);
        return GetAsync(content, $"{content}-samples-{number}", $"samples/{content}/{number}", piece, cancel);
    }

    /// <summary>A sound that browsers do not play, as one that they do.</summary>
    public Task<PreparedSound> PlayableAsync(ContentHash content, Guid piece, CancellationToken cancel = default) =>
        GetAsync(content, $"{content}-playable", $"playable/{content}", piece, cancel);

    /// <summary>What is left of the later of two saves' sounds when the earlier is taken from it.</summary>
    public Task<PreparedSound> ResidueAsync(Save before, Save after, Guid piece, CancellationToken cancel = default) =>
        GetAsync(
            before.SeenHash,
            $"{before.SeenHash}-residue-{after.SeenHash}",
            $"residue/{before.Identity}/{after.Identity}",
            piece,
            cancel
        );

    /// <summary>Throws away what was made of a content.</summary>
    public void Drop(ContentHash content) => files.Drop(content);

    /// <summary>Throws away what an earlier version of the program made.</summary>
    public void DropOlder() => files.DropOlder();

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var (what, of) = job.Subject.Split('/') is [var w, .. var o] ? (w, o) : throw new FormatException(job.Subject);
        if (what == "residue")
        {
            await ResidueAsync(ContentHash.Parse(of[0]), ContentHash.Parse(of[1]), progress, cancel);
            return null;
        }
        var content = ContentHash.Parse(of[0]);
        var asked = what switch
        {
            "chart" => new ReaderJob { Kind = ReaderJobKind.Chart },
            "playable" => new ReaderJob { Kind = ReaderJobKind.Playable },
            "samples" => new ReaderJob { Kind = ReaderJobKind.Samples, Block = int.Parse(of[1], CultureInfo.InvariantCulture) },
            _ => throw new FormatException(job.Subject),
        };
        var name = what == "samples" ? $"{content}-samples-{of[1]}" : $"{content}-{what}";
        await MakeAsync(files.PathOf(content, name), asked, [content], progress, cancel);
        return null;
    }

    private async Task ResidueAsync(
        ContentHash before,
        ContentHash after,
        IProgress<(long Done, long Total)> progress,
        CancellationToken cancel
    )
    {
        var (first, second, comparison) = await compareSaves.WithSavesAsync(before, after, cancel);
        if (first is null || second is null)
            return;
        var path = files.PathOf(first.SeenHash, $"{first.SeenHash}-residue-{second.SeenHash}");
        // Gone over once more, since the two are lined up to the sample first.
        var job = new ReaderJob
        {
            Kind = ReaderJobKind.Residue,
            Matches = comparison.Matches,
            Passes = 2,
        };
        await MakeAsync(path, job, [first.SeenHash, second.SeenHash], progress, cancel);
    }

    private async Task MakeAsync(
        string path,
        ReaderJob job,
        IReadOnlyList<ContentHash> of,
        IProgress<(long Done, long Total)> progress,
        CancellationToken cancel
    )
    {
        if (Find(path) is not null)
            return;
        var sounds = new List<(ContentHash, FileFacts)>();
        foreach (var content in of)
            sounds.Add((content, await contents.ReadAsync(content, cancel)));
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var (chart, fault) = await reader.HearAsync(
            job,
            sounds,
            made => File.Move(made, path + Extension, overwrite: true),
            progress,
            cancel
        );
        await files.WriteNoteAsync(path, ".json", RecordJson.Write(new Note(chart, fault)), cancel);
    }

    private async Task<PreparedSound> GetAsync(ContentHash of, string name, string subject, Guid piece, CancellationToken cancel)
    {
        var path = files.PathOf(of, name);
        if (Find(path) is { } known)
            return known;
        var error = await queue.DoAsync(JobRequest.Prepare(subject, piece), cancel);
        return Find(path) ?? new PreparedSound(null, null, null, error == JobError.None ? JobError.Unexpected : error);
    }

    private static PreparedSound? Find(string path)
    {
        if (KeptFiles.ReadNote(path, ".json") is not { } text)
            return null;
        var note = RecordJson.Read<Note>(text);
        if (note.Fault is not null)
            return new PreparedSound(null, null, note.Fault);
        return File.Exists(path + Extension) ? new PreparedSound(path + Extension, note.Chart, null) : null;
    }

    private const string Extension = ".bin";
}
