using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.Sound;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Security;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;
using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>
/// What the page that shows and plays sounds asks for: their waveform, block by block and at every scale down to single samples, how loud
/// they are, their bands, and what is left of one when the other is taken from it.
/// </summary>
public static class SoundEndpoints
{
    /// <summary>Bins of a waveform that are given at a time.</summary>
    private const int BlockBins = 4096;

    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/saves/{id:guid}/sound", PlayAsync);
        routes.MapGet("/saves/{id:guid}/sound/chart", DescribeAsync);
        routes.MapGet("/saves/{id:guid}/sound/waveform/{level:int}/{block:int}", WaveformAsync);
        routes.MapGet("/saves/{id:guid}/sound/samples/{block:int}", SamplesAsync);
        routes.MapGet("/saves/{id:guid}/sound/loudness", (Guid id, SoundEndpoints.Asked asked) => asked.PartAsync(id, isSpectrum: false));
        routes.MapGet("/saves/{id:guid}/sound/spectrum", (Guid id, SoundEndpoints.Asked asked) => asked.PartAsync(id, isSpectrum: true));
        routes.MapGet("/saves/{id:guid}/against/{other:guid}/sound", ResidueAsync);
    }

    /// <summary>What each of them needs.</summary>
    public sealed class Asked(StudioDb db, SoundStore store, IHttpContextAccessor accessor)
    {
        private CancellationToken Cancel => accessor.HttpContext!.RequestAborted;

        public Task<Save?> FindAsync(Guid id) => db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, Cancel);

        public Task<FileFacts?> FactsAsync(Save save) => ContentReader.KnownAsync(db, save.SeenHash, Cancel);

        public SoundStore Store => store;

        public async Task<(Save? Save, PreparedSound? Chart)> ChartAsync(Guid id) =>
            await FindAsync(id) is { } save ? (save, await store.ChartAsync(save.SeenHash, save.PieceId, Cancel)) : (null, null);

        public async Task<IResult> PartAsync(Guid id, bool isSpectrum)
        {
            if (await ChartAsync(id) is not (_, { Path: { } path, Chart: { } chart }))
                return Results.NotFound();
            return Slice(
                path,
                isSpectrum ? chart.SpectrumAt : chart.LoudnessAt,
                chart.Steps * (isSpectrum ? SoundChart.Bands : sizeof(short)),
                accessor.HttpContext!
            );
        }
    }

    private static async Task<IResult> PlayAsync(Guid id, Asked asked, IContentStore contents, CancellationToken cancel)
    {
        if (await asked.FindAsync(id) is not { } save || await asked.FactsAsync(save) is not { Sound: { } sound } facts)
            return Results.NotFound();
        var tag = new EntityTagHeaderValue($"\"{save.SeenHash}\"");
        if (PlayedSound.MediaType(facts.Format, sound) is { } type)
            return Results.File(contents.OpenRead(save.SeenHash), type, entityTag: tag, enableRangeProcessing: true);
        var made = await asked.Store.PlayableAsync(save.SeenHash, save.PieceId, cancel);
        return made.Path is null ? Results.NotFound() : Results.File(made.Path, "audio/wav", entityTag: tag, enableRangeProcessing: true);
    }

    private static async Task<IResult> DescribeAsync(Guid id, Asked asked)
    {
        var (save, prepared) = await asked.ChartAsync(id);
        if (save is null)
            return Results.NotFound();
        if (prepared is not { Chart: { } chart })
            return Results.Json(new { error = WhyNot(prepared!) }, statusCode: StatusCodes.Status422UnprocessableEntity);
        return Results.Json(
            new
            {
                rate = chart.SampleRate,
                channels = Math.Min(chart.Channels, ChartedSound.BlockChannels),
                frames = chart.Frames,
                bin = SoundChart.BinFrames,
                factor = SoundChart.Factor,
                levels = chart.Levels.Select(l => l.Bins),
                block = BlockBins,
                samples = ChartedSound.BlockFrames,
                steps = chart.Steps,
                stepsPerSecond = SoundChart.StepsPerSecond,
                bands = SoundChart.Bands,
                lowest = SoundChart.LowestHertz,
                of = PreviewAddress.Of(save.SeenHash),
            }
        );
    }

    private static async Task<IResult> WaveformAsync(Guid id, int level, int block, Asked asked, HttpContext context)
    {
        if (await asked.ChartAsync(id) is not (_, { Path: { } path, Chart: { } chart }))
            return Results.NotFound();
        if (level < 0 || level >= chart.Levels.Count || block < 0 || block > chart.Levels[level].Bins / BlockBins)
            return Results.NotFound();
        const int binBytes = 2 * sizeof(short);
        var bins = Math.Min(BlockBins, chart.Levels[level].Bins - block * BlockBins);
        return Slice(path, chart.Levels[level].At + (long)block * BlockBins * binBytes, bins * binBytes, context);
    }

    private static async Task<IResult> SamplesAsync(Guid id, int block, Asked asked, HttpContext context, CancellationToken cancel)
    {
        if (await asked.ChartAsync(id) is not ({ } save, { Chart: { } chart }))
            return Results.NotFound();
        if (block < 0 || block > (chart.Frames - 1) / ChartedSound.BlockFrames)
            return Results.NotFound();
        var made = await asked.Store.SamplesAsync(save.SeenHash, block, save.PieceId, cancel);
        if (made.Path is null)
            return Results.NotFound();
        Keep(context);
        return Results.File(made.Path, Binary);
    }

    private static async Task<IResult> ResidueAsync(Guid id, Guid other, Asked asked, CancellationToken cancel)
    {
        var (after, before) = (await asked.FindAsync(id), await asked.FindAsync(other));
        if (after is null || before is null)
            return Results.NotFound();
        var made = await asked.Store.ResidueAsync(before, after, after.PieceId, cancel);
        return made.Path is null
            ? Results.Json(new { error = WhyNot(made) }, statusCode: StatusCodes.Status422UnprocessableEntity)
            : Results.File(made.Path, "audio/wav", enableRangeProcessing: true);
    }

    private const string Binary = "application/octet-stream";

    private static IResult Slice(string path, long at, int length, HttpContext context)
    {
        var bytes = new byte[length];
        try
        {
            using var file = File.OpenHandle(path);
            if (RandomAccess.Read(file, bytes, at) < length)
                return Results.NotFound();
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            // Thrown away in this very moment; whoever looks asks again.
            return Results.NotFound();
        }
        Keep(context);
        return Results.Bytes(bytes, Binary);
    }

    // The address tells the content, so that what is behind it never changes.
    private static void Keep(HttpContext context)
    {
        if (context.Request.Query.ContainsKey("of"))
            SecurityHeaders.Keep(context, "private, max-age=31536000, immutable");
    }

    private static string WhyNot(PreparedSound made) => JobWords.NotMade(made.Error, made.Fault, "There is no sound in it.");
}
