using System.Buffers.Binary;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Tests;

public class ComparingTests
{
    private static Comparison Compare(byte[] before, byte[] after) =>
        SaveComparer.Compare(
            new MemoryStream(before),
            FormatReader.Read(new MemoryStream(before)),
            new MemoryStream(after),
            FormatReader.Read(new MemoryStream(after))
        );

    private static readonly Samples.OraLayer Sky = new("Sky", 100, 100),
        Moon = new("Moon", 40, 40, Red: 90, X: 10, Y: 10);

    [Fact]
    public void A_repainted_layer_counts_by_the_share_of_its_area()
    {
        var result = Compare(
            Samples.OpenRaster(100, 100, Moon, Sky),
            Samples.OpenRaster(100, 100, Moon, Sky with { Patch = (0, 0, 50, 50) })
        );
        Assert.Equal(
            [("Moon", PartChangeKind.Same, null), ("Sky", PartChangeKind.Repainted, 0.25)],
            result.Parts.Select(p => (p.Name, p.Kind, p.Share))
        );
        // 2,500 of the 11,600 pixels that the two layers have.
        Assert.Equal(2500.0 / 11600, result.Change!.Value, 6);
        Assert.Equal((ComparisonBasis.Layers, 100, 100), (result.Basis, result.Before!.Width, result.After!.Height));
    }

    [Fact]
    public void A_moved_layer_is_moved_and_not_repainted()
    {
        var result = Compare(Samples.OpenRaster(100, 100, Moon, Sky), Samples.OpenRaster(100, 100, Moon with { X = 40, Y = 50 }, Sky));
        Assert.Equal(
            ("Moon", PartChangeKind.Moved, new PixelOffset(30, 40)),
            (result.Parts[0].Name, result.Parts[0].Kind, result.Parts[0].MovedBy)
        );
        Assert.InRange(result.Change!.Value, 0.1, 0.4);
    }

    [Fact]
    public void Added_and_removed_layers_are_named()
    {
        var result = Compare(
            Samples.OpenRaster(100, 100, Moon, Sky),
            Samples.OpenRaster(100, 100, Moon with { Name = "Gulls", Red = 7 }, Sky)
        );
        Assert.Equal(
            [("Gulls", PartChangeKind.Added), ("Sky", PartChangeKind.Same), ("Moon", PartChangeKind.Removed)],
            result.Parts.Select(p => (p.Name, p.Kind))
        );
    }

    [Fact]
    public void A_renamed_layer_is_the_same_pixels_under_another_name()
    {
        var result = Compare(Samples.OpenRaster(100, 100, Moon), Samples.OpenRaster(100, 100, Moon with { Name = "Full moon" }));
        var part = Assert.Single(result.Parts);
        Assert.Equal(("Full moon", PartChangeKind.Changed, "Moon"), (part.Name, part.Kind, part.FormerName));
        Assert.Equal(0, result.Change);
    }

    [Fact]
    public void The_same_pixels_are_the_same_however_they_are_compressed_and_wherever_they_stand()
    {
        // Once as a small picture at its place, once as one of the canvas's size that is empty around it, deflated otherwise.
        var small = Samples.OpenRaster(200, 100, Moon with { X = 50, Y = 20 }, Sky);
        var wide = Samples.OpenRaster(
            200,
            100,
            new Samples.OraLayer("Moon", 200, 100, Red: 90, Painted: (90, 20, 40, 40), Deflate: 1),
            Sky
        );
        var (a, b) = (FormatReader.Read(new MemoryStream(small)).Layers[0], FormatReader.Read(new MemoryStream(wide)).Layers[0]);
        Assert.Equal((new PixelBox(50, 20, 40, 40), 1600), (a.Bounds!.Value, a.Area));
        Assert.Equal((new PixelBox(90, 20, 40, 40), 1600), (b.Bounds!.Value, b.Area));
        Assert.Equal(a.Pixels, b.Pixels);
        var moved = Compare(small, wide).Parts[0];
        Assert.Equal((PartChangeKind.Moved, new PixelOffset(40, 0)), (moved.Kind, moved.MovedBy));
    }

