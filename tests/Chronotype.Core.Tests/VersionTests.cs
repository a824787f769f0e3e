using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests;

public class VersionTests
{
    private static ContentHash Hash(string text) => ContentHash.Of(System.Text.Encoding.UTF8.GetBytes(text));

    private static KeptContent Kept(int number, string content, string? inside = null) =>
        new(new VersionNumber(number), Hash(content), inside is null ? null : Hash(inside));

    private static KeepVerdict Decide(
        string content,
        string? inside = null,
        int? basedOn = null,
        KeptContent[]? line = null,
        int? highest = null,
        int start = 1,
        int? byHand = null,
        SaveDoubt[]? doubts = null,
        bool insist = false
    ) =>
        KeepRule.Decide(
            Hash(content),
            inside is null ? null : Hash(inside),
            basedOn is { } b ? new VersionNumber(b) : null,
            line ?? [],
            highest is { } h ? new VersionNumber(h) : null,
            start,
            byHand is { } n ? new VersionNumber(n) : null,
            doubts ?? [],
            insist
        );

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    public void The_first_number_is_the_conventions(int start) =>
        Assert.Equal(new KeepVerdict.Keep(new VersionNumber(start), null), Decide("a", start: start));

    [Fact]
    public void The_next_number_follows_the_highest_ever_used_even_when_it_is_gone() =>
        Assert.Equal(new KeepVerdict.Keep(new VersionNumber(10), null), Decide("new", line: [Kept(3, "a")], highest: 9, basedOn: 3));

    [Theory]
    [InlineData(15, 15)]
    [InlineData(20, 20)]
    [InlineData(14, 15)]
    [InlineData(3, 15)]
    [InlineData(20260312, 15)]
    public void A_number_written_by_hand_is_taken_only_above_the_highest_and_not_out_of_sight(int byHand, int taken) =>
        Assert.Equal(
            new KeepVerdict.Keep(new VersionNumber(taken), null),
            Decide("new", line: [Kept(14, "a")], highest: 14, basedOn: 14, byHand: byHand)
        );

    [Fact]
    public void Content_equal_to_the_newest_takes_no_number_whoever_insists()
    {
        var same = new KeepVerdict.Same(new VersionNumber(2), false, MayInsist: false);
        Assert.Equal(same, Decide("b", line: [Kept(1, "a"), Kept(2, "b")], highest: 2));
        Assert.Equal(same, Decide("b", line: [Kept(1, "a"), Kept(2, "b")], highest: 2, insist: true));
    }

    [Fact]
    public void Content_equal_to_an_older_one_says_which_and_takes_a_number_only_when_insisted()
    {
        KeptContent[] line = [Kept(1, "a"), Kept(2, "b")];
        Assert.Equal(new KeepVerdict.Same(new VersionNumber(1), false, MayInsist: true), Decide("a", line: line, highest: 2));
        Assert.Equal(new KeepVerdict.Keep(new VersionNumber(3), null), Decide("a", line: line, highest: 2, basedOn: 2, insist: true));
    }

    [Fact]
    public void The_same_inside_in_other_bytes_takes_a_number_only_when_insisted()
    {
        KeptContent[] line = [Kept(1, "a", "layers")];
        Assert.Equal(
            new KeepVerdict.Same(new VersionNumber(1), true, MayInsist: true),
            Decide("a, saved again", "layers", line: line, highest: 1)
        );
        Assert.IsType<KeepVerdict.Keep>(Decide("a, saved again", "layers", line: line, highest: 1, insist: true));
    }

