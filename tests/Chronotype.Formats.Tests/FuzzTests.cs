using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Tests;

/// <summary>
/// Files as a hostile or a broken program would send them: a bounded number in the tests, always the same; with CHRONOTYPE_FUZZ set, without
/// end and ever new, until one is found that a reader stumbles over.
/// </summary>
public sealed class FuzzTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("fuzz-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private IReadOnlyList<byte[]> Sounds()
    {
        File.WriteAllBytes(Path.Combine(folder, "mix.wav"), Samples.Wave(0.3));
        return
        [
            .. new[] { "flac", "ogg", "opus", "mp3" }.Select(extension =>
            {
                Tools.Run(folder, "ffmpeg", "-v", "error", "-i", "mix.wav", $"mix.{extension}");
                return File.ReadAllBytes(Path.Combine(folder, $"mix.{extension}"));
            }),
        ];
    }

    private IReadOnlyList<byte[]> All() =>
        [
            Samples.OpenRaster(
                40,
                60,
                new Samples.OraLayer("Moon", 15, 15, X: 12, Y: 20, Group: "Night", Opacity: 0.5),
                new Samples.OraLayer("Sky", 40, 60)
            ),
            Samples.Wave(0.2),
            SoundFormatTests.Aiff(Samples.Wave(0.2)[44..]),
            SoundFormatTests.Marked(Samples.Wave(0.2)),
            .. Sounds(),
            Samples.Flat(".png", 40, 40),
            Samples.Flat(".tif", 40, 40),
            Samples.Flat(".webp", 40, 40),
            Samples.Flat(".jpg", 40, 40),
            Samples.Flat(".gif", 40, 40),
            Samples.Svg("<g id='a'><rect width='9' height='9'/></g><text x='4' y='9'>Tide</text><image href='../a.png'/>"),
            Samples.Glb([new("Buoy"), new("Pier", 3)]),
            Samples.Glb([new("Buoy")], isText: true),
            Samples.Otio(("V1", "Video", [new("Waves", 24, 0, "waves.mov"), new("", 12), new("Gulls", 24, 3, "gulls.mov")])),
            Samples.Pdf(["Moonpull", "Opening hours 10 to 18"], ["Getting here"]),
            Encoding.UTF8.GetBytes("The moon pulls.\nThe water answers.\n"),
            [.. Encoding.Unicode.GetPreamble(), .. Encoding.Unicode.GetBytes("Möwen\r\n")],
        ];

    [Fact]
    public void No_mutation_of_any_sample_makes_a_reader_throw()
    {
        var isEndless = Environment.GetEnvironmentVariable("CHRONOTYPE_FUZZ") is { Length: > 0 };
        var samples = All();
        Assert.All(samples, s => Assert.Null(FormatReader.Read(new MemoryStream(s)).Fault));
        for (var seed = isEndless || Thorough.IsAsked ? Environment.TickCount : 42; ; seed++)
        {
            for (var i = 0; i < samples.Count; i++)
            {
                var random = new Random(unchecked((seed * 397) + i));
                for (var n = Thorough.Times(60, 3_000); n > 0; n--)
                    Try(samples[i], Mutations.Of(samples[i], random), $"sample {i}, seed {seed}, {n} to go");
            }
            if (!isEndless)
                return;
        }
    }

    private void Try(byte[] sound, byte[] mutated, string which)
    {
        try
        {
            var facts = FormatReader.Read(new MemoryStream(mutated));
            Assert.NotNull(facts);
            SaveComparer.Compare(new MemoryStream(sound), FormatReader.Read(new MemoryStream(sound)), new MemoryStream(mutated), facts);
            if (facts.Fault is null)
                PreviewMaker.Make(new MemoryStream(mutated), 320);
        }
        catch (UnreadableFileException)
        {
            // Refused in words, which is all that is asked.
        }
        catch (InsufficientMemoryException)
        {
            // The reader ends at it, and the studio says that the file is too heavy: a frame of a picture may claim any size.
        }
        catch (Exception e)
        {
            var kept = Path.Combine(Path.GetTempPath(), $"chronotype-fuzz-{Guid.NewGuid():N}");
            File.WriteAllBytes(kept, mutated);
            throw new InvalidOperationException($"{which}: {e.GetType().Name}: {e.Message}. The file is {kept}.", e);
        }
    }
}
