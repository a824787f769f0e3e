using Chronotype.Core.Content;

namespace Chronotype.Formats.Texts;

/// <summary>Plain text of any encoding. It is the last that is asked: whatever else is text too is read as what it is.</summary>
internal sealed class TextFormat : IFormat
{
    private const int ShownLines = 60,
        ShownLetters = 160;

    public FileFormat Format => FileFormat.Text;

    public bool Begins(ReadOnlySpan<byte> head) => TextCoding.Of(head, isWhole: false) is not null;

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        // What only begins as text, or is more than anybody reads, is carried as its bytes.
        if (TextCoding.Lines(content) is not var (coding, lines))
            return new FileFacts();
        var words = 0;
        long letters = 0;
        foreach (var line in lines)
        {
            letters += line.Length;
            var isWord = false;
            foreach (var letter in line)
            {
                var isLetter = !char.IsWhiteSpace(letter);
                words += isLetter && !isWord ? 1 : 0;
                isWord = isLetter;
            }
        }
        return new FileFacts
        {
            Format = Format,
            Text = new TextFacts(coding.WebName, lines.Count, words, letters)
            {
                Beginning = [.. lines.Take(ShownLines).Select(l => l.Length > ShownLetters ? l[..ShownLetters] + "…" : l)],
            },
        };
    }
}
