using Chronotype.Core.Versions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Lines;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;

namespace Chronotype.Web.Words;

/// <summary>Why a deed was not done, in sentences: what stands in the way, and what to do.</summary>
public static class RefusalWords
{
    public static string Of(Refusal refusal) =>
        refusal switch
        {
            Refusal.Length { Least: > 0 } r =>
                $"{Title(r.What)} has {r.Least} to {r.Most} characters.{(r.What == "reason" ? " Write more in the version’s note." : "")}",
            Refusal.Length r => $"{Title(r.What)} has at most {r.Most} characters.",
            Refusal.NotAllowed { Right: Right.Work } => "You are not in this studio any more. Nothing was changed.",
            Refusal.NotAllowed => "Only an owner of the studio may do that. Nothing was changed.",
            Refusal.OnlyReads =>
                "You may look at everything here and take copies, and change nothing. An owner can give you the right to. Nothing was changed.",
            Refusal.KeyRevoked => "This key was revoked meanwhile. Nothing was changed.",
            Refusal.OwnerSeesAll => "An owner sees and changes everything. Nothing was changed.",
            Refusal.NoSuchProject => "There is no such project.",
            Refusal.NoSuchPiece => "There is no such piece in this project.",
            Refusal.NoSuchSave => "There is no such save any more.",
            Refusal.NoSuchPerson => "There is no such person in this studio.",
            Refusal.NoFace r => $"{r.Name} is no flat picture and no sound, so it cannot stand in for a version. Nothing was changed.",
            Refusal.NeedsNoFace => "What is inside this save can be seen already, so it needs no face. Nothing was changed.",
            Refusal.NoContent => "Choose a file first.",
            Refusal.HasOwner => "This studio has its owner already. Sign in instead.",
            Refusal.InitialsNotLegal => "Initials are 2 to 4 letters, A to Z: they stand in the names of what you keep.",
            Refusal.InitialsTaken r => $"{r.Initials} are the initials of {r.Name}. Choose others.",
            Refusal.PasswordNotGood r => Of(r.Fault),
            Refusal.PasswordWrong => "That is not your present password. Nothing was changed.",
            Refusal.PasswordSame => "That is the password that you have already. Nothing was changed.",
            Refusal.NotYourself => "You cannot switch yourself off: nobody could let you in again.",
            Refusal.ProjectCodeNotLegal => "A project’s code has 2 to 12 letters, digits or hyphens, and begins with a letter.",
            Refusal.ProjectCodeIsAddress r => $"“{r.Code}” is an address of this program. Choose another code.",
            Refusal.ProjectCodeTaken r =>
                $"{r.Code} is the code of “{r.Title}”{(r.IsDeleted ? ", which was deleted and can still be taken back" : "")}. Choose another.",
            Refusal.ClientCodeNotLegal => "A client’s code has 2 to 6 letters or digits: it begins every name.",
            Refusal.FirstNumberNotLegal => "Numbers begin at 0 or at 1.",
            Refusal.NoSuchPlan => "Choose a folder plan.",
            Refusal.PlanFaults r => string.Join(" ", r.Faults),
            Refusal.PlanIsThere r => $"There is a plan “{r.Key}” already. Choose another key; nothing was written.",
            Refusal.NoPlanBefore => "There is nothing before this to go back to.",
            Refusal.LastPlan => "This is the last plan, and projects start with one. Nothing was changed.",
            Refusal.PieceOfPlanNotLegal r => $"The project was not started: “{r.Name}” would be there from the start. {Of(r.Why)}",
            Refusal.SpecOutOfRange r => $"{SpecWords.Title(r.Point)} cannot be that. Nothing was changed.",
            Refusal.CodesBreakConvention r => $"With these codes the studio’s convention would not hold. {r.Why}",
            Refusal.SlotNeedsListedCode r => $"Choose the {r.Slot} from its list.",
            Refusal.SlotNotLegal r => r.Why,
            Refusal.PieceIsThere r => $"{r.Name} is there already. Change what it is called, or drop the file on that piece.",
            Refusal.NotReadYet => "Chronotype is still reading this save, so nothing is marked yet. Mark it again in a moment.",
            Refusal.NothingToMark => "There is nothing to mark yet: the piece has no content.",
            Refusal.NotKept r => Notice.About(r.Objection).Sentence,
            Refusal.NoReason => "A milestone needs a reason in a few words, such as “before the sky is repainted”.",
            Refusal.LeavesAtVersion => "An alt leaves its line at a version. Keep this save first, then leave from there.",
            Refusal.NoSuchAlt => "There is no such alt of this piece any more.",
            Refusal.AltNameNotLegal => "Give the alt a name with a letter or digit in it: it stands in the names of its versions.",
            Refusal.AltNameTaken { IsDropped: true } r =>
                $"An alt “{r.Name}” was dropped, and can be taken back from what was deleted. Give this one another name.",
            Refusal.AltNameTaken r => $"This piece has an alt “{r.Name}” already. Give this one another name.",
            Refusal.AltIsCurrent r =>
                $"Work goes on on alt “{r.Name}”. Go on on another line first; then it can be dropped. Nothing was changed.",
            Refusal.AltIsNeeded r => $"Alt “{r.Name}” is not dropped, since {Of(r.For)}. Nothing was changed.",
            Refusal.MainHoldsIt r => $"Version {r.Number} of the main line, its newest, holds just this. Nothing was changed.",
            Refusal.NoSuchVersion r => $"There is no version {r.Number}.",
            Refusal.MasterAlready r => $"{r.Number} is a master already: {r.Name}.",
            Refusal.NoMaster r => Of(r),
            Refusal.MarkedAlready r => $"{r.Version} is a milestone already: M{r.Milestone:D2}, “{r.Reason}”.",
            Refusal.HoldsItAlready { In: { } piece } => $"Nothing was added: the newest save of {piece} holds this very content.",
            Refusal.HoldsItAlready => "Nothing was brought back: the newest save holds this very content.",
            Refusal.ConventionFaults r => string.Join(" ", r.Faults),
            Refusal.TwoReadings r => $"“{r.Name}” would have two readings: {r.First}; or {r.Second}.",
            Refusal.NoConventionBefore => "There is no convention before this one.",
            Refusal.HoldsConventionAlready r => $"{r.Project} holds this convention already.",
            Refusal.CannotRename r => $"Nothing was renamed. {r.Why}",
            Refusal.MoveUndoneAlready => "This was undone already.",
            Refusal.MovedAgainSince r => $"{r.Project} was moved again since. Undo the later move first.",
            Refusal.ListKeptElsewhere r => $"The codes of the list {r.List} come with their own records.",
            Refusal.ListNotLegal => "A list is called by lower-case letters, digits and hyphens.",
            Refusal.CodeNotLegal r => $"A code has 1 to {r.MostCharacters} letters and digits, with hyphens inside.",
            Refusal.ClientNeedsName => "A client’s code needs the client’s name.",
            Refusal.CodeIsThere r => r.Code == r.There
                ? $"“{r.Code}” is on the list already."
                : $"“{r.There}” is on the list already; some file systems take “{r.Code}” for the same.",
            Refusal.NoSuchCode r => $"There is no code “{r.Code}” on the list {r.List}.",
            Refusal.CodeInUse r =>
                $"“{r.Code}” stays: {(r.More == 0 ? $"{r.First} is called by it" : $"{r.First} and {r.More:N0} more are called by "
                    + $"it")}. Nothing was changed.",
            Refusal.CalledSoAlready r => $"It is called {r.Name} already, and stands there. Nothing was changed.",
            Refusal.RenamedAgainSince r => $"{r.Name} was renamed again since, so these old names do not come back by themselves.",
            Refusal.NotAllKept r =>
                $"{r.Pieces[0]}{(r.Pieces.Count == 1 ? " has" : $" and {r.Pieces.Count - 1:N0} more have")} saves that are not kept, and "
                    + "would be out of sight. Keep or discard them first.",
            Refusal.ProjectIsDeleted r => $"Its project {r.Code} was deleted, too. Take the project back first.",
            Refusal.VersionStays r => $"{r.Number} is a version; only loose saves are discarded by themselves.",
            Refusal.NoSuchEntry => "That is not there any more.",
            Refusal.NoSuchFolder r => $"There is no folder {r.Path}.",
            Refusal.ShareOutOfRange => "A share is from 1 to 100 percent.",
            Refusal.NoFolderForOutputs =>
                "This project has no folder for outputs, so it stays a loose save. Make one on the project’s page first.",
            Refusal.FolderIsNoOutput => "This save is a folder of files, and an output is one file. It stays a loose save.",
            Refusal.PathTaken r => $"{r.Path} is there already. Choose another name.",
            Refusal.WorkingFolder r => $"In {r.Path} there are only pieces. Start a piece with the file, or put it into another folder.",
            Refusal.OnlyInWorkingFolder r => $"{r.Path} is a piece’s file, which stands in a working folder.",
            Refusal.OnlyFromVersions => "An output belongs to a kept version. Keep this save first; then make the output from that.",
            Refusal.RecipeFaults r => string.Join(" ", r.Faults),
            Refusal.NothingStale => "All outputs are of the newest versions already.",
            Refusal.NothingToMend =>
                "None of these can be converted here any more: they are as they should be, or only their programs can. Nothing was changed.",
            Refusal.NotPut r =>
                $"Nothing of {r.Name} could be put in: choose a part at least, of a file of the same kind, and a place that is in it. "
                    + "Nothing was changed.",
            Refusal.NoSuchProfile r => $"The colour profile {r.Name} is not here. Hand it in, or choose another.",
            Refusal.NoProfile r =>
                $"{r.Name} is no colour profile that outputs can be made for: an ICC file of a screen, a printer or a space, in "
                    + "RGB, CMYK or grey, of 16 MB at most.",
            Refusal.NoSuchRecipe r => $"There is no recipe {r.Key} any more. Choose another.",
            Refusal.NotForThis r => $"{r.Recipe} makes nothing of such a file.",
            Refusal.GoesWithItsFile r =>
                $"{r.Path} goes with the file that it belongs to: it is moved and renamed with that one, and not alone.",
            Refusal.NamedByConvention r => $"{r.Path} is named by the convention; its name is not changed by hand.",
            Refusal.IntoItself r => $"{r.Path} cannot be moved into itself.",
            Refusal.NotRelinked r => $"The links of {r.Name} cannot be changed here: it is of a format that is not written here. "
                + "Change them in the program that made it, and save. Nothing was changed.",
            Refusal.NeverMadeAgain r => $"{r.Path} is an original: it is what others are made from, and cannot be made again.",
            Refusal.PatternNotLegal r => PatternWords.Of(r.Ending, r.Line, r.Fault),
            Refusal.EndingNotLegal r => $"“{r.Ending}” is no ending of file names: a dot, and 1 to 16 letters or digits, such as .xmp.",
            Refusal.NotParted r =>
                $"Parts of {r.Name} cannot be taken by themselves here: choose one at least, or start with all of it. Nothing was started.",
            Refusal.NotPacked r =>
                $"{r.Name} cannot be packed or unpacked here: its format is not written here, it is a folder of files, or it would grow larger "
                    + "than what is read here. Nothing was changed.",
            Refusal.FileNameNotLegal r => r.Name.Length == 0 ? "A name is needed." : $"“{r.Name}” is no name for a file: {r.Why}",
            Refusal.PathTooLong r => $"{r.Path} would have a longer path than most systems take. Nothing was moved.",
            Refusal.HoldsPieces r => $"{r.Path} belongs to a piece, or holds some, so it stays. Nothing was deleted.",
            Refusal.NeverChanged r => $"{r.Path} is never given other content; a second file of its name stands beside it.",
            Refusal.NotOnTheShare r =>
                $"{r.Path.Name} is what a desktop keeps for itself, and has no place in a project. Nothing was made.",
            Refusal.KeptForGood r =>
                $"{r.Path.Name} is kept as it is, for good. Nothing was changed. Save over the piece’s current file: that becomes its next save.",
            Refusal.HeldBefore r => $"{r.Path} is being saved just now. Nothing was put over it; save once more.",
            Refusal.ChangedMeanwhile r =>
                $"{r.Path} was written by somebody else since it was read. Both are kept; nothing of yours was put over theirs.",
            Refusal.TooManyAtOnce r => $"That is more than {r.Most:N0} at once. Nothing was changed.",
            Refusal.NoSuchKey => "That key is revoked already, or was never yours.",
            Refusal.NoSuchJob => "That job is over already.",
            _ => throw new ArgumentOutOfRangeException(nameof(refusal), refusal.GetType().Name, "No one has found words for it."),
        };

    /// <summary>As RFC 9110 numbers it.</summary>
    public static int StatusOf(Refusal refusal) =>
        refusal switch
        {
            Refusal.KeyRevoked => StatusCodes.Status401Unauthorized,
            Refusal.NotAllowed or Refusal.OnlyReads => StatusCodes.Status403Forbidden,
            Refusal.NoSuchProject or Refusal.NoSuchPiece or Refusal.NoSuchSave or Refusal.NoSuchPerson => StatusCodes.Status404NotFound,
            _ => StatusCodes.Status422UnprocessableEntity,
        };

    private static string Of(AltHolds holds) =>
        holds switch
        {
            AltHolds.Milestone => "one of its versions is a milestone",
            AltHolds.Master => "one of its versions is the master",
            AltHolds.Output => "an output was made from one of its versions",
            AltHolds.Piece => "another piece was started from it",
            _ => "another alt left from it",
        };

    private static string Of(Refusal.NoMaster refusal) =>
        refusal.Fault switch
        {
            MasterFault.NotReadable =>
                $"{refusal.Number} cannot be read, so it may be damaged; a master must open again. Mark the version before it, or save it anew.",
            MasterFault.CopyFormat =>
                $"{refusal.Number} is in a format for copies: what is in it cannot be taken apart again. A master is the "
                    + "layered native; mark the version that this was made from, and keep this as an output.",
            MasterFault.LayersGone =>
                $"{refusal.Number} has one layer; {refusal.Had} had {refusal.Layers}. A master is what everything can be made from again: "
                    + $"mark {refusal.Had}, or bring it back and finish there.",
            _ => throw new ArgumentOutOfRangeException(nameof(refusal), refusal.Fault, "No one has found words for it."),
        };

    private static string Of(PasswordFault fault) =>
        fault switch
        {
            PasswordFault.TooShort =>
                $"A password has at least {PasswordRule.MinLength} characters. A few words that only you would put together are easy "
                    + $"to keep.",
            PasswordFault.TooLong => $"A password has at most {PasswordRule.MaxLength} characters.",
            PasswordFault.Illegible => "That password has characters in it that no keyboard gives.",
            PasswordFault.Repeats => "That password repeats itself; it would be tried early. Choose another.",
            PasswordFault.Row => "That password is a row of neighbours; it would be tried early. Choose another.",
            PasswordFault.Common =>
                "That is among the passwords that are tried first, also with digits and marks around it. Choose another.",
            PasswordFault.OwnName => "That password is your name. Choose another.",
            _ => throw new ArgumentOutOfRangeException(nameof(fault), fault, "No one has found words for it."),
        };

    private static string Title(string field) =>
        field switch
        {
            "Name" => "A name",
            "Title" => "A title",
            "ClientName" => "A client’s name",
            "studioName" => "A studio’s name",
            "reason" => "A milestone’s reason",
            "meaning" => "A meaning",
            "key" => "A key’s name",
            _ => "This",
        };
}
