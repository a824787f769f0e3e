namespace Chronotype.Core.Drawings;

/// <summary>A point of a drawing, in millimetres from its upper left corner, or in the units of what it is drawn in.</summary>
public readonly record struct DrawnPoint(double X, double Y)
{
    /// <summary>How far another lies from it.</summary>
    public double To(DrawnPoint other) => Math.Sqrt((X - other.X) * (X - other.X) + (Y - other.Y) * (Y - other.Y));
}

/// <summary>A run of straight pieces that a pen or a knife follows without being lifted.</summary>
/// <param name="Points">At least two; the first again at the end where it is closed.</param>
/// <param name="Tool">What is drawn or cut together with others, by name: a layer, or a colour.</param>
public sealed record Stroke(IReadOnlyList<DrawnPoint> Points, string Tool)
{
    /// <summary>In millimetres.</summary>
    public double Length => Points.Zip(Points.Skip(1), (a, b) => a.To(b)).Sum();

    /// <summary>It ends where it began.</summary>
    public bool IsClosed => Points.Count > 2 && Points[0] == Points[^1];
}

/// <summary>Moves, turns and scales what is drawn: x' = ax + cy + e, y' = bx + dy + f (SVG 2, 8.5).</summary>
public readonly record struct DrawnTransform(double A, double B, double C, double D, double E, double F)
{
    /// <summary>All as it is.</summary>
    public static readonly DrawnTransform None = new(1, 0, 0, 1, 0, 0);

    /// <summary>Where a point comes to lie.</summary>
    public DrawnPoint Of(DrawnPoint p) => new(A * p.X + C * p.Y + E, B * p.X + D * p.Y + F);

    /// <summary>What another does first, and this then.</summary>
    public DrawnTransform After(DrawnTransform first) =>
        new(
            A * first.A + C * first.B,
            B * first.A + D * first.B,
            A * first.C + C * first.D,
            B * first.C + D * first.D,
            A * first.E + C * first.F + E,
            B * first.E + D * first.F + F
        );
}
