using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Core.References;

namespace Chronotype.Studio.Readers;

/// <summary>A picture of a content for the screen.</summary>
/// <param name="MediaType">As RFC 6838 names it.</param>
public sealed record Drawing(ReadOnlyMemory<byte> Bytes, string MediaType);

/// <summary>Reads, draws and compares contents in reader processes. Whatever a content is, this process only hands its bytes on.</summary>
public sealed class FileReader(ReaderPool pool, IContentStore store)
{
    private static readonly FileFault TooHeavy = new(FileFaultCode.TooHeavy);

    /// <param name="patterns">How texts say what they refer to.</param>
    /// <exception cref="IOException">The content could not be read from where it is kept; that is no verdict on the file.</exception>
    public async Task<FileFacts> ReadAsync(
        ContentHash content,
        IProgress<(long Done, long Total)>? progress = null,
        IReadOnlyList<ReferencePattern>? patterns = null,
        CancellationToken cancel = default
    )
    {
        var whole = new ReaderJob { Kind = ReaderJobKind.Read, Patterns = patterns ?? [] };
        try
        {
            return await ReadAsync(whole, content, progress, cancel);
        }
        catch (TooHeavyException)
        {
            // Its beginning may tell all the same what it is and how large.
        }
        try
        {
            return await ReadAsync(whole with { IsHeaderOnly = true }, content, null, cancel) with { Fault = TooHeavy };
        }
        catch (TooHeavyException)
        {
            return new FileFacts { Fault = TooHeavy };
        }
    }

    private async Task<FileFacts> ReadAsync(
        ReaderJob job,
        ContentHash content,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        var (answer, _) = await pool.DoAsync(job, () => [store.OpenRead(content)], cancel, null, progress);
        return answer.Facts ?? throw new ReaderFailedException("The reader gave no answer.");
    }

    /// <returns>The drawing, or why there is none; neither where the format has nothing to see.</returns>
    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<(Drawing? Drawing, FileFault? Fault)> DrawAsync(
        ContentHash content,
        int side,
        int page = 0,
        CancellationToken cancel = default
    )
    {
        try
        {
            var (answer, bytes) = await pool.DoAsync(
                new ReaderJob
                {
                    Kind = ReaderJobKind.Draw,
                    Side = side,
                    Page = page,
                },
                () => [store.OpenRead(content)],
                cancel
            );
            return (answer.MediaType is "image/webp" or "image/svg+xml" ? new Drawing(bytes, answer.MediaType) : null, answer.Refusal);
        }
        catch (TooHeavyException)
        {
            return (null, TooHeavy);
        }
    }

    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<Comparison> CompareAsync(
        (ContentHash Content, FileFacts Facts) before,
        (ContentHash Content, FileFacts Facts) after,
        IProgress<(long Done, long Total)>? progress = null,
        CancellationToken cancel = default
    )
    {
        var job = new ReaderJob { Kind = ReaderJobKind.Compare, Facts = [before.Facts, after.Facts] };
        try
        {
            var (answer, _) = await pool.DoAsync(
                job,
                () => [store.OpenRead(before.Content), store.OpenRead(after.Content)],
                cancel,
                null,
                progress
            );
            return answer.Comparison ?? throw new ReaderFailedException("The reader gave no answer.");
        }
        catch (TooHeavyException)
        {
            return Comparison.NotMeasurable(ComparisonBasis.TooHeavy, TooHeavy);
        }
    }

    /// <summary>Cuts a content's picture, or the difference of two, into tiles.</summary>
    /// <param name="views">One, or two for their difference.</param>
    /// <param name="take">Given the archive of tiles, which is gone afterwards unless it was moved.</param>
    /// <param name="progress">Takes how many bytes were gone over, and of how many.</param>
    /// <returns>The tiles, or why there are none.</returns>
    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<(TiledPicture? Tiles, FileFault? Fault)> CutAsync(
        IReadOnlyList<(PictureView View, FileFacts Facts)> views,
        Action<string> take,
        IProgress<(long Done, long Total)>? progress = null,
        CancellationToken cancel = default
    )
    {
        var job = new ReaderJob
        {
            Kind = ReaderJobKind.Cut,
            Facts = [.. views.Select(v => v.Facts)],
            Pages = [.. views.Select(v => v.View.Page)],
            Layers = [.. views.Select(v => v.View.Layer)],
            // Of a difference the places are looked for first.
            Passes = views.Count,
            // What is small as a file may be large as a picture.
            ProcessorSeconds = (int)views.Sum(v => (v.Facts.Picture?.Width ?? 0) * (long)(v.Facts.Picture?.Height ?? 0) / PixelsPerSecond),
        };
        try
        {
            var (answer, _) = await pool.DoAsync(job, () => [.. views.Select(v => store.OpenRead(v.View.Content))], cancel, take, progress);
            return (answer.Tiles, answer.Refusal);
        }
        catch (TooHeavyException)
        {
            return (null, TooHeavy);
        }
    }

