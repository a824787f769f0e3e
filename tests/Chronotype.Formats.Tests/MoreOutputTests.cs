using System.Globalization;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Drawings;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;
using NetVips;

namespace Chronotype.Formats.Tests;

/// <summary>Prints with bleed, marks and profiles, documents, sounds in further formats, and lines to be cut; read back by other programs.</summary>
public sealed class MoreOutputTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("outputs-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private (MadeOutput Made, byte[] File) Make(byte[] content, Recipe recipe, byte[]? profile = null, MadeFrom? from = null)
    {
        Assert.Empty(RecipeRules.Check(recipe));
        using var output = new MemoryStream();
        var icc = profile is null ? null : new MemoryStream(profile);
        var made = OutputMaker.Make(new MemoryStream(content), recipe, output, from, icc is null ? null : [icc]);
        File.WriteAllBytes(Path.Combine(folder, "made" + recipe.Extension), output.ToArray());
        return (made, output.ToArray());
    }

    private static Recipe Of(PictureRecipe picture) => new("made", "Made") { Picture = picture };

    private static Recipe Of(SoundRecipe sound) => new("made", "Made") { Sound = sound };

    private static Recipe Of(DrawingRecipe drawing) => new("made", "Made") { Drawing = drawing };

    private string Said(string program, params string[] arguments)
    {
        var (output, said) = Tools.Run(folder, program, arguments);
        return Encoding.UTF8.GetString(output) + said;
    }

    [Fact]
    public void A_print_with_bleed_has_marks_where_it_is_cut()
    {
        var recipe = new PictureRecipe(PictureFile.Png)
        {
            Size = new(100, 50, "mm", 254),
            Fit = PictureFit.Fill,
            Bleed = 3,
            Marks = true,
            Background = "#ffffff",
        };
        var (made, file) = Make(Samples.Png(400, 200, red: 200), Of(recipe));
        // 10 pixels a millimetre: 100 x 50, 3 beyond each side, and 7 around for the marks.
        Assert.Equal((1060, 560, 30, 70), (made.Frame!.Width, made.Frame.Height, made.Frame.Bleed, made.Frame.Margin));
        using var image = Image.NewFromBuffer(file);
        Assert.Equal((1200, 700), (image.Width, image.Height));
        Assert.Equal([255, 255, 255], image.Getpoint(5, 5)[..3]);
        Assert.NotEqual(255, image.Getpoint(75, 75)[1]);
        // The upper mark on the left stands over the edge of what is left when the bleed is cut off, and ends where the bleed begins.
        Assert.Equal([0, 0, 0], image.Getpoint(100, 40)[..3]);
        Assert.Equal([255, 255, 255], image.Getpoint(97, 40)[..3]);
        Assert.Equal([0, 0, 0], image.Getpoint(40, 600)[..3]);
        Assert.Equal([255, 255, 255], image.Getpoint(100, 10)[..3]);
        Assert.Equal(8, made.Frame.Marks().Count());

        Assert.Contains(RecipeRules.Check(Of(recipe with { Size = new(10, 10, "px") })), f => f.Place == "picture.marks");
        Assert.Contains(RecipeRules.Check(Of(recipe with { Fit = PictureFit.Inside })), f => f.Place == "picture.fit");
    }

    [Fact]
    public void A_document_has_its_print_size_and_every_page_and_its_pixels_are_the_pictures()
    {
        var (made, file) = Make(Samples.Png(400, 560), OurRecipes.Find("print-a3-pdf")!);
        Said("qpdf", "--check", "made.pdf");
        Assert.Equal(1, made.Pages);
        var facts = FormatReader.Read(new MemoryStream(file));
        Assert.Equal((FileFormat.Pdf, 1), (facts.Format, facts.Document!.Pages));
        var text = Said("qpdf", "--qdf", "--object-streams=disable", "made.pdf", "-");
        double[] Box(string name)
        {
            var at = text.IndexOf($"/{name}", StringComparison.Ordinal);
            var (from, to) = (text.IndexOf('[', at) + 1, text.IndexOf(']', at));
            return
            [
                .. text[from..to]
                    .Split((char[])[' ', '\n'], StringSplitOptions.RemoveEmptyEntries)
                    .Select(n => Math.Round(double.Parse(n, CultureInfo.InvariantCulture) / 72 * 25.4, 2)),
            ];
        }
        // A3 with 3 mm of bleed, and 7 mm around for the marks.
        Assert.Equal([0, 0, 317, 440], Box("MediaBox"));
        Assert.Equal([7, 7, 310, 433], Box("BleedBox"));
        Assert.Equal([10, 10, 307, 430], Box("TrimBox"));

        // Pages of a TIFF are pages of it, each with its own pixels.
        using var first = Image.Black(40, 20).NewFromImage([10.0, 20, 30]).Copy(interpretation: Enums.Interpretation.Srgb);
        using var second = Image.Black(40, 20).NewFromImage([200.0, 100, 50]).Copy(interpretation: Enums.Interpretation.Srgb);
        using var both = first.Join(second, Enums.Direction.Vertical).Mutate(m => m.Set(GValue.GIntType, "page-height", 20));
        both.Tiffsave(Path.Combine(folder, "pages.tif"), pageHeight: 20);
        var pages = Make(File.ReadAllBytes(Path.Combine(folder, "pages.tif")), Of(new PictureRecipe(PictureFile.Pdf)));
        Said("qpdf", "--check", "made.pdf");
        Assert.Equal((2, 2), (pages.Made.Pages, FormatReader.Read(new MemoryStream(pages.File)).Document!.Pages));
        // What another program unpacks is the pixels, byte for byte.
        var raw = Tools.Run(folder, "qpdf", "--qdf", "--stream-data=uncompress", "made.pdf", "-").Output;
        Assert.True(raw.AsSpan().IndexOf(Enumerable.Repeat((byte[])[200, 100, 50], 40).SelectMany(p => p).ToArray()) > 0);
    }

    [Fact]
    public void Colours_are_told_by_a_profile_that_was_handed_in_as_vips_tells_them()
    {
        var icc = Image.ProfileLoad("cmyk");
        File.WriteAllBytes(Path.Combine(folder, "coated.icc"), icc);
        Assert.Equal("CMYK", ColourProfile.Space(icc));
        var profile = new OutputProfile("coated", "CMYK", ContentHash.Of(icc));
        var recipe = new PictureRecipe(PictureFile.Tiff)
        {
            Colour = PictureColour.Profile,
            Profile = profile,
            Intent = ColourIntent.Perceptual,
        };
        var png = Samples.Png(64, 48);
        File.WriteAllBytes(Path.Combine(folder, "in.png"), png);
        var (_, file) = Make(png, Of(recipe), icc);
        Said(
            "vips",
            "icc_transform",
            "in.png",
            "theirs.tif",
            "coated.icc",
            "--intent",
            "perceptual",
            "--input-profile",
            "srgb",
            "--embedded"
        );
        using var ours = Image.NewFromBuffer(file);
        using var theirs = Image.NewFromFile(Path.Combine(folder, "theirs.tif"));
        Assert.Equal(Enums.Interpretation.Cmyk, ours.Interpretation);
        Assert.Equal(0, (ours - theirs).Abs().Max());
        var facts = FormatReader.Read(new MemoryStream(file));
        Assert.Equal(ColourModel.Cmyk, facts.Picture!.Colour);

        Make(png, Of(recipe with { File = PictureFile.Pdf }), icc);
        Said("qpdf", "--check", "made.pdf");
        Assert.Contains(RecipeRules.Check(Of(recipe with { File = PictureFile.Png })), f => f.Place == "picture.file");
        // What is no profile, or another than was said, makes nothing.
        foreach (var wrong in (byte[]?[])[null, [], [1, 2, 3], png, icc[..100]])
        {
            var e = Assert.Throws<UnreadableFileException>(() => Make(png, Of(recipe), wrong));
            Assert.Equal(FileFaultCode.ProfileUnreadable, e.Fault.Code);
        }
        Assert.Equal(recipe, RecipeFile.Read(RecipeFile.Write(Of(recipe))).Recipe!.Picture);
    }

    [Fact]
    public void A_scene_is_drawn_at_any_size()
    {
        var glb = Samples.Glb([new Samples.Box("Crate", 1)]);
        var (made, file) = Make(glb, OurRecipes.Find("screen-1080")!);
        Assert.Equal((1440, 1080), (made.Frame!.Width, made.Frame.Height));
        using var image = Image.NewFromBuffer(file);
        Assert.Equal((1440, 1080), (image.Width, image.Height));
        Assert.True(image.Max() > image.Min());
    }

    private static byte[] Tones(double seconds, int rate = 48_000, short channels = 2, int bits = 24)
    {
        var frames = (int)(rate * seconds);
        var data = new byte[frames * channels * bits / 8];
        var random = new Random(5);
        for (var i = 0; i < frames * channels; i++)
        {
            var t = i / channels / (double)rate;
            var value = 0.5 * Math.Sin(2 * Math.PI * (i % channels == 0 ? 330 : 331) * t) + 0.02 * (random.NextDouble() - 0.5);
            // A stretch of silence, and one at full scale.
            value =
                t is > 0.5 and < 0.7 ? 0
                : t is > 1 and < 1.1 ? (i % 3 == 0 ? 0.9999999 : -1)
                : value;
            var whole = (int)Math.Round(value * ((1 << (bits - 1)) - 1));
            for (var b = 0; b < bits / 8; b++)
                data[i * bits / 8 + b] = (byte)(whole >> (8 * b));
        }
        return Samples.WaveOf(data, rate, channels, (short)bits);
    }

    [Theory]
    [InlineData(1, 16)]
    [InlineData(2, 16)]
    [InlineData(2, 24)]
    [InlineData(5, 24)]
    public void Flac_gives_the_same_samples_back_and_flac_itself_finds_nothing_wrong(short channels, int bits)
    {
        var wave = Tones(1.63, channels: channels, bits: bits);
        File.WriteAllBytes(Path.Combine(folder, "in.wav"), wave);
        var (made, file) = Make(wave, Of(new SoundRecipe(SoundFile.Flac)));
        Assert.Equal((bits, channels), (made.Sound!.Bits, (short)made.Sound.Channels));
        Said("flac", "-s", "-t", "made.flac");
        Said("flac", "-s", "-d", "made.flac", "-o", "back.wav", "--force-raw-format", "--endian=little", "--sign=signed");
        var raw = File.ReadAllBytes(Path.Combine(folder, "back.wav"));
        Assert.Equal(wave[^raw.Length..], raw);
        Assert.True(file.Length < wave.Length, $"{file.Length} of {wave.Length}");
        // And our own reader, which checks the sums of all frames.
        Assert.Null(FormatReader.Read(new MemoryStream(file)).Fault);
    }

    [Fact]
    public void Noise_and_single_frames_are_flac_too()
    {
        foreach (var frames in (int[])[1, 2, 5, 4096, 4097, 9000])
        {
            var noise = Samples.WaveOf(Samples.Noise(frames * 6, frames), 44_100, 2, 24);
            Make(noise, Of(new SoundRecipe(SoundFile.Flac)));
            Said("flac", "-s", "-f", "-d", "made.flac", "-o", "back.raw", "--force-raw-format", "--endian=little", "--sign=signed");
            Assert.Equal(Samples.Noise(frames * 6, frames), File.ReadAllBytes(Path.Combine(folder, "back.raw")));
        }
    }

    [Fact]
    public void Aiff_and_what_is_coded_are_read_by_others_at_the_length_that_they_have()
    {
        var wave = Tones(2);
        Make(wave, Of(new SoundRecipe(SoundFile.Aiff)));
        File.WriteAllBytes(Path.Combine(folder, "in.wav"), wave);
        Said("sox", "made.aif", "-t", "raw", "-e", "signed", "-b", "24", "-L", "ours.raw");
        Said("sox", "in.wav", "-t", "raw", "-e", "signed", "-b", "24", "-L", "theirs.raw");
        Assert.Equal(File.ReadAllBytes(Path.Combine(folder, "theirs.raw")), File.ReadAllBytes(Path.Combine(folder, "ours.raw")));
        (SoundFile File, string Codec)[] coded = [(SoundFile.Mp3, "mp3"), (SoundFile.Opus, "opus"), (SoundFile.Aac, "aac")];
        foreach (var (kind, codec) in coded)
        {
            var recipe = Of(new SoundRecipe(kind) { KiloBits = 96 });
            Make(wave, recipe);
            string[] asked = ["-v", "error", "-show_entries", "stream=codec_name:format=duration", "-of", "csv=p=0"];
            var told = Said("ffprobe", [.. asked, $"made{recipe.Extension}"])
                .Split((char[])['\n', ','], StringSplitOptions.RemoveEmptyEntries);
            Assert.Equal(codec, told[0]);
            Assert.InRange(double.Parse(told[1], CultureInfo.InvariantCulture), 1.95, 2.1);
        }
    }

    [Fact]
    public void A_broadcast_wave_says_of_what_it_is_and_how_loud()
    {
        var recipe = Of(
            new SoundRecipe(SoundFile.Wave)
            {
                IsBroadcast = true,
                Loudness = -23,
                From = 0.5,
            }
        );
        var at = new DateTimeOffset(2026, 3, 2, 9, 30, 0, TimeSpan.Zero);
        var (_, file) = Make(Tones(6), recipe, from: new MadeFrom("TIM_guide_mix_OD_004.wav", "Lantern Yard", at));
        var tags = FormatReader.Read(new MemoryStream(file)).Tags.ToDictionary(t => t.Name, t => t.Value);
        Assert.Equal(("TIM_guide_mix_OD_004.wav", "Lantern Yard"), (tags["description"], tags["originator"]));
        Assert.Equal(("2026-03-02", "09:30:00", "24000"), (tags["date"], tags["time"], tags["time reference"]));
        // Where the standard has the loudness (version 2, at byte 412 of the chunk), in hundredths.
        var bext = file.AsSpan().IndexOf("bext"u8) + 8;
        Assert.Equal(-2300, BitConverter.ToInt16(file, bext + 412), 10.0);
        Assert.Contains("24000", Said("ffprobe", "-v", "error", "-show_entries", "format_tags=time_reference", "made.wav"));
    }

    private static byte[] Drawing(string inside) =>
        Encoding.UTF8.GetBytes(
            $"<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='50mm' viewBox='0 0 1000 500'>{inside}</svg>"
        );

    [Theory]
    [InlineData(DrawingFile.Hpgl, 0.02)]
    [InlineData(DrawingFile.Dxf, 0.001)]
    public void Lines_to_be_cut_are_read_back_as_the_shapes_that_were_drawn(DrawingFile kind, double rounding)
    {
        var svg = Drawing(
            """
            <g id="Cut"><rect x="100" y="100" width="200" height="100"/>
            <g transform="translate(500 250) rotate(90)"><circle r="100"/></g></g>
            <g id="Fold" stroke="red" fill="none"><path d="M0 0h300"/><line x1="0" y1="500" x2="1000" y2="500"/></g>
            <defs><path id="tooth" d="M0 0l10 10"/></defs><use href="#tooth" x="900"/>
            <path d="M0 0h5" display="none"/><text x="5" y="5">not cut</text><path d="M1 1h5" fill="none" stroke="none"/>
            """
        );
        var (made, file) = Make(svg, Of(new DrawingRecipe(kind) { Tolerance = 0.01 }));
        Assert.Equal((5, 100.0, 50.0), (made.Strokes!.Count, made.Strokes.Width, made.Strokes.Height));
        Assert.Equal(["Cut", "Fold", ""], made.Strokes.Tools);
        var path = new CuttingMachine().Follow(Encoding.ASCII.GetString(file));
        Assert.Equal(5, path.Strokes.Count);
        // A rectangle of 20 x 10 mm, a circle of 10 mm radius, lines of 30 and 100 mm, and a tooth.
        double[] lengths = [60, 20 * Math.PI, 30, 100, Math.Sqrt(2)];
        Assert.All(path.Strokes.Zip(lengths), s => Assert.Equal(s.Second, s.First.Length, 0.05));
        // Upwards is up there: the rectangle, 10 mm from the upper edge, lies at 30 to 40 mm.
        var (left, bottom, right, top) = (
            path.Strokes[0].Points.Min(p => p.X),
            path.Strokes[0].Points.Min(p => p.Y),
            path.Strokes[0].Points.Max(p => p.X),
            path.Strokes[0].Points.Max(p => p.Y)
        );
        Assert.All([(10, left), (30, bottom), (30, right), (40, top)], p => Assert.Equal(p.Item1, p.Item2, rounding));
        // No piece of the circle lies further beside it than asked.
        Assert.All(path.Strokes[1].Points, p => Assert.Equal(10, p.To(new(50, 25)), rounding + 0.01));
        foreach (var (a, b) in path.Strokes[1].Points.Zip(path.Strokes[1].Points.Skip(1)))
            Assert.Equal(10, new DrawnPoint((a.X + b.X) / 2, (a.Y + b.Y) / 2).To(new(50, 25)), rounding + 0.011);
        Assert.Equal(made.Strokes.Length, path.Cut, 0.5);
        Assert.True(path.Time > TimeSpan.FromSeconds(path.Cut / 200));
    }

    [Fact]
    public void Lines_are_cut_layer_by_layer_or_colour_by_colour_and_what_has_none_makes_nothing()
    {
        var svg = Drawing(
            """
            <g id="A"><path d="M0 0h9" style="fill:none;stroke:red"/><path d="M0 9h9" style="fill:none;stroke:blue"/></g>
            <g id="B"><path d="M0 20h9" fill="none" stroke="red"/></g>
            """
        );
        Assert.Equal(["A", "B"], Make(svg, Of(new DrawingRecipe(DrawingFile.Hpgl))).Made.Strokes!.Tools);
        var byColour = Make(svg, Of(new DrawingRecipe(DrawingFile.Hpgl) { Order = StrokeOrder.Colour })).Made.Strokes!;
        Assert.Equal(["red", "blue"], byColour.Tools);
        foreach (var empty in (byte[][])[Drawing(""), Drawing("<text>only words</text>"), Drawing("<path d='garbage'/>")])
        {
            var e = Assert.Throws<UnreadableFileException>(() => Make(empty, Of(new DrawingRecipe(DrawingFile.Dxf))));
            Assert.Equal(FileFaultCode.NoStrokes, e.Fault.Code);
        }
        // What is used by what is used ends.
        var groups = Enumerable.Range(0, 30).Select(i => $"<g id='g{i}'><use href='#g{i + 1}'/><use href='#g{i + 1}'/></g>");
        var endless = Drawing(string.Concat(groups));
        Assert.Throws<UnreadableFileException>(() => Make(endless, Of(new DrawingRecipe(DrawingFile.Dxf))));
    }

    [Fact]
    public void A_plain_drawing_is_the_drawing_without_what_its_program_keeps_in_it()
    {
        var svg = Encoding.UTF8.GetBytes(
            """
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:own="urn:gull" own:window="3" viewBox="0 0 9 9">
            <rect width="3" height="3"/></svg>
            """
        );
        var text = Encoding.UTF8.GetString(Make(svg, OurRecipes.Find("plain-svg")!).File);
        Assert.DoesNotContain("gull", text);
        Assert.Contains("rect", text);
    }

    private static byte[] Cut(byte[] content, PartCut cut)
    {
        using var output = new MemoryStream();
        Rewriting.PartCutter.Cut(new MemoryStream(content), cut, output);
        return output.ToArray();
    }

    [Fact]
    public void A_region_is_cut_out_in_the_form_that_it_has()
    {
        var region = new PartCut(new PictureRegion(20, 10, 40, 30), null);
        var layered = Samples.OpenRaster(
            100,
            60,
            new Samples.OraLayer("Moon", 10, 10, Red: 250, X: 25, Y: 12),
            new Samples.OraLayer("Sky", 100, 60, Red: 10)
        );
        var facts = FormatReader.Read(new MemoryStream(Cut(layered, region)));
        Assert.Equal((FileFormat.OpenRaster, 40, 30), (facts.Format, facts.Picture!.Width, facts.Picture.Height));
        Assert.Equal([("Moon", 5, 2), ("Sky", -20, -10)], facts.Layers.Select(l => (l.Name, l.X, l.Y)));
        // Nothing of a layer is lost: it reaches past the canvas.
        Assert.Equal(FormatReader.Read(new MemoryStream(layered)).Layers.Select(l => l.Pixels), facts.Layers.Select(l => l.Pixels));

        using var flat = Image.Black(100, 60, bands: 3).NewFromImage([9.0, 8, 7]).Copy(interpretation: Enums.Interpretation.Srgb);
        using var marked = flat.Insert(flat.NewFromImage([200.0, 100, 50]).Crop(0, 0, 1, 1), 20, 10);
        using var part = Image.NewFromBuffer(Cut(marked.PngsaveBuffer(), region));
        Assert.Equal((40, 30), (part.Width, part.Height));
        Assert.Equal([200, 100, 50], part.Getpoint(0, 0));
        Assert.Equal([9, 8, 7], part.Getpoint(1, 1));

        var drawing = Encoding.UTF8.GetBytes(
            "<svg xmlns='http://www.w3.org/2000/svg' width='100' height='60' viewBox='0 0 200 120'><rect id='a' x='40' y='20' width='80' height='60'/></svg>"
        );
        using var drawn = Image.NewFromBuffer(Cut(drawing, region));
        Assert.Equal((40, 30), (drawn.Width, drawn.Height));
        // The rectangle lies in the region exactly.
        Assert.Equal(255, drawn.Getpoint(0, 0)[3]);
        Assert.Equal(255, drawn.Getpoint(39, 29)[3]);
        foreach (
            var outside in (PictureRegion[])[new(100, 0, 5, 5), new(0, 0, 0, 5), new(-9, -9, 9, 9), new(int.MaxValue, 0, int.MaxValue, 1)]
        )
        {
            foreach (var file in (byte[][])[layered, drawing, marked.PngsaveBuffer()])
            {
                var e = Assert.Throws<UnreadableFileException>(() => Cut(file, new PartCut(outside, null)));
                Assert.Equal(FileFaultCode.OutsideOfIt, e.Fault.Code);
            }
        }
    }

    [Fact]
    public void A_stretch_has_the_very_samples_that_were_there()
    {
        var wave = Tones(2, rate: 8_000, channels: 1, bits: 16);
        var part = Cut(wave, new PartCut(null, new SoundStretch(0.5, 0.25)));
        Assert.Equal(wave[^(int)(8_000 * 1.5 * 2)..][..4_000], part[^4_000..]);
        Assert.Equal(2_000, FormatReader.Read(new MemoryStream(part)).Sound!.Frames);
        foreach (var wrong in (SoundStretch[])[new(5, 1), new(-1, 1), new(0, 0), new(0, -2)])
            Assert.Throws<UnreadableFileException>(() => Cut(wave, new PartCut(null, wrong)));
        Assert.Throws<UnreadableFileException>(() => Cut(wave, new PartCut(new PictureRegion(0, 0, 5, 5), null)));
    }

    private static byte[] Put(byte[] target, byte[] source, int[] parts, SoundStretch? stretch = null, double at = 0)
    {
        using var output = new MemoryStream();
        Rewriting.PartPutter.Put(new MemoryStream(target), new MemoryStream(source), parts, "TIM_moon_014.ora", stretch, at, output);
        return output.ToArray();
    }

    [Fact]
    public void Layers_are_put_into_a_layered_picture_and_all_that_was_there_stays()
    {
        var target = Samples.OpenRaster(60, 40, new Samples.OraLayer("Text", 8, 8), new Samples.OraLayer("Sky", 60, 40, Red: 10));
        var source = Samples.OpenRaster(
            60,
            40,
            new Samples.OraLayer("Gull", 5, 5, Red: 200, X: 3),
            new Samples.OraLayer("Moon", 9, 9, Red: 250, Y: 7),
            new Samples.OraLayer("Sea", 60, 40)
        );
        var facts = FormatReader.Read(new MemoryStream(Put(target, source, [0, 1])));
        Assert.Equal(["TIM_moon_014.ora", "Gull", "Moon", "Text", "Sky"], facts.Layers.Select(l => l.Name));
        var (before, others) = (FormatReader.Read(new MemoryStream(target)).Layers, FormatReader.Read(new MemoryStream(source)).Layers);
        Assert.Equal(
            [others[0].Pixels, others[1].Pixels, before[0].Pixels, before[1].Pixels],
            facts.Layers.Where(l => l.Kind != LayerKind.Group).Select(l => l.Pixels)
        );
        Assert.Throws<UnreadableFileException>(() => Put(target, source, []));
        Assert.Throws<UnreadableFileException>(() => Put(target, source, [7, -1]));
        Assert.Throws<UnreadableFileException>(() => Put(target, Drawing("<g><path d='M0 0h9'/></g>"), [0]));
    }

    [Fact]
    public void Elements_come_into_a_drawing_with_what_they_are_drawn_with_under_identities_of_their_own()
    {
        var target = Drawing("<defs><linearGradient id='sky'/></defs><g id='a' fill='url(#sky)'><rect width='5' height='5'/></g>");
        var source = Drawing(
            """
            <defs><linearGradient id='sky' href='#base'/><linearGradient id='base'/><linearGradient id='unused'/></defs>
            <g id='a'><path d='M0 0h9' fill='url(#sky)'/></g><g id='b'><rect width='3' height='3'/></g>
            """
        );
        var from = FormatReader.Read(new MemoryStream(source));
        var a = from.Layers.Select((l, i) => (l, i)).First(l => l.l.Name == "a").i;
        var text = Encoding.UTF8.GetString(Put(target, source, [a]));
        Assert.Contains("id=\"sky-2\"", text);
        Assert.Contains("url(#sky-2)", text);
        Assert.Contains("id=\"base\"", text);
        Assert.Contains("id=\"a-2\"", text);
        Assert.DoesNotContain("unused", text);
        var after = FormatReader.Read(new MemoryStream(Encoding.UTF8.GetBytes(text)));
        Assert.Null(after.Fault);
        Assert.Equal(["TIM_moon_014.ora", "a-2", "a"], after.Layers.Select(l => l.Name));
    }

    [Fact]
    public void A_stretch_is_put_into_a_sound_at_its_place()
    {
        var target = Tones(2, rate: 8_000, channels: 1, bits: 16);
        var source = Tones(1, rate: 8_000, channels: 1, bits: 16);
        var made = Put(target, source, [], new SoundStretch(0.25, 0.5), 1.5);
        var (t, s, m) = (target[^32_000..], source[^16_000..], made[^40_000..]);
        Assert.Equal(t[..24_000], m[..24_000]);
        Assert.Equal(s[4_000..12_000], m[24_000..32_000]);
        Assert.Equal(t[24_000..], m[32_000..]);
        // At another rate and in stereo it is converted; what was there stays to the sample.
        var other = Put(target, Tones(1, rate: 48_000), [], null, 2);
        Assert.Equal(t, other[^(32_000 + 16_000)..^16_000]);
        foreach (var (stretch, at) in ((SoundStretch?, double)[])[(null, 3), (null, -1), (new(5, 1), 0), (new(0, 0), 0), (new(-1, 1), 0)])
            Assert.Throws<UnreadableFileException>(() => Put(target, source, [], stretch, at));
    }

    [Fact]
    public void Its_size_is_told_from_samples_before_it_is_made()
    {
        // Neither empty nor noise: a picture that is busier below than above.
        using var waves =
            (Image.Sines(900, 1400, hfreq: 3, vfreq: 7) * 60 + 128)
            + Image.Gaussnoise(900, 1400, sigma: 6, mean: 0) * (Image.Xyz(900, 1400)[1] / 1400);
        using var picture = waves
            .Bandjoin(waves * 0.8, waves * 0.6)
            .Cast(Enums.BandFormat.Uchar)
            .Copy(interpretation: Enums.Interpretation.Srgb);
        var png = picture.PngsaveBuffer();
        PictureRecipe[] recipes =
        [
            new(PictureFile.Png) { Size = new(1350, 2100, "px") },
            new(PictureFile.Jpeg) { Quality = 85 },
            new(PictureFile.WebP),
            new(PictureFile.Tiff) { Depth = 16 },
            new(PictureFile.Pdf) { Size = new(90, 140, "mm", 300), Fit = PictureFit.Fill },
        ];
        foreach (var recipe in recipes)
        {
            var told = OutputMaker.Estimate(new MemoryStream(png), Of(recipe)).Bytes;
            Assert.InRange((double)told / Make(png, Of(recipe)).File.Length, 0.75, 1.33);
        }
        var wave = Tones(25);
        foreach (
            var (kind, tolerance) in ((SoundFile, double)[])
                [(SoundFile.Wave, 0.001), (SoundFile.Flac, 0.2), (SoundFile.Aiff, 0.001), (SoundFile.Mp3, 0.1)]
        )
        {
            var recipe = Of(new SoundRecipe(kind));
            Assert.Equal(1, (double)OutputMaker.Estimate(new MemoryStream(wave), recipe).Bytes / Make(wave, recipe).File.Length, tolerance);
        }
    }

    [Fact]
    public void Many_sizes_are_told_at_once_from_one_picture()
    {
        // Its rows are read once from top to bottom, by as many threads as there are, and by all of them at once here.
        using var picture = (Image.Sines(300, 4000, hfreq: 3, vfreq: 7) * 60 + 128).Cast(Enums.BandFormat.Uchar);
        var png = picture.PngsaveBuffer();
        var recipe = Of(new PictureRecipe(PictureFile.Jpeg) { Quality = 85 });
        var told = new long[80];
        Parallel.For(
            0,
            told.Length,
            new ParallelOptions { MaxDegreeOfParallelism = 8 },
            i => told[i] = OutputMaker.Estimate(new MemoryStream(png), recipe).Bytes
        );
        Assert.Single(told.Distinct());
        Assert.InRange((double)told[0] / Make(png, recipe).File.Length, 0.75, 1.33);
    }

    [Fact]
    public void A_contact_sheet_has_a_page_for_every_twelve_with_their_names()
    {
        var cells = Enumerable
            .Range(1, 13)
            .Select(i => new SheetCell($"TIM_moon_{i:000}.ora", $"version {i}, (“with” dates)", i == 5 ? null : 0));
        using var output = new MemoryStream();
        SheetMaker.Make(new ContactSheet("Moonpull", "13 versions", [.. cells]), [new MemoryStream(Layered(90, 60))], output);
        File.WriteAllBytes(Path.Combine(folder, "made.pdf"), output.ToArray());
        Said("qpdf", "--check", "made.pdf");
        var facts = FormatReader.Read(new MemoryStream(output.ToArray()));
        Assert.Equal((FileFormat.Pdf, 2), (facts.Format, facts.Document!.Pages));
        var text = Said("qpdf", "--qdf", "--object-streams=disable", "made.pdf", "-");
        Assert.Contains("(TIM_moon_013.ora) Tj", text);
        Assert.Contains(@"(version 7, \(""with"" dates\)) Tj", text);
    }

    private static byte[] Layered(int width, int height) =>
        Samples.OpenRaster(width, height, new Samples.OraLayer("Moon", 9, 9, Red: 250), new Samples.OraLayer("Sky", width, height));
}
