using Chronotype.Core.Content;
using Chronotype.Core.Structure;

namespace Chronotype.Core.Tests.Structure;

public class SpecTests
{
    private static readonly ProjectSpec Film = new()
    {
        Sound = new(48_000, 24, 2),
        Picture = new(1920, 1080, 72, ColourModel.Rgb, 8),
        Motion = new(1920, 1080, 25),
    };

    private static FileMeasures Sound(int rate, int bits, int channels) =>
        FileMeasures.Of(new FileFacts { Format = FileFormat.Wave, Sound = new SoundFacts(rate, bits, channels, 1000, false) });

    private static FileMeasures Picture(PictureFacts facts, FileFormat format = FileFormat.Png) =>
        FileMeasures.Of(new FileFacts { Format = format, Picture = facts });

    [Fact]
    public void A_sound_that_is_what_it_must_be_has_no_fault_and_one_that_is_not_has_each()
    {
        Assert.Empty(Film.FaultsOf(Sound(48_000, 24, 2), FolderRole.Home));
        Assert.Equal([SpecPoint.SampleRate, SpecPoint.Bits, SpecPoint.Channels], Film.FaultsOf(Sound(44_100, 16, 1), FolderRole.Home));
        // More bits lose nothing; another rate does, in either direction.
        Assert.Empty(Film.FaultsOf(Sound(48_000, 32, 2), FolderRole.Outputs));
        Assert.Equal([SpecPoint.SampleRate], Film.FaultsOf(Sound(96_000, 24, 2), FolderRole.Outputs));
    }

    [Theory]
    [InlineData(FolderRole.Originals, new[] { SpecPoint.SampleRate })]
    [InlineData(FolderRole.Assets, new[] { SpecPoint.SampleRate })]
    [InlineData(FolderRole.Documents, new SpecPoint[0])]
    [InlineData(FolderRole.Working, new[] { SpecPoint.SampleRate, SpecPoint.Channels })]
    [InlineData(FolderRole.Outputs, new[] { SpecPoint.SampleRate, SpecPoint.Channels })]
    public void A_voice_may_be_mono_until_it_is_a_mix_and_a_document_anything(FolderRole role, SpecPoint[] faults) =>
        Assert.Equal(faults, Film.FaultsOf(Sound(44_100, 24, 1), role));

    [Fact]
    public void What_a_file_does_not_say_is_no_fault_of_it()
    {
        // A coded sound has no bits of a sample; this picture does not say for which resolution it is meant.
        Assert.Empty(Film.FaultsOf(Sound(48_000, 0, 2), FolderRole.Home));
        Assert.Empty(Film.FaultsOf(Picture(new PictureFacts(1920, 1080) { Colour = ColourModel.Rgb, Depth = 8 }), FolderRole.Home));
        Assert.Empty(Film.FaultsOf(new FileMeasures(), FolderRole.Home));
        Assert.Empty(new ProjectSpec().FaultsOf(Sound(1, 1, 1), FolderRole.Home));
    }

    [Fact]
    public void A_drawing_has_any_size_and_colours_of_every_kind()
    {
        var drawing = Picture(new PictureFacts(100, 50), FileFormat.Svg);
        Assert.Empty(Film.FaultsOf(drawing, FolderRole.Outputs));
        var pixels = Picture(
            new PictureFacts(100, 50)
            {
                Colour = ColourModel.Cmyk,
                Depth = 4,
                Resolution = 71.4,
            }
        );
        Assert.Equal(
            [SpecPoint.PixelSize, SpecPoint.Resolution, SpecPoint.Colour, SpecPoint.Depth],
            Film.FaultsOf(pixels, FolderRole.Outputs)
        );
        Assert.Empty(Film.FaultsOf(Picture(new PictureFacts(1920, 1080) { Colour = ColourModel.Grey, Depth = 16 }), FolderRole.Home));
        // 72 ppi is written as 2,835 pixels a metre, which is 72.009.
        Assert.Empty(Film.FaultsOf(Picture(new PictureFacts(9, 9) { Resolution = 71.98 }), FolderRole.Assets));
    }

    [Theory]
    [InlineData(30000 / 1001.0, 29.97, true)]
    [InlineData(30, 29.97, false)]
    [InlineData(24000 / 1001.0, 23.976, true)]
    [InlineData(23.976, 24, false)]
    [InlineData(25, 25, true)]
    public void A_frame_rate_is_the_same_as_far_as_people_write_it(double of, double asked, bool isSame)
    {
        var spec = new ProjectSpec { Motion = new(FramesPerSecond: asked) };
        var film = FileMeasures.Of(new FileFacts { Format = FileFormat.Film, Film = new FilmFacts(1920, 1080, of, 1, false, "h264") });
        Assert.Equal(isSame ? [] : [SpecPoint.FrameRate], spec.FaultsOf(film, FolderRole.Home));
    }

    [Fact]
    public void What_cannot_be_meant_is_out_of_range_and_every_preset_is_within()
    {
        Assert.All(SpecPreset.All, p => Assert.Null(p.Spec.OutOfRange()));
        Assert.Equal(SpecPreset.All.Count, SpecPreset.All.Select(p => p.Key).Distinct().Count());
        Assert.Equal(SpecPoint.SampleRate, new ProjectSpec { Sound = new(SampleRate: 44) }.OutOfRange());
        Assert.Equal(SpecPoint.PixelSize, new ProjectSpec { Picture = new(Width: 1920) }.OutOfRange());
        Assert.Equal(SpecPoint.FrameRate, new ProjectSpec { Motion = new(FramesPerSecond: double.NaN) }.OutOfRange());
        Assert.Equal(SpecPoint.Colour, new ProjectSpec { Picture = new(Colour: (ColourModel)77) }.OutOfRange());
    }
}
