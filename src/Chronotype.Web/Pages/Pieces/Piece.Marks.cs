using Chronotype.Core.Versions;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;

namespace Chronotype.Web.Pages.Pieces;

// Marking versions: milestones, masters, and when a milestone is offered.
public sealed partial class PieceModel
{
    public async Task<IActionResult> OnPostMilestoneAsync(int? number, string? reason, Guid? line, CancellationToken cancel) =>
        await FindAsync(cancel) is { } piece ? await MilestoneAsync(piece, number, reason ?? "", false, cancel, line) : NotFound();

    public async Task<IActionResult> OnPostMasterAsync(int number, Guid? line, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await markMaster.DoAsync(User.Actor(), piece, new VersionNumber(Math.Max(number, 0)), cancel, line),
            m =>
                Notice.Done($"{new VersionNumber(number)} is the master: {m.ExactName}. It is never thinned out.") with
                {
                    Undo = $"{Places.OfPiece(Project, Piece)}?handler=MasterOff&save={m.SaveId}",
                },
            number.ToString(System.Globalization.CultureInfo.InvariantCulture)
        );
    }

    public async Task<IActionResult> OnPostMasterOffAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await markMaster.TakeOffAsync(User.Actor(), piece, save, cancel),
            _ => Notice.Done("It is no master any more. The version stays as it is.")
        );
    }

    public async Task<IActionResult> OnPostPutBackAsync(CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(await shareFiles.PutBackAsync(User.Actor(), piece, cancel), _ => Notice.Done("Its file stands on the share again."));
    }

    public async Task<IActionResult> OnPostDeclineMarkAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await markMilestone.DeclineAsync(User.Actor(), piece, save, cancel),
            _ => Notice.Done("Not marked. It is not offered again for this save.")
        );
    }

    public async Task<IActionResult> OnPostGreatChangeAsync(string? percent, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        double? share =
            string.IsNullOrWhiteSpace(percent) ? null
            : double.TryParse(percent, System.Globalization.CultureInfo.InvariantCulture, out var n) ? n / 100
            : double.NaN;
        return Back(
            await setKeepSetting.GreatChangeAsync(User.Actor(), piece, share, cancel),
            _ =>
                Notice.Done(
                    share is { } set
                        ? $"From now on the version before a save is offered to be marked when {set:P0} or more of it changed."
                        : "What a great change is, is learned from this piece’s own past again."
                )
        );
    }

    private async Task<IActionResult> MilestoneAsync(
        Guid piece,
        int? number,
        string reason,
        bool insist,
        CancellationToken cancel,
        Guid? line = null
    )
    {
        var outcome = await markMilestone.DoAsync(
            User.Actor(),
            piece,
            number is >= 0 ? new VersionNumber(number.Value) : null,
            reason,
            insist,
            cancel,
            line
        );
        if (!outcome.Done)
            return Back(
                Notice.About(outcome.Refusal) is { Insist: not null } asks ? asks with { Reason = reason } : Notice.About(outcome.Refusal)
            );
        var (milestone, version) = (outcome.Result.Milestone, outcome.Result.Version);
        return Back(
            Notice.Done(
                $"{(outcome.Result.Kept is null ? "" : $"Kept as {version}. ")}{version} is milestone M{milestone.Number:D2}, "
                    + $"“{milestone.Reason}”."
            )
        );
    }
}
