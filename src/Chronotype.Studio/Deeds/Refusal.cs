using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Studio.People;

namespace Chronotype.Studio.Deeds;

/// <summary>Why a deed was not done, as values; whoever shows it finds the words. Nothing was changed.</summary>
public abstract record Refusal
{
    /// <summary>The field of a form that it speaks of; null where it is none of them.</summary>
    public virtual string? Field => null;

    /// <summary>What must be filled in, and how long it may be, in characters.</summary>
    /// <param name="What">The field.</param>
    public sealed record Length(string What, int Least, int Most) : Refusal
    {
        public override string Field => What;
    }

    public sealed record NotAllowed(Right Right) : Refusal;

    /// <summary>Whoever asks may look, and change nothing.</summary>
    public sealed record OnlyReads : Refusal;

    public sealed record OwnerSeesAll : Refusal;

    /// <summary>The key of the program was revoked before what it sent was recorded.</summary>
    public sealed record KeyRevoked : Refusal;

    public sealed record NoSuchProject : Refusal;

    public sealed record NoSuchPiece : Refusal;

    public sealed record NoSuchSave : Refusal;

    public sealed record NoSuchPerson : Refusal;

    /// <summary>No content came.</summary>
    public sealed record NoContent : Refusal;

    // A studio and its people.
    public sealed record HasOwner : Refusal;

    public sealed record InitialsNotLegal : Refusal
    {
        public override string Field => "Initials";
    }

    /// <param name="Name">Whose they are.</param>
    public sealed record InitialsTaken(string Initials, string Name) : Refusal
    {
        public override string Field => "Initials";
    }

    /// <param name="In">The field that it was written in.</param>
    public sealed record PasswordNotGood(PasswordFault Fault, string In) : Refusal
    {
        public override string Field => In;
    }

    public sealed record PasswordWrong : Refusal
    {
        public override string Field => "current";
    }

    public sealed record PasswordSame : Refusal
    {
        public override string Field => "next";
    }

    public sealed record NotYourself : Refusal;

    // Projects.
    public sealed record ProjectCodeNotLegal : Refusal
    {
        public override string Field => "Code";
    }

    public sealed record ProjectCodeIsAddress(string Code) : Refusal
    {
        public override string Field => "Code";
    }

    /// <param name="IsDeleted">That project was deleted, and can be taken back.</param>
    public sealed record ProjectCodeTaken(string Code, string Title, bool IsDeleted = false) : Refusal
    {
        public override string Field => "Code";
    }

    public sealed record ClientCodeNotLegal : Refusal
    {
        public override string Field => "ClientCode";
    }

    public sealed record FirstNumberNotLegal : Refusal
    {
        public override string Field => "FirstNumber";
    }

    public sealed record NoSuchPlan : Refusal
    {
        public override string Field => "Plan";
    }

    /// <param name="Faults">Each with its place in the plan's file.</param>
    public sealed record PlanFaults(IReadOnlyList<string> Faults) : Refusal;

    public sealed record PlanIsThere(string Key) : Refusal
    {
        public override string Field => "Key";
    }

    public sealed record NoPlanBefore : Refusal;

    /// <summary>No plan would be left to start a project with.</summary>
    public sealed record LastPlan : Refusal;

    /// <summary>A piece that the plan has reserved, or that comes along, cannot be called so in this project.</summary>
    public sealed record PieceOfPlanNotLegal(string Name, Refusal Why) : Refusal
    {
        public override string Field => "Plan";
    }

    public sealed record SpecOutOfRange(SpecPoint Point) : Refusal
    {
        public override string Field => Point.ToString();
    }

    /// <param name="Why">What of the convention would not hold, as the core says it.</param>
    /// <param name="In">The field that brings it about.</param>
    public sealed record CodesBreakConvention(string Why, string? In) : Refusal
    {
        public override string? Field => In;
    }

    // Pieces.
    public sealed record SlotNeedsListedCode(string Slot) : Refusal
    {
        public override string Field => Slot;
    }

    /// <param name="Why">What is wrong with it, as the core says it.</param>
    public sealed record SlotNotLegal(string Slot, string Why) : Refusal
    {
        public override string Field => Slot;
    }

    /// <param name="Slot">The slot that would tell it from the other.</param>
    public sealed record PieceIsThere(string Name, string? Slot) : Refusal
    {
        public override string? Field => Slot;
    }

