using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>What a node of a project's web is.</summary>
public enum NodeKind
{
    /// <summary>A file of the project's own.</summary>
    File,

    /// <summary>A piece, as its current file is.</summary>
    Piece,

    /// <summary>A place where no file is, to which something refers.</summary>
    Nowhere,

    /// <summary>Several files of one folder that are used alike.</summary>
    Bundle,
}

/// <summary>A file, a piece, or a place where none is, in a project's web.</summary>
/// <param name="Key">Tells it apart: an entry's id; of what is nowhere, where it would be or how it is written.</param>
/// <param name="Path">Where it stands; null where it is in no place of the project.</param>
/// <param name="Count">How many files it is.</param>
public sealed record WebNode(
    string Key,
    NodeKind Kind,
    WebRank Rank,
    string Name,
    ProjectPath? Path,
    Guid? EntryId,
    Guid? PieceId,
    int Count = 1
)
{
    /// <summary>What became of the reference, of what is nowhere.</summary>
    public ReferenceState State { get; init; }
}

/// <summary>That one refers to another, or was started from it.</summary>
/// <param name="From">What is used.</param>
/// <param name="To">What uses it.</param>
/// <param name="Link">The reference; null where it was started from it.</param>
public sealed record WebEdge(string From, string To, CurrentLink? Link);

/// <summary>Who uses what in a project, as it is now.</summary>
public sealed record UseWeb(IReadOnlyList<WebNode> Nodes, IReadOnlyList<WebEdge> Edges)
{
    /// <summary>What is led to from some nodes, in either direction, and themselves.</summary>
    public IReadOnlySet<string> Around(IEnumerable<string> keys)
    {
        var (uses, usedBy) = (Edges.ToLookup(t => t.To, t => t.From), Edges.ToLookup(t => t.From, t => t.To));
        var found = new HashSet<string>(keys);
        Walk(uses);
        Walk(usedBy);
        return found;

        void Walk(ILookup<string, string> next)
        {
            var (open, seen) = (new Queue<string>(keys), new HashSet<string>(keys));
            while (open.TryDequeue(out var at))
            {
                foreach (var there in next[at].Where(seen.Add))
                {
                    found.Add(there);
                    open.Enqueue(there);
                }
            }
        }
    }
}

/// <summary>Puts a project's web together.</summary>
public sealed class ProjectWeb(StudioDb db, ProjectLinks links)
{
    /// <summary>With more files in a rank than this, those of one folder that are used alike are one node.</summary>
    private const int MostSingle = 24;

    private const int LeastBundled = 3;

    public async Task<UseWeb> LoadAsync(Guid projectId, CancellationToken cancel = default) =>
        await LoadAsync(projectId, await links.LoadAsync(projectId, cancel), cancel);

