using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Share;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;
using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Share;

/// <summary>A request of a program, with what its address leads to.</summary>
/// <param name="Place">As it was asked for.</param>
/// <param name="ProjectId">Null for the share's top.</param>
/// <param name="Node">What stands there; null where nothing does, and for the share's top.</param>
/// <param name="Db">Of the request.</param>
/// <param name="If">Null where the program said none.</param>
public sealed record ShareRequest(
    HttpContext Context,
    SharePlace Place,
    Guid? ProjectId,
    ShareNode? Node,
    StudioDb Db,
    ShareLocks Locks,
    IfHeader? If
)
{
    private static readonly IReadOnlySet<string> None = new HashSet<string>();

    public CancellationToken Cancel => Context.RequestAborted;

    public Actor Actor => Context.User.Actor();

    public IReadOnlySet<string> Tokens => If?.Tokens ?? None;

    /// <summary>It is the top of the share, or of a project: that is made and named elsewhere.</summary>
    public bool IsTop => Place.Path is null;

    /// <summary>Finds what stands at another address, such as a destination.</summary>
    public Task<ShareRequest?> AtAsync(SharePlace place) => AtAsync(place, Db);

    private async Task<ShareRequest?> AtAsync(SharePlace place, StudioDb db)
    {
        var project = place.Project is { } code ? await FindProjectAsync(db, code, Cancel) : null;
        if (place.Project is not null && project is null)
            return null;
        var node = project is { } id ? await new ShareTree(db, id).FindAsync(place.Path, Cancel) : null;
        return this with { Place = place, ProjectId = project, Node = node };
    }

    /// <summary>Whether all of its conditions hold, as the records are for a deed that is under way.</summary>
    public async Task<bool> HoldsAsync(StudioDb db) =>
        await AtAsync(Place, db) is { } now && now.PreconditionsHold() && (If is null || await now.IfHoldsAsync(db));

    /// <summary>Whether the If header holds (RFC 4918, 10.4.3): it does where all conditions of one list do, and where there is none.</summary>
    public Task<bool> IfHoldsAsync() => If is null ? Task.FromResult(true) : IfHoldsAsync(Db);

    private async Task<bool> IfHoldsAsync(StudioDb db)
    {
        foreach (var list in If!.Lists)
        {
            var about = this;
            if (list.Tag is not null)
            {
                if (!SharePlace.TryParse(list.Tag, out var tagged, out _) || await AtAsync(tagged!, db) is not { } other)
                    continue;
                about = other;
            }
            var held = about.ProjectId is { } project ? Locks.Of(project, about.Place.Path) : [];
            var tag = TagOf(about.Node)?.ToString();
            if (list.Conditions.All(c => c.IsNot != (c.Token is { } token ? held.Any(l => l.Token == token) : c.Tag == tag)))
                return true;
        }
        return false;
    }

    /// <summary>Says that something is locked, where it is and this program does not hold the lock.</summary>
    /// <param name="isMember">As of <see cref="ShareLocks.Against"/>.</param>
    /// <param name="isTree">As of <see cref="ShareLocks.Against"/>.</param>
    /// <returns>Whether it is; then the answer is given.</returns>
    public async Task<bool> IsLockedAsync(bool isMember, bool isTree = false)
    {
        if (ProjectId is not { } project || Locks.Against(project, Place.Path, Actor.PersonId, Tokens, isMember, isTree) is not { } held)
            return false;
        var href = new SharePlace(Place.Project, held.Path).Href(isFolder: held.IsDeep);
        await DavXml.WriteAsync(
            Context,
            StatusCodes.Status423Locked,
            new System.Xml.Linq.XElement(
                DavXml.Dav + "error",
                new System.Xml.Linq.XElement(DavXml.Dav + "lock-token-submitted", new System.Xml.Linq.XElement(DavXml.Dav + "href", href))
            ),
            Cancel
        );
        return true;
    }

    /// <summary>Whether the conditions of RFC 9110, 13, hold, as far as they are about entity tags.</summary>
    public bool PreconditionsHold()
    {
        var headers = Context.Request.GetTypedHeaders();
        var tag = TagOf(Node);
        bool IsAny(IList<EntityTagHeaderValue> tags) =>
            tags.Any(t => t == EntityTagHeaderValue.Any ? Node is not null : t.Compare(tag ?? Missing, useStrongComparison: true));
        return (headers.IfMatch.Count == 0 || IsAny(headers.IfMatch)) && (headers.IfNoneMatch.Count == 0 || !IsAny(headers.IfNoneMatch));
    }

    private static readonly EntityTagHeaderValue Missing = new("\"-\"");

    /// <summary>The strong entity tag of what a file holds; null for a folder and for nothing.</summary>
    public static EntityTagHeaderValue? TagOf(ShareNode? node) => node?.Hash is { } hash ? TagOf(hash) : null;

    /// <summary>128 bits of the content's hash: programs put several tags into one line, and not all have room for more.</summary>
    public static EntityTagHeaderValue TagOf(ContentHash hash) => new($"\"{hash.ToString()[..32]}\"");

    /// <summary>Answers with a status and a sentence.</summary>
    public async Task SayAsync(int status, string? sentence = null)
    {
        Context.Response.StatusCode = status;
        if (sentence is null)
            return;
        Context.Response.ContentType = "text/plain; charset=utf-8";
        await Context.Response.WriteAsync(sentence + "\n", Cancel);
    }

    /// <summary>Answers with why a deed was not done.</summary>
    /// <param name="taken">The status where something stands in the way.</param>
    public Task SayAsync(Refusal refusal, int taken = StatusCodes.Status405MethodNotAllowed) =>
        SayAsync(
            refusal switch
            {
                Refusal.NoSuchEntry or Refusal.NoSuchProject or Refusal.NoSuchPiece => StatusCodes.Status404NotFound,
                Refusal.KeyRevoked => StatusCodes.Status401Unauthorized,
                Refusal.NoSuchFolder => StatusCodes.Status409Conflict,
                Refusal.PathTaken => taken,
                Refusal.ChangedMeanwhile => StatusCodes.Status412PreconditionFailed,
                Refusal.FileNameNotLegal or Refusal.PathTooLong => StatusCodes.Status400BadRequest,
                _ => StatusCodes.Status403Forbidden,
            },
            RefusalWords.Of(refusal)
        );

    /// <returns>Null where there is no project of that code that they may see.</returns>
    public static async Task<Guid?> FindProjectAsync(StudioDb db, string code, CancellationToken cancel) =>
        await db.Projects.Where(p => p.Code == code).Select(p => (Guid?)p.Id).FirstOrDefaultAsync(cancel);
}

/// <summary>One method of the share (RFC 4918; RFC 9110).</summary>
public interface IShareMethod
{
    Task AnswerAsync(ShareRequest request);
}
