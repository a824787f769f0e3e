using Chronotype.Core.Content;

namespace Chronotype.Core.References;

/// <summary>A reference that is to lead elsewhere.</summary>
/// <param name="From">As it is written now.</param>
/// <param name="To">As it is to be written.</param>
public sealed record RewrittenReference(string From, string To)
{
    /// <summary>Whether references of a format can be written anew; those of a text, where a pattern says where they stand.</summary>
    public static bool IsPossible(FileFormat format) =>
        format is FileFormat.Svg or FileFormat.Gltf or FileFormat.Timeline or FileFormat.Text;
}
