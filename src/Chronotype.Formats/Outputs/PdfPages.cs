using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using Chronotype.Core.Outputs;
using NetVips;
using PdfSharp.Pdf;
using PdfSharp.Pdf.Advanced;

namespace Chronotype.Formats.Outputs;

/// <summary>
/// Pages of a PDF (ISO 32000-1), each a picture at its print size, with the boxes that say where it is cut (14.11.2). The rows of the
/// picture are written as PNG writes them, which a PDF takes as they are (7.4.4.4), or as JPEG.
/// </summary>
internal static class PdfPages
{
    // Where neither the recipe nor the picture says how many pixels are an inch.
    private const double UsualResolution = 300;
    private const double PointsOfInch = 72;

    /// <param name="pages">How many.</param>
    /// <param name="render">Renders one, and gives it to what it is told to.</param>
    /// <param name="output">Seekable; left open.</param>
    public static MadeOutput Make(
        int pages,
        Func<int, Action<Image, PictureFrame>, PictureFrame> render,
        PictureRecipe recipe,
        Stream output
    )
    {
        using var document = new PdfDocument();
        // A few lines for each page; what the library makes of them when it packs them ends without its check.
        document.Options.CompressContentStreams = false;
        document.Info.Creator = "Chronotype";
        PictureFrame? first = null;
        for (var page = 0; page < pages; page++)
        {
            var frame = render(page, (image, frame) => Add(document, image, frame, recipe));
            first ??= frame;
        }
        document.Save(output, closeStream: false);
        return new MadeOutput(first) { Pages = pages };
    }

    private static void Add(PdfDocument document, Image image, PictureFrame frame, PictureRecipe recipe)
    {
        var resolution = frame.Resolution is > 0 and var dense ? dense : UsualResolution;
        // Of a print the sides as they were asked for, not as they were rounded to pixels.
        double Points(double pixels, double? asked) => asked ?? pixels / resolution * PointsOfInch;
        var (width, height) = (Points(frame.Width, Asked(frame, recipe, true)), Points(frame.Height, Asked(frame, recipe, false)));
        var bleed = recipe.Size is { Unit: not "px" } size ? PictureFrame.Inches(recipe.Bleed, size.Unit) * PointsOfInch : 0;
        var margin = frame.Margin > 0 ? PictureFrame.MarkMargin / 25.4 * PointsOfInch : 0;
        var (wide, high) = (width + 2 * margin, height + 2 * margin);

        var page = document.AddPage();
        page.Width = PdfSharp.Drawing.XUnit.FromPoint(wide);
        page.Height = PdfSharp.Drawing.XUnit.FromPoint(high);
        PdfRectangle Box(double inset) =>
            new(new PdfSharp.Drawing.XPoint(inset, inset), new PdfSharp.Drawing.XPoint(wide - inset, high - inset));
        page.MediaBox = Box(0);
        page.Elements["/BleedBox"] = Box(margin);
        page.Elements["/TrimBox"] = Box(margin + bleed);

        var picture = Picture(document, image, recipe);
        document.Internals.AddObject(picture);
        var named = new PdfDictionary(document);
        named.Elements.SetReference("/Picture", picture.Reference!);
        page.Resources.Elements["/XObject"] = named;
        var drawn = new StringBuilder();
        drawn.Append(CultureInfo.InvariantCulture, $"q {N(width)} 0 0 {N(height)} {N(margin)} {N(margin)} cm /Picture Do Q\n");
        if (margin > 0)
            Marks(drawn, wide, high, margin, bleed);
        page.Contents.AppendContent().CreateStream(Encoding.ASCII.GetBytes(drawn.ToString()));
    }

    private static double? Asked(PictureFrame frame, PictureRecipe recipe, bool isWidth) =>
        recipe is { Size: { Unit: not "px" } size, Fit: not PictureFit.Inside }
            ? (PictureFrame.Inches((isWidth != frame.IsTurned ? size.Width : size.Height) + 2 * recipe.Bleed, size.Unit)) * PointsOfInch
            : null;

