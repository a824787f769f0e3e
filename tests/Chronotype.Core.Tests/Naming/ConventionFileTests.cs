using System.Text.Json;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Naming;

public class ConventionFileTests
{
    [Property(MaxTest = 300)]
    public void What_was_written_reads_back_as_the_same_convention(DoNotSize<int> seed)
    {
        var convention = GeneratedConvention.Of(new Random(seed.Item));
        var text = ConventionFile.Write(convention);
        var read = ConventionFile.Read(text);
        Assert.Empty(read.Faults);
        Assert.Equal(convention.Slots, read.Convention!.Slots);
        Assert.Equal(convention.Forms, read.Convention.Forms);
        Assert.Equal(text, ConventionFile.Write(read.Convention));
    }

    [Fact]
    public void The_page_shows_a_file_that_is_read_and_the_names_that_it_makes()
    {
        var page = DocsFolder.Read("conventions.md");
        var start = page.IndexOf("```json", StringComparison.Ordinal) + 7;
        var read = ConventionFile.Read(page[start..page.IndexOf("```", start, StringComparison.Ordinal)]);
        Assert.Empty(read.Faults);
        Assert.Null(read.Convention!.Grammar.FindAmbiguity());
        Assert.Empty(ConventionRules.CheckForStudio(read.Convention));
        foreach (
            var (name, form) in new[]
            {
                ("TIM_moonpull-poster_key.ora", NameForm.Current),
                ("TIM_moonpull-poster_key_IK_v014.ora", NameForm.Working),
                ("TIM_moonpull-poster_key-daybreak_IK_v002.ora", NameForm.Working),
                ("TIM_moonpull-poster_key-M02.ora", NameForm.Milestone),
                ("TIM_moonpull-poster_key_2026-03-12_MASTER.ora", NameForm.Master),
            }
        )
        {
            Assert.Contains(name, page);
            Assert.Contains(form, read.Convention.Grammar.Read(name)!.Forms);
        }
    }

    [Fact]
    public void The_page_and_the_schema_know_every_kind_form_code_and_cost()
    {
        var (page, schema) = (DocsFolder.Read("conventions.md"), JsonDocument.Parse(DocsFolder.Read("convention.schema.json")).RootElement);
        var kinds = schema
            .GetProperty("$defs")
            .GetProperty("slot")
            .GetProperty("properties")
            .GetProperty("kind")
            .GetProperty("enum")
            .EnumerateArray()
            .Select(k => k.GetString()!)
            .ToList();
        Assert.Equal(
            kinds,
            (
                (SlotRule[])
                    [
                        new CodeRule("x"),
                        new WordsRule(),
                        new VersionRule(),
                        new CountRule(),
                        new LineRule(),
                        new MilestoneRule(),
                        new DateRule(),
                        new HandRule(),
                        new SizeRule(),
                        new StateRule(),
                    ]
            ).Select(r => r.Kind)
        );
        Assert.All(kinds, k => Assert.Contains($"| `{k}` |", page));
        var forms = schema.GetProperty("properties").GetProperty("forms").GetProperty("patternProperties").EnumerateObject().Single().Name;
        Assert.All(
            Enum.GetValues<NameForm>(),
            f =>
            {
                Assert.Contains($"`{ConventionFile.KeyOf(f)}`", page);
                Assert.Matches(forms, ConventionFile.KeyOf(f));
            }
        );
        foreach (var code in typeof(NameFaultCodes).GetFields().Select(f => (string)f.GetValue(null)!))
            Assert.Contains($"`{code}`", page);
    }

    [Fact]
    public void No_mutation_of_a_file_makes_reading_throw_and_what_is_read_holds_together()
    {
        var random = new Random(5);
        for (var n = 0; n < Thorough.Times(600, 20_000); n++)
        {
            var sound = System.Text.Encoding.UTF8.GetBytes(ConventionFile.Write(GeneratedConvention.Of(random)));
            using var file = new MemoryStream(Mutations.Of(sound, random));
            var read = ConventionFile.Read(file);
            Assert.Equal(read.Convention is null, read.Faults.Count > 0);
            if (read.Convention is { } convention)
                Assert.Empty(ConventionRules.Check(convention.Slots, convention.Labels, convention.Lists, convention.Filler));
        }
    }

    [Fact]
    public void All_faults_of_a_file_are_told_together()
    {
        var read = ConventionFile.Read(
            """
            { "slots": [{ "label": "Client", "kind": "code", "list": "c" }, { "label": "v", "kind": "version", "width": 12, "lead": "1" },
              { "label": "d", "kind": "date", "pattern": "yyMMyy" }],
              "forms": { "current": ["v"], "working": ["d", "v"] }, "lists": { "c": ["a", "A", "tbd"] } }
            """
        );
        Assert.Null(read.Convention);
        Assert.Equal(
            [
                "slots[0].label",
                "slots[1].width",
                "slots[1].lead",
                "slots[2].pattern",
                "forms.current[0]",
                "forms.working[1]",
                "lists.c[1].code",
                "lists.c[2].code",
            ],
            read.Faults.Select(f => f.Place)
        );
    }

    [Theory]
    [InlineData("""{ "slots": [{ "label": "\ud800", "kind": "words" }], "forms": { "working": ["a"] } }""")]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "words", "label": "b" }], "forms": { "working": ["a"] } }""")]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "words", "colour": "red" }], "forms": { "working": ["a"] } }""")]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "version", "width": 1e99 }], "forms": { "working": ["a"] } }""")]
    [InlineData("""{ "slots": "a", "forms": [] }""")]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "" }], "forms": { "working": ["a"] } }""")]
    [InlineData(
        """{ "slots": [null, 5, {}], "forms": { "working": [null], "current": {} }, "lists": { "a": [null, {}, { "code": 5 }] """
            + """}, "filler": null }"""
    )]
    [InlineData("[[[[[[[[[[[[[[[[[[[[]]]]]]]]]]]]]]]]]]]]")]
    public void Hostile_files_are_faults_and_never_crash(string text) => Assert.NotEmpty(ConventionFile.Read(text).Faults);

    [Theory]
    [InlineData("utf-8", true)]
    [InlineData("utf-16", true)]
    [InlineData("utf-16", false)]
    [InlineData("utf-16BE", true)]
    [InlineData("utf-16BE", false)]
    [InlineData("utf-32", true)]
    public void A_file_is_read_however_its_letters_are_coded(string coding, bool hasMark)
    {
        var written = ConventionFile.Write(GeneratedConvention.Of(new Random(5)));
        var encoding = System.Text.Encoding.GetEncoding(coding);
        using var file = new MemoryStream([.. hasMark ? encoding.GetPreamble() : [], .. encoding.GetBytes(written)]);
        var read = ConventionFile.Read(file);
        Assert.Empty(read.Faults);
        Assert.Equal(written, ConventionFile.Write(read.Convention!));
    }
}
