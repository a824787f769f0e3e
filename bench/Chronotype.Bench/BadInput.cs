using System.Buffers.Binary;
using System.Diagnostics;
using System.IO.Compression;
using System.Text;
using Chronotype.Tests;

namespace Chronotype.Bench;

/// <summary>
/// How long files that are broken or hostile are looked at by the command line, the start of its program included, and what memory that
/// takes.
/// </summary>
internal static class BadInput
{
    private const double MostSeconds = 2;
    private const long MostMemory = 300L << 20;

    public static void Run()
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-");
        try
        {
            Console.WriteLine("Broken and hostile files, looked at from a shell (wanted: under 2 s and 300 MB each, no crash):");
            var missed = 0;
            foreach (var (name, make) in All())
            {
                var file = Path.Combine(folder.FullName, "file.bin");
                make(file);
                var (seconds, memory, code, said) = Look(file);
                var isMissed = seconds > MostSeconds || memory > MostMemory || code > 2;
                missed += isMissed ? 1 : 0;
                Console.WriteLine($"  {name, -38} {seconds, 6:0.00} s {memory / 1e6, 6:0} MB  {said}{(isMissed ? "   MISSED" : "")}");
                File.Delete(file);
            }
            Console.WriteLine($"  {(missed == 0 ? "none missed" : $"{missed} missed")}");
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static IEnumerable<(string, Action<string>)> All()
    {
        Action<string> Of(byte[] bytes) => file => File.WriteAllBytes(file, bytes);
        var poster = Samples.OpenRaster(400, 300, new Samples.OraLayer("Sky", 400, 300), new Samples.OraLayer("Moon", 90, 90));
        foreach (var part in new[] { 3, 10, 50, 99 })
            yield return ($"OpenRaster cut at {part} %", Of(poster[..(poster.Length * part / 100)]));
        var mix = Samples.Wave(4);
        yield return ("WAVE cut in its header", Of(mix[..30]));
        yield return ("WAVE cut at half", Of(mix[..(mix.Length / 2)]));
        var lying = mix.ToArray();
        BinaryPrimitives.WriteUInt32LittleEndian(lying.AsSpan(40), uint.MaxValue - 8);
        yield return ("WAVE that claims 4 GB", Of(lying));
        yield return ("WAVE of NaN", Of(NotNumbers()));
        yield return ("PNG that claims 60,000 x 60,000", Of(Samples.PngThatClaims(60_000, 60_000)));
        yield return ("PNG of 60,000 x 60,000, whole", file => Blank(file, 60_000, 60_000));
        yield return ("JPEG that claims 65,000 x 65,000", Of(Samples.ProgressiveJpegThatClaims(65_000, 65_000)));
        yield return ("OpenRaster of 4,900 layers", Of(Samples.ManyLayers(4_900, 200, 0)));
        yield return ("OpenRaster of 10,000 layers", Of(Samples.ManyLayers(10_000, 200, 0)));
        yield return ("OpenRaster of groups in one another", Of(Samples.NestedStack(200_000)));
        yield return (
            "layers far outside the canvas",
            Of(
                Samples.OpenRaster(
                    100,
                    100,
                    new Samples.OraLayer("Far", 50, 50, X: int.MaxValue - 60, Y: int.MinValue),
                    new Samples.OraLayer("Sky", 100, 100)
                )
            )
        );
        yield return ("zip of 4 GB of nothing", file => Bomb(file, 4L << 30));
        yield return ("zip with entries that lead out", Of(Samples.Zip(("mimetype", "image/openraster"), ("../../stack.xml", "<image/>"))));
        yield return ("SVG of a thousand million laughs", Of(Encoding.UTF8.GetBytes(Laughs())));
        yield return ("SVG that draws itself", Of(Samples.Svg("<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>")));
        yield return ("SVG of 2^14 copies", Of(Samples.NestedUses()));
        yield return ("glTF whose nodes are their own children", Of(Encoding.UTF8.GetBytes(Loop())));
        yield return ("glTF 1,000 levels deep", Of(Encoding.UTF8.GetBytes($$"""{"asset":{"version":"2.0"},"extras":{{Deep(1000)}}}""")));
        yield return (
            "OpenTimelineIO 1,000 levels deep",
            Of(Encoding.UTF8.GetBytes($$"""{"OTIO_SCHEMA":"Timeline.1","metadata":{{Deep(1000)}}}"""))
        );
        yield return ("GLB of 10 million triangles", file => Triangles(file, 10_000_000));
        yield return ("PDF cut at half", Of(Samples.Pdf(["a"], ["b"], ["c"])[..400]));
        yield return ("PDF whose pages are their own parents", Of(PageLoop()));
        yield return (
            "MP4 that is only a beginning",
            Of([0, 0, 0, 24, .. "ftypisom"u8, 0, 0, 2, 0, .. "isomiso2"u8, .. Samples.Noise(4000)])
        );
        yield return ("200 MB of noise", file => File.WriteAllBytes(file, Samples.Noise(200_000_000)));
    }

    private static byte[] NotNumbers()
    {
        var data = new byte[48_000 * 8];
        for (var at = 0; at < data.Length; at += 4)
            BinaryPrimitives.WriteSingleLittleEndian(data.AsSpan(at), at % 12 == 0 ? float.NaN : float.PositiveInfinity);
        var file = Samples.WaveOf(data, bits: 32);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(20), 3);
        return file;
    }

