using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage.Records;

namespace Chronotype.Studio.Pieces;

/// <summary>The names of a piece under its project's convention.</summary>
public sealed class PieceNames(Convention convention, string client, string subject, string function)
{
    public static PieceNames Of(Project project, string subject, string function) =>
        new(Convention.FromJson(project.Convention), project.Client.Code, subject, function);

    public static PieceNames Of(Piece piece) => Of(piece.Project, piece.Subject, piece.Function);

    public Convention Convention { get; } = convention;

    public NameResult Current(string extension = "") => Convention.Format(NameForm.Current, Values(), extension);

    public NameResult Working(string hand, VersionNumber number, string extension) =>
        Convention.Format(NameForm.Working, Values(("hand", hand), ("version", number.Value.ToString())), extension);

    public NameResult Milestone(int number, string extension) =>
        Convention.Format(NameForm.Milestone, Values(("milestone", number.ToString())), extension);

    /// <summary>The number that the next keep gives.</summary>
    public VersionNumber Next(int? highest) =>
        VersionNumber.Next(highest is { } h ? new VersionNumber(h) : null, Convention.Version.Start);

    private Dictionary<string, string> Values(params ReadOnlySpan<(string Slot, string Value)> more)
    {
        var values = new Dictionary<string, string> { ["client"] = client, ["subject"] = subject, ["function"] = function };
        foreach (var (slot, value) in more) values[slot] = value;
        return values;
    }
}