    /// <param name="current">The project's references as they are, where they are known already.</param>
    public async Task<UseWeb> LoadAsync(Guid projectId, IReadOnlyList<CurrentLink> current, CancellationToken cancel = default)
    {
        var entries = await db
            .Entries.AsNoTracking()
            .Where(e =>
                e.ProjectId == projectId
                && e.DeletedAt == null
                && (e.Kind == EntryKind.CurrentFile || (e.Kind == EntryKind.OwnFile && e.Role != FolderRole.Documents))
            )
            .Select(e => new
            {
                e.Id,
                e.Kind,
                e.Path,
                e.Role,
                e.PieceId,
            })
            .ToListAsync(cancel);
        var pieces = await db
            .Pieces.AsNoTracking()
            .Where(p => p.ProjectId == projectId)
            .Select(p => new
            {
                p.Id,
                p.CurrentName,
                p.FromEntryId,
            })
            .ToDictionaryAsync(p => p.Id, cancel);
        var nodes = entries
            .Where(e => e.PieceId is not { } piece || pieces.ContainsKey(piece))
            .Select(e => new WebNode(
                e.Id.ToString(),
                e.PieceId is null ? NodeKind.File : NodeKind.Piece,
                RankOf(e.Role, e.PieceId is not null),
                e.PieceId is { } piece ? pieces[piece].CurrentName : e.Path.Name,
                e.Path,
                e.Id,
                e.PieceId
            ))
            .ToDictionary(k => k.Key);
        var edges = new Dictionary<(string, string), WebEdge>();
        foreach (var link in current)
        {
            var to = link.HolderId.ToString();
            if (!nodes.ContainsKey(to) || link.State is ReferenceState.Web or ReferenceState.Embedded)
                continue;
            var from = link.TargetId?.ToString();
            if (from is null && link.State.IsBroken())
            {
                from = $"{link.State}:{link.Path ?? link.Record.Written}";
                var name = FileIndex<WebNode>.NameOf(link.Path ?? WrittenReference.Read(link.Record.Written, ReferenceSyntax.Uri).Path);
                nodes.TryAdd(from, new WebNode(from, NodeKind.Nowhere, WebRank.Assets, name, null, null, null) { State = link.State });
            }
            if (from is not null && from != to && nodes.ContainsKey(from))
                edges.TryAdd((from, to), new WebEdge(from, to, link));
        }
        foreach (var entry in entries.Where(e => e.PieceId is not null))
        {
            if (pieces.GetValueOrDefault(entry.PieceId!.Value)?.FromEntryId?.ToString() is { } from && nodes.ContainsKey(from))
                edges.TryAdd((from, entry.Id.ToString()), new WebEdge(from, entry.Id.ToString(), null));
        }
        var files = entries.Where(e => e.PieceId is not null).ToDictionary(e => e.PieceId!.Value, e => e.Id.ToString());
        foreach (
            var made in await db.Outputs.Where(o => db.Pieces.Any(p => p.Id == o.PieceId && p.ProjectId == projectId)).ToListAsync(cancel)
        )
        {
            var to = made.EntryId.ToString();
            if (files.TryGetValue(made.PieceId, out var from) && nodes.ContainsKey(from) && nodes.ContainsKey(to))
                edges.TryAdd((from, to), new WebEdge(from, to, null));
        }
        return Bundled(new UseWeb([.. nodes.Values], [.. edges.Values]));
    }

    private static WebRank RankOf(FolderRole role, bool isPiece) =>
        isPiece ? WebRank.Pieces
        : role == FolderRole.Originals ? WebRank.Originals
        : role == FolderRole.Outputs ? WebRank.Outputs
        : WebRank.Assets;

    // Forty textures of one scene say no more than "40 files".
    private static UseWeb Bundled(UseWeb web)
    {
        var ends = web
            .Edges.SelectMany(t => new[] { (At: t.From, Other: $"{t.To}<"), (At: t.To, Other: $"{t.From}>") })
            .ToLookup(t => t.At, t => t.Other);
        var renamed = new Dictionary<string, string>();
        var nodes = new List<WebNode>();
        foreach (var rank in web.Nodes.GroupBy(k => k.Rank))
        {
            if (rank.Count() <= MostSingle || rank.Key == WebRank.Pieces)
            {
                nodes.AddRange(rank);
                continue;
            }
            foreach (
                var alike in rank.GroupBy(k =>
                    (k.Kind, k.State, k.Path?.Folder, string.Join('|', ends[k.Key].Order(StringComparer.Ordinal)))
                )
            )
            {
                var members = alike.ToList();
                if (members.Count < LeastBundled)
                {
                    nodes.AddRange(members);
                    continue;
                }
                var first = members.MinBy(m => m.Path?.Text ?? m.Name, StringComparer.Ordinal)!;
                var folder = alike.Key.Folder;
                nodes.Add(
                    first with
                    {
                        Kind = alike.Key.Kind == NodeKind.File ? NodeKind.Bundle : alike.Key.Kind,
                        Name = folder is null ? $"{members.Count:N0} files" : $"{folder.Name}/",
                        Path = folder ?? first.Path,
                        EntryId = null,
                        Count = members.Count,
                    }
                );
                foreach (var member in members)
                    renamed[member.Key] = first.Key;
            }
        }
        return new UseWeb(
            nodes,
            [
                .. web
                    .Edges.Select(t =>
                        t with
                        {
                            From = renamed.GetValueOrDefault(t.From, t.From),
                            To = renamed.GetValueOrDefault(t.To, t.To),
                        }
                    )
                    .DistinctBy(t => (t.From, t.To)),
            ]
        );
    }
}
