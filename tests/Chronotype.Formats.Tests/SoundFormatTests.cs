using System.Buffers.Binary;
using System.Text;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Tests;

public class SoundFormatTests
{
    private static FileFacts Read(byte[] bytes) => FormatReader.Read(new MemoryStream(bytes));

    private static byte[] Big(int bytes, long number)
    {
        var all = new byte[8];
        BinaryPrimitives.WriteInt64BigEndian(all, number);
        return all[^bytes..];
    }

    private static byte[] Little(uint number) => BitConverter.GetBytes(number);

    private static byte[] Chunk(string id, byte[] body, bool isBig = true) =>
        [.. Encoding.ASCII.GetBytes(id), .. isBig ? Big(4, body.Length) : Little((uint)body.Length), .. body, .. new byte[body.Length & 1]];

    /// <summary>Stereo at 48 kHz and 16 bit.</summary>
    /// <param name="samples">Lowest byte first, as a WAVE file has them.</param>
    internal static byte[] Aiff(byte[] samples, bool isLittle = false)
    {
        var turned = samples.ToArray();
        for (var i = 0; !isLittle && i < turned.Length; i += 2)
            (turned[i], turned[i + 1]) = (turned[i + 1], turned[i]);
        // 48000 as an extended: 2 to the power of 15, times 48000 / 32768.
        byte[] common = [.. Big(2, 2), .. Big(4, samples.Length / 4), .. Big(2, 16), 0x40, 0x0E, 0xBB, 0x80, 0, 0, 0, 0, 0, 0];
        byte[] marks = [.. Big(2, 2), .. Big(2, 1), .. Big(4, 4800), 4, .. "bell"u8, 0, .. Big(2, 2), .. Big(4, 9600), 0, 0];
        byte[] body =
        [
            .. isLittle ? "AIFC"u8 : "AIFF"u8,
            .. Chunk("COMM", isLittle ? [.. common, .. "sowt"u8, 0, 0] : common),
            .. Chunk("MARK", marks),
            .. Chunk("SSND", [.. new byte[8], .. turned]),
        ];
        return Chunk("FORM", body);
    }