    /// <summary>It is called so already, and stands there.</summary>
    public sealed record CalledSoAlready(string Name) : Refusal;

    public sealed record RenamedAgainSince(string Name) : Refusal;

    /// <param name="Pieces">Whose saves are not all kept; at least one.</param>
    public sealed record NotAllKept(IReadOnlyList<string> Pieces) : Refusal;

    public sealed record ProjectIsDeleted(string Code) : Refusal;

    // Saves.
    public sealed record VersionStays(VersionNumber Number) : Refusal;

    /// <summary>The save's contents decide, and are not read yet.</summary>
    public sealed record NotReadYet : Refusal
    {
        public override string Field => "reason";
    }

    public sealed record NothingToMark : Refusal
    {
        public override string Field => "reason";
    }

    /// <param name="Objection">What speaks against keeping it first.</param>
    public sealed record NotKept(Saves.KeepResult Objection) : Refusal
    {
        public override string Field => "reason";
    }

    public sealed record NoReason : Refusal
    {
        public override string Field => "reason";
    }

    /// <summary>An alt leaves its line at a version; a loose save is kept first.</summary>
    public sealed record LeavesAtVersion : Refusal;

    public sealed record NoSuchAlt : Refusal;

    /// <summary>Nothing of what was typed can stand in a name.</summary>
    public sealed record AltNameNotLegal : Refusal
    {
        public override string Field => "alt";
    }

    /// <param name="IsDropped">That alt was dropped, and can be taken back.</param>
    public sealed record AltNameTaken(string Name, bool IsDropped) : Refusal
    {
        public override string Field => "alt";
    }

    /// <summary>Work goes on there.</summary>
    public sealed record AltIsCurrent(string Name) : Refusal;

    public sealed record AltIsNeeded(string Name, Lines.AltHolds For) : Refusal;

    /// <param name="Number">The newest of the main line.</param>
    public sealed record MainHoldsIt(VersionNumber Number) : Refusal;

    public sealed record NoSuchVersion(VersionNumber Number) : Refusal;

    /// <param name="Name">Its copy's.</param>
    public sealed record MasterAlready(VersionNumber Number, string Name) : Refusal;

    /// <param name="Had">The version before it that had the most layers, where one had more.</param>
    /// <param name="Layers">How many those were.</param>
    public sealed record NoMaster(VersionNumber Number, MasterFault Fault, VersionNumber Had = default, int Layers = 0) : Refusal;

    public sealed record MarkedAlready(VersionNumber Version, int Milestone, string Reason) : Refusal;

    /// <param name="In">
    /// The current name of the piece that holds it, where it is another than the one asked from; null where it is the same.
    /// </param>
    public sealed record HoldsItAlready(string? In) : Refusal;

    // Conventions and codes.
    public sealed record ConventionFaults(IReadOnlyList<string> Faults) : Refusal;

    public sealed record TwoReadings(string Name, string First, string Second) : Refusal;

    public sealed record NoConventionBefore : Refusal;

    public sealed record HoldsConventionAlready(string Project) : Refusal;

    /// <param name="Why">As the core says it.</param>
    public sealed record CannotRename(string Why) : Refusal;

    public sealed record MoveUndoneAlready : Refusal;

    public sealed record MovedAgainSince(string Project) : Refusal;

    public sealed record ListKeptElsewhere(string List) : Refusal;

    public sealed record ListNotLegal : Refusal
    {
        public override string Field => "list";
    }

    public sealed record CodeNotLegal(int MostCharacters) : Refusal
    {
        public override string Field => "code";
    }

    public sealed record ClientNeedsName : Refusal
    {
        public override string Field => "meaning";
    }

    /// <param name="There">The code that is there, which may differ in case.</param>
    public sealed record CodeIsThere(string Code, string There) : Refusal
    {
        public override string Field => "code";
    }

    public sealed record NoSuchCode(string List, string Code) : Refusal;

    /// <param name="First">One thing that is called by it.</param>
    /// <param name="More">How many more are.</param>
    public sealed record CodeInUse(string Code, string First, int More) : Refusal;

    // The tree.
    public sealed record NoSuchEntry : Refusal;

    public sealed record NoSuchFolder(ProjectPath Path) : Refusal;

