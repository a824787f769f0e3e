using System.Globalization;
using Chronotype.Core.Outputs;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Uploads;

/// <summary>Where files arrive: a new piece with its first content, the next save of a piece, and copies to repair from.</summary>
public sealed class UploadEndpoints(
    StudioDb db,
    UploadDoor door,
    StartPiece startPiece,
    StartFrom startFrom,
    ReceiveSave receiveSave,
    PlaceFile placeFile,
    FindPiece findPiece,
    RepairContent repairContent,
    AttachFace attachFace
)
{
    private UploadDoor Door => door;

    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPost(
            "/projects/{project}/pieces",
            (HttpContext context, UploadEndpoints uploads, string project, CancellationToken cancel) =>
                uploads.Door.AnswerAsync(context, upload => uploads.StartAsync(context, project, upload, cancel), cancel)
        );
        routes.MapPost(
            "/projects/{project}/{piece}/saves",
            (HttpContext context, UploadEndpoints uploads, string project, string piece, CancellationToken cancel) =>
                uploads.Door.AnswerAsync(context, upload => uploads.SaveAsync(context, project, piece, upload, cancel), cancel)
        );
        routes.MapPost(
            "/projects/{project}/{piece}/saves/{save:guid}/face",
            (HttpContext context, UploadEndpoints uploads, string project, string piece, Guid save, CancellationToken cancel) =>
                uploads.Door.AnswerAsync(context, upload => uploads.FaceAsync(context, project, piece, save, upload, cancel), cancel)
        );
        routes.MapPost(
            "/storage/copies",
            (HttpContext context, UploadEndpoints uploads, CancellationToken cancel) =>
                uploads.Door.AnswerAsync(context, upload => uploads.RepairAsync(context, upload, cancel), cancel)
        );
    }

    private async Task<UploadAnswer> StartAsync(HttpContext context, string projectCode, MultipartUpload upload, CancellationToken cancel)
    {
        var project = await db.Projects.AsNoTracking().FirstOrDefaultAsync(p => p.Code == projectCode, cancel);
        if (project is null)
            return UploadAnswer.Refused(new Refusal.NoSuchProject());
        var (actor, slots) = (context.User.Actor(), SlotFields.From(upload.Fields));
        if (upload.FileName is null && Guid.TryParse(upload.Field("from"), out var from))
        {
            var begun = await startFrom.OriginalAsync(actor, project.Id, slots, from, cancel);
            if (!begun.Done)
                return UploadAnswer.Refused(begun.Refusal);
            door.Say(
                context,
                Notice.Done("The piece begins with a copy of the original, which stays as it was received. Work on this one from here on.")
            );
            return UploadAnswer.To(PiecePage(project.Code, begun.Result.Piece));
        }
        if (upload.FileName is null && Guid.TryParse(upload.Field("start"), out var save))
        {
            // Nothing said, or nothing that is a list of places: all of it.
            var parts = upload.Field("parts").Split(',').Select(p => int.TryParse(p, out var n) ? n : -1).Where(n => n >= 0).ToList();
            var begun =
                Cut(upload) is { } cut ? await startFrom.PartsAsync(actor, project.Id, slots, save, [], cut, cancel)
                : parts.Count > 0 ? await startFrom.PartsAsync(actor, project.Id, slots, save, parts, null, cancel)
                : await startFrom.SaveAsync(actor, project.Id, slots, save, cancel);
            if (!begun.Done)
                return UploadAnswer.Refused(begun.Refusal);
            door.Say(context, Notice.Done("The piece begins with a copy of that version, and remembers where it came from."));
            return UploadAnswer.To(PiecePage(project.Code, begun.Result));
        }
        if (upload.FileName is null)
        {
            var started = await startPiece.DoAsync(actor, project.Id, slots, cancel: cancel);
            return started.Done ? UploadAnswer.To(PiecePage(project.Code, started.Result)) : UploadAnswer.Refused(started.Refusal);
        }
        return await ReceiveAsync(context, project.Code, new SaveTarget.NewPiece(project.Id, slots), upload, cancel);
    }

    private async Task<UploadAnswer> SaveAsync(
        HttpContext context,
        string projectCode,
        string pieceName,
        MultipartUpload upload,
        CancellationToken cancel
    )
    {
        if (await findPiece.DoAsync(projectCode, pieceName, cancel) is not { } piece)
            return UploadAnswer.Refused(new Refusal.NoSuchPiece());
        return upload.FileName is null
            ? UploadAnswer.Refused(new Refusal.NoContent())
            : await ReceiveAsync(context, projectCode, new SaveTarget.OfPiece(piece.Id), upload, cancel);
    }

    private async Task<UploadAnswer> FaceAsync(
        HttpContext context,
        string projectCode,
        string pieceName,
        Guid save,
        MultipartUpload upload,
        CancellationToken cancel
    )
    {
        if (await findPiece.DoAsync(projectCode, pieceName, cancel) is not { } piece)
            return UploadAnswer.Refused(new Refusal.NoSuchPiece());
        if (upload.FileName is null)
            return UploadAnswer.Refused(new Refusal.NoContent());
        var content = new ArrivingContent(upload.FileName, upload.File);
        var outcome = await attachFace.DoAsync(context.User.Actor(), piece.Id, save, content, cancel);
        if (!outcome.Done)
            return UploadAnswer.Refused(outcome.Refusal);
        door.Say(context, Faced(outcome.Result.Save, outcome.Result.Face));
        return UploadAnswer.To(
            outcome.Result.Save.Number is { } number ? $"{PiecePage(projectCode, piece)}?b={number}" : PiecePage(projectCode, piece)
        );
    }

    private static Notice Faced(Save save, Face face)
    {
        var whose = save.Number is { } number ? new VersionNumber(number).ToString() : "the newest save";
        var why = FactWords.Of(face.Origin);
        return Notice.Done(
            $"{face.Name} is the face of {whose} now ({why}): it shows what cannot be read in the native, and is no save itself."
        ) with
        {
            FaceAsSave = face.Origin == FaceOrigin.ByHand ? null : face.Id,
        };
    }

    private async Task<UploadAnswer> ReceiveAsync(
        HttpContext context,
        string projectCode,
        SaveTarget target,
        MultipartUpload upload,
        CancellationToken cancel
    )
    {
        var outcome = await receiveSave.DoAsync(context.User.Actor(), target, new ArrivingContent(upload.FileName!, upload.File), cancel);
        if (!outcome.Done)
            return UploadAnswer.Refused(outcome.Refusal);
        var received = outcome.Result;
        if (received.Face is { } face)
            door.Say(context, Faced(received.Save, face));
        else if (received.Companion is { } companion)
            door.Say(
                context,
                Notice.Done(
                    companion.Content.Sequence > 1
                        ? $"{companion.Entry.Path.Name}, which goes with this piece’s file, holds this now; what it held before stays."
                        : $"It goes with this piece’s file now, as {companion.Entry.Path.Name}: named, moved, kept and sent with it."
                ) with
                {
                    CompanionAsSave = companion.Entry.Id,
                }
            );
        else if (received.Keep is { } keep)
            door.Say(context, Notice.About(keep));
        else if (!received.IsNew)
            door.Say(context, Notice.Unchanged(received.Save));
        else if (received.SameAs is { } same)
            door.Say(
                context,
                Notice.Done(
                    $"It is stored as a loose save, and is the same as {same}, byte for byte: nothing was added on disk, and nothing is at "
                        + "risk."
                )
            );
        else if (received.Notice is { } notice)
            door.Say(context, Notice.Done($"It is stored as a loose save. {FactWords.Of(notice)}"));
        else if (received.NotTaken is { } number)
            door.Say(
                context,
                Notice.Done(
                    $"It is stored. Its name says {number}, but numbers are used once and in order here, so it is a loose save until "
                        + $"it is kept as {received.Next}."
                )
            );
        else if (received.ByName is { } said)
            door.Say(
                context,
                Notice.Done(
                    $"It is stored as a loose save. Its name says {said}, which is above all numbers used so far: keep it as {said}, as "
                        + $"its name says, or as {received.InOrder}, the next."
                )
            );
        else if (await ElsewhereAsync(context, received.Piece, received.Save, cancel) is { } elsewhere)
            door.Say(context, elsewhere);
        return UploadAnswer.To(PiecePage(projectCode, received.Piece));
    }

    private async Task<UploadAnswer> RepairAsync(HttpContext context, MultipartUpload upload, CancellationToken cancel)
    {
        if (upload.FileName is null)
            return UploadAnswer.Refused(new Refusal.NoContent());
        var repaired = await repairContent.DoAsync(context.User.Actor(), upload.File, cancel);
        if (!repaired.Done)
            return UploadAnswer.Refused(repaired.Refusal);
        door.Say(
            context,
            repaired.Result switch
            {
                { Name: { } name, Bytes: 0 } => new Notice(
                    NoticeKind.Done,
                    $"That is {name}, and it is whole here: nothing had to be repaired."
                ),
                { Name: { } name } => new Notice(
                    NoticeKind.Done,
                    $"{name} is whole again: {DisplayText.Size(repaired.Result.Bytes)} of it were kept anew. Verify to see what else "
                        + $"that mended."
                ),
                _ => new Notice(
                    NoticeKind.Ask,
                    "No save here has exactly this content, so it was not kept. Any damaged part that it shares with one was "
                        + "repaired; verify to see."
                ),
            }
        );
        return UploadAnswer.To("/storage");
    }

    // The name may speak for another piece. The file stays where the person put it.
    private async Task<Notice?> ElsewhereAsync(HttpContext context, Piece piece, Save save, CancellationToken cancel)
    {
        var proposal = await placeFile.DoAsync(piece.ProjectId, save.ReceivedName, context.User.Initials(), cancel);
        if (proposal.Places.Count == 0 || proposal.Places[0].PieceId == piece.Id)
            return proposal.Marks.Count == 0
                ? null
                : new Notice(
                    NoticeKind.Done,
                    "It is stored as a loose save. Read from its name: "
                        + $"{string.Join("; ", proposal.Marks.Select(m => NameWords.Of(proposal.Name, m)))}."
                );
        var best = proposal.Places[0];
        if (proposal.Places.FirstOrDefault(p => p.PieceId == piece.Id) is { } here && here.Share >= best.Share)
            return null;
        return new Notice(
            NoticeKind.Ask,
            $"It is stored here as a loose save, though its name speaks for {best.CurrentName}: "
                + $"{string.Join("; ", best.Reasons.Select(NameWords.Of))}.",
            Give: save.Id,
            GiveTo: best.CurrentName
        );
    }

    // A region, in pixels, or a stretch, in seconds; null where neither is typed.
    private static PartCut? Cut(MultipartUpload upload)
    {
        double? Number(string field) =>
            upload.Field(field).Trim() is not { Length: > 0 } text ? null
            : double.TryParse(text.Replace(',', '.'), CultureInfo.InvariantCulture, out var n) && double.IsFinite(n) ? n
            : 0;
        int Whole(string field) => (int)Math.Clamp(Number(field) ?? 0, -1e9, 1e9);
        if (Number("cutWidth") is not null || Number("cutHeight") is not null)
            return new PartCut(new PictureRegion(Whole("cutX"), Whole("cutY"), Whole("cutWidth"), Whole("cutHeight")), null);
        return Number("cutFrom") is not null || Number("cutSeconds") is not null
            ? new PartCut(null, new SoundStretch(Number("cutFrom") ?? 0, Number("cutSeconds") ?? 360_000))
            : null;
    }

    private static string PiecePage(string project, Piece piece) =>
        $"/projects/{Uri.EscapeDataString(project)}/{Uri.EscapeDataString(piece.CurrentName)}";
}
