using System.Globalization;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using NetVips;
using PdfSharp.Pdf;

namespace Chronotype.Formats.Outputs;

/// <summary>
/// Makes contact sheets: pages of A4 with pictures in rows, and under each its name. The letters are of the typefaces that every reader of
/// PDF has (ISO 32000-1, 9.6.2.2).
/// </summary>
public static class SheetMaker
{
    private const double Wide = 210 / 25.4 * 72,
        High = 297 / 25.4 * 72,
        Margin = 36,
        Gap = 14,
        Head = 34,
        Lines = 24,
        NameSize = 7,
        ToldSize = 6.5;
    private const int Across = 3,
        Down = 4,
        Side = 480;

    // Courier: each letter is 0.6 of its size wide.
    private const double LetterWidth = 0.6;

    /// <param name="pictures">What the cells show, by their places; read one by one, left open.</param>
    /// <param name="output">Seekable; left open.</param>
    /// <exception cref="UnreadableFileException">A picture cannot be drawn.</exception>
    public static void Make(ContactSheet sheet, IReadOnlyList<Stream> pictures, Stream output, CancellationToken cancel = default)
    {
        using var document = new PdfDocument();
        document.Options.CompressContentStreams = false;
        document.Info.Title = sheet.Title;
        document.Info.Creator = "Chronotype";
        var pages = sheet.Cells.Chunk(Across * Down).ToList();
        foreach (var (cells, number) in pages.Select((c, i) => (c, i + 1)))
        {
            cancel.ThrowIfCancellationRequested();
            Page(document, sheet, cells, pages.Count == 1 ? "" : $"{number} of {pages.Count}", pictures);
        }
        if (pages.Count == 0)
            Page(document, sheet, [], "", pictures);
        document.Save(output, closeStream: false);
    }

    private static void Page(
        PdfDocument document,
        ContactSheet sheet,
        IReadOnlyList<SheetCell> cells,
        string number,
        IReadOnlyList<Stream> pictures
    )
    {
        var page = document.AddPage();
        page.Width = PdfSharp.Drawing.XUnit.FromPoint(Wide);
        page.Height = PdfSharp.Drawing.XUnit.FromPoint(High);
        var fonts = new PdfDictionary(document);
        foreach (var (key, font) in new[] { ("/Name", "/Courier"), ("/Told", "/Helvetica"), ("/Title", "/Helvetica-Bold") })
        {
            var face = new PdfDictionary(document);
            face.Elements.SetName("/Type", "/Font");
            face.Elements.SetName("/Subtype", "/Type1");
            face.Elements.SetName("/BaseFont", font);
            face.Elements.SetName("/Encoding", "/WinAnsiEncoding");
            fonts.Elements[key] = face;
        }
        page.Resources.Elements["/Font"] = fonts;
        var shown = new PdfDictionary(document);
        page.Resources.Elements["/XObject"] = shown;
        using var drawn = new MemoryStream();
        Text(drawn, "/Title", 13, Margin, High - Margin - 10, sheet.Title, 80);
        Text(drawn, "/Told", 7.5, Margin, High - Margin - 22, sheet.Made, 120);
        Text(drawn, "/Told", 7.5, Wide - Margin - 34, High - Margin - 22, number, 20);
        var (width, height) = ((Wide - 2 * Margin - (Across - 1) * Gap) / Across, (High - 2 * Margin - Head - (Down - 1) * Gap) / Down);
        for (var i = 0; i < cells.Count; i++)
        {
            var (cell, x, top) = (cells[i], Margin + i % Across * (width + Gap), High - Margin - Head - i / Across * (height + Gap));
            // The easel that pictures stand on, so that white ones have an edge.
            Write(drawn, $"0.94 g {N(x)} {N(top - height + Lines)} {N(width)} {N(height - Lines)} re f 0 g\n");
            if (cell.Picture is { } which && Picture(document, pictures[which]) is var (picture, across, down))
            {
                document.Internals.AddObject(picture);
                shown.Elements.SetReference($"/P{i}", picture.Reference!);
                var scale = Math.Min((width - 8) / across, (height - Lines - 8) / down);
                var (w, h) = (across * scale, down * scale);
                Write(drawn, $"q {N(w)} 0 0 {N(h)} {N(x + (width - w) / 2)} {N(top - (height - Lines + h) / 2)} cm /P{i} Do Q\n");
            }
            Text(drawn, "/Name", NameSize, x, top - height + Lines - 10, cell.Name, (int)(width / (NameSize * LetterWidth)));
            Text(drawn, "/Told", ToldSize, x, top - height + Lines - 19, cell.Told, (int)(width / (ToldSize * LetterWidth)));
        }
        page.Contents.AppendContent().CreateStream(drawn.ToArray());
    }

    private static (PdfDictionary Picture, int Width, int Height)? Picture(PdfDocument document, Stream content)
    {
        if (PreviewMaker.Make(content, Side) is not { } preview)
            return null;
        return Pictures.Guard(() =>
        {
            using var read = Image.NewFromBuffer(preview.Bytes);
            using var whole = read.HasAlpha() ? read.Flatten(background: [240]) : read.Copy();
            using var image = whole.Colourspace(Enums.Interpretation.Srgb);
            var made = PdfPages.Picture(document, image, new PictureRecipe(PictureFile.Pdf) { Quality = 88 });
            return ((PdfDictionary, int, int)?)(made, image.Width, image.Height);
        });
    }

    private static void Text(Stream drawn, string face, double size, double x, double y, string text, int most)
    {
        if (text.Length == 0)
            return;
        var told = text.Length > most ? string.Concat(text.AsSpan(0, Math.Max(1, most - 3)), "...") : text;
        Write(drawn, $"BT {face} {N(size)} Tf {N(x)} {N(y)} Td (");
        // What the typefaces have no letter for is told by its plain one, or by a question mark.
        foreach (var letter in told.Normalize(NormalizationForm.FormC))
        {
            var plain = letter switch
            {
                '−' or '–' or '—' => '-',
                '’' or '‘' => '\'',
                '“' or '”' => '"',
                '…' => '.',
                < ' ' => ' ',
                > 'ÿ' => '?',
                _ => letter,
            };
            if (plain is '(' or ')' or '\\')
                drawn.WriteByte((byte)'\\');
            drawn.WriteByte((byte)plain);
        }
        Write(drawn, ") Tj ET\n");
    }

    private static void Write(Stream drawn, string text) => drawn.Write(Encoding.ASCII.GetBytes(text));

    private static string N(double value) => value.ToString("0.###", CultureInfo.InvariantCulture);
}
