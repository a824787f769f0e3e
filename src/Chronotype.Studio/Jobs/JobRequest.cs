using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;

namespace Chronotype.Studio.Jobs;

/// <summary>A job as it is asked for.</summary>
public sealed record JobRequest(JobKind Kind, string Subject, string Lane, JobPriority Priority = JobPriority.Follows)
{
    /// <summary>It is wanted also when nobody looks any more: what is only looked at is not done for its own sake.</summary>
    public bool IsNeeded =>
        Priority != JobPriority.Looked
        || Kind is not (JobKind.DrawPreview or JobKind.CompareContents or JobKind.CutTiles or JobKind.PrepareSound);

    /// <summary>Reading for a keep waits for no output and no comparison of its piece.</summary>
    public const string ReadLane = "read/";

    /// <summary>A setting asks for it, and no person.</summary>
    public bool IsBySetting { get; private init; }

    private const string StoreLane = "store",
        CountLane = "count";

    public static JobRequest Read(ContentHash content, Guid piece, JobPriority priority = JobPriority.Follows) =>
        new(JobKind.ReadContent, content.ToString(), ReadLane + Of(piece), priority);

    /// <param name="side">The longer side, in pixels.</param>
    /// <param name="page">Of a picture with pages, which, from 0.</param>
    public static JobRequest Draw(ContentHash content, int side, Guid piece, int page = 0, JobPriority priority = JobPriority.Looked)
    {
        var subject = FormattableString.Invariant($"{content}/{side}");
        return new(JobKind.DrawPreview, page > 0 ? FormattableString.Invariant($"{subject}/{page}") : subject, Of(piece), priority);
    }

    /// <param name="first">The picture, or the earlier of two.</param>
    /// <param name="second">The later of two, for their difference.</param>
    public static JobRequest Cut(PictureView first, PictureView? second, Guid piece) =>
        new(JobKind.CutTiles, second is null ? $"{first}" : $"{first}/{second}", Of(piece), JobPriority.Looked);

    /// <param name="subject">As <see cref="JobKind.PrepareSound"/> says.</param>
    public static JobRequest Prepare(string subject, Guid piece) => new(JobKind.PrepareSound, subject, Of(piece), JobPriority.Looked);

    /// <param name="recipe">Its key.</param>
    /// <param name="subject">As <see cref="Outputs.MakeOutputs.SubjectOf"/> tells it.</param>
    public static JobRequest Make(string subject, Guid piece) => new(JobKind.MakeOutput, subject, Of(piece));

    /// <param name="entry">A file among the outputs.</param>
    public static JobRequest Match(Guid entry) => new(JobKind.MatchOutput, entry.ToString(), Of(entry));

    /// <param name="subject">As <see cref="JobKind.PutParts"/> says.</param>
    public static JobRequest Put(string subject, Guid piece) => new(JobKind.PutParts, subject, Of(piece));

    /// <param name="entry">A file that is off the spec.</param>
    public static JobRequest Mend(Guid entry) => new(JobKind.MendSpec, entry.ToString(), Of(entry));

    /// <param name="before">The identity of the earlier save.</param>
    /// <param name="after">The identity of the later save.</param>
    public static JobRequest Compare(ContentHash before, ContentHash after, Guid piece, JobPriority priority = JobPriority.Follows) =>
        new(JobKind.CompareContents, $"{before}/{after}", Of(piece), priority);

    /// <summary>Gives a save its number once it has been read, since a person wants it.</summary>
    public static JobRequest Keep(Guid save, Guid piece) => new(JobKind.KeepBySetting, save.ToString(), Of(piece));

    /// <summary>Gives a save its number where the piece's setting still wants that once it has been read.</summary>
    public static JobRequest KeepBySetting(Guid save, Guid piece) => Keep(save, piece) with { IsBySetting = true };

    /// <param name="kind">One of the kinds that are about the whole store.</param>
    public static JobRequest Store(JobKind kind, JobPriority priority = JobPriority.Background) =>
        new(kind, "", kind == JobKind.CountStorage ? CountLane : StoreLane, priority);

    private static string Of(Guid piece) => piece.ToString();
}
