using System.Globalization;

namespace Chronotype.Core.Drawings;

/// <summary>Reads the path data of SVG (SVG 2, 9.3) into runs of straight pieces that lie no further beside their curves than asked.</summary>
public static class PathData
{
    // A curve of more pieces than this is drawn with these.
    private const int MostPieces = 2_000;

    /// <param name="data">As the attribute <c>d</c> holds it; read as far as it is right (9.3.8).</param>
    /// <param name="transform">From the path's own units to where it comes to lie.</param>
    /// <param name="tolerance">In the units of where it comes to lie.</param>
    /// <param name="most">Points at most; what would pass it is left out.</param>
    /// <returns>Each of at least two points.</returns>
    public static IReadOnlyList<IReadOnlyList<DrawnPoint>> Flatten(
        string data,
        DrawnTransform transform,
        double tolerance,
        int most = int.MaxValue
    )
    {
        var reader = new Reader(data, transform, tolerance, most);
        reader.Read();
        return reader.Runs;
    }

    private sealed class Reader(string data, DrawnTransform transform, double tolerance, int most)
    {
        private readonly List<DrawnPoint> run = [];
        private int at,
            points;
        private DrawnPoint here,
            begin,
            control;
        private char before = 'M';

        public List<IReadOnlyList<DrawnPoint>> Runs { get; } = [];

        public void Read()
        {
            var command = '\0';
            while (true)
            {
                Blank();
                if (at >= data.Length || points >= most)
                    break;
                if (char.IsAsciiLetter(data[at]))
                    command = data[at++];
                else if (command is '\0' or 'z' or 'Z')
                    break;
                if (!Do(command))
                    break;
                before = char.ToUpperInvariant(command);
                // Further pairs behind a moveto are linetos.
                command = command switch
                {
                    'M' => 'L',
                    'm' => 'l',
                    _ => command,
                };
            }
            End();
        }

        private bool Do(char command)
        {
            var isRelative = char.IsAsciiLetterLower(command);
            DrawnPoint? Pair() =>
                Number() is { } x && Number() is { } y
                    ? isRelative
                        ? new(here.X + x, here.Y + y)
                        : new(x, y)
                    : null;
            switch (char.ToUpperInvariant(command))
            {
                case 'M':
                    if (Pair() is not { } to)
                        return false;
                    End();
                    (here, begin) = (to, to);
                    return true;
                case 'Z':
                    if (run.Count > 0)
                        Line(begin);
                    End();
                    here = begin;
                    return true;
                case 'L':
                    return Pair() is { } line && Line(line);
                case 'H':
                    return Number() is { } x && Line(new(isRelative ? here.X + x : x, here.Y));
                case 'V':
                    return Number() is { } y && Line(new(here.X, isRelative ? here.Y + y : y));
                case 'C':
                    return Pair() is { } c1 && Pair() is { } c2 && Pair() is { } end && Cubic(c1, c2, end);
                case 'S':
                    var first = before is 'C' or 'S' ? Mirrored() : here;
                    return Pair() is { } s2 && Pair() is { } send && Cubic(first, s2, send);
                case 'Q':
                    return Pair() is { } q && Pair() is { } qend && Quadratic(q, qend);
                case 'T':
                    var mirrored = before is 'Q' or 'T' ? Mirrored() : here;
                    return Pair() is { } tend && Quadratic(mirrored, tend);
                case 'A':
                    return Number() is { } rx
                        && Number() is { } ry
                        && Number() is { } angle
                        && Flag() is { } large
                        && Flag() is { } sweep
                        && Pair() is { } aend
                        && Arc(rx, ry, angle, large, sweep, aend);
                default:
                    return false;
            }
        }

        private DrawnPoint Mirrored() => new(2 * here.X - control.X, 2 * here.Y - control.Y);

        private bool Line(DrawnPoint to)
        {
            Start();
            Add(transform.Of(to));
            here = to;
            return true;
        }

        private bool Quadratic(DrawnPoint c, DrawnPoint end)
        {
            var from = here;
            Cubic(
                new(from.X + 2.0 / 3 * (c.X - from.X), from.Y + 2.0 / 3 * (c.Y - from.Y)),
                new(end.X + 2.0 / 3 * (c.X - end.X), end.Y + 2.0 / 3 * (c.Y - end.Y)),
                end
            );
            control = c;
            return true;
        }

        private bool Cubic(DrawnPoint c1, DrawnPoint c2, DrawnPoint end)
        {
            Start();
            var (p0, p1, p2, p3) = (transform.Of(here), transform.Of(c1), transform.Of(c2), transform.Of(end));
            // So many pieces that none lies further off than asked (Wang, 1984): by the largest second difference of the control points.
            var bent = Math.Max(Bent(p0, p1, p2), Bent(p1, p2, p3));
            var pieces = (int)Math.Clamp(Math.Ceiling(Math.Sqrt(0.75 * bent / tolerance)), 1, MostPieces);
            for (var i = 1; i <= pieces; i++)
            {
                var (t, u) = ((double)i / pieces, 1 - (double)i / pieces);
                var (a, b, c, d) = (u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t);
                Add(i == pieces ? p3 : new(a * p0.X + b * p1.X + c * p2.X + d * p3.X, a * p0.Y + b * p1.Y + c * p2.Y + d * p3.Y));
            }
            (here, control) = (end, c2);
            return true;
        }

