using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Structure;

public class MovePlanTests
{
    private static ProjectPath P(string path) => ProjectPath.Parse(path);

    private static Dictionary<ProjectPath, bool> Tree(params string[] paths) =>
        paths.ToDictionary(p => P(p.TrimEnd('/')), p => p.EndsWith('/'));

    private static Dictionary<ProjectPath, bool> After(Dictionary<ProjectPath, bool> tree, MovePlan plan)
    {
        var to = plan.All.ToDictionary(m => m.From, m => m.To);
        return tree.ToDictionary(p => to.GetValueOrDefault(p.Key, p.Key), p => p.Value);
    }

    private static IOrderedEnumerable<(string Path, bool IsFolder)> Places(Dictionary<ProjectPath, bool> tree) =>
        tree.Select(p => (p.Key.Key, p.Value)).Order();

    private static MoveFault? Fault(Dictionary<ProjectPath, bool> tree, params (string From, string To)[] moves) =>
        MovePlan.Make(tree, [.. moves.Select(m => new TreeMove(P(m.From), P(m.To)))], out _)?.Fault;

    [Fact]
    public void AFolderTakesAlongWhatLiesInIt()
    {
        var tree = Tree("a/", "a/b/", "a/b/x", "a/y", "c/");

        Assert.Null(MovePlan.Make(tree, [new(P("a"), P("c/d")), new(P("a/b/x"), P("c/x"))], out var plan));

        Assert.Equal(
            ["a → c/d", "a/b → c/d/b", "a/b/x → c/x", "a/y → c/d/y"],
            plan!.All.Select(m => $"{m.From} → {m.To}").Order(StringComparer.Ordinal)
        );
    }

    [Fact]
    public void SoItDoesWhereThatNamesItInOtherCapitals()
    {
        var tree = Tree("assets/", "assets/tide/", "assets/Tide/moon", "Assets/TIDE/shore/", "assets/tide/Shore/sand", "assets/tides");

        Assert.Null(MovePlan.Make(tree, [new(P("assets/tide"), P("ebb"))], out var plan));

        Assert.Equal(
            [
                "assets/tide → ebb",
                "assets/Tide/moon → ebb/moon",
                "Assets/TIDE/shore → ebb/shore",
                "assets/tide/Shore/sand → ebb/Shore/sand",
            ],
            plan!.All.Select(m => $"{m.From} → {m.To}")
        );
        Assert.Equal(MoveFault.IntoItself, Fault(tree, ("assets/tide", "assets/Tide/deeper")));
    }

    [Fact]
    public void MovesThatDoNotHoldAreRefusedWithTheirReason()
    {
        var tree = Tree("a/", "a/x", "a/y", "b/", "b/X");

        Assert.Equal(MoveFault.NotThere, Fault(tree, ("a/z", "b/z")));
        Assert.Equal(MoveFault.NotThere, Fault(tree, ("a/x", "b/z"), ("a/x", "b/w")));
        Assert.Equal(MoveFault.Taken, Fault(tree, ("a/x", "b/x")));
        Assert.Equal(MoveFault.Taken, Fault(tree, ("a/x", "b/z"), ("a/y", "b/z")));
        Assert.Equal(MoveFault.IntoItself, Fault(tree, ("a", "a/c")));
        Assert.Equal(MoveFault.NoFolder, Fault(tree, ("a/x", "c/x")));
        Assert.Equal(MoveFault.NoFolder, Fault(tree, ("a/x", "a/y/x")));
        Assert.Equal(
            MoveFault.TooLong,
            Fault(Tree("a/", $"a/{new string('n', 250)}", "b/"), ("a", string.Join('/', Enumerable.Repeat(new string('m', 200), 4))))
        );
        Assert.Null(Fault(tree, ("a/x", "a/y"), ("a/y", "a/x")));
        Assert.Null(Fault(tree, ("b/X", "b/x")));
    }

    [Property]
    public Property AppliedAndUndoneTheOldTreeIsThereAgain()
    {
        var tree = Tree("a/", "a/b/", "a/b/x", "A/B/y", "a/z", "c/", "C/x", "d/", "w");
        var moves = Gen.Elements(tree.Keys.ToArray())
            .Zip(Gen.Elements("a/n", "a/b/n", "c/n", "c/x", "a/z", "d/m", "n", "d", "a/b/x"))
            .Select(m => new TreeMove(m.Item1, P(m.Item2)));
        return Prop.ForAll(
            Gen.Choose(1, 3).SelectMany(n => Gen.ArrayOf(moves, n)).ToArbitrary(),
            asked =>
            {
                if (MovePlan.Make(tree, asked, out var plan) is not null)
                    return true.Classify(true, "refused");
                var after = After(tree, plan!);
                var folders = after.Where(a => a.Value).Select(a => a.Key.Key).ToHashSet();
                var fault = MovePlan.Make(after, plan!.Back, out var back);
                return (
                    after.Keys.All(p => p.Folder is null || folders.Contains(p.Folder.Key))
                    && fault is null
                    && Places(After(after, back!)).SequenceEqual(Places(tree))
                )
                    .Label($"{string.Join(", ", asked.Select(m => $"{m.From} → {m.To}"))}: {fault}")
                    .Classify(true, "moved");
            }
        );
    }
}