    public sealed record ShareOutOfRange : Refusal;

    public sealed record NoFolderForOutputs : Refusal;

    /// <summary>An output is one file.</summary>
    public sealed record FolderIsNoOutput : Refusal;

    /// <summary>The file shows nothing that could stand in for a save.</summary>
    public sealed record NoFace(string Name) : Refusal;

    /// <summary>The save can be read itself.</summary>
    public sealed record NeedsNoFace : Refusal;

    public sealed record PathTaken(ProjectPath Path) : Refusal;

    /// <summary>Only pieces stand in it.</summary>
    public sealed record WorkingFolder(ProjectPath Path) : Refusal;

    public sealed record OnlyInWorkingFolder(ProjectPath Path) : Refusal;

    public sealed record NamedByConvention(ProjectPath Path) : Refusal;

    /// <summary>An output belongs to a kept version, and that is none yet.</summary>
    public sealed record OnlyFromVersions : Refusal;

    public sealed record NoSuchRecipe(string Key) : Refusal;

    /// <param name="Faults">Each a sentence.</param>
    public sealed record RecipeFaults(IReadOnlyList<string> Faults) : Refusal;

    /// <summary>All outputs are of the newest versions.</summary>
    public sealed record NothingStale : Refusal;

    /// <summary>No file that was asked for can be converted here to what it should be.</summary>
    public sealed record NothingToMend : Refusal;

    /// <param name="Name">The piece that the parts are of.</param>
    public sealed record NotPut(string Name) : Refusal;

    public sealed record NoSuchProfile(string Name) : Refusal;

    /// <summary>What was handed in is no colour profile that outputs can be made for.</summary>
    public sealed record NoProfile(string Name) : Refusal;

    /// <summary>There is nothing in the version that the recipe makes something of.</summary>
    public sealed record NotForThis(string Recipe) : Refusal;

    /// <summary>A companion is named and moved with its file, not alone.</summary>
    public sealed record GoesWithItsFile(ProjectPath Path) : Refusal;

    public sealed record IntoItself(ProjectPath Path) : Refusal;

    /// <summary>Its references cannot be written anew: its format is not open.</summary>
    public sealed record NotRelinked(string Name) : Refusal;

    /// <summary>An original is as it was received, and cannot be made again.</summary>
    public sealed record NeverMadeAgain(ProjectPath Path) : Refusal;

    public sealed record PatternNotLegal(string Ending, string Line, PatternFault Fault) : Refusal
    {
        public override string Field => "patterns";
    }

    public sealed record EndingNotLegal(string Ending) : Refusal
    {
        public override string Field => "companions";
    }

    /// <summary>A file cannot be parted: it is of a format that is not written here, or a folder of files; or no part was chosen.</summary>
    public sealed record NotParted(string Name) : Refusal;

    /// <summary>Nothing can be put inside a file, or out of it: it is of a format that is not written here, or would be too large.</summary>
    public sealed record NotPacked(string Name) : Refusal;

    /// <param name="Why">Which system refuses it and why, as the core says it.</param>
    public sealed record FileNameNotLegal(string Name, string Why) : Refusal
    {
        public override string Field => "name";
    }

    /// <summary>What lies in a folder would have a longer path than file systems take.</summary>
    public sealed record PathTooLong(ProjectPath Path) : Refusal;

    public sealed record HoldsPieces(ProjectPath Path) : Refusal;

    /// <summary>An original, or something else that is never given other content.</summary>
    public sealed record NeverChanged(ProjectPath Path) : Refusal;

    // The share.
    /// <summary>What a desktop keeps for itself.</summary>
    public sealed record NotOnTheShare(ProjectPath Path) : Refusal;

    /// <summary>A version, or a copy of one, which is what it is for good.</summary>
    public sealed record KeptForGood(ProjectPath Path) : Refusal;

    /// <summary>It was just saved, which is to be a save before anything is put over it.</summary>
    public sealed record HeldBefore(ProjectPath Path) : Refusal;

    /// <summary>Somebody else wrote it since it was read.</summary>
    public sealed record ChangedMeanwhile(ProjectPath Path) : Refusal;

    public sealed record TooManyAtOnce(int Most) : Refusal;

    public sealed record NoSuchKey : Refusal;

    // Jobs.
    public sealed record NoSuchJob : Refusal;
}