        private static double Bent(DrawnPoint a, DrawnPoint b, DrawnPoint c) =>
            Math.Sqrt(Math.Pow(a.X - 2 * b.X + c.X, 2) + Math.Pow(a.Y - 2 * b.Y + c.Y, 2));

        // From its ends to its centre (SVG 2, B.2.4), then in cubics of a quarter at most.
        private bool Arc(double rx, double ry, double degrees, bool isLarge, bool isSweep, DrawnPoint end)
        {
            var from = here;
            (rx, ry) = (Math.Abs(rx), Math.Abs(ry));
            if (rx == 0 || ry == 0 || from == end)
                return Line(end);
            var phi = degrees * Math.PI / 180;
            var (cos, sin) = (Math.Cos(phi), Math.Sin(phi));
            var (dx, dy) = ((from.X - end.X) / 2, (from.Y - end.Y) / 2);
            var (x1, y1) = (cos * dx + sin * dy, -sin * dx + cos * dy);
            var grown = x1 * x1 / (rx * rx) + y1 * y1 / (ry * ry);
            if (grown > 1)
                (rx, ry) = (rx * Math.Sqrt(grown), ry * Math.Sqrt(grown));
            var under = rx * rx * ry * ry - rx * rx * y1 * y1 - ry * ry * x1 * x1;
            var k = Math.Sqrt(Math.Max(0, under / (rx * rx * y1 * y1 + ry * ry * x1 * x1))) * (isLarge == isSweep ? -1 : 1);
            var (cx1, cy1) = (k * rx * y1 / ry, -k * ry * x1 / rx);
            var (cx, cy) = (cos * cx1 - sin * cy1 + (from.X + end.X) / 2, sin * cx1 + cos * cy1 + (from.Y + end.Y) / 2);
            var start = Math.Atan2((y1 - cy1) / ry, (x1 - cx1) / rx);
            var turn = Math.Atan2((-y1 - cy1) / ry, (-x1 - cx1) / rx) - start;
            if (isSweep && turn < 0)
                turn += 2 * Math.PI;
            else if (!isSweep && turn > 0)
                turn -= 2 * Math.PI;
            var parts = Math.Max(1, (int)Math.Ceiling(Math.Abs(turn) / (Math.PI / 2) - 1e-9));
            var step = turn / parts;
            var reach = 4.0 / 3 * Math.Tan(step / 4);
            DrawnPoint On(double x, double y) => new(cos * rx * x - sin * ry * y + cx, sin * rx * x + cos * ry * y + cy);
            for (var i = 0; i < parts; i++)
            {
                var (a, b) = (start + i * step, start + (i + 1) * step);
                Cubic(
                    On(Math.Cos(a) - reach * Math.Sin(a), Math.Sin(a) + reach * Math.Cos(a)),
                    On(Math.Cos(b) + reach * Math.Sin(b), Math.Sin(b) - reach * Math.Cos(b)),
                    i == parts - 1 ? end : On(Math.Cos(b), Math.Sin(b))
                );
            }
            return true;
        }

        private void Start()
        {
            if (run.Count == 0)
                Add(transform.Of(here));
        }

        private void Add(DrawnPoint point)
        {
            if (points >= most || !double.IsFinite(point.X) || !double.IsFinite(point.Y) || (run.Count > 0 && run[^1] == point))
                return;
            run.Add(point);
            points++;
        }

        private void End()
        {
            if (run.Count > 1)
                Runs.Add([.. run]);
            run.Clear();
        }

        private void Blank()
        {
            while (at < data.Length && (char.IsWhiteSpace(data[at]) || data[at] == ','))
                at++;
        }

        // Flags may stand without anything between them.
        private bool? Flag()
        {
            Blank();
            return at < data.Length && data[at] is '0' or '1' ? data[at++] == '1' : null;
        }

        private double? Number()
        {
            Blank();
            var from = at;
            if (at < data.Length && data[at] is '+' or '-')
                at++;
            Digits();
            if (at < data.Length && data[at] == '.')
            {
                at++;
                Digits();
            }
            if (at < data.Length && data[at] is 'e' or 'E')
            {
                var mark = at++;
                if (at < data.Length && data[at] is '+' or '-')
                    at++;
                if (at < data.Length && char.IsAsciiDigit(data[at]))
                    Digits();
                else
                    at = mark;
            }
            return
                double.TryParse(data.AsSpan(from, at - from), NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
                && double.IsFinite(number)
                ? number
                : null;
        }

        private void Digits()
        {
            while (at < data.Length && char.IsAsciiDigit(data[at]))
                at++;
        }
    }
}
