using Chronotype.Core.Content;
using Chronotype.Storage.Entities;

namespace Chronotype.Web.Pages.Shared;

/// <summary>The addresses of what has a page of its own.</summary>
public static class Places
{
    public static string Of(Project project) => OfProject(project.Code);

    /// <param name="piece">With its project.</param>
    public static string Of(Piece piece) => OfPiece(piece.Project.Code, piece.CurrentName);

    public static string OfProject(string code) => $"/projects/{Uri.EscapeDataString(code)}";

    public static string OfPiece(string project, string name) => $"{OfProject(project)}/{Uri.EscapeDataString(name)}";

    /// <param name="folder">From the project's top; null for the top.</param>
    /// <param name="file">The file that is looked at beside it; null for none.</param>
    public static string OfTree(string project, ProjectPath? folder = null, Guid? file = null) =>
        $"/tree/{Uri.EscapeDataString(project)}"
        + (folder is null ? "" : "/" + string.Join('/', folder.Text.Split('/').Select(Uri.EscapeDataString)))
        + (file is null ? "" : $"?file={file}");

    /// <summary>A contact sheet of a piece's versions; of a project's pieces where none is named.</summary>
    public static string OfSheet(string project, string? piece = null) =>
        $"/sheets/{Uri.EscapeDataString(project)}" + (piece is null ? "" : $"/{Uri.EscapeDataString(piece)}");

    /// <summary>Who uses what in a project.</summary>
    public static string OfWeb(string project) => $"/web/{Uri.EscapeDataString(project)}";

    /// <summary>What a project's files must be.</summary>
    public static string OfSpec(string project) => $"/spec/{Uri.EscapeDataString(project)}";

    /// <summary>What is made of a piece.</summary>
    /// <param name="number">Of the version; null for the newest.</param>
    /// <param name="recipe">Its key; null for the first that makes anything of it.</param>
    /// <param name="layers">Those that it is made of alone; none for all.</param>
    public static string OfOutputs(
        string project,
        string name,
        int? number = null,
        string? recipe = null,
        IReadOnlyList<string>? layers = null
    ) =>
        $"/outputs/{Uri.EscapeDataString(project)}/{Uri.EscapeDataString(name)}?b={number}&recipe={Uri.EscapeDataString(recipe ?? "")}"
        + string.Concat((layers ?? []).Select(l => $"&only={Uri.EscapeDataString(l)}"));

    /// <summary>What a piece refers to.</summary>
    public static string OfReferences(string project, string name) =>
        $"/references/{Uri.EscapeDataString(project)}/{Uri.EscapeDataString(name)}";

    /// <summary>Where it is renamed, moved, put away and deleted.</summary>
    public static string TidyOf(Piece piece) => "/tidy" + Of(piece)["/projects".Length..];
}
