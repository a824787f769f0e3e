namespace Chronotype.Core.Outputs;

/// <summary>What a contact sheet shows of pieces or versions.</summary>
/// <param name="Title">What they are of.</param>
/// <param name="Made">When and by whom, in a few words.</param>
/// <param name="Cells">In the order in which they are seen.</param>
public sealed record ContactSheet(string Title, string Made, IReadOnlyList<SheetCell> Cells);

/// <summary>One picture of a contact sheet.</summary>
/// <param name="Name">Under it.</param>
/// <param name="Told">Under its name: what there is to say of it, in a line.</param>
/// <param name="Picture">Which of the contents it is; null where there is nothing to see.</param>
public sealed record SheetCell(string Name, string Told, int? Picture);