    /// <summary>The same with two cue points, one of them named and a region.</summary>
    internal static byte[] Marked(byte[] wave)
    {
        byte[] Point(uint id, uint at) => [.. Little(id), .. Little(0), .. "data"u8, .. Little(0), .. Little(0), .. Little(at)];
        byte[] list =
        [
            .. "adtl"u8,
            .. Chunk("labl", [.. Little(2), .. "voice"u8, 0], isBig: false),
            .. Chunk("ltxt", [.. Little(2), .. Little(24_000), .. new byte[12]], isBig: false),
        ];
        return
        [
            .. wave,
            .. Chunk("cue ", [.. Little(2), .. Point(2, 4800), .. Point(1, 2400)], isBig: false),
            .. Chunk("LIST", list, isBig: false),
        ];
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void An_aiff_is_the_same_sound_as_the_wave_of_its_samples(bool isLittle)
    {
        var wave = Samples.Wave(2);
        var aiff = Aiff(wave[44..], isLittle);
        var facts = Read(aiff);
        Assert.Equal((FileFormat.Aiff, null, Read(wave).Sound, Read(wave).Level), (facts.Format, facts.Fault, facts.Sound, facts.Level));
        Assert.Equal([new MarkerFacts(0.1, "bell"), new MarkerFacts(0.2, "")], facts.Markers);
        using var first = new MemoryStream(wave);
        using var second = new MemoryStream(aiff);
        var compared = SaveComparer.Compare(first, Read(wave), second, facts);
        Assert.Equal((0.0, ComparisonBasis.Time), (compared.Change, compared.Basis));
        Assert.Equal("image/svg+xml", PreviewMaker.Make(second, 480)!.MediaType);
    }

    [Fact]
    public void An_aiff_that_is_cut_short_or_packed_says_so()
    {
        var aiff = Aiff(Samples.Wave(2)[44..]);
        var cut = Read(aiff[..(aiff.Length / 2)]).Fault!;
        Assert.Equal((FileFaultCode.SoundCutShort, 1.0), (cut.Code, Math.Round(cut.Number, 1)));
        Assert.Equal(FileFaultCode.NoSamples, Read(aiff[..60]).Fault!.Code);
        var packed = Aiff(Samples.Wave(1)[44..], isLittle: true);
        "ima4"u8.CopyTo(packed.AsSpan(packed.AsSpan().IndexOf("sowt"u8)));
        Assert.Equal((FileFaultCode.UnknownCoding, "ima4"), (Read(packed).Fault!.Code, Read(packed).Fault!.Name));
    }

    [Fact]
    public void Cue_points_are_markers_with_their_names_and_lengths() =>
        Assert.Equal([new MarkerFacts(0.05, ""), new MarkerFacts(0.1, "voice", 0.5)], Read(Marked(Samples.Wave(1))).Markers);

    [Fact]
    public void What_broadcasters_and_recordists_write_into_a_wave_is_told()
    {
        var bext = new byte[602 + 11];
        "Night tide, take 3"u8.CopyTo(bext);
        "Spring Tide"u8.CopyTo(bext.AsSpan(256));
        "2026-03-02"u8.CopyTo(bext.AsSpan(320));
        "21:40:07"u8.CopyTo(bext.AsSpan(330));
        BitConverter.GetBytes(3_744_480_000UL).CopyTo(bext, 338);
        "A=PCM,F=480"u8.CopyTo(bext.AsSpan(602));
        var ixml = "<?xml version=\"1.0\"?><BWFXML><SCENE>sc010</SCENE><TAKE>3</TAKE><NOTE>bell off key</NOTE></BWFXML>"u8.ToArray();
        byte[] wave = [.. Samples.Wave(1), .. Chunk("bext", bext, isBig: false), .. Chunk("iXML", ixml, isBig: false)];
        Assert.Equal(
            [
                ("description", "Night tide, take 3"),
                ("originator", "Spring Tide"),
                ("date", "2026-03-02"),
                ("time", "21:40:07"),
                ("time reference", "3744480000"),
                ("coding history", "A=PCM,F=480"),
                ("scene", "sc010"),
                ("take", "3"),
                ("note", "bell off key"),
            ],
            Read(wave).Tags.Select(t => (t.Name, t.Value))
        );
        // What is wrong with a tag is nothing wrong with the sound.
        byte[] odd =
        [
            .. Samples.Wave(1),
            .. Chunk("bext", [1, 2, 3], isBig: false),
            .. Chunk("iXML", "<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;"u8.ToArray(), isBig: false),
        ];
        Assert.Equal((null, 0), (Read(odd).Fault, Read(odd).Tags.Count));
    }

    [Fact]
    public void A_wave_of_64_bit_sizes_is_read_by_them()
    {
        var wave = Samples.Wave(1);
        byte[] sizes = [.. BitConverter.GetBytes(0L), .. BitConverter.GetBytes((long)(wave.Length - 44)), .. new byte[12]];
        byte[] large =
        [
            .. "BW64"u8,
            .. Little(uint.MaxValue),
            .. "WAVE"u8,
            .. Chunk("ds64", sizes, isBig: false),
            .. wave[12..40],
            .. Little(uint.MaxValue),
            .. wave[44..],
        ];
        Assert.Equal(Read(wave).Sound, Read(large).Sound);
        Assert.Null(Read(large).Fault);
        // One that promises more than any file could hold is cut short, and nothing worse.
        BitConverter.GetBytes(long.MaxValue).CopyTo(large, 28);
        Assert.Equal(FileFaultCode.SoundCutShort, Read(large).Fault!.Code);
    }

    [Fact]
    public void Floats_above_full_scale_keep_their_peak_and_what_is_no_number_is_silence()
    {
        float[] samples = [0.5f, 2f, float.NaN, float.PositiveInfinity, -2f];
        var facts = Read(Float(samples[..3]));
        Assert.Equal(6.02, facts.Level!.Peak!.Value, 2);
        Assert.InRange(Read(Float(samples)).Level!.TruePeak!.Value, 6, 70);
    }

    private static byte[] Float(float[] samples)
    {
        var wave = Samples.WaveOf([.. samples.SelectMany(BitConverter.GetBytes)], channels: 1, bits: 32);
        wave[20] = 3;
        return wave;
    }
}
