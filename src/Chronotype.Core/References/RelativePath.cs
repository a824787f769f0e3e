using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Core.References;

/// <summary>Relative paths between files of a project: following one, and writing one.</summary>
public static class RelativePath
{
    /// <summary>Follows a path from a folder (RFC 3986, 5.2.4).</summary>
    /// <param name="folder">From the project's top, with “/” between its parts; empty for the top.</param>
    /// <param name="path">The path, unescaped, with “/” between its parts.</param>
    /// <returns>Where it leads, from the top; null where it leads out of the project, at any point of its way.</returns>
    public static string? Follow(string folder, string path)
    {
        if (IsPlain(path))
            return folder.Length == 0 ? path : $"{folder}/{path}";
        var parts = new List<string>(folder.Length == 0 ? [] : folder.Split('/'));
        foreach (var part in path.Split('/'))
        {
            if (part is "" or ".")
                continue;
            if (part != "..")
                parts.Add(part);
            else if (parts.Count == 0)
                return null;
            else
                parts.RemoveAt(parts.Count - 1);
        }
        return string.Join('/', parts);
    }

    /// <summary>Writes the path from a folder to a file, so that <see cref="Follow"/> and the syntax's reading lead there.</summary>
    /// <param name="folder">That the referring file stands in; null for the top.</param>
    /// <param name="to">The file that is referred to.</param>
    /// <param name="syntax">How the format writes paths.</param>
    /// <param name="tail">What is to stand behind it: a part of the file.</param>
    public static string Write(ProjectPath? folder, ProjectPath to, ReferenceSyntax syntax, string tail = "")
    {
        var (from, there) = (folder?.Text.Split('/') ?? [], to.Text.Split('/'));
        var common = 0;
        while (common < from.Length && common < there.Length - 1 && from[common] == there[common])
            common++;
        var path = string.Concat(Enumerable.Repeat("../", from.Length - common)) + string.Join('/', there[common..]);
        if (syntax == ReferenceSyntax.Path)
            // What would read as a drive, a home or a scheme is made a path by its beginning.
            return path[0] == '~' || path.Contains(':') ? $"./{path}" : path;
        var written = Escape(path);
        var first = written.AsSpan(0, written.IndexOf('/') is >= 0 and var slash ? slash : written.Length);
        return (first.Contains(':') ? "./" : "") + written + tail;
    }

    private static bool IsPlain(string path) =>
        path.Length > 0
        && path[0] is not ('.' or '/')
        && !path.Contains("/.", StringComparison.Ordinal)
        && !path.Contains("//", StringComparison.Ordinal)
        && path[^1] != '/';

    // RFC 3987 lets letters of other scripts stand; what an attribute, CSS or a URI cannot hold is escaped.
    private static string Escape(string path)
    {
        StringBuilder? written = null;
        for (var i = 0; i < path.Length; i++)
        {
            if (
                path[i]
                    is > ' '
                        and not (
                            '%'
                            or '#'
                            or '?'
                            or '"'
                            or '\''
                            or '('
                            or ')'
                            or '<'
                            or '>'
                            or '\\'
                            or '^'
                            or '`'
                            or '{'
                            or '|'
                            or '}'
                            or '\u007f'
                        )
                && !char.IsWhiteSpace(path[i])
            )
            {
                written?.Append(path[i]);
                continue;
            }
            written ??= new StringBuilder(path, 0, i, path.Length + 16);
            foreach (var octet in Encoding.UTF8.GetBytes([path[i]]))
                written.Append('%').Append(octet.ToString("X2", System.Globalization.CultureInfo.InvariantCulture));
        }
        return written?.ToString() ?? path;
    }
}
