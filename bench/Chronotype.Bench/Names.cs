using System.Diagnostics;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Core.Naming.Learning;

namespace Chronotype.Bench;

/// <summary>The speed of the names' engine on one core, with a convention of 12 slots.</summary>
internal static class Names
{
    private const int Rounds = 5;

    public static void Run()
    {
        var random = new Random(12);
        var convention = Twelve(random);
        var legal = Enumerable.Range(0, 4000).Select(_ => Legal(convention, random)).ToArray();
        var faulty = legal.Select(name => Spoil(name, random)).ToArray();
        var grammar = convention.GrammarOf(NameForm.Working);
        var checker = new NameChecker(grammar);
        Console.WriteLine(
            $"Names of {convention.Slots.Count} slots, about {legal.Average(n => n.Length):0} characters, one core, median of "
                + $"{Rounds} rounds:"
        );
        if (legal.Any(n => grammar.Read(n) is null))
            throw new InvalidOperationException("A formatted name was not read.");
        Rate("read", 1_000_000, 1_000_000, legal, n => grammar.Read(n)!.Form);
        Rate("read, every slot's text taken out", 1_000_000, null, legal, n => grammar.Read(n)!.Segments.Count);
        Rate("read and refused", 1_000_000, null, faulty, n => grammar.Read(n));
        Rate(
            "checked, 9 of 10 legal",
            200_000,
            50_000,
            [.. legal.SelectMany((n, i) => i % 10 == 0 ? [n, faulty[i]] : new[] { n })],
            n => checker.Check(n, repair: false).IsLegal
        );
        Rate("checked, all with faults", 20_000, 50_000, faulty, n => checker.Check(n, repair: false).IsLegal);
        Rate("repaired, with reasons and ties", 20_000, 5_000, faulty, n => checker.Check(n).Repairs.Count);
        Console.WriteLine(
            $"  of {faulty.Length:N0} spoiled names {faulty.Count(n => checker.Check(n).Repairs.Count == 1):N0} have one repair, "
                + $"{faulty.Count(n => checker.Check(n).Repairs.Count > 1):N0} several, "
                + $"{faulty.Zip(legal).Count(x => checker.Check(x.First).Repairs.Any(r => r.Name == x.Second)):N0} find the name "
                + $"they were made from"
        );

        Slips(convention, checker, legal, random);
        Learn(convention, random);
        Prove("20 slots, 500 codes each, joined by “_”", Codes(20, 500, random, "_"));
        Prove("20 slots, 500 codes each, all optional", Codes(20, 500, random, "_", optional: true));
        Prove("20 slots, 500 codes of one length, no marks", Codes(20, 500, random, "", fixedLength: true));
        Prove("20 slots, 500 codes of any length, no marks", Codes(20, 500, random, ""));
    }

    private static void Rate<T>(string what, int count, int? wanted, string[] names, Func<string, T> work)
    {
        var rates = new List<double>();
        for (var round = -1; round < Rounds; round++)
        {
            var start = Stopwatch.GetTimestamp();
            for (var i = 0; i < count; i++)
                work(names[i % names.Length]);
            if (round >= 0)
                rates.Add(count / Stopwatch.GetElapsedTime(start).TotalSeconds);
        }
        rates.Sort();
        Console.WriteLine($"  {what, -34} {rates[Rounds / 2], 12:N0} a second{(wanted is { } w ? $"   (wanted {w:N0})" : "")}");
    }

    private static void Slips(Convention convention, NameChecker checker, string[] legal, Random random)
    {
        Console.WriteLine("  of names with one slip, those whose only repair is the name they were made from (wanted 90 %):");
        foreach (var slip in Enum.GetValues<Slip>())
        {
            var (faulty, back, tied) = (0, 0, 0);
            foreach (var name in legal)
            {
                var check = checker.Check(SlipIn(name, convention, random, slip));
                if (check.IsLegal)
                    continue;
                faulty++;
                if (check.Repairs is [{ Name: var only }] && only == name)
                    back++;
                else if (check.Repairs.Any(r => r.Name == name))
                    tied++;
            }
            Console.WriteLine(
                $"    {slip, -16} {(double)back / faulty, 7:P1} of {faulty:N0}, and {(double)tied / faulty:P1} among others that cost the same"
            );
        }
    }

    private enum Slip
    {
        Mark,
        Case,
        SwappedSlots,
        CopyMark,
        LostZero,
        LetterChanged,
        LetterLost,
        LetterAdded,
        LettersSwapped,
    }