    [Fact]
    public void A_layer_that_was_moved_and_touched_up_is_told_as_both()
    {
        var result = Compare(
            Samples.OpenRaster(200, 200, Moon, Sky),
            Samples.OpenRaster(200, 200, Moon with { X = 110, Y = 10, Patch = (0, 0, 20, 20) }, Sky)
        );
        var moon = result.Parts[0];
        Assert.Equal((PartChangeKind.Repainted, 0.25, new PixelOffset(100, 0)), (moon.Kind, moon.Share, moon.MovedBy));
    }

    [Fact]
    public void A_layered_picture_and_a_flat_one_are_compared_by_how_they_look()
    {
        // The picture of all its layers is one colour, as the flat one is.
        var layered = Samples.OpenRaster(100, 80, Sky with { Red = 120 }, Moon);
        var same = Compare(layered, Samples.Png(100, 80, red: 120));
        Assert.Equal((ComparisonBasis.PictureArea, 0.0), (same.Basis, same.Change!.Value));
        Assert.Equal(1, Compare(layered, Samples.Png(100, 80, red: 9)).Change);
        Assert.Equal(ComparisonBasis.PictureSize, Compare(layered, Samples.Png(50, 80)).Basis);
        Assert.Equal(
            ComparisonBasis.PictureArea,
            Compare(Samples.Svg("<rect width='100' height='100' fill='#0f0'/>"), Samples.Png(100, 100)).Basis
        );
    }

    [Fact]
    public void Groups_opacity_and_blending_are_read_and_compared()
    {
        var before = Samples.OpenRaster(100, 100, Moon with { Group = "Night" }, Sky);
        var after = Samples.OpenRaster(100, 100, Moon with { Group = "Night", Opacity = 0.5, Blend = "svg:multiply" }, Sky);
        var facts = FormatReader.Read(new MemoryStream(after));
        Assert.Equal(
            [
                (LayerKind.Group, "Night", 0, 1.0, "normal"),
                (LayerKind.Pixels, "Moon", 1, 0.5, "multiply"),
                (LayerKind.Pixels, "Sky", 0, 1.0, "normal"),
            ],
            facts.Layers.Select(l => (l.Kind, l.Name, l.Depth, l.Opacity, l.Blend))
        );
        Assert.Equal(2, facts.LayerCount);
        var result = Compare(before, after);
        Assert.Equal(["Moon", "Sky"], result.Parts.Select(p => p.Name));
        Assert.Equal(
            (PartChangeKind.Changed, "normal", "multiply", 0.5),
            (result.Parts[0].Kind, result.Parts[0].BlendBefore, result.Parts[0].BlendNow, result.Parts[0].OpacityNow)
        );
        Assert.Equal(1600.0 / 11600, result.Change!.Value, 5);
    }

    [Fact]
    public void A_layer_far_outside_the_canvas_is_compared_by_what_is_painted()
    {
        var result = Compare(
            Samples.OpenRaster(100, 100, Moon with { X = int.MaxValue - 50, Y = int.MinValue }, Sky),
            Samples.OpenRaster(100, 100, Moon with { X = int.MinValue, Y = int.MaxValue - 50, Patch = (0, 0, 4, 4) }, Sky)
        );
        Assert.Equal(["Moon", "Sky"], result.Parts.Select(p => p.Name));
        Assert.InRange(result.Change!.Value, 0.01, 1);
    }

