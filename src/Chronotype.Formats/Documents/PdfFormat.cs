using System.Text.RegularExpressions;
using Chronotype.Core.Content;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.DocumentLayoutAnalysis.TextExtractor;
using UglyToad.PdfPig.Exceptions;
using UglyToad.PdfPig.Tokens;

namespace Chronotype.Formats.Documents;

/// <summary>PDF (ISO 32000-2), read by PdfPig: its pages, what its text is set in, and the text. Pages are drawn by the browser.</summary>
internal sealed partial class PdfFormat : IFormat
{
    private const int MostPages = 5_000,
        MostLetters = 8_000_000,
        MostFonts = 500,
        MostObjects = 500_000,
        TailBytes = 1024;
    private const double MillimetresPerPoint = 25.4 / 72;

    public FileFormat Format => FileFormat.Pdf;

    public bool Begins(ReadOnlySpan<byte> head) => head[..Math.Min(head.Length, 1024)].IndexOf("%PDF-"u8) >= 0;

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        // ISO 32000-2, 7.5.5, and what readers have always taken: the mark of the end stands within the last 1,024 bytes.
        if (!EndsWhole(content))
            throw new UnreadableFileException(FileFaultCode.DocumentCutShort);
        using var document = Open(content);
        var (words, sizes) = (0, new List<PageSize>());
        long letters = 0;
        for (var number = 1; number <= document.NumberOfPages; number++)
        {
            cancel.ThrowIfCancellationRequested();
            var page = document.GetPage(number);
            var (width, height) = (Rounded(page.Width), Rounded(page.Height));
            var same = sizes.FindIndex(s => s.Width.Equals(width) && s.Height.Equals(height));
            if (same < 0)
                sizes.Add(new PageSize(width, height, 1));
            else
                sizes[same] = sizes[same] with { Pages = sizes[same].Pages + 1 };
            letters += page.Letters.Count;
            if (letters <= MostLetters)
                words += page.Text.Length == 0 ? 0 : page.GetWords().Count();
        }
        return new FileFacts
        {
            Format = Format,
            Document = new DocumentFacts(document.NumberOfPages, words) { Sizes = sizes, Typefaces = Typefaces(document) },
        };
    }

    /// <summary>The lines of each page, in the order in which they are written.</summary>
    /// <exception cref="UnreadableFileException">It cannot be read.</exception>
    public static IReadOnlyList<IReadOnlyList<string>> Lines(Stream content, CancellationToken cancel)
    {
        using var document = Open(content);
        var pages = new List<IReadOnlyList<string>>();
        long letters = 0;
        for (var number = 1; number <= document.NumberOfPages && letters <= MostLetters; number++)
        {
            cancel.ThrowIfCancellationRequested();
            var page = document.GetPage(number);
            letters += page.Letters.Count;
            var text = ContentOrderTextExtractor.GetText(page);
            pages.Add([.. text.Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0)]);
        }
        return pages;
    }

    private static PdfDocument Open(Stream content)
    {
        content.Position = 0;
        try
        {
            var document = PdfDocument.Open(content, new ParsingOptions { UseLenientParsing = true, SkipMissingFonts = true });
            if (document.NumberOfPages <= MostPages)
                return document;
            document.Dispose();
            throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyPages, "", MostPages));
        }
        catch (PdfDocumentEncryptedException e)
        {
            throw new UnreadableFileException(FileFaultCode.DocumentLocked, e);
        }
        catch (PdfDocumentFormatException e)
        {
            throw new UnreadableFileException(FileFaultCode.DocumentUnreadable, e);
        }
    }

    private static bool EndsWhole(Stream content)
    {
        content.Position = Math.Max(0, content.Length - TailBytes);
        var tail = new byte[TailBytes];
        var read = content.ReadAtLeast(tail, tail.Length, throwOnEndOfStream: false);
        return tail.AsSpan(0, read).IndexOf("%%EOF"u8) >= 0;
    }

    // 9.8.1: a font's descriptor holds its program where that is embedded; 9.6.2: of the standard fonts there may be no descriptor.
    private static IReadOnlyList<TypefaceFacts> Typefaces(PdfDocument document)
    {
        var found = new SortedDictionary<string, bool>(StringComparer.Ordinal);
        foreach (var reference in document.Structure.CrossReferenceTable.ObjectOffsets.Keys.Take(MostObjects))
        {
            if (found.Count >= MostFonts)
                break;
            if (Dictionary(document, reference) is not { } dictionary || Name(dictionary, "Type") is not { } type)
                continue;
            if (type == "FontDescriptor" && Name(dictionary, "FontName") is { } described)
            {
                var isEmbedded = new[] { "FontFile", "FontFile2", "FontFile3" }.Any(f => dictionary.ContainsKey(NameToken.Create(f)));
                Add(described, isEmbedded);
            }
            else if (
                type == "Font"
                && Name(dictionary, "Subtype") is not ("Type0" or "Type3")
                && !dictionary.ContainsKey(NameToken.Create("FontDescriptor"))
                && Name(dictionary, "BaseFont") is { } standard
            )
                Add(standard, false);
        }
        return [.. found.Select(f => new TypefaceFacts(f.Key, f.Value))];

        void Add(string name, bool isEmbedded)
        {
            name = SubsetMark().Replace(name, "");
            found[name] = isEmbedded && found.GetValueOrDefault(name, true);
        }
    }

    private static DictionaryToken? Dictionary(PdfDocument document, IndirectReference reference)
    {
        try
        {
            return document.Structure.TokenScanner.Get(reference)?.Data as DictionaryToken;
        }
        catch (Exception e) when (e is not OutOfMemoryException and not IOException)
        {
            // One object that cannot be read is none that says what a typeface is.
            return null;
        }
    }

    private static string? Name(DictionaryToken dictionary, string key) =>
        dictionary.TryGet(NameToken.Create(key), out var token) && token is NameToken name ? name.Data : null;

    private static double Rounded(double points) => Math.Round(points * MillimetresPerPoint, 1);

    // 9.9.2: six letters and a plus stand before the name of a font of which only some letters are embedded.
    [GeneratedRegex("^[A-Z]{6}\\+")]
    private static partial Regex SubsetMark();
}
