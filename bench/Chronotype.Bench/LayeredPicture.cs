using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Formats;
using NetVips;

namespace Chronotype.Bench;

/// <summary>
/// A picture of 8,000 x 10,000 pixels with 30 layers, and one of a gigabyte: how long it takes to read, to draw and to compare two of them,
/// to cut one into tiles, and how much memory a program needs that reads the gigabyte.
/// </summary>
internal static class LayeredPicture
{
    private const int Width = 8000,
        Height = 10_000,
        Layers = 30,
        Rounds = 3;

    public static void Run()
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-");
        try
        {
            var (a, b) = (Path.Combine(folder.FullName, "a.ora"), Path.Combine(folder.FullName, "b.ora"));
            Make(a, repainted: 0, noisy: 0);
            Make(b, repainted: 3, noisy: 0);
            Console.WriteLine($"{Width} x {Height} px, {Layers} layers, {new FileInfo(a).Length / 1e6:0} MB; medians of {Rounds}:");
            using var first = File.OpenRead(a);
            using var second = File.OpenRead(b);
            FileFacts? facts = null;
            Tell("read, every layer decoded", Median(() => facts = FormatReader.Read(first)), "");
            var otherFacts = FormatReader.Read(second);
            Tell("preview", Median(() => PreviewMaker.Make(first, 480)), "wanted: under 3 s");
            Comparison? found = null;
            Tell("two compared", Median(() => found = SaveComparer.Compare(first, facts!, second, otherFacts)), "wanted: under 5 s");
            var told = found!.Parts.Where(p => p.Kind != PartChangeKind.Same).Select(p => $"{p.Name} {p.Share:P0}");
            Console.WriteLine($"    found: {string.Join(", ", told)} (3 were repainted)");
            var zip = Path.Combine(folder.FullName, "tiles.zip");
            Tell("cut into tiles", Median(() => TileCutter.Cut(new PictureSource(first, facts!), Fresh(zip))), "");
            Console.WriteLine($"    {new FileInfo(zip).Length / 1e6:0} MB of tiles");
            Tell(
                "difference cut into tiles",
                Median(() => TileCutter.CutDifference(new PictureSource(first, facts!), new PictureSource(second, otherFacts), Fresh(zip))),
                ""
            );

            var large = Path.Combine(folder.FullName, "large.ora");
            Make(large, repainted: 0, noisy: 4);
            var (seconds, memory) = RunProgram("look", large);
            Console.WriteLine(
                $"{new FileInfo(large).Length / 1e6:0} MB of layers read by a program of its own: {seconds:0.0} s, {memory / 1e6:0} MB of memory "
                    + "(wanted: under 300 MB)"
            );
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static string Fresh(string file)
    {
        File.Delete(file);
        return file;
    }

    private static void Tell(string what, double seconds, string wanted) =>
        Console.WriteLine($"  {what, -26} {seconds, 6:0.00} s   {(wanted.Length > 0 ? $"({wanted})" : "")}");

    private static double Median(Func<object?> work)
    {
        var times = new List<double>();
        for (var i = 0; i < Rounds; i++)
        {
            var start = Stopwatch.GetTimestamp();
            work();
            times.Add(Stopwatch.GetElapsedTime(start).TotalSeconds);
        }
        return times.Order().ElementAt(Rounds / 2);
    }

    // The command line's own program, watched from outside.
    internal static (double Seconds, long Memory) RunProgram(params string[] arguments)
    {
        var program = Path.GetFullPath(
            Path.Combine(AppContext.BaseDirectory, "../../../../../src/Chronotype.Cli/bin/Release/net10.0/chronotype.dll")
        );
        var start = Stopwatch.GetTimestamp();
        using var process = Process.Start(new ProcessStartInfo("dotnet", [program, .. arguments]) { RedirectStandardOutput = true })!;
        var output = process.StandardOutput.ReadToEndAsync();
        long most = 0;
        while (!process.WaitForExit(20))
        {
            process.Refresh();
            most = Math.Max(most, process.HasExited ? 0 : process.PeakWorkingSet64);
        }
        if (process.ExitCode != 0)
            throw new InvalidOperationException($"{arguments[0]} ended with {process.ExitCode}: {output.Result}");
        return (Stopwatch.GetElapsedTime(start).TotalSeconds, most);
    }

    // A third of the layers cover the canvas, as skies and papers do; the others are as large as what is on them.
    internal static void Make(string path, int repainted, int noisy)
    {
        using var file = File.Create(path);
        using var zip = new ZipArchive(file, ZipArchiveMode.Create);
        Write("mimetype", Encoding.ASCII.GetBytes("image/openraster"));
        var stack = new StringBuilder();
        for (var i = 0; i < Layers; i++)
        {
            var isWhole = i % 3 == 0;
            var (w, h) = isWhole ? (Width, Height) : (1200 + 83 * i, 900 + 61 * i);
            var (x, y) = isWhole ? (0, 0) : (37 * i, 113 * i);
            stack.Append(CultureInfo.InvariantCulture, $"""<layer name="Layer {i + 1}" src="data/{i}.png" x="{x}" y="{y}"/>""");
            Write($"data/{i}.png", Layer(w, h, i, isTouched: i >= Layers - repainted, i < noisy * 3 && isWhole));
        }
        Write("stack.xml", Encoding.UTF8.GetBytes($"""<image version="0.0.5" w="{Width}" h="{Height}"><stack>{stack}</stack></image>"""));
        Write("mergedimage.png", Layer(Width, Height, 0, isTouched: repainted > 0, noise: false));

        void Write(string name, byte[] bytes)
        {
            using var entry = zip.CreateEntry(name, CompressionLevel.NoCompression).Open();
            entry.Write(bytes);
        }
    }

    // A soft gradient with a little grain, or nothing but grain.
    private static byte[] Layer(int width, int height, int seed, bool isTouched, bool noise)
    {
        using var plane = Image.Xyz(width, height);
        using var slope = (plane[0] + plane[1]) * (180.0 / (width + height)) + (30 + seed);
        using var grain = Image.Gaussnoise(noise ? width : 400, noise ? height : 400, sigma: noise ? 60 : 3, mean: 0, seed: seed);
        using var spread = noise ? grain.Copy() : grain.Replicate((width + 399) / 400, (height + 399) / 400).Crop(0, 0, width, height);
        using var grey = (slope + spread).Cast(Enums.BandFormat.Uchar);
        using var colour = noise
            ? grey.Bandjoin((grey ^ 91), (grey ^ 37), (grey | 128))
            : grey.Bandjoin(new double[] { 80 + seed, 160, 255 });
        using var srgb = colour.Copy(interpretation: Enums.Interpretation.Srgb);
        if (!isTouched)
            return srgb.PngsaveBuffer(compression: 1);
        using var memory = srgb.CopyMemory();
        using var touched = memory.Mutate(m => m.DrawRect([200, 30, 30, 255], width / 4, height / 4, width / 2, height / 4, fill: true));
        return touched.PngsaveBuffer(compression: 1);
    }
}
