using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Projects;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Uses;

/// <summary>Which part of a web is shown.</summary>
public enum WebState
{
    /// <summary>All of it.</summary>
    All,

    /// <summary>What does not lead where it should, and what uses that.</summary>
    Broken,

    /// <summary>What nothing that can be read refers to.</summary>
    Unused,
}

/// <summary>A node as it is drawn.</summary>
/// <param name="Title">What it is called in a few letters: of a piece, what it is of.</param>
/// <param name="Says">A few words below its name.</param>
/// <param name="Picture">Of a piece; null for none.</param>
/// <param name="IsOff">It is not what the project's files must be.</param>
public sealed record ShownNode(WebNode Record, string Title, string Says, string? Picture, bool IsAtRisk, bool IsOff)
{
    public string Key => Record.Key;
}

/// <summary>A project's web with what is to be shown of it.</summary>
/// <param name="Chosen">The key of the node that is looked at; null for none.</param>
public sealed record WebView(string Project, IReadOnlyList<ShownNode> Nodes, IReadOnlyList<WebEdge> Edges, WebLayout Layout, string? Chosen)
{
    /// <summary>What leads to the chosen node and from it.</summary>
    public IReadOnlySet<string> Way { get; init; } = new HashSet<string>();

    public int CountOf(WebRank rank) =>
        Nodes.Where(k => k.Record.Rank == rank).Sum(k => k.Record.Kind == NodeKind.Nowhere ? 0 : k.Record.Count);

    /// <summary>Builds what is shown out of the web.</summary>
    /// <param name="piece">Only what has to do with it; null for all.</param>
    public static async Task<WebView> LoadAsync(
        StudioDb db,
        StudioClock clock,
        Project project,
        UseWeb web,
        string? chosen,
        string? piece,
        WebState state,
        IReadOnlyList<OffSpec> offSpec,
        CancellationToken cancel
    )
    {
        var off = offSpec.ToDictionary(o => o.EntryId, o => SpecWords.Is(o));
        var shown = Shown(web, piece, state);
        var nodes = web.Nodes.Where(k => shown.Contains(k.Key)).ToList();
        var edges = web.Edges.Where(t => shown.Contains(t.From) && shown.Contains(t.To)).ToList();
        var ids = nodes.Select(k => k.PieceId).OfType<Guid>().ToList();
        var cards = (await PieceCards.LoadAsync(db, ids, withBars: false, cancel)).ToDictionary(c => c.Id);
        var files = nodes.Where(k => k.Kind == NodeKind.File).Select(k => k.EntryId!.Value).ToList();
        var contents = (
            await db
                .FileContents.AsNoTracking()
                .Where(c => files.Contains(c.EntryId))
                .GroupBy(c => c.EntryId)
                .Select(g => new
                {
                    g.Key,
                    Count = g.Count(),
                    At = g.Max(c => c.At),
                })
                .ToListAsync(cancel)
        ).ToDictionary(c => c.Key);
        var used = edges.Select(t => t.From).ToHashSet();
        var words = ConventionStore.Read(project.Convention).Slots.FirstOrDefault(s => s.Rule is WordsRule)?.Label;
        var slots = (await db.Pieces.Where(p => ids.Contains(p.Id)).Select(p => new { p.Id, p.Slots }).ToListAsync(cancel)).ToDictionary(
            p => p.Id,
            p => RecordJson.Read<Dictionary<string, string>>(p.Slots)
        );
        var all = nodes.ConvertAll(k =>
        {
            var card = k.PieceId is { } id ? cards.GetValueOrDefault(id) : null;
            var past = k.EntryId is { } entry ? contents.GetValueOrDefault(entry) : null;
            // Somebody may have deleted it in this very moment.
            var called = k.PieceId is { } piece ? slots.GetValueOrDefault(piece, []) : null;
            var wrong = k is { Kind: NodeKind.File or NodeKind.Piece, EntryId: { } file } ? off.GetValueOrDefault(file) : null;
            var subject = words is null ? null : called?.GetValueOrDefault(words);
            return new ShownNode(
                k,
                subject is { Length: > 0 } ? subject : k.Name,
                wrong is not null
                    ? $"{wrong}: off the spec"
                    : k.Kind switch
                    {
                        NodeKind.Piece => string.Join(
                            ' ',
                            called!.Where(c => c.Key != words && c.Value.Length > 0).Select(c => c.Value).Append(Standing(card))
                        ),
                        NodeKind.Nowhere => k.State == ReferenceState.Missing ? "not here" : ReferenceWords.Of(k.State),
                        NodeKind.Bundle => DisplayText.Count(k.Count, "file", "files"),
                        _ when k.Rank == WebRank.Originals => "as received",
                        _ when !used.Contains(k.Key) && k.Rank == WebRank.Assets => Unused,
                        _ when past is null => "",
                        _ => (past.Count > 1 ? $"content {past.Count}, " : "")
                            + $"since {DisplayText.Moment(clock.At(past.At), clock.Now)}",
                    },
                card is { HasFace: true } ? card.Picture : null,
                card?.Standing.RiskSince is not null,
                wrong is not null
            );
        });
        var layout = WebLayout.Lay(
            all.ConvertAll(k => new WebBox(
                k.Key,
                k.Record.Rank,
                $"{k.Record.Path?.Text}{k.Record.Name}",
                k.Record.Kind == NodeKind.Piece ? 52 : 36
            )),
            edges.ConvertAll(t => new WebLine(t.From, t.To))
        );
        var isThere = chosen is not null && all.Exists(k => k.Key == chosen);
        return new WebView(project.Code, all, edges, layout, isThere ? chosen : null)
        {
            Way = isThere ? web.Around([chosen!]) : new HashSet<string>(),
        };
    }

    /// <summary>What is said of an asset that nothing uses, as far as anything can be read.</summary>
    public const string Unused = "used by nothing read";

    private static string Standing(PieceCard? card)
    {
        if (card?.NewestSave is null)
            return "reserved";
        var number = card.Standing.Newest is { } n ? DisplayText.Version(n) : "loose";
        return card.Format == FileFormat.Other ? $"{number}, closed" : number;
    }

    private static HashSet<string> Shown(UseWeb web, string? piece, WebState state)
    {
        var keys = web.Nodes.Select(k => k.Key).ToHashSet();
        if (piece is not null)
            keys = [.. web.Around(web.Nodes.Where(k => k.Kind == NodeKind.Piece && k.Name == piece).Select(k => k.Key))];
        var used = web.Edges.Select(t => t.From).ToHashSet();
        return state switch
        {
            WebState.Broken =>
            [
                .. web
                    .Edges.Where(t => t.Link is { State: var s } && (s.IsBroken() || s == ReferenceState.OtherCase) && keys.Contains(t.To))
                    .SelectMany(t => new[] { t.From, t.To }),
            ],
            WebState.Unused =>
            [
                .. web.Nodes.Where(k => k.Rank == WebRank.Assets && !used.Contains(k.Key) && keys.Contains(k.Key)).Select(k => k.Key),
            ],
            _ => keys,
        };
    }
}
