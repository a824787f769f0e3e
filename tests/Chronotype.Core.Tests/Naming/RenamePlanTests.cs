using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Core.Naming.Renaming;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Naming;

public class RenamePlanTests
{
    private static readonly Convention Plans = Convention.ForPlans();

    /// <summary>A folder of a file system that tells no case from another, and refuses a rename onto a name that is there.</summary>
    private sealed class Folder(IEnumerable<string> names)
    {
        // By folded name: the name, and the file that was there first.
        private readonly Dictionary<string, (string Name, string File)> files = names.ToDictionary(NameChecker.Folded, n => (n, n));

        public SortedDictionary<string, string> Files => new(files.Values.ToDictionary(f => f.File, f => f.Name), StringComparer.Ordinal);

        public void Do(IEnumerable<Rename> steps)
        {
            foreach (var (from, to) in steps)
            {
                Assert.True(files.Remove(NameChecker.Folded(from), out var file), $"{from} is not there");
                Assert.Equal(from, file.Name);
                Assert.True(files.TryAdd(NameChecker.Folded(to), (to, file.File)), $"{to} is there already");
            }
        }
    }

    [Property(MaxTest = 500)]
    public void A_plan_gives_the_target_names_and_its_reverse_the_old_ones_wherever_it_is_stopped(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var all = Enumerable
            .Range(0, random.Next(1, 12))
            .Select(_ => GeneratedConvention.Letters(random, "abAé", 1, 2))
            .DistinctBy(NameChecker.Folded)
            .ToList();
        var changing = all.Where(_ => random.Next(4) > 0).ToList();
        // Often a shuffle of the names themselves, so that chains and rounds come about.
        var targets =
            random.Next(2) == 0
                ? [.. changing]
                : changing.Select(n => random.Next(2) == 0 ? n : GeneratedConvention.Letters(random, "abcABÉé", 1, 2)).ToList();
        var shuffled = targets.OrderBy(_ => random.Next()).ToList();
        var wanted = changing.Zip(shuffled, (f, t) => new Rename(f, random.Next(5) == 0 ? t.ToUpperInvariant() : t)).ToList();
        var staying = all.Except(changing).ToList();

        var plan = RenamePlan.Of(wanted, staying);
        if (plan.Obstacles.Count > 0)
        {
            Assert.Empty(plan.Steps);
            var after = wanted.Select(w => NameChecker.Folded(w.To)).Concat(staying.Select(NameChecker.Folded)).ToList();
            Assert.True(after.Distinct().Count() < after.Count, "An obstacle was told where there is none.");
            return;
        }
        var folder = new Folder(all);
        folder.Do(plan.Steps);
        Assert.Equal(
            new SortedDictionary<string, string>(
                all.ToDictionary(n => n, n => wanted.Find(w => w.From == n)?.To ?? n),
                StringComparer.Ordinal
            ),
            folder.Files
        );
        folder.Do(plan.Reversed().Steps);
        Assert.All(folder.Files, f => Assert.Equal(f.Key, f.Value));

        var stopped = random.Next(plan.Steps.Count + 1);
        folder.Do(plan.Steps.Take(stopped));
        folder.Do((plan with { Steps = [.. plan.Steps.Take(stopped)] }).Reversed().Steps);
        Assert.All(folder.Files, f => Assert.Equal(f.Key, f.Value));
    }

    [Fact]
    public void Chains_go_from_their_end_rounds_through_a_name_of_their_own_and_case_alone_too()
    {
        Assert.Equal([new("b", "c"), new("a", "b")], RenamePlan.Of([new("a", "b"), new("b", "c")], []).Steps);
        Assert.Equal(
            [new("a", "renaming-1.tmp"), new("b", "a"), new("renaming-1.tmp", "b")],
            RenamePlan.Of([new("a", "b"), new("b", "a")], []).Steps
        );
        Assert.Equal(
            [new("Gull", "renaming-2.tmp"), new("renaming-2.tmp", "gull")],
            RenamePlan.Of([new("Gull", "gull")], ["renaming-1.tmp"]).Steps
        );
    }

