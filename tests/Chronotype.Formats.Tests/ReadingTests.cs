using System.Text;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Formats.Sound;

namespace Chronotype.Formats.Tests;

public class ReadingTests
{
    private static FileFacts Read(byte[] bytes) => FormatReader.Read(new MemoryStream(bytes));

    private static Preview? Draw(byte[] bytes) => PreviewMaker.Make(new MemoryStream(bytes), 480);

    private static (int Width, int Height) SizeOf(Preview preview)
    {
        using var image = NetVips.Image.NewFromBuffer(preview.Bytes);
        return (image.Width, image.Height);
    }

    private static byte[] Poster() =>
        Samples.OpenRaster(
            400,
            600,
            new Samples.OraLayer("Title", 200, 60, X: 100, Y: 20),
            new Samples.OraLayer("Moon", 150, 150, X: 120, Y: 200),
            new Samples.OraLayer("Sky", 400, 600)
        );

    [Fact]
    public void An_OpenRaster_gives_its_canvas_its_layers_and_its_merged_picture()
    {
        var reading = Read(Poster());
        Assert.Equal(FileFormat.OpenRaster, reading.Format);
        Assert.Null(reading.Fault);
        Assert.Equal((400, 600, ColourModel.Rgb), (reading.Picture!.Width, reading.Picture.Height, reading.Picture.Colour));
        Assert.Equal([("Title", 100, 20), ("Moon", 120, 200), ("Sky", 0, 0)], reading.Layers.Select(l => (l.Name, l.X, l.Y)));
        Assert.Equal((320, 480), SizeOf(Draw(Poster())!));
    }

    [Fact]
    public void Saving_again_without_a_change_has_the_same_inside()
    {
        Samples.OraLayer layer = new("Sky", 50, 50);
        var monday = Samples.OpenRaster(50, 50, new DateTime(2026, 3, 2), layer);
        var tuesday = Samples.OpenRaster(50, 50, new DateTime(2026, 3, 3), layer);
        Assert.NotEqual(monday, tuesday);
        Assert.Equal(Read(monday).Inside, Read(tuesday).Inside);
        Assert.NotEqual(Read(monday).Inside, Read(Samples.OpenRaster(50, 50, layer with { Red = 1 })).Inside);
    }

    [Theory]
    [InlineData(0.3)]
    [InlineData(0.9)]
    [InlineData(0.999)]
    public void An_OpenRaster_that_is_cut_off_says_so(double share)
    {
        var poster = Poster();
        Assert.Equal(FileFaultCode.ContainerUnreadable, Read(poster[..(int)(poster.Length * share)]).Fault!.Code);
    }

    /// <summary>The list of parts is sound, so only who opens the part itself meets the damage.</summary>
    [Theory]
    [InlineData("mergedimage.png")]
    [InlineData("data/0.png")]
    public void A_damaged_head_of_a_part_is_the_files_fault(string part)
    {
        var poster = Poster();
        var head = Enumerable
            .Range(0, poster.Length)
            .First(at =>
                poster.AsSpan(at).StartsWith("PK\u0003\u0004"u8) && poster.AsSpan(at + 30).StartsWith(Encoding.ASCII.GetBytes(part))
            );
        poster[head] = 0xFF;
        Assert.Equal(new FileFault(FileFaultCode.PartDamaged, part), Read(poster).Fault);
        if (part == "mergedimage.png")
            Assert.Equal(part, Assert.Throws<UnreadableFileException>(() => Draw(poster)).Fault.Name);
        var other = Samples.OpenRaster(400, 600, new Samples.OraLayer("Title", 150, 150, Red: 3));
        var comparison = SaveComparer.Compare(new MemoryStream(poster), Read(Poster()), new MemoryStream(other), Read(other));
        Assert.Equal(part == "mergedimage.png" ? ComparisonBasis.Layers : ComparisonBasis.Unreadable, comparison.Basis);
    }

    [Fact]
    public void A_bit_that_flipped_within_a_layer_is_found()
    {
        var poster = Poster();
        // Within the stored bytes of the first layer's picture.
        poster[poster.AsSpan().IndexOf("IHDR"u8) + 40] ^= 4;
        Assert.Equal(
            (FileFaultCode.PartDamaged, true),
            (Read(poster).Fault!.Code, Read(poster).Fault!.Name.EndsWith(".png", StringComparison.Ordinal))
        );
    }

    [Fact]
    public void A_layer_without_pixels_is_a_problem()
    {
        var text = Encoding.Latin1.GetString(Poster()).Replace("src=\"data/1.png\"", "src=\"data/9.png\"");
        Assert.NotNull(Read(Encoding.Latin1.GetBytes(text)).Fault);
    }

