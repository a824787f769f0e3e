using Chronotype.Core.Content;

namespace Chronotype.Core.References;

/// <summary>Something that a file carries inside instead of referring to it.</summary>
/// <param name="Hash">Of its bytes.</param>
/// <param name="Size">Bytes.</param>
/// <param name="Name">What the file calls it; empty for nothing. Not trusted.</param>
/// <param name="Extension">With its dot, by what it is; <c>.bin</c> for what is not known.</param>
/// <param name="Times">How often it is carried, or shown, in the file.</param>
public sealed record EmbeddedPart(ContentHash Hash, long Size, string Name, string Extension, int Times = 1);

/// <summary>A reference whose file is to be put inside.</summary>
/// <param name="Written">As it stands in the file.</param>
/// <param name="Source">Which of the contents it leads to, from 1; 0 is the file itself.</param>
/// <param name="Name">What that is called; its kind is told by it where the content does not tell.</param>
public sealed record PackedReference(string Written, int Source, string Name);

/// <summary>A part that is to be put out.</summary>
/// <param name="Hash">Of its bytes.</param>
/// <param name="Written">How the file is to refer to it.</param>
public sealed record PlacedPart(ContentHash Hash, string Written);