    [Fact]
    public void Two_names_that_would_be_one_and_a_name_that_stays_are_both_told()
    {
        var plan = RenamePlan.Of([new("a", "x"), new("b", "X"), new("c", "stay")], ["Stay"]);
        Assert.Empty(plan.Steps);
        Assert.Equal(
            [
                ["a", "b"],
                ["c", "Stay"],
            ],
            plan.Obstacles.Select(o => o.Names)
        );
    }

    [Fact]
    public void A_plan_renames_a_real_folder_and_back()
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-names-");
        try
        {
            var names = Enumerable.Range(1, 40).Select(i => $"TIM_gull_key_IK_{i:D3}.ora").Append("TIM_gull_key.ora").ToList();
            foreach (var name in names)
                File.WriteAllText(Path.Combine(folder.FullName, name), name);
            var to = With(s => s.Rule is VersionRule ? s with { Rule = new VersionRule(Width: 4, Lead: "v") } : s);
            var plan = NameTranslation.Between(Plans, to, names).Plan();
            Do(plan.Steps);
            Assert.Equal("TIM_gull_key_IK_007.ora", File.ReadAllText(Path.Combine(folder.FullName, "TIM_gull_key_IK_v0007.ora")));
            Do(plan.Reversed().Steps);
            Assert.All(names, n => Assert.Equal(n, File.ReadAllText(Path.Combine(folder.FullName, n))));
        }
        finally
        {
            folder.Delete(recursive: true);
        }

        void Do(IEnumerable<Rename> steps)
        {
            foreach (var (a, b) in steps)
                File.Move(Path.Combine(folder.FullName, a), Path.Combine(folder.FullName, b), overwrite: false);
        }
    }

    [Fact]
    public void Names_are_written_anew_slot_by_slot_and_what_is_not_known_stands_open()
    {
        var to = new Convention(
            [.. Plans.Slots, new Slot("stage", new CodeRule("stage"), "-")],
            Plans.Forms.ToDictionary(
                f => f,
                f =>
                    (IReadOnlyList<string>)
                        [.. Plans.Form(f).Select(s => s.Label), .. f == NameForm.Working ? ["stage"] : Array.Empty<string>()]
            ),
            new Dictionary<string, CodeList> { ["stage"] = CodeList.Of("ink", "wip") },
            "xx"
        );
        string[] names = ["TIM_gull_key_IK_007.ora", "TIM_gull_tbd_IK_008.ora", "TIM_gull_key.ora", "final2.ora"];
        var translated = NameTranslation.Between(Plans, to, names);
        Assert.Equal([new(names[0], "TIM_gull_key_IK_007-xx.ora"), new(names[1], "TIM_gull_xx_IK_008-xx.ora")], translated.Renames);
        Assert.Equal(["TIM_gull_key.ora"], translated.Same);
        Assert.Equal(["final2.ora"], translated.Unread);
        var known = NameTranslation.Between(Plans, to, names, _ => new NameKnowledge(new Dictionary<string, string> { ["stage"] = "ink" }));
        Assert.Equal("TIM_gull_key_IK_007-ink.ora", known.Renames[0].To);
    }

    [Fact]
    public void A_convention_that_drops_the_version_has_no_plan()
    {
        var to = new Convention(
            Plans.Slots,
            new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Working] = ["client", "subject", "function"] }
        );
        var plan = NameTranslation.Between(Plans, to, ["TIM_gull_key_IK_007.ora", "TIM_gull_key.ora"]).Plan();
        Assert.Equal(2, plan.Obstacles.Count);
        Assert.Contains("version", plan.Obstacles[0].Message);
        Assert.Contains("current form", plan.Obstacles[1].Message);
    }

    private static Convention With(Func<Slot, Slot> change) =>
        new(
            [.. Plans.Slots.Select(change)],
            Plans.Forms.ToDictionary(f => f, f => (IReadOnlyList<string>)[.. Plans.Form(f).Select(s => s.Label)])
        );
}
