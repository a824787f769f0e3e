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

    /// <summary>Where it is renamed, moved, put away and deleted.</summary>
    public static string TidyOf(Piece piece) => "/tidy" + Of(piece)["/projects".Length..];
}
