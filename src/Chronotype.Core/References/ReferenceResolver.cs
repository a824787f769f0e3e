namespace Chronotype.Core.References;

/// <summary>What a reference leads to.</summary>
/// <param name="State">What became of looking.</param>
/// <param name="Path">Where it leads, from the project's top: the file's own path, or the place where none is; null where it leads to no place in the project.</param>
/// <param name="Target">The file; null where there is none.</param>
/// <param name="Difference">How the file's path is spelt otherwise than the reference.</param>
public readonly record struct Resolved<T>(ReferenceState State, string? Path, T? Target, SpellingDifference Difference)
    where T : class;

/// <summary>Resolves references against the files of a project, by the rules of the format that they are written in.</summary>
public static class ReferenceResolver
{
    /// <param name="files">The project's.</param>
    /// <param name="folder">That the referring file stands in, from the project's top; empty for the top.</param>
    /// <param name="reference">As it was written.</param>
    public static Resolved<T> Resolve<T>(FileIndex<T> files, string folder, WrittenReference reference)
        where T : class
    {
        switch (reference.Kind)
        {
            case WrittenKind.Itself or WrittenKind.Embedded:
                return new(ReferenceState.Embedded, null, null, default);
            case WrittenKind.Web:
                return new(ReferenceState.Web, null, null, default);
            case WrittenKind.Absolute:
                return new(ReferenceState.Absolute, null, null, default);
        }
        var path = RelativePath.Follow(folder, reference.Path);
        var found = path is null ? null : files.Find(path);
        // Programs that escape nothing mean what they write letter by letter; where both readings are files, the format's own counts.
        if (found is not { Difference: SpellingDifference.None } && reference.Literal is { } literal)
        {
            var asWritten = RelativePath.Follow(folder, literal) is { } other ? files.Find(other) : null;
            if (asWritten is not null && (found is null || asWritten.Value.Difference == SpellingDifference.None))
                found = asWritten;
        }
        if (found is { } file)
            return new(
                file.Difference == SpellingDifference.None ? ReferenceState.Found : ReferenceState.OtherCase,
                file.Path,
                file.File,
                file.Difference
            );
        return path is null ? new(ReferenceState.Outside, null, null, default) : new(ReferenceState.Missing, path, null, default);
    }
}
