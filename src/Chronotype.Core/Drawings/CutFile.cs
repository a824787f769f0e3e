using System.Globalization;
using System.Text;

namespace Chronotype.Core.Drawings;

/// <summary>Writes strokes for plotters and cutting machines, and reads them back. Upwards is up there, and down in what is drawn.</summary>
public static class CutFile
{
    // HPGL: a plotter unit is 0.025 mm.
    private const double UnitsOfMillimetre = 40;
    private const int PointsOfLine = 50;

    /// <summary>The most characters of a file that is read back, and the most points.</summary>
    public const int MaxLength = 64 << 20,
        MaxPoints = 2_000_000;

    /// <summary>As HPGL: a pen for each tool, in the order in which they come.</summary>
    /// <param name="strokes">In the order in which they are drawn.</param>
    /// <param name="height">Of what they lie in, in millimetres.</param>
    /// <param name="output">Left open.</param>
    public static void WriteHpgl(IReadOnlyList<Stroke> strokes, double height, TextWriter output)
    {
        output.Write("IN;PA;\n");
        var pens = new Dictionary<string, int>();
        var held = 0;
        foreach (var stroke in strokes)
        {
            if (!pens.TryGetValue(stroke.Tool, out var pen))
                pens[stroke.Tool] = pen = pens.Count + 1;
            if (pen != held)
                output.Write(string.Create(CultureInfo.InvariantCulture, $"PU;SP{held = pen};\n"));
            output.Write($"PU{Placed(stroke.Points[0])};\n");
            foreach (var part in stroke.Points.Skip(1).Chunk(PointsOfLine))
                output.Write($"PD{string.Join(',', part.Select(Placed))};\n");
        }
        output.Write("PU;SP0;\n");

        string Placed(DrawnPoint p) =>
            string.Create(
                CultureInfo.InvariantCulture,
                $"{Math.Round(p.X * UnitsOfMillimetre):0},{Math.Round((height - p.Y) * UnitsOfMillimetre):0}"
            );
    }

    /// <summary>As DXF of release 12, in millimetres: a layer for each tool, a polyline for each stroke.</summary>
    /// <param name="strokes">In the order in which they are drawn.</param>
    /// <param name="height">Of what they lie in, in millimetres.</param>
    /// <param name="output">Left open.</param>
    public static void WriteDxf(IReadOnlyList<Stroke> strokes, double height, TextWriter output)
    {
        void Put(int code, string value) => output.Write(string.Create(CultureInfo.InvariantCulture, $"{code, 3}\n{value}\n"));
        void Number(int code, double value) => Put(code, value.ToString("0.####", CultureInfo.InvariantCulture));
        var layers = Layers(strokes.Select(s => s.Tool).Distinct());
        Put(0, "SECTION");
        Put(2, "HEADER");
        Put(9, "$ACADVER");
        Put(1, "AC1009");
        Put(9, "$MEASUREMENT");
        Put(70, "1");
        Put(0, "ENDSEC");
        Put(0, "SECTION");
        Put(2, "TABLES");
        Put(0, "TABLE");
        Put(2, "LAYER");
        Put(70, layers.Count.ToString(CultureInfo.InvariantCulture));
        foreach (var (layer, i) in layers.Values.Select((l, i) => (l, i)))
        {
            Put(0, "LAYER");
            Put(2, layer);
            Put(70, "0");
            Put(62, (i % 7 + 1).ToString(CultureInfo.InvariantCulture));
            Put(6, "CONTINUOUS");
        }
        Put(0, "ENDTAB");
        Put(0, "ENDSEC");
        Put(0, "SECTION");
        Put(2, "ENTITIES");
        foreach (var stroke in strokes)
        {
            Put(0, "POLYLINE");
            Put(8, layers[stroke.Tool]);
            Put(66, "1");
            Put(70, stroke.IsClosed ? "1" : "0");
            foreach (var point in stroke.IsClosed ? stroke.Points.SkipLast(1) : stroke.Points)
            {
                Put(0, "VERTEX");
                Put(8, layers[stroke.Tool]);
                Number(10, point.X);
                Number(20, height - point.Y);
            }
            Put(0, "SEQEND");
        }
        Put(0, "ENDSEC");
        Put(0, "EOF");
    }

    /// <summary>Reads a file of either kind back. Upwards is up in what it gives.</summary>
    /// <exception cref="FormatException">It is neither, or larger than is read.</exception>
    public static IReadOnlyList<Stroke> Read(string text)
    {
        if (text.Length > MaxLength)
            throw new FormatException("It is larger than is read.");
        return text.AsSpan().TrimStart().StartsWith("IN") ? ReadHpgl(text) : ReadDxf(text);
    }