    // In every ink, a quarter of a point wide.
    private static void Marks(StringBuilder drawn, double wide, double high, double margin, double bleed)
    {
        var length = PictureFrame.MarkLength / 25.4 * PointsOfInch;
        var inset = margin + bleed;
        drawn.Append("q 0.25 w 1 1 1 1 K\n");
        foreach (var x in new[] { inset, wide - inset })
        {
            Line(x, margin - length, x, margin);
            Line(x, high - margin, x, high - margin + length);
        }
        foreach (var y in new[] { inset, high - inset })
        {
            Line(margin - length, y, margin, y);
            Line(wide - margin, y, wide - margin + length, y);
        }
        drawn.Append("Q\n");

        void Line(double x1, double y1, double x2, double y2) =>
            drawn.Append(CultureInfo.InvariantCulture, $"{N(x1)} {N(y1)} m {N(x2)} {N(y2)} l S\n");
    }

    internal static PdfDictionary Picture(PdfDocument document, Image image, PictureRecipe recipe)
    {
        var isCmyk = image.Interpretation == Enums.Interpretation.Cmyk;
        var isGrey = image.Bands == 1;
        var made = new PdfDictionary(document);
        made.Elements.SetName("/Type", "/XObject");
        made.Elements.SetName("/Subtype", "/Image");
        made.Elements.SetInteger("/Width", image.Width);
        made.Elements.SetInteger("/Height", image.Height);
        made.Elements.SetInteger("/BitsPerComponent", 8);
        var space =
            isCmyk ? "/DeviceCMYK"
            : isGrey ? "/DeviceGray"
            : "/DeviceRGB";
        if (image.Contains("icc-profile-data"))
        {
            var profile = new PdfDictionary(document);
            profile.Elements.SetInteger("/N", image.Bands);
            profile.Elements.SetName("/Alternate", space);
            profile.CreateStream((byte[])image.Get("icc-profile-data"));
            document.Internals.AddObject(profile);
            made.Elements["/ColorSpace"] = new PdfArray(document, new PdfName("/ICCBased"), profile.Reference!);
        }
        else
            made.Elements.SetName("/ColorSpace", space);
        // PNG has no CMYK. The library writes CMYK in a JPEG upside down, as is usual there, and says so to a PDF by the decoding.
        if (isCmyk || recipe.Quality is not null)
        {
            made.Elements.SetName("/Filter", "/DCTDecode");
            if (isCmyk)
                made.Elements["/Decode"] = new PdfArray(document, [.. Enumerable.Range(0, 8).Select(i => new PdfInteger(1 - i % 2))]);
            made.CreateStream(
                image.JpegsaveBuffer(q: recipe.Quality ?? 98, keep: Enums.ForeignKeep.None, subsampleMode: Enums.ForeignSubsample.Off)
            );
            return made;
        }
        using var png = TemporaryFile.Open();
        image.PngsaveStream(png, compression: 3, keep: Enums.ForeignKeep.None, filter: Enums.ForeignPngFilter.All);
        var told = new PdfDictionary(document);
        told.Elements.SetInteger("/Predictor", 15);
        told.Elements.SetInteger("/Colors", image.Bands);
        told.Elements.SetInteger("/BitsPerComponent", 8);
        told.Elements.SetInteger("/Columns", image.Width);
        made.Elements.SetName("/Filter", "/FlateDecode");
        made.Elements["/DecodeParms"] = told;
        made.CreateStream(Rows(png));
        return made;
    }

    // The compressed rows of a PNG (ISO/IEC 15948, 11.2.4), of all chunks that they are spread over.
    private static byte[] Rows(Stream png)
    {
        using var rows = new MemoryStream();
        png.Position = 8;
        var head = new byte[8];
        while (png.ReadAtLeast(head, 8, throwOnEndOfStream: false) == 8)
        {
            var length = BinaryPrimitives.ReadInt32BigEndian(head);
            if (head.AsSpan(4).SequenceEqual("IDAT"u8))
            {
                var part = new byte[length];
                png.ReadExactly(part);
                rows.Write(part);
                png.Position += 4;
            }
            else
                png.Position += length + 4;
        }
        return rows.ToArray();
    }

    private static string N(double value) => value.ToString("0.###", CultureInfo.InvariantCulture);
}
