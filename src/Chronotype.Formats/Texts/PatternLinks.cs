using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.References;

namespace Chronotype.Formats.Texts;

/// <summary>What a text refers to, as the patterns of a studio say.</summary>
internal static class PatternLinks
{
    /// <summary>The links of a text, each with the ending of the files that it holds for.</summary>
    /// <param name="content">Seekable; read from its beginning.</param>
    public static IReadOnlyList<ReferenceFacts> Find(Stream content, IReadOnlyList<ReferencePattern> patterns)
    {
        if (Whole(content) is not var (_, text))
            return [];
        return
        [
            .. patterns
                .SelectMany(p => p.Find(text).Select(f => (p.Ending, Found: f)))
                .OrderBy(f => f.Found.At)
                // Of what two patterns find in one place, the first.
                .DistinctBy(f => (f.Ending, f.Found.At))
                .Take(Limits.References)
                .Select(f => new ReferenceFacts(f.Found.Written, $"line {f.Found.Line}") { Ending = f.Ending }),
        ];
    }

    /// <summary>Writes a text anew with links that lead elsewhere, in the encoding that it has.</summary>
    /// <exception cref="UnreadableFileException">A path cannot be written so that the text's encoding, or the pattern, gives it back.</exception>
    public static void Rewrite(
        Stream content,
        IReadOnlyList<ReferencePattern> patterns,
        IReadOnlyDictionary<string, string> to,
        Stream output
    )
    {
        if (Whole(content) is not var (coding, text))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        var found = patterns.SelectMany(p => p.Find(text)).DistinctBy(f => f.At).OrderBy(f => f.At).ToList();
        var made = new StringBuilder(text.Length);
        var copied = 0;
        foreach (var link in found)
        {
            if (!to.TryGetValue(link.Written, out var path) || link.At < copied)
                continue;
            made.Append(text, copied, link.At - copied).Append(ReferencePattern.Write(text, path));
            copied = link.At + link.Length;
        }
        made.Append(text, copied, text.Length - copied);
        try
        {
            var strict = Encoding.GetEncoding(coding.CodePage, EncoderFallback.ExceptionFallback, DecoderFallback.ReplacementFallback);
            output.Write(strict.GetBytes(made.ToString()));
        }
        catch (EncoderFallbackException e)
        {
            throw new UnreadableFileException(FileFaultCode.NotUnderstood, e);
        }
    }

    // With its mark, if it has one: what is not changed stays to the byte.
    private static (Encoding Coding, string Text)? Whole(Stream content)
    {
        if (content.Length > Limits.TextBytes)
            return null;
        content.Position = 0;
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        return TextCoding.Of(bytes, isWhole: true) is { } coding ? (coding, coding.GetString(bytes)) : null;
    }
}
