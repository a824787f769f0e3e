using System.Text.Json;
using Chronotype.Core.Naming;

namespace Chronotype.Cli.Tests;

/// <summary>The commands about names, on the real program.</summary>
public sealed class NamesCommandTests : IDisposable
{
    private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("chronotype-cli-");

    public void Dispose() => folder.Delete(recursive: true);

    private static Program.Ended Run(string input, params string[] words) => Program.Run(input, ["names", .. words]);

    private string Save(string text, string name = "convention.json")
    {
        var path = Path.Combine(folder.FullName, name);
        File.WriteAllText(path, text);
        return path;
    }

    private string Plans(string name = "plans.json", Func<string, string>? change = null)
    {
        var lists = new Dictionary<string, CodeList>
        {
            ["client"] = new([new("TIM", "Tidal Museum")]),
            ["function"] = CodeList.Of("key", "sketch"),
        };
        var text = ConventionFile.Write(Convention.ForPlans().With(lists));
        return Save(change is null ? text : change(text), name);
    }

    [Fact]
    public void Check_answers_each_name_with_one_object_and_ends_with_1_when_one_is_not_legal()
    {
        var ended = Run("TIM_gull_key_IK_014.ora\r\nTIM_gull_kee_IK_14 (2).ora\n", "check", "--convention", Plans());
        Assert.Equal(1, ended.Code);
        Assert.Equal("", ended.Errors);
        var (legal, faulty) = (ended.Lines[0], ended.Lines[1]);
        Assert.Equal(["name", "legal", "reading", "faults", "repairs"], legal.EnumerateObject().Select(p => p.Name));
        Assert.Equal(
            """{"client":"TIM","subject":"gull","function":"key","hand":"IK","version":"14","extension":".ora"}""",
            legal.GetProperty("reading").GetRawText()
        );
        Assert.Equal(
            ["not-on-list@9+3 function", "number@16+2 version", "copy-mark@18+4 version"],
            faulty
                .GetProperty("faults")
                .EnumerateArray()
                .Select(f => $"{f.GetProperty("code")}@{f.GetProperty("at")}+{f.GetProperty("length")} {f.GetProperty("slot")}")
        );
        var repair = Assert.Single(faulty.GetProperty("repairs").EnumerateArray());
        Assert.Equal("TIM_gull_key_IK_014.ora", repair.GetProperty("name").GetString());
        Assert.Equal(3, repair.GetProperty("reasons").GetArrayLength());
        Assert.Equal(0, Run("TIM_gull_key_IK_014.ora\n", "check", "--convention", Plans()).Code);
        Assert.Equal(0, Run("TIM_gull_key.ora\n", "check", "--convention", Plans(), "--form", "current").Code);
    }

    [Fact]
    public void Check_of_a_folder_knows_neighbours_and_of_names_with_line_breaks_the_breaks()
    {
        var names = Directory.CreateDirectory(Path.Combine(folder.FullName, "files"));
        foreach (var name in new[] { "TIM_gull_key_IK_001.ora", "TIM_gull_key_IK_001.ORA" })
            File.WriteAllText(Path.Combine(names.FullName, name), "");
        var ended = Run("", "check", "--convention", Plans(), "--folder", names.FullName);
        Assert.Equal(
            ["neighbour-case", "neighbour-case"],
            ended.Lines.SelectMany(l => l.GetProperty("faults").EnumerateArray()).Select(f => f.GetProperty("code").GetString())
        );
        var broken = Assert.Single(Run("TIM_gu\nll_key_IK_001.ora\0", "check", "--convention", Plans(), "--null").Lines);
        Assert.Equal("line-break", broken.GetProperty("faults")[0].GetProperty("code").GetString());
        Assert.Equal("TIM_gull_key_IK_001.ora", broken.GetProperty("repairs")[0].GetProperty("name").GetString());
    }

    [Fact]
    public void A_name_of_a_million_letters_is_refused_and_what_comes_after_it_is_read()
    {
        var ended = Run(new string('a', 1_000_000) + "\nTIM_gull_key_IK_014.ora\n", "check", "--convention", Plans());
        Assert.Equal([false, true], ended.Lines.Select(l => l.GetProperty("legal").GetBoolean()));
    }

    [Fact]
    public void Text_for_people_hides_nothing_that_cannot_be_seen()
    {
        var ended = Run("TIM_gu\u202Ell_key_IK_014.ora\n", "check", "--convention", Plans(), "--text");
        Assert.Contains("[U+202E]", ended.Output);
        Assert.DoesNotContain('\u202E', ended.Output);
    }

    [Fact]
    public void Prove_ends_with_0_or_shows_the_name_and_its_two_readings()
    {
        Assert.Equal(0, Run("", "prove", "--convention", Plans()).Code);
        var ended = Run(
            "",
            "prove",
            "--convention",
            Save(
                """{ "slots": [{ "label": "a", "kind": "words" }, { "label": "b", "kind": "words", "join": "-" }], "forms": """
                    + """{ "working": ["a", "b"] } }"""
            )
        );
        Assert.Equal(1, ended.Code);
        var answer = Assert.Single(ended.Lines);
        var readings = answer.GetProperty("readings").EnumerateArray().Select(r => r.GetProperty("a") + "-" + r.GetProperty("b")).ToList();
        Assert.All(readings, r => Assert.Equal(answer.GetProperty("name").GetString(), r));
        Assert.NotEqual(answer.GetProperty("readings")[0].GetRawText(), answer.GetProperty("readings")[1].GetRawText());
    }

