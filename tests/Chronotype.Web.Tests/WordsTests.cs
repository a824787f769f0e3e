using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Sound;
using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Web.Words;

namespace Chronotype.Web.Tests;

/// <summary>There are words for every code that a reader, a deed or a job may give.</summary>
public class WordsTests
{
    private static void AreSaid<TCode>(Func<TCode, string> words)
        where TCode : struct, Enum => Assert.All(Enum.GetValues<TCode>(), code => Assert.InRange(words(code).Length, 5, 300));

    [Fact]
    public void What_speaks_for_a_place_has_words()
    {
        Assert.Contains("014", NameWords.Of(new PlaceReason.OwnName(new VersionNumber(14))));
        Assert.Equal(4, typeof(PlaceReason).GetNestedTypes().Length);
        AreSaid<PatternFault>(f => PatternWords.Of(".scene", "texture", f));
        PlaceReason[] reasons =
        [
            new PlaceReason.GoesWith(),
            new PlaceReason.OwnName(null),
            new PlaceReason.FormerName(),
            new PlaceReason.WordInSlot("sea", "subject"),
            new PlaceReason.OwnName(new VersionNumber(14)),
        ];
        Assert.Equal(5, reasons.Select(NameWords.Of).Distinct().Count());
    }

    [Fact]
    public void Every_fact_has_its_words()
    {
        AreSaid<FileFaultCode>(c => FactWords.Of(new FileFault(c, "a part", 3, 2), FileFormat.OpenRaster));
        AreSaid<FileNoticeCode>(c => FactWords.Of(new FileNotice(c, ["a.svg"], 4, 2)));
        AreSaid<ArrivalNoticeCode>(c => FactWords.Of(new ArrivalNotice(c, "a part", 3, PathFault.LeadsOut)));
        AreSaid<PathFault>(FactWords.Of);
        AreSaid<SaveDoubtCode>(c =>
            FactWords.Of(
                new SaveDoubt(c, 4, 2)
                {
                    Fault = new FileFault(FileFaultCode.Empty),
                    Arrival = new ArrivalNotice(ArrivalNoticeCode.ZipEmpty),
                    KindBefore = ".ora",
                    KindNow = ".png",
                    PictureBefore = new PictureFacts(10, 20) { Colour = ColourModel.Rgb, Depth = 16 },
                    PictureNow = new PictureFacts(5, 10)
                    {
                        Colour = ColourModel.Cmyk,
                        Depth = 8,
                        Profile = "Press",
                    },
                }
            )
        );
        AreSaid<ComparisonBasis>(c =>
            FactWords.Of(
                new Comparison(0.2, c)
                {
                    Before = new PictureFacts(1, 2),
                    After = new PictureFacts(3, 4),
                    Companions = [new PartChange("a", PartChangeKind.Added)],
                }
            )
        );
        AreSaid<JobKind>(JobWords.Of);
        AreSaid<JobError>(JobWords.Of);
    }

    [Fact]
    public void A_sound_that_is_louder_throughout_is_still_the_earlier_one()
    {
        var louder = new PartChange("", PartChangeKind.Louder) { Stretch = new SoundDifference(SoundDifferenceKind.Louder, 0, 9, 0, 9, 2) };
        var all = new Comparison(1, ComparisonBasis.Time) { Parts = [louder], Matches = [new SoundMatch(0, 0, 9)] };
        Assert.Equal("9.0 s louder.", FactWords.Of(all));
        Assert.Equal("9.0 s louder. The rest is the same.", FactWords.Of(all with { Change = 0.5 }));
        Assert.Equal("9.0 s louder. Nothing of the earlier one is left.", FactWords.Of(all with { Matches = [] }));
    }