    private static void Blank(string file, int width, int height)
    {
        using var picture = NetVips.Image.Black(width, height);
        picture.Pngsave(file, bitdepth: 1);
    }

    private static void Bomb(string file, long bytes)
    {
        using var zip = new ZipArchive(File.Create(file), ZipArchiveMode.Create);
        using (var mark = zip.CreateEntry("mimetype", CompressionLevel.NoCompression).Open())
            mark.Write("image/openraster"u8);
        using var stack = zip.CreateEntry("stack.xml", CompressionLevel.Optimal).Open();
        var nothing = new byte[1 << 20];
        for (var written = 0L; written < bytes; written += nothing.Length)
            stack.Write(nothing);
    }

    private static string Laughs()
    {
        var text = new StringBuilder("<!DOCTYPE svg [<!ENTITY l0 'ha'>");
        for (var i = 1; i < 10; i++)
            text.Append($"<!ENTITY l{i} '{string.Concat(Enumerable.Repeat($"&l{i - 1};", 10))}'>");
        return text.Append("]><svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><text>&l9;</text></svg>").ToString();
    }

    private static string Loop() =>
        """{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"children":[1]},{"children":[0]}]}""";

    private static string Deep(int levels) => string.Concat(Enumerable.Repeat("[", levels)) + string.Concat(Enumerable.Repeat("]", levels));

    private static byte[] PageLoop() =>
        Encoding.Latin1.GetBytes(
            "%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [2 0 R 2 0 R] /Count 2 "
                + "/Parent 2 0 R >>\nendobj\ntrailer << /Size 3 /Root 1 0 R >>\n%%EOF\n"
        );

    private static void Triangles(string path, int count)
    {
        var json = Encoding.UTF8.GetBytes(
            $$"""{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}]"""
                + $$""","meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1}]}]"""
                + $$""","buffers":[{"byteLength":{{count * 12L + 36}}}]"""
                + $$""","bufferViews":[{"buffer":0,"byteLength":36},{"buffer":0,"byteOffset":36,"byteLength":{{count * 12L}}}]"""
                + ""","accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[1,1,0]},"""
                + $$"""{"bufferView":1,"componentType":5125,"count":{{count * 3L}},"type":"SCALAR"}]}"""
        );
        var padded = (json.Length + 3) / 4 * 4;
        using var file = File.Create(path);
        using var writer = new BinaryWriter(file);
        writer.Write("glTF"u8);
        writer.Write(2);
        writer.Write((uint)(12 + 8 + padded + 8 + count * 12L + 36));
        writer.Write(padded);
        writer.Write("JSON"u8);
        writer.Write(json);
        for (var i = json.Length; i < padded; i++)
            writer.Write((byte)' ');
        writer.Write((uint)(count * 12L + 36));
        writer.Write("BIN\0"u8);
        foreach (var corner in new float[] { 0, 0, 0, 1, 0, 0, 0, 1, 0 })
            writer.Write(corner);
        for (var i = 0; i < count; i++)
        {
            writer.Write(0);
            writer.Write(1);
            writer.Write(2);
        }
    }

    private static (double Seconds, long Memory, int Code, string Said) Look(string file)
    {
        var program = Path.GetFullPath(
            Path.Combine(AppContext.BaseDirectory, "../../../../../src/Chronotype.Cli/bin/Release/net10.0/chronotype.dll")
        );
        var start = Stopwatch.GetTimestamp();
        using var process = Process.Start(
            new ProcessStartInfo("dotnet", [program, "look", file]) { RedirectStandardOutput = true, RedirectStandardError = true }
        )!;
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        long most = 0;
        while (!process.WaitForExit(10))
        {
            process.Refresh();
            most = Math.Max(most, process.HasExited ? 0 : process.PeakWorkingSet64);
        }
        var said = System.Text.RegularExpressions.Regex.Match(output.Result, "\"code\":\"(\\w+)\"").Groups[1].Value;
        var seconds = Stopwatch.GetElapsedTime(start).TotalSeconds;
        return (
            seconds,
            most,
            process.ExitCode,
            said.Length > 0 ? said
            : process.ExitCode == 0 ? "read"
            : error.Result.Split('\n')[0]
        );
    }
}
