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
        var tree = Tree("a/", "a/b/", "a/b/x", "a/b/y", "a/z", "c/", "c/x", "d/", "w");
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
                var fault = MovePlan.Make(after, plan!.Back, out var back);
                return (fault is null && After(after, back!).OrderBy(p => p.Key.Text).SequenceEqual(tree.OrderBy(p => p.Key.Text)))
                    .Label($"{string.Join(", ", asked.Select(m => $"{m.From} → {m.To}"))}: {fault}")
                    .Classify(true, "moved");
            }
        );
    }
}
