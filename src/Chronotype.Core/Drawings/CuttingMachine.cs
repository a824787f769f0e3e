namespace Chronotype.Core.Drawings;

/// <summary>The way that a cutting machine goes over a file.</summary>
/// <param name="Strokes">As they are cut. Upwards is up.</param>
/// <param name="Cut">Millimetres with the knife down.</param>
/// <param name="Travel">Millimetres with the knife up.</param>
/// <param name="Time">How long it takes.</param>
public sealed record CutPath(IReadOnlyList<Stroke> Strokes, double Cut, double Travel, TimeSpan Time)
{
    /// <summary>What it lies in, in millimetres, from the lowest on the left.</summary>
    public (double Left, double Bottom, double Right, double Top) Box =>
        (
            Strokes.Min(s => s.Points.Min(p => p.X)),
            Strokes.Min(s => s.Points.Min(p => p.Y)),
            Strokes.Max(s => s.Points.Max(p => p.X)),
            Strokes.Max(s => s.Points.Max(p => p.Y))
        );
}

/// <summary>
/// A stand-in for a cutting machine: it reads a file as one would, and says the way that it would go. It begins and ends at the corner.
/// </summary>
/// <param name="CutSpeed">Millimetres a second with the knife down.</param>
/// <param name="TravelSpeed">Millimetres a second with the knife up.</param>
/// <param name="Lift">Seconds to lift the knife, and to put it down.</param>
/// <param name="Change">Seconds to change the tool.</param>
public sealed record CuttingMachine(double CutSpeed = 200, double TravelSpeed = 400, double Lift = 0.05, double Change = 5)
{
    /// <param name="text">HPGL or DXF.</param>
    /// <exception cref="FormatException">It is neither, larger than is read, or nothing is cut in it.</exception>
    public CutPath Follow(string text)
    {
        var strokes = CutFile.Read(text);
        if (strokes.Count == 0)
            throw new FormatException("Nothing is cut in it.");
        var (at, travel, cut, changes) = (new DrawnPoint(0, 0), 0.0, 0.0, 0);
        var held = strokes[0].Tool;
        foreach (var stroke in strokes)
        {
            travel += at.To(stroke.Points[0]);
            cut += stroke.Length;
            at = stroke.Points[^1];
            if (stroke.Tool != held)
                (held, changes) = (stroke.Tool, changes + 1);
        }
        travel += at.To(new(0, 0));
        var seconds = cut / CutSpeed + travel / TravelSpeed + 2 * Lift * strokes.Count + changes * Change;
        return new CutPath(strokes, cut, travel, TimeSpan.FromSeconds(seconds));
    }
}
