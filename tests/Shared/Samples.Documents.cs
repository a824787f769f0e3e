using System.Text;

namespace Chronotype.Tests;

public static partial class Samples
{
    /// <summary>A PDF of A4 pages, with each line of a page set in a standard typeface that is not embedded.</summary>
    public static byte[] Pdf(params string[][] pages)
    {
        var objects = new List<string>
        {
            "<< /Type /Catalog /Pages 2 0 R >>",
            $"<< /Type /Pages /Kids [{string.Join(' ', pages.Select((_, i) => $"{3 + 2 * i} 0 R"))}] /Count {pages.Length} >>",
        };
        var font = 3 + 2 * pages.Length;
        for (var i = 0; i < pages.Length; i++)
        {
            var drawn = $"BT /F1 24 Tf 60 760 Td 30 TL {string.Concat(pages[i].Select(line => $"({line}) Tj T* "))}ET";
            objects.Add(
                $"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Resources << /Font << /F1 {font} 0 R >> >> "
                    + $"/Contents {4 + 2 * i} 0 R >>"
            );
            objects.Add($"<< /Length {drawn.Length} >>\nstream\n{drawn}\nendstream");
        }
        objects.Add("<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>");
        var file = new StringBuilder("%PDF-1.4\n");
        var places = new List<int>();
        foreach (var (written, number) in objects.Select((o, i) => (o, i + 1)))
        {
            places.Add(file.Length);
            file.Append($"{number} 0 obj\n{written}\nendobj\n");
        }
        var table = file.Length;
        file.Append($"xref\n0 {objects.Count + 1}\n0000000000 65535 f \n");
        foreach (var place in places)
            file.Append($"{place:D10} 00000 n \n");
        file.Append($"trailer << /Size {objects.Count + 1} /Root 1 0 R >>\nstartxref\n{table}\n%%EOF\n");
        return Encoding.Latin1.GetBytes(file.ToString());
    }
}
