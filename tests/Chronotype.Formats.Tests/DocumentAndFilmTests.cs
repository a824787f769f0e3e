using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;

namespace Chronotype.Formats.Tests;

public sealed class DocumentAndFilmTests : IDisposable
{
    private static readonly string[] First = ["Moonpull", "Opening hours 10 to 18"],
        Second = ["Getting here", "By boat"];

    private readonly string folder = Directory.CreateTempSubdirectory("films-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private static FileFacts Read(byte[] file) => FormatReader.Read(new MemoryStream(file));

    private static Comparison Compare(byte[] before, byte[] after) =>
        SaveComparer.Compare(new MemoryStream(before), Read(before), new MemoryStream(after), Read(after));

    private byte[] Film(string name, string size, int rate, double seconds, params string[] how)
    {
        var source = FormattableString.Invariant($"testsrc=size={size}:rate={rate}:duration={seconds}");
        Tools.Run(folder, "ffmpeg", ["-v", "error", "-f", "lavfi", "-i", source, .. how, name]);
        return File.ReadAllBytes(Path.Combine(folder, name));
    }

    [Fact]
    public void A_documents_pages_sizes_words_and_typefaces_are_told()
    {
        var facts = Read(Samples.Pdf(First, Second));
        Assert.Null(facts.Fault);
        Assert.Equal((FileFormat.Pdf, 2, 10), (facts.Format, facts.Document!.Pages, facts.Document.Words));
        var size = Assert.Single(facts.Document.Sizes);
        Assert.Equal((209.9, 297.0, 2), (size.Width, size.Height, size.Pages));
        Assert.Equal([new TypefaceFacts("Helvetica", false)], facts.Document.Typefaces);
    }

    [Fact]
    public void Documents_are_compared_page_for_page_by_what_is_written_on_them()
    {
        var result = Compare(Samples.Pdf(First, Second), Samples.Pdf(["Moonpull", "Opening hours 9 to 17"], Second, ["Tickets"]));
        Assert.Equal(ComparisonBasis.PageText, result.Basis);
        Assert.Equal(
            [("1", PartChangeKind.Reworded), ("2", PartChangeKind.Same), ("3", PartChangeKind.Added)],
            result.Parts.Select(p => (p.Name, p.Kind))
        );
        Assert.Equal("Opening hours 10 to 18", Assert.Single(result.TextChanges[0].Removed));
        Assert.Equal("Opening hours 9 to 17", Assert.Single(result.TextChanges[0].Added));
        Assert.Empty(result.TextChanges[1].Removed);
        Assert.Equal(0, Compare(Samples.Pdf(First, Second), Samples.Pdf(First, Second)).Change);
    }

    [Fact]
    public void A_document_that_is_cut_short_or_lost_most_of_its_pages_is_noticed()
    {
        var whole = Samples.Pdf(First, Second, First, Second);
        foreach (var length in new[] { 5, 40, whole.Length / 2, whole.Length - 6 })
            Assert.Equal(FileFaultCode.DocumentCutShort, Read(whole[..length]).Fault?.Code);
        Assert.Equal(SaveDoubtCode.FewerPages, Assert.Single(SaveDoubts.Find(Read(whole), Read(Samples.Pdf(First)))).Code);
    }

    [Theory]
    [InlineData("trailer.mp4", "h264", "-pix_fmt", "yuv420p")]
    [InlineData("trailer.mov", "h264", "-pix_fmt", "yuv420p")]
    [InlineData("trailer.webm", "vp8", "-c:v", "libvpx")]
    public void A_films_length_size_rate_and_a_still_are_told(string name, string coding, params string[] how)
    {
        var film = Film(name, "320x180", 25, 2, how);
        var facts = Read(film);
        Assert.Equal(FileFormat.Film, facts.Format);
        Assert.Equal(new FilmFacts(320, 180, 25, 2, false, coding), facts.Film! with { Seconds = Math.Round(facts.Film.Seconds, 1) });
        var still = PreviewMaker.Make(new MemoryStream(film), 160);
        Assert.Equal("image/webp", still!.MediaType);
        using var drawn = NetVips.Image.NewFromBuffer(still.Bytes);
        Assert.Equal((160, 90), (drawn.Width, drawn.Height));
    }

    [Fact]
    public void Another_size_and_a_much_shorter_film_are_asked_about_and_the_length_is_told()
    {
        var (before, after) = (
            Film("a.mp4", "320x180", 25, 4, "-pix_fmt", "yuv420p"),
            Film("b.mp4", "160x90", 25, 1, "-pix_fmt", "yuv420p")
        );
        Assert.Equal([SaveDoubtCode.OtherSize, SaveDoubtCode.MuchShorter], SaveDoubts.Find(Read(before), Read(after)).Select(d => d.Code));
        var result = Compare(before, after);
        Assert.Equal((ComparisonBasis.Film, null), (result.Basis, result.Change));
        Assert.Equal((4, 1), (Math.Round(result.FilmBefore!.Seconds), Math.Round(result.FilmAfter!.Seconds)));
    }

    [Fact]
    public void A_film_that_is_cut_or_a_list_of_others_is_no_film()
    {
        var film = Film("a.mp4", "160x90", 25, 2, "-pix_fmt", "yuv420p");
        Assert.Equal(FileFaultCode.FilmUnreadable, Read(film[..(film.Length / 2)]).Fault?.Code);
        Assert.Equal(FileFaultCode.FilmUnreadable, Read([.. film[..32], .. Samples.Noise(5000)]).Fault?.Code);
        // A list that names other files is text, and nothing that it names is opened.
        Assert.Equal(FileFormat.Text, Read("ffconcat version 1.0\nfile '/etc/passwd'\n"u8.ToArray()).Format);
        for (var seed = 0; seed < Thorough.Times(12, 500); seed++)
            Assert.NotNull(Read(Mutations.Of(film, new Random(seed))));
    }
}