    [Fact]
    public void A_drawings_groups_texts_and_pictures_are_its_layers()
    {
        const string before = """
            <defs><g id="unseen"><path d="M0 0h4"/></g></defs>
            <g id="hills"><path d="M0 50h100v50H0z" fill="#284"/></g>
            <g id="front" opacity="0.5"><text id="place" x="10" y="20">Lumen Harbor</text><g id="gulls" transform="translate(5 6)"><path d="M0 0l4 4"/></g></g>
            """;
        var facts = FormatReader.Read(new MemoryStream(Samples.Svg(before)));
        Assert.Equal(
            [(LayerKind.Group, "front", 0), (LayerKind.Drawing, "gulls", 1), (LayerKind.Text, "place", 1), (LayerKind.Drawing, "hills", 0)],
            facts.Layers.Select(l => (l.Kind, l.Name, l.Depth))
        );
        var result = Compare(
            Samples.Svg(before),
            Samples.Svg(
                before
                    .Replace("Lumen Harbor", "Lumen Harbour", StringComparison.Ordinal)
                    .Replace("translate(5 6)", "translate(45, 6)", StringComparison.Ordinal)
                    .Replace("#284", "#285", StringComparison.Ordinal)
            )
        );
        Assert.Equal(
            [("gulls", PartChangeKind.Moved), ("place", PartChangeKind.Reworded), ("path in hills", PartChangeKind.Restyled)],
            result.Parts.Select(p => (p.Name, p.Kind))
        );
        Assert.Equal(new PixelOffset(40, 0), result.Parts[0].MovedBy);
        Assert.Equal(("Lumen Harbor", "Lumen Harbour"), (result.Parts[1].TextBefore, result.Parts[1].TextNow));
    }

    [Fact]
    public void A_drawings_shapes_are_told_one_by_one()
    {
        const string before = """
            <g id="sky"><circle id="moon" cx="30" cy="30" r="10" fill="#fff"/><rect x="5" y="60" width="20" height="10" fill="#123"/>
            <path d="M10 10l5 5" stroke="#000"/><path d="M50 10l5 5v3" stroke="#000"/></g><text x="5" y="90">Tide</text>
            """;
        const string after = """
            <g id="sky"><circle id="moon" cx="30" cy="30" r="10" style="fill: #ffd"/><rect x="5" y="64" width="20" height="10" fill="#123"/>
            <path d="M50 10l5 5v9" stroke="#000"/><ellipse cx="80" cy="80" rx="5" ry="3"/></g><text x="5" y="90">Tides</text>
            """;
        var result = Compare(Samples.Svg(before), Samples.Svg(after));
        Assert.Equal(
            [
                ("Tides", PartChangeKind.Reworded),
                ("moon", PartChangeKind.Restyled),
                ("rectangle in sky", PartChangeKind.Moved),
                ("path in sky", PartChangeKind.Repainted),
                ("ellipse in sky", PartChangeKind.Added),
                ("path in sky", PartChangeKind.Removed),
            ],
            result.Parts.Select(p => (p.Name, p.Kind))
        );
        Assert.Equal(new PixelOffset(0, 4), result.Parts[2].MovedBy);
        Assert.Equal(("Tide", null), (result.Parts[0].TextBefore, result.Parts[0].FormerName));
    }

    [Fact]
    public void Of_closed_files_the_bytes_that_only_one_has_are_told()
    {
        var common = Samples.Noise(300_000);
        byte[] Closed(params byte[][] parts) => [.. "GULL"u8, .. parts.SelectMany(p => p)];
        var result = Compare(
            Closed(common[..100_000], Samples.Noise(40_000, 2), common[100_000..]),
            Closed(common, Samples.Noise(20_000, 3))
        );
        var bytes = result.Bytes!;
        Assert.Equal((340_004, 320_004), (bytes.LengthBefore, bytes.LengthAfter));
        var gone = bytes.Gone[0];
        Assert.InRange(gone.Offset, 85_000, 100_004);
        Assert.InRange(gone.End, 140_004, 155_000);
        Assert.InRange(bytes.New[^1].End, 320_004, 320_004);
        // Very many stretches become as few as can be drawn, and cover the same ends.
        var many = Enumerable.Range(0, 5_000).Select(i => new ByteRange(i * 10L, 3)).ToList();
        var few = ByteStretches.Few(many);
        Assert.Equal(ByteStretches.Most, few.Count);
        Assert.Equal((0, 49_993), (few[0].Offset, few[^1].End));
    }