    private static string SlipIn(string name, Convention convention, Random random, Slip slip)
    {
        var dot = name.LastIndexOf('.');
        var parts = name[..dot].Split('_').ToList();
        var at = random.Next(parts.Count);
        switch (slip)
        {
            case Slip.Mark:
                at = random.Next(1, parts.Count);
                return $"{string.Join('_', parts.Take(at))}{" -."[random.Next(3)]}{string.Join('_', parts.Skip(at))}{name[dot..]}";
            case Slip.Case:
                parts[at] = parts[at].Any(char.IsAsciiLetterLower) ? parts[at].ToUpperInvariant() : parts[at].ToLowerInvariant();
                break;
            case Slip.SwappedSlots:
                var other = random.Next(parts.Count);
                (parts[at], parts[other]) = (parts[other], parts[at]);
                break;
            case Slip.CopyMark:
                string[] marks = [" (2)", " copy", " - Copy", "_final", "_FINAL", " copy 2", "_old"];
                parts[^1] += marks[random.Next(marks.Length)];
                break;
            case Slip.LostZero:
                at = parts.FindIndex(p => p[0] == 'v' && p.Length > 3 && p.AsSpan(1).IndexOfAnyExceptInRange('0', '9') < 0);
                parts[at] = "v" + parts[at].TrimStart('v', '0');
                break;
            default:
                string[] lists = ["client", "project", "function", "stage"];
                var codes = convention.Lists[lists[random.Next(lists.Length)]];
                at = parts.FindIndex(codes.Has);
                var code = parts[at];
                var k = random.Next(code.Length - 1);
                var letter = (char)((char.IsAsciiLetterUpper(code[0]) ? 'A' : 'a') + random.Next(26));
                parts[at] = slip switch
                {
                    Slip.LetterChanged => $"{code[..k]}{letter}{code[(k + 1)..]}",
                    Slip.LetterLost => code.Remove(k, 1),
                    Slip.LetterAdded => code.Insert(k, $"{letter}"),
                    _ => $"{code[..k]}{code[k + 1]}{code[k]}{code[(k + 2)..]}",
                };
                break;
        }
        return string.Join('_', parts) + name[dot..];
    }

    private static void Learn(Convention convention, Random random)
    {
        string[] names =
        [
            .. Enumerable.Range(0, 100_000).Select(i => Legal(convention, random) is var name && i % 20 == 0 ? Spoil(name, random) : name),
        ];
        var times = new List<double>();
        LearnedConvention learned = null!;
        for (var round = 0; round < Rounds; round++)
        {
            var start = Stopwatch.GetTimestamp();
            learned = NameLearner.Learn(names);
            times.Add(Stopwatch.GetElapsedTime(start).TotalSeconds);
        }
        times.Sort();
        Console.WriteLine(
            $"  learned from {names.Length:N0}, 1 in 20 spoiled {times[Rounds / 2], 11:0.0} s, {learned.Coverage:P1} explained   "
                + $"(wanted under 5 s)"
        );
        Console.WriteLine($"    {string.Join(" ", learned.Convention!.Slots.Select(s => s.Label))}");
    }

    private static void Prove(string what, Convention convention)
    {
        var times = new List<double>();
        var verdict = "";
        for (var round = 0; round < Rounds; round++)
        {
            var start = Stopwatch.GetTimestamp();
            var fresh = convention.GrammarOf([.. convention.Forms]);
            verdict = fresh.FindAmbiguity() is { } twice ? $"refused: {twice.Name}" : "proved";
            times.Add(Stopwatch.GetElapsedTime(start).TotalMilliseconds);
        }
        times.Sort();
        Console.WriteLine($"  {what, -46} {times[Rounds / 2], 7:0} ms, {verdict}   (wanted under 1,000 ms)");
    }

