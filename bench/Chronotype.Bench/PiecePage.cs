using System.Diagnostics;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Readers;
using Chronotype.Storage.Entities;
using Chronotype.Studio;

namespace Chronotype.Bench;

/// <summary>How long the server takes for a piece's page with 1,000 versions, over loopback, one request after another.</summary>
internal static class PiecePage
{
    private const int Versions = 1000,
        WarmUp = 40,
        Counted = 300;

    public static async Task RunAsync()
    {
        await using var studio = await BenchStudio.OpenAsync();
        await studio.In(db =>
        {
            db.Attach(studio.Piece);
            studio.Piece.Line.HighestNumber = studio.Piece.HighestSequence = Versions;
            studio.Piece.Extension = ".ora";
            var versions = Enumerable.Range(1, Versions).Select(i => Version(studio, i)).ToList();
            db.Saves.AddRange(versions);
            db.ContentFacts.AddRange(versions.Select(Facts));
            db.Comparisons.AddRange(versions.Zip(versions.Skip(1), Comparison));
            return db.SaveChangesAsync();
        });
        Console.WriteLine($"Piece page with {Versions:N0} versions, {Counted} requests after {WarmUp} to warm up:");
        foreach (
            var (what, query) in new[]
            {
                ("the newest", ""),
                ("A and B picked", "?a=400&b=990"),
                ("a stretch opened", "?from=100&to=180"),
                ("the table of all", "?table=true"),
            }
        )
        {
            await MeasureAsync(studio, what, $"/projects/TIDES/TIM_poster_key{query}");
        }
    }

    private static async Task MeasureAsync(BenchStudio studio, string what, string address)
    {
        var times = new List<double>();
        var bytes = 0;
        for (var i = 0; i < WarmUp + Counted; i++)
        {
            var start = Stopwatch.GetTimestamp();
            var page = await studio.Client.GetByteArrayAsync(address);
            if (i >= WarmUp)
                times.Add(Stopwatch.GetElapsedTime(start).TotalMilliseconds);
            bytes = page.Length;
        }
        times.Sort();
        Console.WriteLine(
            $"  {what, -18} median {times[times.Count / 2], 6:0.0} ms   90th {times[times.Count * 9 / 10], 6:0.0} ms   slowest "
                + $"{times[^1], 6:0.0} ms   {bytes / 1000.0, 6:0.0} kB   (wanted: median under 50 ms)"
        );
    }

    private static Save Version(BenchStudio studio, int i)
    {
        var at = DateTimeOffset.UtcNow.AddHours(-(Versions - i) * 7.3);
        var hash = ContentHash.Of(BitConverter.GetBytes(i));
        return new Save
        {
            PieceId = studio.Piece.Id,
            LineId = studio.Piece.Line.Id,
            Sequence = i,
            Number = i,
            ArrivedAt = at,
            KeptAt = at,
            ArrivedById = studio.Person,
            KeptById = studio.Person,
            ReceivedName = "poster.ora",
            Identity = hash,
            MainHash = hash,
            Size = 48_000_000 + i,
            BaseNumber = i - 1,
            ExactName = $"TIM_poster_key_IK_{i:D3}.ora",
            Note = i % 5 == 0 ? $"Note on {i}" : null,
            Files =
            [
                new SaveFile
                {
                    Path = "poster.ora",
                    Hash = hash,
                    Size = 48_000_000 + i,
                    IsMain = true,
                },
            ],
            Milestone =
                i % 40 == 0
                    ? new Milestone
                    {
                        Number = i / 40,
                        Reason = $"client round {i / 40}",
                        ExactName = $"TIM_poster_key_M{i / 40:D2}.ora",
                        MarkedAt = at,
                        MarkedById = studio.Person,
                    }
                    : null,
        };
    }

    private static ContentFacts Facts(Save version)
    {
        var facts = new FileFacts
        {
            Format = FileFormat.OpenRaster,
            Picture = new PictureFacts(3300, 5100),
            Layers =
            [
                .. Enumerable
                    .Range(0, 10)
                    .Select(k => new LayerFacts(LayerKind.Pixels, $"Layer {k}") { Source = $"data/{k}.png", Pixels = version.MainHash }),
            ],
        };
        return new ContentFacts
        {
            Content = version.MainHash,
            Reader = ReaderVersions.FileFacts,
            Version = ReaderVersions.FileFactsVersion,
            Format = FileFormat.OpenRaster,
            Facts = RecordJson.Write(facts),
        };
    }

    private static ContentComparison Comparison(Save before, Save after)
    {
        var result = new Comparison(after.Sequence % 17 / 17.0, ComparisonBasis.Layers);
        return new ContentComparison
        {
            Before = before.Identity,
            After = after.Identity,
            Version = ReaderVersions.ComparisonVersion,
            Change = result.Change,
            Result = RecordJson.Write(result),
        };
    }
}