    [Theory]
    [InlineData(".png", FileFormat.Png)]
    [InlineData(".jpg", FileFormat.Jpeg)]
    [InlineData(".tif", FileFormat.Tiff)]
    [InlineData(".webp", FileFormat.WebP)]
    public void Flat_pictures_are_measured_and_drawn(string extension, FileFormat format)
    {
        var bytes = Samples.Flat(extension, 600, 300);
        var reading = Read(bytes);
        Assert.Equal((format, (FileFault?)null, 600, 300), (reading.Format, reading.Fault, reading.Picture!.Width, reading.Picture.Height));
        Assert.Equal((480, 240), SizeOf(Draw(bytes)!));
    }

    [Fact]
    public void A_picture_that_claims_to_be_enormous_is_not_drawn()
    {
        var claims = Samples.PngThatClaims(100_000, 100_000);
        Assert.Equal(new FileFault(FileFaultCode.PictureTooLarge, "", 100_000, 100_000), Read(claims).Fault);
        Assert.Throws<UnreadableFileException>(() => Draw(claims));
    }

    [Fact]
    public void A_picture_that_is_cut_short_is_a_problem()
    {
        var bytes = Samples.Flat(".png", 600, 300);
        Assert.NotNull(Read(bytes[..(bytes.Length / 2)]).Fault);
    }

    [Fact]
    public void A_resolution_is_told_only_where_it_is_written()
    {
        byte[] Png(uint perMetre, byte unit)
        {
            byte[] body = [.. "pHYs"u8, .. Big(perMetre), .. Big(perMetre), unit];
            var png = Plain(".png");
            // Right after the header, and in place of any that is there.
            return
            [
                .. png[..33],
                .. Big((uint)body.Length - 4),
                .. body,
                .. Big(System.IO.Hashing.Crc32.HashToUInt32(body)),
                .. Bare(png)[33..],
            ];
        }
        // Without what the library writes beside the pixels.
        static byte[] Plain(string extension)
        {
            using var image = NetVips.Image.Black(20, 20, bands: 3).Copy(interpretation: NetVips.Enums.Interpretation.Srgb);
            return image.WriteToBuffer($"{extension}[keep=none]");
        }
        static byte[] Big(uint number) => [(byte)(number >> 24), (byte)(number >> 16), (byte)(number >> 8), (byte)number];
        static byte[] Bare(byte[] png)
        {
            var at = png.AsSpan().IndexOf("pHYs"u8);
            return at < 0 ? png : [.. png[..(at - 4)], .. png[(at + 17)..]];
        }
        Assert.Null(Read(Bare(Plain(".png"))).Picture!.Resolution);
        Assert.Equal(300, Read(Png(11811, 1)).Picture!.Resolution!.Value, 0.1);
        Assert.Equal(72, Read(Png(2835, 1)).Picture!.Resolution!.Value, 0.1);
        Assert.Null(Read(Png(1, 0)).Picture!.Resolution);
        // A JPEG says it in its first segment, which may be missing or tell only the shape of a pixel.
        byte[] Jpeg(byte unit)
        {
            byte[] segment = [0xFF, 0xE0, 0, 16, .. "JFIF"u8, 0, 1, 1, unit, 0, 240, 0, 240, 0, 0];
            var jpeg = Plain(".jpg");
            return [.. jpeg[..2], .. segment, .. jpeg[2..]];
        }
        Assert.Null(Read(Plain(".jpg")).Picture!.Resolution);
        Assert.Null(Read(Jpeg(0)).Picture!.Resolution);
        Assert.Equal(240, Read(Jpeg(1)).Picture!.Resolution!.Value, 0.1);
    }

    [Fact]
    public void An_empty_file_is_a_problem_and_any_other_is_none()
    {
        Assert.Equal(FileFaultCode.Empty, Read([]).Fault!.Code);
        byte[] closed = [1, 2, 3, 0, 5];
        Assert.Equal(new FileFacts(), Read(closed) with { Layers = [], Notices = [] }, ReadingEquality);
        Assert.Null(Draw(closed));
    }

    private static readonly IEqualityComparer<FileFacts> ReadingEquality = EqualityComparer<FileFacts>.Create(
        (a, b) => a!.Format == b!.Format && a.Fault == b.Fault && a.Picture == b.Picture && a.Sound == b.Sound
    );

    [Fact]
    public void An_svg_is_drawn_at_the_size_of_the_screen()
    {
        var svg = Samples.Svg("""<rect width="100" height="100" fill="red"/>""");
        Assert.Null(Read(svg).Fault);
        Assert.Equal((480, 480), SizeOf(Draw(svg)!));
    }

