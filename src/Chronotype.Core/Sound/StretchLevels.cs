namespace Chronotype.Core.Sound;

/// <summary>Tells within a stretch that two recordings have in common where it is only louder, and where it is filtered.</summary>
internal sealed class StretchLevels(SoundSketch before, SoundSketch after, Stretch stretch)
{
    private const int Rate = SoundSketch.Rate,
        Hop = SoundSketch.Hop;

    // 48 ms, a whole number of hops.
    private const int Block = 3 * Hop;

    // What is left when the level is made equal: less than a five-hundredth of the power is rounding, dither and another rate's filter.
    private const double Rest = 2e-3;

    // Of 2 ms this much of the power is another.
    private const double Break = 0.1;

    // A tenth of a decibel is a level that nobody set.
    private const double LeastGain = 0.1;

    // Gains within this are one, in decibels; shorter runs than this many blocks belong to what is around them.
    private const double SameGain = 0.35,
        DeepBreath = 2;
    private const int LeastRun = 4,
        MostPause = Rate / 2,
        LongBreath = 3 * Rate / 2;

    // About 70 dB under full scale, in the samples' own unit squared.
    private const double Quiet = 100;
    private const double HighQuiet = 1e-7,
        Full = 32767.0 * 32767.0;

    private readonly Interpolation between = Interpolation.At(stretch.Fraction);
    private readonly float[] line = new float[Block];

    private enum State
    {
        Quiet,
        Same,
        Louder,
        Filtered,
    }

    private readonly record struct Run(State State, double Gain, int From, int To);

    public IEnumerable<SoundDifference> Find()
    {
        var (runs, slight) = Runs();
        foreach (var moment in slight)
        {
            if (Broken(runs.Find(r => r.From <= moment.From && moment.To <= r.To), moment) is { } broken)
                yield return broken;
        }
        for (var i = 0; i < runs.Count; i++)
        {
            var run = runs[i];
            if (run.State is not (State.Louder or State.Filtered))
                continue;
            var from = i == 0 ? 0 : Border(runs[i - 1], run);
            var to = i == runs.Count - 1 ? stretch.Length : Border(run, runs[i + 1]);
            var length = (double)(to - from) / Rate;
            yield return new SoundDifference(
                run.State == State.Louder ? SoundDifferenceKind.Louder : SoundDifferenceKind.Filtered,
                (double)(stretch.Before + from) / Rate,
                length,
                (double)(stretch.After + from) / Rate,
                length,
                run.State == State.Louder ? 20 * Math.Log10(run.Gain) : null
            );
        }
    }

    // A moment that does not fit amid what does, a click or a hole: to 2 ms. What lies at a border or an end is told by that.
    private SoundDifference? Broken(Run around, Run moment)
    {
        if (around.State is not (State.Same or State.Louder) || moment.From < around.From + Block || moment.To > around.To - Block)
            return null;
        int? first = null;
        var last = 0;
        for (var t = moment.From - Block; t < moment.To + Block; t += SoundSketch.Step)
        {
            if (Unlike(t, SoundSketch.Step, around) < Break)
                continue;
            first ??= t;
            last = t + SoundSketch.Step;
        }
        if (first is not { } from)
            return null;
        var length = (double)(last - from) / Rate;
        return new SoundDifference(
            SoundDifferenceKind.Replaced,
            (double)(stretch.Before + from) / Rate,
            length,
            (double)(stretch.After + from) / Rate,
            length
        );
    }

    // The runs, and the filtered ones that are too short to be told as such.
    private (List<Run> Runs, List<Run> Slight) Runs()
    {
        var runs = new List<Run>();
        for (var at = 0; at < stretch.Length; at += Block)
        {
            var (state, gain) = Judge(at, Math.Min(Block, stretch.Length - at));
            Add(runs, new Run(state, gain, at, Math.Min(at + Block, stretch.Length)));
        }
        // Short runs, and what is too quiet to tell, are what the long run before them is; those before the first, what that is.
        var joined = new List<Run>();
        foreach (var run in runs.Where(r => r.State != State.Quiet && r.To - r.From >= LeastRun * Block))
        {
            // Between two stretches that are filtered there may be a moment in which nothing was there to filter.
            if (joined.Count > 1 && joined[^1].State == State.Same && run.From - joined[^1].From < MostPause && IsAlike(joined[^2], run))
                joined.RemoveAt(joined.Count - 1);
            // A limiter breathes; that is one change of level and not a hundred.
            if (joined is [.., { State: State.Louder } last] && run.State == State.Louder && IsBreath(last, run))
                joined[^1] = Joined(last, run);
            else
                Add(joined, run with { From = joined.Count == 0 ? 0 : run.From });
        }
        if (joined.Count == 0)
            return runs.Exists(r => r.State is State.Same or State.Quiet) || runs.Count == 0
                ? ([], [])
                : ([runs.MaxBy(r => r.To - r.From) with { From = 0, To = stretch.Length }], []);
        for (var i = 0; i < joined.Count; i++)
            joined[i] = joined[i] with { To = i + 1 < joined.Count ? joined[i + 1].From : stretch.Length };
        return (joined, runs.FindAll(r => r.State == State.Filtered && r.To - r.From < LeastRun * Block));
    }