    [Fact]
    public void A_doubt_waits_for_an_answer() =>
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.Flattened, 9, 1)],
            Assert.IsType<KeepVerdict.Question>(Decide("a", doubts: [new SaveDoubt(SaveDoubtCode.Flattened, 9, 1)])).Doubts
        );

    [Fact]
    public void A_keep_whose_base_was_not_the_newest_is_told_so() =>
        Assert.Equal(
            new KeepVerdict.Keep(new VersionNumber(16), new VersionNumber(15)),
            Decide("b", basedOn: 14, line: [Kept(14, "x"), Kept(15, "a")], highest: 15)
        );

    [Property]
    public void No_history_of_keeps_ever_gives_a_number_twice(byte[] contents)
    {
        var line = new List<KeptContent>();
        var given = new List<int>();
        int? highest = null;
        foreach (var (content, i) in contents.Select((c, i) => (c, i)))
        {
            if (
                KeepRule.Decide(
                    Hash($"{content % 5}"),
                    null,
                    null,
                    line,
                    highest is { } h ? new VersionNumber(h) : null,
                    1,
                    content % 3 == 0 ? new VersionNumber(content) : null,
                    [],
                    insist: content > 127
                )
                is not KeepVerdict.Keep keep
            )
                continue;
            given.Add(keep.Number.Value);
            highest = keep.Number.Value;
            line.Add(new KeptContent(keep.Number, Hash($"{content % 5}"), null));
            // Versions come to be thinned, and the newest too.
            if (i % 3 == 0)
                line.RemoveAt(content % line.Count);
        }
        Assert.Equal(given.Distinct().Order(), given);
    }

    [Fact]
    public void A_save_that_lost_what_the_last_version_had_is_doubted()
    {
        var nine = new FileFacts { Layers = [.. Enumerable.Range(0, 9).Select(i => new LayerFacts(LayerKind.Pixels, $"{i}"))] };
        Assert.Equal([new SaveDoubt(SaveDoubtCode.Flattened, 9, 1)], SaveDoubts.Find(nine, nine with { Layers = [nine.Layers[0]] }));
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.FewerLayers, 9, 4)],
            SaveDoubts.Find(nine, nine with { Layers = [.. nine.Layers.Take(4)] })
        );
        Assert.Empty(SaveDoubts.Find(nine, nine with { Layers = [.. nine.Layers.Take(5)] }));
        // A group is no layer, so that a file is flat with one layer in a group, too.
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.Flattened, 9, 1)],
            SaveDoubts.Find(nine, nine with { Layers = [new LayerFacts(LayerKind.Group, "All"), nine.Layers[0] with { Depth = 1 }] })
        );

        var studio = new FileFacts { Sound = new SoundFacts(48000, 24, 2, 1, false) };
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.OtherRate, 48_000, 44_100)],
            SaveDoubts.Find(studio, new FileFacts { Sound = new SoundFacts(44100, 24, 2, 1, false) })
        );
        var cut = new FileFault(FileFaultCode.ContainerUnreadable);
        Assert.Equal([new SaveDoubt(SaveDoubtCode.Unreadable) { Fault = cut }], SaveDoubts.Find(nine, new FileFacts { Fault = cut }));
        Assert.Empty(SaveDoubts.Find(null, nine));
    }

    [Fact]
    public void A_save_unlike_the_last_version_is_doubted_by_what_is_unlike()
    {
        var print = new FileFacts
        {
            Format = FileFormat.Tiff,
            Picture = new PictureFacts(4961, 7016, 3)
            {
                Resolution = 300,
                Colour = ColourModel.Cmyk,
                Depth = 16,
                Profile = "Coated",
            },
        };
        Assert.Empty(SaveDoubts.Find(print, print with { Picture = print.Picture with { Resolution = 300.01 } }));
        SaveDoubtCode[] Codes(PictureFacts now) => [.. SaveDoubts.Find(print, print with { Picture = now }).Select(d => d.Code)];
        Assert.Equal([SaveDoubtCode.OtherSize], Codes(print.Picture with { Width = 2480 }));
        Assert.Equal([SaveDoubtCode.OtherResolution], Codes(print.Picture with { Resolution = 72 }));
        Assert.Equal([SaveDoubtCode.OtherResolution], Codes(print.Picture with { Resolution = null }));
        Assert.Equal([SaveDoubtCode.OtherColour], Codes(print.Picture with { Colour = ColourModel.Rgb }));
        Assert.Equal([SaveDoubtCode.OtherColour], Codes(print.Picture with { Profile = null }));
        Assert.Equal([SaveDoubtCode.OtherColour], Codes(print.Picture with { Depth = 8 }));
        Assert.Equal([SaveDoubtCode.FewerPages], Codes(print.Picture with { Pages = 1 }));

        var mix = new FileFacts { Format = FileFormat.Wave, Sound = new SoundFacts(48_000, 24, 2, 480_000, false) };
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.OtherChannels, 2, 6), new SaveDoubt(SaveDoubtCode.MuchShorter, 10_000, 4_000)],
            SaveDoubts.Find(mix, mix with { Sound = mix.Sound with { Channels = 6, Frames = 192_000 } })
        );

        var closed = new FileFacts();
        Assert.Equal([new SaveDoubt(SaveDoubtCode.MuchSmaller, 900_000, 200_000)], SaveDoubts.Find(closed, closed, 900_000, 200_000));
        Assert.Empty(SaveDoubts.Find(closed, closed, 900_000, 400_000));
        Assert.Empty(SaveDoubts.Find(closed, closed, 900, 2));

        var painted = new FileFacts
        {
            Layers = [.. Enumerable.Range(0, 3).Select(i => new LayerFacts(LayerKind.Pixels, $"{i}") { Area = 1000 })],
        };
        Assert.Equal(
            [new SaveDoubt(SaveDoubtCode.MuchEmptier, 3000, 600)],
            SaveDoubts.Find(painted, painted with { Layers = [.. painted.Layers.Select(l => l with { Area = 200 })] })
        );
    }

    [Fact]
    public void What_a_great_change_is_is_learned_from_the_pieces_own_past()
    {
        Assert.Equal(GreatChange.Usual, GreatChange.Threshold([0.9, 0.9]));
        Assert.Equal(0.15, GreatChange.Threshold([0.01, 0.02, 0.01, 0.05, 0.03, 0.9]), 6);
        Assert.Equal(0.45, GreatChange.Threshold([0.1, 0.2, 0.3, 0.3, 0.2, 0.3, 0.1, 0.9]), 6);
        Assert.Equal(0.7, GreatChange.Threshold([0.9, 0.9, 0.9, 0.8, 1]), 6);
    }

    [Fact]
    public void Saves_less_than_45_minutes_apart_are_one_sitting()
    {
        var start = new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero);
        int[] minutes = [0, 44, 88, 133, 140];
        Assert.Equal([3, 2], Sittings.Group(minutes, m => start.AddMinutes(m)).Select(s => s.Count));
    }

    [Fact]
    public void Risk_counts_from_the_oldest_change_since_the_newest_version()
    {
        var t = new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero);
        SaveMark Mark(int sequence, string content, int? number = null) => new(sequence, Hash(content), t.AddMinutes(sequence), number);

        Assert.Equal(
            new PieceStanding(2, 3, t.AddMinutes(5)),
            PieceStanding.Of([Mark(1, "a", 1), Mark(2, "b"), Mark(3, "c", 2), Mark(4, "c"), Mark(5, "d"), Mark(6, "e")])
        );
        // What was brought back is kept under its older number.
        Assert.Equal(new PieceStanding(2, 1, null), PieceStanding.Of([Mark(1, "a", 1), Mark(2, "b", 2), Mark(3, "a")]));
        Assert.Equal(new PieceStanding(1, 0, null), PieceStanding.Of([Mark(1, "a", 1)]));
        Assert.Equal(new PieceStanding(null, 1, t.AddMinutes(1)), PieceStanding.Of([Mark(1, "a")]));
        Assert.Equal(new PieceStanding(null, 0, null), PieceStanding.Of([]));
    }
}
