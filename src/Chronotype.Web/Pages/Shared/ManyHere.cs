namespace Chronotype.Web.Pages.Shared;

/// <summary>That a page takes several files at once, and for whom.</summary>
/// <param name="Says">What a drop does, while something is held over the page.</param>
/// <param name="Project">The code of the project whose page it is; null for the whole studio.</param>
/// <param name="Piece">The current name of the piece whose page it is; null for any.</param>
public sealed record ManyHere(string Says, string? Project = null, string? Piece = null);
