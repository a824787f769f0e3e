using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>
/// Files without what their makers' programs keep in them for themselves: the layout of windows, settings of tools. Namespaced elements
/// and attributes of an SVG, <c>extras</c> of a glTF.
/// </summary>
public sealed class BareFile(Rewriting rewriting, IDbContextFactory<StudioDb> contexts, IContentStore store)
{
    /// <summary>Whether such things are found in files of a format, and can be left out.</summary>
    public static bool IsPossible(FileFormat format) => format is FileFormat.Svg or FileFormat.Gltf;

    /// <summary>Whether the studio leaves them out of what leaves it.</summary>
    public async Task<bool> IsAskedAsync(CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Studio.AnyAsync(s => s.LeavesSettingsBehind, cancel);
    }

    /// <returns>Null for a content of another format, or one that cannot be written anew: it is given as it is.</returns>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<MadeFile?> OfAsync(ContentHash content, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await ContentReader.KnownAsync(db, content, cancel) is { Fault: null } facts && IsPossible(facts.Format)
            ? await OfAsync(() => store.OpenRead(content), cancel)
            : null;
    }

    /// <summary>Of a file that was made just now.</summary>
    /// <inheritdoc cref="OfAsync(ContentHash, CancellationToken)"/>
    public async Task<MadeFile?> OfAsync(Func<Stream> open, CancellationToken cancel = default) =>
        (await rewriting.MakeAsync(new ReaderJob { Kind = ReaderJobKind.Bare }, () => [open()], cancel)).File;
}
