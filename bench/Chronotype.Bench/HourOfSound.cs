using System.Buffers.Binary;
using System.Diagnostics;
using Chronotype.Core.Comparing;
using Chronotype.Core.Sound;
using Chronotype.Formats;
using Chronotype.Formats.Sound;

namespace Chronotype.Bench;

/// <summary>
/// An hour of stereo at 48 kHz and 16 bit: how much faster than it plays it is read for level, true peak and waveform, on one processor
/// for the reading; and how long it takes to line it up with itself after 20 edits, and how near each is found.
/// </summary>
internal static class HourOfSound
{
    private const int Rate = 48_000,
        FrameBytes = 4,
        Seconds = 3600,
        Edits = 20,
        Rounds = 3;

    public static void Run()
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-");
        try
        {
            var (before, after) = (Path.Combine(folder.FullName, "a.wav"), Path.Combine(folder.FullName, "b.wav"));
            using (var file = Begin(before, (long)Seconds * Rate * FrameBytes))
                Fill(file, Seconds * (long)Rate, seed: 1);
            var edits = Edit(before, after);
            Console.WriteLine(
                $"An hour of stereo, {Rate / 1000} kHz, 16 bit, {new FileInfo(before).Length / 1e6:0} MB; medians of {Rounds}:"
            );
            using var first = File.OpenRead(before);
            using var second = File.OpenRead(after);
            var read = Median(() => FormatReader.Read(first));
            Console.WriteLine($"  level and true peak {read, 6:0.00} s   {Seconds / read, 6:0} times real time   (wanted: 200)");
            var drawn = Median(() => PreviewMaker.Make(first, 480));
            Console.WriteLine($"  waveform            {drawn, 6:0.00} s   {Seconds / drawn, 6:0} times real time");
            var charted = Median(() => SoundForBrowser.Chart(first, Path.Combine(folder.FullName, "chart")));
            Console.WriteLine($"  to be looked at     {charted, 6:0.00} s   {Seconds / charted, 6:0} times real time, with its bands");
            Console.WriteLine(
                $"  both                {read + drawn, 6:0.00} s   {Seconds / (read + drawn), 6:0} times real time   (wanted: 200)"
            );
            var (facts, otherFacts) = (FormatReader.Read(first), FormatReader.Read(second));
            Comparison? found = null;
            var lined = Median(() => found = SaveComparer.Compare(first, facts, second, otherFacts));
            Console.WriteLine($"  lined up, {Edits} edits {lined, 6:0.00} s   (wanted: under 10 s)");
            Tell(edits, [.. found!.Parts.Select(p => p.Stretch!)]);
            Console.WriteLine($"  most memory at once {Process.GetCurrentProcess().PeakWorkingSet64 / 1e6, 6:0} MB, of this whole program");
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static double Median(Func<object?> work)
    {
        var times = new List<double>();
        for (var i = 0; i < Rounds; i++)
        {
            var start = Stopwatch.GetTimestamp();
            work();
            times.Add(Stopwatch.GetElapsedTime(start).TotalSeconds);
        }
        times.Sort();
        return times[Rounds / 2];
    }

    private static void Tell(List<(SoundDifferenceKind Kind, double At, double Length)> edits, List<SoundDifference> found)
    {
        var matched = edits
            .Select(e =>
                found
                    .Where(f => f.Kind == e.Kind)
                    .Select(f => Math.Max(Math.Abs(f.After - e.At), Math.Abs(Math.Max(f.AfterLength, f.BeforeLength) - e.Length)))
                    .DefaultIfEmpty(double.PositiveInfinity)
                    .Min()
            )
            .Order()
            .ToList();
        Console.WriteLine(
            $"  found within 10 ms  {matched.Count(m => m <= 0.010)} of {edits.Count}, the furthest {matched[^1] * 1000:0.0} ms off, "
                + $"{found.Count - edits.Count} differences more than edits   (wanted: all within 10 ms)"
        );
    }

    // In turn something is put in and something is cut, at places and of lengths that fall on no round number.
    private static List<(SoundDifferenceKind, double, double)> Edit(string before, string after)
    {
        var random = new Random(5);
        var edits = new List<(SoundDifferenceKind, double, double)>();
        var plan = Enumerable
            .Range(0, Edits)
            .Select(i =>
                (At: (long)((i + 0.3 + random.NextDouble() * 0.4) * Seconds / Edits * Rate), Length: random.NextInt64(Rate / 2, 8 * Rate))
            )
            .ToList();
        var total = (long)Seconds * Rate + plan.Select((p, i) => i % 2 == 0 ? p.Length : -p.Length).Sum();
        using var from = File.OpenRead(before);
        using var to = Begin(after, total * FrameBytes);
        long at = 0;
        for (var i = 0; i < plan.Count; i++)
        {
            Copy(from, to, at, plan[i].At - at);
            var now = (double)((to.Position - 44) / FrameBytes) / Rate;
            var isPutIn = i % 2 == 0;
            edits.Add((isPutIn ? SoundDifferenceKind.Inserted : SoundDifferenceKind.Removed, now, (double)plan[i].Length / Rate));
            if (isPutIn)
                Fill(to, plan[i].Length, seed: 100 + i);
            at = plan[i].At + (isPutIn ? 0 : plan[i].Length);
        }
        Copy(from, to, at, (long)Seconds * Rate - at);
        return edits;
    }

    private static void Copy(FileStream from, FileStream to, long frame, long frames)
    {
        from.Position = 44 + frame * FrameBytes;
        var buffer = new byte[1 << 20];
        for (var left = frames * FrameBytes; left > 0; )
        {
            var read = from.Read(buffer, 0, (int)Math.Min(buffer.Length, left));
            to.Write(buffer, 0, read);
            left -= read;
        }
    }

    // Notes of random pitch, place and length over a breath of noise.
    internal static void Fill(FileStream file, long frames, int seed)
    {
        var random = new Random(seed);
        var buffer = new byte[Rate * FrameBytes];
        for (long done = 0; done < frames; )
        {
            var length = (int)Math.Min(frames - done, random.Next(Rate / 8, Rate));
            var (step, level, pan) = (
                2 * Math.PI * 110 * Math.Pow(2, random.NextDouble() * 4) / Rate,
                random.Next(3000, 12_000),
                random.NextDouble()
            );
            for (var i = 0; i < length; i++)
            {
                var note = level * Math.Exp(-3.0 * i / Rate) * (Math.Sin(step * i) + 0.5 * Math.Sin(3 * step * i));
                BinaryPrimitives.WriteInt16LittleEndian(buffer.AsSpan(i * 4), (short)(note * pan + random.Next(-300, 300)));
                BinaryPrimitives.WriteInt16LittleEndian(buffer.AsSpan(i * 4 + 2), (short)(note * (1 - pan) + random.Next(-300, 300)));
            }
            file.Write(buffer, 0, length * FrameBytes);
            done += length;
        }
    }

    internal static FileStream Begin(string path, long bytes)
    {
        var file = File.Create(path);
        var head = new byte[44];
        "RIFF"u8.CopyTo(head);
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(4), (uint)(36 + bytes));
        "WAVEfmt "u8.CopyTo(head.AsSpan(8));
        head[16] = 16;
        head[20] = 1;
        head[22] = 2;
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(24), Rate);
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(28), Rate * FrameBytes);
        head[32] = FrameBytes;
        head[34] = 16;
        "data"u8.CopyTo(head.AsSpan(36));
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(40), (uint)bytes);
        file.Write(head);
        return file;
    }
}
