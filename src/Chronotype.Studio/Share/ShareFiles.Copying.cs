using Chronotype.Core.Content;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

// Copying, a part after the other.
public sealed partial class ShareFiles
{
    /// <summary>Makes a second of a file or a folder.</summary>
    /// <param name="isDeep">Of a folder, with all that is in it.</param>
    /// <param name="overwrites">What stands at the other place goes.</param>
    /// <param name="holds">As of <see cref="PutAsync"/>; asked where the copy begins.</param>
    public async Task<Outcome<SharedChange>> CopyAsync(
        Actor actor,
        Guid projectId,
        ProjectPath from,
        ProjectPath to,
        bool isDeep,
        bool overwrites,
        Condition? holds = null,
        CancellationToken cancel = default
    )
    {
        ShareNode? source = null;
        var begun = await AfterOthersAsync(
            projectId,
            () =>
                WhereItHoldsAsync<SharedChange>(
                    actor,
                    from,
                    holds,
                    async deed =>
                    {
                        source = await new ShareTree(deed.Db, projectId).FindAsync(from, cancel);
                        if (source is null)
                            return new Refusal.NoSuchEntry();
                        if (from.Key == to.Key || to.IsIn(from))
                            return new Refusal.IntoItself(to);
                        var (isNew, refusal) = await MakeWayAsync(deed, projectId, to, source.IsFolder, overwrites, cancel);
                        refusal ??= await CopyWithinAsync(deed, projectId, source, to, cancel);
                        return refusal is null ? new SharedChange(isNew, source.Hash) : refusal;
                    },
                    cancel
                )
        );
        if (!begun.Done || !isDeep || !source!.IsFolder)
            return begun;
        return await CopyInnerAsync(actor, projectId, (source, to), cancel) is { } failed ? failed : begun;
    }

    // A part after the other, so that nobody who saves meanwhile waits for all of it. Where one is refused, what was copied before it stays.
    private async Task<Refusal?> CopyInnerAsync(
        Actor actor,
        Guid projectId,
        (ShareNode Node, ProjectPath At) folder,
        CancellationToken cancel
    )
    {
        var folders = new Queue<(ShareNode Node, ProjectPath At)>([folder]);
        var left = MostCopied;
        while (folders.TryDequeue(out var next))
        {
            IReadOnlyList<ShareNode> inner;
            await using (var db = await contexts.CreateDbContextAsync(cancel))
                inner = await new ShareTree(db, projectId).ListAsync(next.Node, cancel);
            if ((left -= inner.Count) < 0)
                return new Refusal.TooManyAtOnce(MostCopied);
            foreach (var part in inner.Chunk(CopiedAtOnce))
            {
                var copied = await AfterOthersAsync(
                    projectId,
                    () =>
                        deeds.DoAsync<SharedChange>(
                            actor,
                            Right.Work,
                            async deed =>
                            {
                                foreach (var node in part)
                                {
                                    if (!ProjectPath.TryParse($"{next.At.Text}/{node.Path!.Name}", out var at, out _))
                                        return new Refusal.PathTooLong(next.At);
                                    if (await CopyWithinAsync(deed, projectId, node, at, cancel) is { } failed)
                                        return failed;
                                }
                                return new SharedChange(true, null);
                            },
                            cancel
                        )
                );
                if (!copied.Done)
                    return copied.Refusal;
            }
            foreach (var node in inner.Where(n => n.IsFolder))
                folders.Enqueue((node, next.At.Append(node.Path!.Name)));
        }
        return null;
    }

    private async Task<Refusal?> CopyWithinAsync(Deed deed, Guid projectId, ShareNode node, ProjectPath at, CancellationToken cancel)
    {
        await SharedProperties.CopyAsync(deed.Db, projectId, node.Path!, at, cancel);
        if (!node.IsFolder)
            return (await PlaceAsync(deed, projectId, at, (node.Hash!.Value, node.Size), cancel)).Refusal;
        var refused = await MakeFolderAsync(deed, projectId, at, cancel);
        if (refused is null)
            await deed.Db.SaveChangesAsync(cancel);
        return refused;
    }
}