    [Fact]
    public void What_a_drawing_refers_to_is_told_with_its_line()
    {
        var facts = FormatReader.Read(
            new MemoryStream(
                Samples.Svg(
                    "<image href=\"../assets/gull.png\"/>\n<rect fill=\"url(#here)\" filter=\"url(night.svg#blur)\"/>\n<image xlink:href=\"data:image/png;base64,AAAA\"/>"
                )
            )
        );
        Assert.Equal(
            [
                new ReferenceFacts("../assets/gull.png", "image, href, line 1"),
                new ReferenceFacts("night.svg#blur", "rect, filter, line 2"),
                new ReferenceFacts("", "image, href, line 3", 3),
            ],
            facts.References
        );
    }

    [Fact]
    public void Seconds_put_into_a_recording_are_what_differs()
    {
        var before = Samples.Wave(8, seed: 1);
        var inserted = Samples.Wave(2, seed: 2)[44..];
        var at = 44 + 3 * 48_000 * 4;
        var after = Samples.WaveOf([.. before[44..at], .. inserted, .. before[at..]]);
        var result = Compare(before, after);
        Assert.Equal(0.2, result.Change!.Value, 2);
        var part = Assert.Single(result.Parts);
        Assert.Equal((3.0, 2.0), (Math.Round(part.Stretch!.After, 2), Math.Round(part.Stretch.AfterLength, 2)));
    }

    private static byte[] Cut(byte[] wave, double from, double to)
    {
        const int frame = 4,
            head = 44;
        var (start, end) = (head + (int)(from * 48_000) * frame, head + (int)(to * 48_000) * frame);
        byte[] cut = [.. wave[..start], .. wave[end..]];
        BinaryPrimitives.WriteInt32LittleEndian(cut.AsSpan(4), cut.Length - 8);
        BinaryPrimitives.WriteInt32LittleEndian(cut.AsSpan(40), cut.Length - head);
        return cut;
    }

    [Fact]
    public void A_cut_is_told_with_its_place_and_length()
    {
        var whole = Samples.Wave(20);
        var result = Compare(whole, Cut(whole, 8, 11));
        var cut = Assert.Single(result.Parts);
        Assert.Equal(PartChangeKind.Removed, cut.Kind);
        Assert.Equal((8.0, 3.0), (Math.Round(cut.Stretch!.Before, 2), Math.Round(cut.Stretch.BeforeLength, 2)));
        Assert.InRange(result.Change!.Value, 0.12, 0.18);
        // The other way round it was put in.
        var putIn = Assert.Single(Compare(Cut(whole, 8, 11), whole).Parts);
        Assert.Equal(PartChangeKind.Added, putIn.Kind);
        Assert.Equal(8.0, putIn.Stretch!.After, 2);
    }

    [Theory]
    [InlineData(-6)]
    [InlineData(-0.5)]
    public void A_gain_reads_as_a_gain(double decibels)
    {
        var wave = Samples.Wave(3);
        var louder = wave.ToArray();
        for (var at = 44; at < louder.Length; at += 2)
        {
            var sample = BinaryPrimitives.ReadInt16LittleEndian(louder.AsSpan(at));
            BinaryPrimitives.WriteInt16LittleEndian(louder.AsSpan(at), (short)Math.Round(sample * Math.Pow(10, decibels / 20)));
        }
        Assert.Equal(decibels, Compare(wave, louder).GainDecibels!.Value, 2);
        // Another sound is no gain of this one, nor is one that differs in a single place besides.
        Assert.Null(Compare(wave, Samples.Wave(3, seed: 2)).GainDecibels);
        louder.AsSpan(90_000, 3_000).Clear();
        Assert.Null(Compare(wave, louder).GainDecibels);
    }

    private static byte[] Pages(params byte[] greys)
    {
        var images = greys.Select(g => NetVips.Image.Black(40, 30).Linear([1], [g]).Cast(NetVips.Enums.BandFormat.Uchar)).ToArray();
        using var tall = NetVips.Image.Arrayjoin(images, across: 1);
        using var paged = tall.Mutate(m => m.Set(NetVips.GValue.GIntType, "page-height", 30));
        return paged.TiffsaveBuffer();
    }