    [Fact]
    public void Format_writes_a_name_or_says_what_each_slot_lacks()
    {
        Assert.Equal(
            "TIM_low-water_key_IK_007.ora\n",
            Run(
                "",
                "format",
                "--convention",
                Plans(),
                "--form",
                "working",
                "--text",
                "client=TIM",
                "subject=Low water",
                "function=key",
                "hand=IK",
                "version=7",
                "extension=ora"
            ).Output
        );
        var faulty = Run("", "format", "--convention", Plans(), "--form", "current", "client=XXX", "subject=tide");
        Assert.Equal(1, faulty.Code);
        Assert.Equal(
            ["client", "function"],
            faulty.Lines[0].GetProperty("faults").EnumerateArray().Select(f => f.GetProperty("slot").GetString())
        );
    }

    [Fact]
    public void Learn_gives_a_convention_that_the_other_commands_take()
    {
        var names = string.Concat(
            Enumerable.Range(1, 30).Select(i => $"{(i % 2 == 0 ? "TIM" : "HAV")}_{(i % 3 == 0 ? "gull" : "low-water")}_v{i:D3}.ora\n")
        );
        var learned = Assert.Single(Run(names + "notes (3).txt\n", "learn").Lines);
        Assert.Equal(
            (31, 30, "notes (3).txt"),
            (
                learned.GetProperty("names").GetInt32(),
                learned.GetProperty("explained").GetInt32(),
                learned.GetProperty("leftOut")[0].GetString()
            )
        );
        Assert.Equal(0, Run(names, "check", "--convention", Save(learned.GetProperty("convention").GetRawText()), "--form", "any").Code);
    }

    [Fact]
    public void Plan_lists_the_renames_or_why_there_is_none()
    {
        var to = Plans("to.json", t => t.Replace("\"width\": 3", "\"width\": 4"));
        var ended = Run("TIM_gull_key_IK_014.ora\nnotes.txt\n", "plan", "--from", Plans(), "--to", to);
        Assert.Equal(0, ended.Code);
        Assert.Equal(
            ("TIM_gull_key_IK_014.ora", "TIM_gull_key_IK_0014.ora"),
            (ended.Lines[0].GetProperty("from").GetString(), ended.Lines[0].GetProperty("to").GetString())
        );
        Assert.Equal("notes.txt", ended.Lines[1].GetProperty("stays").GetString());
        var none = Run(
            "TIM_gull_key_IK_014.ora\n",
            "plan",
            "--from",
            Plans(),
            "--to",
            Plans("none.json", t => t.Replace("\"key\"", "\"poster\""))
        );
        Assert.Equal(1, none.Code);
        Assert.Contains("key", Assert.Single(none.Lines).GetProperty("message").GetString());
    }

    [Theory]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "smell" }], "forms": { "working": ["a"] } }""", "slots[0].kind")]
    [InlineData(
        """{ "slots": [{ "label": "a", "kind": "words" }, { "label": "a", "kind": "hand" }], "forms": { "working": ["a"] } }""",
        "slots[1].label"
    )]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "version", "width": 0 }], "forms": { "working": ["a"] } }""", "slots[0].width")]
    [InlineData(
        """{ "slots": [{ "label": "a", "kind": "code" }, { "label": "b", "kind": "hand" }], "forms": { "working": ["a"] }, "lists": """
            + """{ "a": ["x", "y_z"] } }""",
        "lists.a[1].code"
    )]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "code" }], "forms": { "working": ["a"] }, "lists": { "a": [] } }""", "lists.a")]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "code" }], "forms": { "working": ["a"] } }""", "slots[0].list")]
    [InlineData("""{ "slots": [{ "label": "a", "kind": "words" }], "forms": { "working": ["b"] } }""", "forms.working[0]")]
    [InlineData("{ \"slots\": [\n  {] }", "line 2, column 4")]
    [InlineData("", "line 1")]
    [InlineData("[1, 2]", "object")]
    public void A_faulty_file_is_told_with_its_place(string text, string place)
    {
        var ended = Run("", "prove", "--convention", Save(text));
        Assert.Equal(2, ended.Code);
        Assert.Equal("", ended.Output);
        Assert.Contains(place, ended.Errors);
    }

    [Fact]
    public void A_file_of_a_hundred_megabytes_a_missing_one_and_a_wrong_word_are_refused()
    {
        var large = Path.Combine(folder.FullName, "large.json");
        using (var stream = File.Create(large))
            stream.SetLength(100_000_000);
        Assert.Contains("larger than", Run("", "prove", "--convention", large).Errors);
        Assert.Equal(2, Run("", "prove", "--convention", "nowhere.json").Code);
        Assert.Equal(2, Run("", "check", "--convention", Plans(), "--form", "folder").Code);
        Assert.Equal(2, Run("", "check", "--convention", Plans(), "--folder", "/nowhere").Code);
        Assert.Equal(2, Run("", "fold").Code);
    }
}