    [Theory]
    [InlineData("""<image xlink:href="file:///etc/passwd" width="9" height="9"/>""", "file:///etc/passwd")]
    [InlineData("""<image href="http://192.0.2.1/a.png" width="9" height="9"/>""", "http://192.0.2.1/a.png")]
    [InlineData("""<use href="other.svg#a"/>""", "other.svg#a")]
    [InlineData("""<rect width="9" height="9" style="fill:url(other.svg#a)"/>""", "other.svg#a")]
    [InlineData("""<style>@import url("http://192.0.2.1/a.css");</style>""", "http://192.0.2.1/a.css")]
    [InlineData("""<rect width="9" height="9" style="fill:u\72l(other.svg#a)"/>""", "")]
    public void What_an_svg_names_outside_itself_is_told_and_taken_out(string inside, string named)
    {
        var svg = Samples.Svg(inside);
        var notice = Assert.Single(Read(svg).Notices);
        Assert.Equal((FileNoticeCode.NamesOutside, 1), (notice.Code, notice.Count));
        Assert.Contains(named, Assert.Single(notice.Names));
        var safe = Encoding.UTF8.GetString(SvgFile.Read(new MemoryStream(svg)).Safe);
        Assert.DoesNotContain("passwd", safe);
        Assert.DoesNotContain("192.0.2.1", safe);
        Assert.DoesNotContain("other.svg", safe);
        Assert.NotNull(Draw(svg));
    }

    [Theory]
    [InlineData("""<script>alert(1)</script><rect onclick="alert(1)" width="9" height="9"/>""", "alert")]
    [InlineData("""<foreignObject><p xmlns="http://www.w3.org/1999/xhtml">x</p></foreignObject>""", "foreignObject")]
    public void Scripts_and_foreign_content_are_not_drawn(string inside, string gone) =>
        Assert.DoesNotContain(gone, Encoding.UTF8.GetString(SvgFile.Read(new MemoryStream(Samples.Svg(inside))).Safe));

    [Fact]
    public void An_embedded_picture_is_drawn_unless_it_claims_to_be_enormous()
    {
        string Embedded(byte[] png) => $"""<image href="data:image/png;base64,{Convert.ToBase64String(png)}" width="9" height="9"/>""";
        Assert.Empty(Read(Samples.Svg(Embedded(Samples.Png(4, 4)))).Notices);
        Assert.Single(Read(Samples.Svg(Embedded(Samples.PngThatClaims(100_000, 100_000)))).Notices);
    }

    [Fact]
    public void Nested_entities_are_refused_before_they_grow()
    {
        var bomb =
            """<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "lol"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY """
            + """c "&b;&b;&b;&b;&b;&b;&b;&b;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&c;</text></svg>""";
        Assert.Equal(FileFaultCode.DefinesEntities, Read(Encoding.UTF8.GetBytes(bomb)).Fault!.Code);
    }

    [Fact]
    public void An_old_doctype_alone_does_no_harm() =>
        Assert.Null(
            Read(
                Encoding.UTF8.GetBytes(
                    """<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG """
                        + """1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd"><svg xmlns="http://www.w3.org/2000/svg" """
                        + """width="9" height="9"/>"""
                )
            ).Fault
        );

    [Fact]
    public void Groups_nested_beyond_reason_are_refused() =>
        Assert.Equal(
            FileFaultCode.TooDeep,
            Read(Samples.Svg(string.Concat(Enumerable.Repeat("<g>", 3000)) + string.Concat(Enumerable.Repeat("</g>", 3000)))).Fault!.Code
        );

    [Fact]
    public void A_wave_gives_its_spec_and_a_waveform_of_all_its_samples()
    {
        // Silence but for one sample near the end: a waveform drawn from some of the samples would miss it.
        var data = new byte[48_000 * 2 * 2 * 3];
        data[^8000] = 0xFF;
        data[^7999] = 0x7F;
        var wave = Samples.WaveOf(data);
        Assert.Equal(new SoundFacts(48_000, 16, 2, 144_000, false), Read(wave).Sound);

        using var stream = new MemoryStream(wave);
        using var sound = FormatList.Of(FileFormat.Wave)!.OpenSound(stream)!;
        var peaks = Waveform.Peaks(sound, 1600);
        Assert.Equal(1, peaks.Count(p => p.High > 0.99f));
        Assert.Equal("image/svg+xml", Draw(wave)!.MediaType);
    }

    [Fact]
    public void A_wave_of_24_bit_reads_its_full_range()
    {
        byte[] data = [0xFF, 0xFF, 0x7F, 0x00, 0x00, 0x80, 0x00, 0x00, 0x00, 0x00, 0x00, 0x40];
        using var stream = new MemoryStream(Samples.WaveOf(data, channels: 1, bits: 24));
        using var sound = FormatList.Of(FileFormat.Wave)!.OpenSound(stream)!;
        var peaks = Waveform.Peaks(sound, 4);
        Assert.Equal([1f, 0f, 0f, 0.5f], peaks.Select(p => MathF.Round(p.High, 4)));
        Assert.Equal(-1f, peaks[1].Low);
    }

    [Fact]
    public void A_wave_that_promises_more_than_it_has_says_how_much_is_there()
    {
        var wave = Samples.Wave(2);
        var reading = Read(wave[..(wave.Length / 2)]);
        Assert.Equal((FileFaultCode.SoundCutShort, 1.0), (reading.Fault!.Code, Math.Round(reading.Fault.Number, 1)));
    }
}