    [Fact]
    public void All_pages_of_a_picture_are_compared_and_can_be_drawn()
    {
        Assert.Equal(3, FormatReader.Read(new MemoryStream(Pages(1, 2, 3))).Picture!.Pages);
        var result = Compare(Pages(1, 2, 3), Pages(1, 9, 3));
        Assert.Equal([PartChangeKind.Same, PartChangeKind.Repainted, PartChangeKind.Same], result.Parts.Select(p => p.Kind));
        Assert.Equal(1.0 / 3, result.Change!.Value, 3);
        Assert.Equal(PartChangeKind.Added, Compare(Pages(1, 2), Pages(1, 2, 3)).Parts[2].Kind);
        Assert.Equal(PartChangeKind.Removed, Compare(Pages(1, 2), Pages(1)).Parts[1].Kind);
        var second = PreviewMaker.Make(new MemoryStream(Pages(1, 200, 3)), 480, page: 1)!;
        using var drawn = NetVips.Image.NewFromBuffer(second.Bytes);
        Assert.InRange(drawn.Avg(), 190, 210);
    }

    [Fact]
    public void Hiding_a_layer_is_a_change_of_what_is_seen()
    {
        var shown = Samples.OpenRaster(100, 100, new Samples.OraLayer("Top", 100, 100), new Samples.OraLayer("Sky", 100, 100));
        var hidden = Samples.OpenRaster(
            100,
            100,
            new Samples.OraLayer("Top", 100, 100, IsHidden: true),
            new Samples.OraLayer("Sky", 100, 100)
        );
        var result = Compare(shown, hidden);
        Assert.Equal(0.5, result.Change!.Value, 3);
        Assert.False(result.Parts.Single(p => p.Kind != PartChangeKind.Same).IsShown);
    }

    [Fact]
    public void Sounds_of_another_shape_are_compared_all_the_same_and_say_so()
    {
        var result = Compare(Samples.Wave(1), Samples.Wave(1, rate: 44_100));
        Assert.Equal((1.0, ComparisonBasis.Time), (result.Change, result.Basis));
        Assert.Equal((48_000, 44_100), (result.SoundBefore!.SampleRate, result.SoundAfter!.SampleRate));
        Assert.Equal(PartChangeKind.Replaced, Assert.Single(result.Parts).Kind);
    }

    [Fact]
    public void Drawings_are_compared_as_they_look_and_not_as_they_are_written()
    {
        var half = Samples.Svg("""<rect width="50" height="100" fill="#123"/>""");
        var halfInOtherWords = Samples.Svg("""<path d="M0 0H50V100H0z" style="fill:#112233"/>""");
        Assert.Equal(0, Compare(half, halfInOtherWords).Change);
        Assert.Equal(0.5, Compare(half, Samples.Svg("""<rect width="100" height="100" fill="#123"/>""")).Change!.Value, 3);
    }

    [Fact]
    public void Flat_pictures_are_compared_by_area() => Assert.Equal(1, Compare(Samples.Png(30, 30, 1), Samples.Png(30, 30, 2)).Change);

    [Fact]
    public void Closed_formats_are_compared_by_their_bytes_unless_they_are_compressed_as_a_whole()
    {
        var before = Samples.Noise(100_000);
        byte[] after = [.. before[..50_000], .. Samples.Noise(10_000, 7), .. before[60_000..]];
        Assert.InRange(Compare(before, after).Change!.Value, 0.09, 0.13);
        byte[] packed = [(byte)'7', (byte)'z', 0xBC, 0xAF, 0x27, 0x1C];
        Assert.Equal(
            (null, ComparisonBasis.Packed),
            (Compare([.. packed, .. before], [.. packed, .. after]).Change, Compare([.. packed, .. before], [.. packed, .. after]).Basis)
        );
    }

    [Fact]
    public void What_cannot_be_read_is_not_measured_and_says_so()
    {
        var poster = Samples.OpenRaster(100, 100, Sky);
        var result = Compare(poster, poster[..^50]);
        Assert.Null(result.Change);
        Assert.Equal((ComparisonBasis.Unreadable, FileFaultCode.ContainerUnreadable), (result.Basis, result.Fault!.Code));
    }
}
