using System.Diagnostics;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;

namespace Chronotype.Bench;

/// <summary>
/// Copies for use: an hour of stereo from 48 to 44.1 kHz, beside sox at its highest quality in the same run, and a print of 8,000 x 10,000
/// pixels from 30 layers, by a program of its own.
/// </summary>
internal static class MadeOutputs
{
    private const int Rounds = 3,
        Seconds = 3600,
        Rate = 48_000;

    /// <param name="which"><c>sound</c> or <c>picture</c>; empty for both.</param>
    public static void Run(string which)
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-");
        try
        {
            if (which is "" or "sound")
                Sound(folder.FullName);
            if (which is "" or "picture")
                Picture(folder.FullName);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static void Sound(string folder)
    {
        var (mix, made, theirs) = (In("mix.wav"), In("made.wav"), In("sox.wav"));
        using (var file = HourOfSound.Begin(mix, (long)Seconds * Rate * 4))
            HourOfSound.Fill(file, Seconds * (long)Rate, seed: 1);
        var (ours, sox) = (new List<double>(), new List<double>());
        for (var i = 0; i < Rounds; i++)
        {
            ours.Add(
                Timed(() =>
                {
                    using var content = File.OpenRead(mix);
                    using var output = File.Create(made);
                    OutputMaker.Make(content, OurRecipes.Find("wav-44.1-16")!, output);
                })
            );
            sox.Add(Timed(() => Process.Start("sox", [mix, "-b", "16", theirs, "rate", "-v", "44100"])!.WaitForExit()));
        }
        var (a, b) = (Median(ours), Median(sox));
        Console.WriteLine($"An hour of stereo, 48 to 44.1 kHz, 16 bit with dither; medians of {Rounds}, in turns:");
        Console.WriteLine($"  here          {a, 6:0.0} s   {Seconds / a, 5:0} times real time   (wanted: 50)");
        Console.WriteLine($"  sox rate -v   {b, 6:0.0} s   {Seconds / b, 5:0} times real time");

        string In(string name) => Path.Combine(folder, name);
    }

    private static void Picture(string folder)
    {
        var (layered, recipe, flat) = (In("poster.ora"), In("recipe.json"), In("flat.png"));
        LayeredPicture.Make(layered, repainted: 0, noisy: 0);
        File.WriteAllText(
            recipe,
            """
            { "recipe": "print", "name": "Print", "picture": { "file": "png", "colour": "srgb", "fit": "fill",
              "size": { "width": 8000, "height": 10000, "unit": "px", "dpi": 300 } } }
            """
        );
        var print = RecipeFile.Read(File.ReadAllText(recipe)).Recipe!;
        var alone = Enumerable
            .Range(0, Rounds)
            .Select(_ =>
                Timed(() =>
                {
                    using var content = File.OpenRead(layered);
                    using var output = File.Create(flat);
                    OutputMaker.Make(content, print, output);
                })
            )
            .ToList();
        var (seconds, memory) = LayeredPicture.RunProgram("make", layered, "--recipe", recipe, "--out", In("out"));
        Console.WriteLine($"A print of 8,000 x 10,000 px from 30 layers: {Median(alone):0.0} s, median of {Rounds}   (wanted: under 10 s)");
        Console.WriteLine($"  from a shell: {seconds:0.0} s, {memory / 1e6:0} MB of memory   (wanted: under 600 MB)");

        string In(string name) => Path.Combine(folder, name);
    }

    private static double Timed(Action work)
    {
        var start = Stopwatch.GetTimestamp();
        work();
        return Stopwatch.GetElapsedTime(start).TotalSeconds;
    }

    private static double Median(List<double> times) => times.Order().ElementAt(times.Count / 2);
}