    /// <summary>Makes a file for showing or playing sounds.</summary>
    /// <param name="job">What is made, and of what; its limit of time is set here.</param>
    /// <param name="sounds">One, or for what is left of a sound the earlier and the later.</param>
    /// <param name="take">Given the file, which is gone afterwards unless it was moved.</param>
    /// <param name="progress">Takes how many bytes were gone over, and of how many.</param>
    /// <returns>What lies where in it, for a chart; and why there is none.</returns>
    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<(ChartedSound? Chart, FileFault? Fault)> HearAsync(
        ReaderJob job,
        IReadOnlyList<(ContentHash Content, FileFacts Facts)> sounds,
        Action<string> take,
        IProgress<(long Done, long Total)>? progress = null,
        CancellationToken cancel = default
    )
    {
        // What is small as a file may be long as a sound.
        var seconds = sounds.Sum(s => s.Facts.Sound?.Duration.TotalSeconds ?? 0);
        try
        {
            var (answer, _) = await pool.DoAsync(
                job with
                {
                    ProcessorSeconds = (int)Math.Min(3600, seconds / SoundPerSecond),
                },
                () => [.. sounds.Select(s => store.OpenRead(s.Content))],
                cancel,
                take,
                progress
            );
            return (answer.Chart, answer.Refusal);
        }
        catch (TooHeavyException)
        {
            return (null, TooHeavy);
        }
    }

    /// <summary>Writes a content anew: with references that lead elsewhere, with others inside, with parts put out.</summary>
    /// <param name="job">What is asked.</param>
    /// <param name="open">The contents, opened anew at each call; closed when they were read.</param>
    /// <param name="take">Given the new file, which is gone afterwards unless it was moved.</param>
    /// <returns>What the reader told of it; and why it could not be done, null where it was.</returns>
    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<(ReaderAnswer? Answer, FileFault? Fault)> WriteAsync(
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        Action<string> take,
        CancellationToken cancel = default,
        IProgress<(long Done, long Total)>? progress = null
    )
    {
        try
        {
            var (answer, _) = await pool.DoAsync(job, open, cancel, take, progress);
            return (answer, answer.Refusal);
        }
        catch (TooHeavyException)
        {
            return (null, TooHeavy);
        }
    }

    /// <returns>What a picture or a sound is known by; null where it is neither, or cannot be read.</returns>
    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<Likeness?> LikenAsync(Func<Stream> open, CancellationToken cancel = default)
    {
        try
        {
            var (answer, _) = await pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Liken }, () => [open()], cancel);
            return answer.Likeness;
        }
        catch (TooHeavyException)
        {
            return null;
        }
    }

    /// <summary>Opens contents, in order.</summary>
    public IReadOnlyList<Stream> Open(IEnumerable<ContentHash> contents) => [.. contents.Select(store.OpenRead)];

    /// <param name="contents">What it is made of, and then what the recipe needs.</param>
    /// <returns>
    /// About how many bytes a copy for use would have, null where it cannot be made; and what would become of the texts of a drawing.
    /// </returns>
    /// <exception cref="IOException">As for <see cref="ReadAsync"/>.</exception>
    public async Task<(long? Bytes, OutlinedTexts? Texts)> EstimateAsync(
        IReadOnlyList<ContentHash> contents,
        Recipe recipe,
        CancellationToken cancel = default
    )
    {
        try
        {
            var (answer, _) = await pool.DoAsync(
                new ReaderJob { Kind = ReaderJobKind.Estimate, Recipe = recipe },
                () => Open(contents),
                cancel
            );
            return (answer.Bytes, answer.Texts);
        }
        catch (TooHeavyException)
        {
            return (null, null);
        }
    }

    // Seconds of sound that a slow processor core goes over in one.
    private const double SoundPerSecond = 20;

    // What a slow processor core decodes, compares and packs again.
    private const long PixelsPerSecond = 8_000_000;
}
