using System.Globalization;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage.Records;

namespace Chronotype.Studio.Pieces;

/// <summary>The names of a piece under its project's convention.</summary>
public sealed class PieceNames(Convention convention, string client, string subject, string function)
{
    public static PieceNames Of(Project project, string subject, string function) =>
        new(ConventionFile.Read(project.Convention, new Dictionary<string, CodeList>()).Convention!, project.Client.Code, subject, function);

    public static PieceNames Of(Piece piece) => Of(piece.Project, piece.Subject, piece.Function);

    public Convention Convention { get; } = convention;

    public NameResult Current(string extension = "") => Convention.Format(NameForm.Current, Values(), extension);

    public NameResult Working(string hand, VersionNumber number, string extension) =>
        Convention.Format(NameForm.Working, Values(("hand", hand), ("version", number.Value.ToString())), extension);

    public NameResult Milestone(int number, string extension) =>
        Convention.Format(NameForm.Milestone, Values(("milestone", number.ToString())), extension);

    /// <summary>The number that the next keep gives.</summary>
    /// <param name="receivedName">Of the save that would be kept; a number in it counts when it is the piece's own name.</param>
    public VersionNumber Next(int? highest, string? receivedName = null) => KeepRule.Number(
        highest is { } h ? new VersionNumber(h) : null, Convention.Version.Start, receivedName is null ? null : NumberByHand(receivedName));

    /// <summary>The version that a file's name gives itself; null where it is not a version's name of this very piece.</summary>
    public VersionNumber? NumberByHand(string receivedName)
    {
        var reading = Read(Convention, NameForm.Working, receivedName);
        return reading is not null && reading["client"] == client && reading["subject"] == subject && reading["function"] == function
            && int.TryParse(reading["version"]!.AsSpan(Convention.Version.Lead.Length), CultureInfo.InvariantCulture, out var number)
            ? new VersionNumber(number)
            : null;
    }

    /// <summary>What a file's name says in any form of a convention; null where it is of none.</summary>
    public static NameReading? ReadAny(Convention convention, string receivedName) =>
        new[] { NameForm.Working, NameForm.Current, NameForm.Milestone }.Select(form => Read(convention, form, receivedName)).FirstOrDefault(r => r is not null);

    // Any code is read here; whether the studio keeps it is asked where it matters.
    private static NameReading? Read(Convention convention, NameForm form, string receivedName) =>
        convention.GrammarOf(form).Read(FileNames.Received(receivedName));

    private Dictionary<string, string> Values(params ReadOnlySpan<(string Slot, string Value)> more)
    {
        var values = new Dictionary<string, string> { ["client"] = client, ["subject"] = subject, ["function"] = function };
        foreach (var (slot, value) in more) values[slot] = value;
        return values;
    }
}