    private static bool IsAlike(Run a, Run b) =>
        a.State == b.State && (a.State != State.Louder || Math.Abs(20 * Math.Log10(a.Gain / b.Gain)) < SameGain);

    private static bool IsBreath(Run a, Run b) =>
        Math.Min(a.To - a.From, b.To - b.From) < LongBreath && Math.Abs(20 * Math.Log10(a.Gain / b.Gain)) < DeepBreath;

    // The gain of a run is the mean of its blocks'.
    private static Run Joined(Run a, Run b)
    {
        var (old, now) = (a.To - a.From, b.To - b.From);
        return a with { To = b.To, Gain = (a.Gain * old + b.Gain * now) / (old + now) };
    }

    private static void Add(List<Run> runs, Run run)
    {
        if (runs.Count > 0 && IsAlike(runs[^1], run))
            runs[^1] = Joined(runs[^1], run);
        else
            runs.Add(run);
    }

    private (State State, double Gain) Judge(int at, int length)
    {
        double ab = 0,
            aa = 0,
            bb = 0;
        var was = line.AsSpan(0, length);
        between.Fill(before.Samples, stretch.Before + at, was);
        for (var t = 0; t < length; t++)
        {
            double a = was[t],
                b = after.Samples[stretch.After + at + t];
            (ab, aa, bb) = (ab + a * b, aa + a * a, bb + b * b);
        }
        if (aa < Quiet * length && bb < Quiet * length)
            return (State.Quiet, 1);
        var gain = aa == 0 ? 0 : ab / aa;
        // Rounding of both to whole numbers is left in any case.
        var rest = bb - gain * ab - length * (1 + gain * gain) / 6;
        if (gain <= 0 || rest > Rest * Math.Max(bb, gain * gain * aa))
            return (State.Filtered, 1);
        if (HighGain(at, length, aa, bb) is { } high && Math.Abs(10 * Math.Log10(Math.Max(high, 1e-9) / (gain * gain))) > 2)
            return (State.Filtered, 1);
        return Math.Abs(20 * Math.Log10(gain)) < LeastGain ? (State.Same, 1) : (State.Louder, gain);
    }

    // The power above the low rate, against what it was; null where there is too little of it to tell, or one of the two cannot hold it.
    private double? HighGain(int at, int length, double beforeLow, double afterLow)
    {
        if (before.SourceRate != after.SourceRate)
            return null;
        var (from, now) = (stretch.Before + stretch.Fraction + at, stretch.After + at);
        var (a, b) = (before.EnergyOf(from, from + length), after.EnergyOf(now, now + length));
        var (high, highNow) = (a - beforeLow / Full, Math.Max(0, b - afterLow / Full));
        return high < 0.02 * a || high < HighQuiet * length ? null : highNow / high;
    }

    // Where the one level ends and the other begins, to 2 ms.
    private int Border(Run first, Run second)
    {
        const int step = SoundSketch.Step;
        var low = Math.Max(first.From, second.From - 2 * Block);
        var high = Math.Min(second.To, second.From + 2 * Block);
        var sum = 0.0;
        var (least, at) = (0.0, low);
        for (var t = low; t + step <= high; t += step)
        {
            sum += Unlike(t, step, first) - Unlike(t, step, second);
            if (sum < least)
                (least, at) = (sum, t + step);
        }
        return at;
    }

    private double Unlike(int at, int length, Run run)
    {
        // What is filtered fits no level; it is only told from what does.
        if (run.State == State.Filtered)
            return Rest;
        double difference = 0,
            energy = 50 * length;
        for (var t = at; t < at + length; t++)
        {
            double a = between.Of(before.Samples, stretch.Before + t) * run.Gain,
                b = after.Samples[stretch.After + t];
            difference += (b - a) * (b - a);
            energy += b * b + a * a;
        }
        return difference / energy;
    }
}