    private static List<Stroke> ReadHpgl(string text)
    {
        var strokes = new List<Stroke>();
        var run = new List<DrawnPoint>();
        var (at, pen, isDown, points) = (new DrawnPoint(0, 0), "", false, 0);
        foreach (var range in text.Split(';'))
        {
            var order = range.Trim();
            if (order.Length < 2)
                continue;
            var numbers = Numbers(order[2..]);
            switch (order[..2])
            {
                case "SP":
                    End();
                    pen = numbers is [var n, ..] && n != 0 ? n.ToString(CultureInfo.InvariantCulture) : "";
                    break;
                case "PU" or "PD":
                    if (order[..2] == "PU")
                        End();
                    isDown = order[1] == 'D';
                    if (isDown && run.Count == 0)
                        run.Add(at);
                    for (var i = 0; i + 1 < numbers.Count; i += 2)
                    {
                        at = new(numbers[i] / UnitsOfMillimetre, numbers[i + 1] / UnitsOfMillimetre);
                        if (isDown)
                            run.Add(at);
                        if (++points > MaxPoints)
                            throw new FormatException("It has more points than are read.");
                    }
                    break;
            }
        }
        End();
        return strokes;

        void End()
        {
            if (run.Count > 1)
                strokes.Add(new Stroke([.. run], pen));
            run.Clear();
        }
    }

    private static List<double> Numbers(string text)
    {
        var numbers = new List<double>();
        foreach (var part in text.Split([',', ' '], StringSplitOptions.RemoveEmptyEntries))
        {
            if (!double.TryParse(part, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) || !double.IsFinite(number))
                throw new FormatException($"“{(part.Length > 20 ? part[..20] : part)}” is no number.");
            numbers.Add(number);
        }
        return numbers;
    }

    private static List<Stroke> ReadDxf(string text)
    {
        var strokes = new List<Stroke>();
        using var reader = new StringReader(text);
        List<DrawnPoint>? run = null;
        var (layer, isClosed, isVertex, points) = ("", false, false, 0);
        double? x = null;
        while (reader.ReadLine() is { } code && reader.ReadLine() is { } value)
        {
            if (
                !int.TryParse(
                    code,
                    NumberStyles.AllowLeadingWhite | NumberStyles.AllowTrailingWhite,
                    CultureInfo.InvariantCulture,
                    out var group
                )
            )
                throw new FormatException("It is no DXF: a group has no number.");
            value = value.Trim();
            switch (group)
            {
                case 0:
                    if (value == "SEQEND" && run is not null)
                    {
                        if (isClosed && run.Count > 1)
                            run.Add(run[0]);
                        if (run.Count > 1)
                            strokes.Add(new Stroke(run, layer));
                        run = null;
                    }
                    if (value == "POLYLINE")
                        (run, layer, isClosed) = ([], "", false);
                    isVertex = value == "VERTEX";
                    break;
                case 8 when run is not null && !isVertex:
                    layer = value;
                    break;
                case 70 when run is not null && !isVertex:
                    isClosed = value == "1";
                    break;
                case 10 when isVertex:
                    x = Numbers(value) is [var read] ? read : null;
                    break;
                case 20 when isVertex && x is { } across && run is not null:
                    run.Add(new(across, Numbers(value) is [var down] ? down : throw new FormatException("A vertex has no height.")));
                    if (++points > MaxPoints)
                        throw new FormatException("It has more points than are read.");
                    break;
            }
        }
        return strokes;
    }

    // Names of layers are of letters, digits and three marks there, and at most 31 long.
    private static Dictionary<string, string> Layers(IEnumerable<string> tools)
    {
        var layers = new Dictionary<string, string>();
        foreach (var tool in tools)
        {
            var plain = new StringBuilder();
            foreach (var letter in tool.Normalize(NormalizationForm.FormD))
            {
                if (plain.Length < 28 && (char.IsAsciiLetterOrDigit(letter) || letter is '-' or '_'))
                    plain.Append(char.ToUpperInvariant(letter));
                else if (plain.Length is > 0 and < 28 && char.IsWhiteSpace(letter))
                    plain.Append('_');
            }
            var name = plain.Length == 0 ? "LAYER" : plain.ToString();
            var free = name;
            for (var n = 2; layers.ContainsValue(free); n++)
                free = $"{name}_{n}";
            layers[tool] = free;
        }
        return layers;
    }
}