    private static Convention Twelve(Random random)
    {
        CodeList List(int count, int length, string letters) =>
            new([
                .. Enumerable
                    .Range(0, count * 2)
                    .Select(_ => Text(random, letters, length))
                    .Distinct()
                    .Take(count)
                    .Select((c, i) => new CodeMeaning(c, $"{Text(random, "abcdefgh", 5)} {Text(random, "klmnopq", 6)}")),
            ]);
        Slot[] slots =
        [
            new("client", new CodeRule("client"), ""),
            new("project", new CodeRule("project")),
            new("subject", new WordsRule()),
            new("detail", new WordsRule(24)),
            new("function", new CodeRule("function")),
            new("stage", new CodeRule("stage")),
            new("size", new SizeRule()),
            new("date", new DateRule()),
            new("line", new LineRule()),
            new("hand", new HandRule()),
            new("version", new VersionRule(Lead: "v")),
            new("state", new StateRule()),
        ];
        return new Convention(
            slots,
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Working] = [.. slots.Select(s => s.Label)] },
            new Dictionary<string, CodeList>
            {
                ["client"] = List(60, 3, "ABCDEFGHIJKLMNOPQRSTUVWXYZ"),
                ["project"] = List(200, 5, "ABCDEFGHIJKLMNOPQRSTUVWXYZ"),
                ["function"] = List(40, 5, "abcdefghijklmnopqrstuvwxyz"),
                ["stage"] = List(12, 3, "abcdefghijklmnopqrstuvwxyz"),
            }
        );
    }

    private static string Legal(Convention convention, Random random)
    {
        string Code(string list) => convention.Lists[list].Codes[random.Next(convention.Lists[list].Codes.Count)].Code;
        var values = new Dictionary<string, string>
        {
            ["client"] = Code("client"),
            ["project"] = Code("project"),
            ["subject"] = Text(random, "abcdefghijklm", random.Next(3, 9)) + " " + Text(random, "nopqrstuvw", random.Next(3, 7)),
            ["detail"] = Text(random, "abcdefghijklm", random.Next(3, 9)),
            ["function"] = Code("function"),
            ["stage"] = Code("stage"),
            ["size"] = random.Next(2) == 0 ? "a2" : $"{random.Next(100, 3000)}x{random.Next(100, 3000)}px",
            ["date"] = $"20{random.Next(20, 27)}-{random.Next(1, 13):D2}-{random.Next(1, 29):D2}",
            ["line"] = random.Next(4) == 0 ? "daybreak" : "",
            ["hand"] = Text(random, "ABCDEFGHIJKLMNOP", 2),
            ["version"] = $"{random.Next(1, 1200)}",
            ["state"] = random.Next(5) == 0 ? "MASTER" : "",
        };
        return convention.Format(NameForm.Working, values, ".ora").Name!.ToString();
    }

    // What happens to names: one to three of the usual mishaps.
    private static string Spoil(string name, Random random)
    {
        for (var n = random.Next(1, 4); n > 0; n--)
        {
            var parts = name[..name.LastIndexOf('.')].Split('_').ToList();
            var extension = name[name.LastIndexOf('.')..];
            var at = random.Next(parts.Count);
            switch (random.Next(8))
            {
                case 0:
                    parts[^1] += random.Next(2) == 0 ? " (2)" : " copy";
                    break;
                case 1:
                    parts.Add("FINAL");
                    break;
                case 2:
                    parts[at] = parts[at].ToUpperInvariant();
                    break;
                case 3:
                    parts[at] = parts[at].Replace("v0", "v");
                    break;
                case 4:
                    parts.RemoveAt(at);
                    break;
                case 5:
                    (parts[at], parts[^1]) = (parts[^1], parts[at]);
                    break;
                case 6:
                    parts[at] = parts[at].Insert(random.Next(parts[at].Length), "é");
                    break;
                default:
                    parts[at] = parts[at].Replace('-', ' ');
                    parts[0] = parts[0][1..];
                    break;
            }
            name = string.Join('_', parts.Where(p => p.Length > 0)) + extension;
        }
        return name;
    }

    private static Convention Codes(int slots, int codes, Random random, string join, bool optional = false, bool fixedLength = false)
    {
        var all = Enumerable.Range(0, slots).Select(i => new Slot($"slot{i}", new CodeRule($"list{i}"), join, optional && i > 0)).ToList();
        var lists = all.ToDictionary(
            s => ((CodeRule)s.Rule).List,
            _ =>
                CodeList.Of(
                    Enumerable
                        .Range(0, codes * 3)
                        .Select(_ => Text(random, "abcdefghijklmnopqrstuvwxyz", fixedLength ? 6 : random.Next(3, 13)))
                        .Distinct()
                        .Take(codes)
                )
        );
        return new Convention(
            all,
            new Dictionary<NameForm, IReadOnlyList<string>>
            {
                [NameForm.Working] = [.. all.Select(s => s.Label)],
                [NameForm.Current] = [.. all.Take(slots / 2).Select(s => s.Label)],
            },
            lists
        );
    }

    private static string Text(Random random, string letters, int length) =>
        string.Concat(Enumerable.Range(0, length).Select(_ => letters[random.Next(letters.Length)]));
}