    [Fact]
    public void A_summary_names_the_largest_changes_first_and_stays_short()
    {
        static PartChange Layer(string name, PartChangeKind kind, double weight) => new(name, kind) { Weight = weight };
        var layers = new Comparison(0.5, ComparisonBasis.Layers)
        {
            Parts =
            [
                Layer("Title", PartChangeKind.Moved, 0.1) with
                {
                    MovedBy = new PixelOffset(0, -350),
                },
                Layer("Paper", PartChangeKind.Same, 0),
                Layer("Sky", PartChangeKind.Repainted, 0.4) with
                {
                    Share = 0.4,
                },
                Layer("Gulls", PartChangeKind.Added, 0.2),
                Layer("Grain", PartChangeKind.Changed, 0.05) with
                {
                    BlendNow = "multiply",
                },
            ],
        };
        const string said = "Sky repainted, Gulls added, Title moved up 350 px and 1 more";
        Assert.Equal(said, ChangeSummary.Of(layers));
        // What is stored for lists says the same.
        Assert.Equal(said, ChangeSummary.Of(RecordJson.Read<Comparison>(RecordJson.Write(layers.Shortened()))));

        static PartChange Stretch(PartChangeKind kind, SoundDifference stretch) => new("", kind) { Stretch = stretch };
        var sound = new Comparison(0.1, ComparisonBasis.Time)
        {
            Parts =
            [
                Stretch(PartChangeKind.Removed, new SoundDifference(SoundDifferenceKind.Removed, 41, 1.2, 41, 0)),
                Stretch(PartChangeKind.Louder, new SoundDifference(SoundDifferenceKind.Louder, 60, 4, 58.8, 4, 3)),
            ],
        };
        Assert.Equal("4.0 s 3 dB louder at 0:58.8, 1.2 s cut at 0:41.0", ChangeSummary.Of(sound));
        Assert.Equal("nothing changed", ChangeSummary.Of(new Comparison(0, ComparisonBasis.SameContent)));
        Assert.Equal("", ChangeSummary.Of(Comparison.NotMeasurable(ComparisonBasis.Packed)));
        Assert.Equal(
            "2 files added, 1 file removed",
            ChangeSummary.Of(
                new Comparison(0, ComparisonBasis.SameContent)
                {
                    Companions =
                    [
                        new PartChange("a", PartChangeKind.Added),
                        new PartChange("b", PartChangeKind.Removed),
                        new PartChange("c", PartChangeKind.Added),
                        new PartChange("d", PartChangeKind.Same),
                    ],
                }
            )
        );
    }

    [Fact]
    public void Every_refusal_has_its_words()
    {
        var kinds = typeof(Refusal).GetNestedTypes().Where(t => t.IsSubclassOf(typeof(Refusal))).ToList();
        Assert.True(kinds.Count > 40);
        foreach (var kind in kinds)
        {
            var parameters = kind.GetConstructors()[0]
                .GetParameters()
                .Select(p =>
                    p.ParameterType switch
                    {
                        var t when t == typeof(string) => "text",
                        var t when t == typeof(int) => 3,
                        var t when t == typeof(bool) => true,
                        var t when t == typeof(VersionNumber) => new VersionNumber(14),
                        var t when t == typeof(ProjectPath) => ProjectPath.Parse("assets/sea"),
                        var t when t == typeof(KeepResult) => new KeepResult.Nothing(),
                        var t when t == typeof(Refusal) => new Refusal.NoContent(),
                        var t when t == typeof(IReadOnlyList<string>) => (string[])["a fault of it"],
                        var t when t.IsEnum => Enum.GetValues(t).GetValue(0),
                        var t => throw new InvalidOperationException($"{kind.Name} holds {t}."),
                    }
                )
                .ToArray();
            Assert.InRange(RefusalWords.Of((Refusal)Activator.CreateInstance(kind, parameters)!).Length, 4, 300);
        }
        foreach (var fault in Enum.GetValues<PasswordFault>())
            Assert.EndsWith(".", RefusalWords.Of(new Refusal.PasswordNotGood(fault, "next")));
    }
}
