using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Web.Share;

/// <summary>A place that an address of the share names.</summary>
/// <param name="Project">Its code; null for the share's top.</param>
/// <param name="Path">From the project's top; null for that itself.</param>
public sealed record SharePlace(string? Project, ProjectPath? Path)
{
    /// <summary>Where the share begins.</summary>
    public const string Root = "/share";

    /// <summary>Reads an address as it stands in a request: what is encoded in it is decoded here, once, part by part.</summary>
    /// <param name="target">A path, or a whole URI, as of RFC 9112, 3.2.</param>
    /// <param name="place">Null where it names no place of the share.</param>
    /// <param name="why">Why a name in it is none; null where it is none of the share's addresses at all.</param>
    public static bool TryParse(string target, out SharePlace? place, out string? why)
    {
        (place, why) = (null, null);
        if (target.IndexOf("://", StringComparison.Ordinal) is > 0 and var scheme)
        {
            var at = target.IndexOf('/', scheme + 3);
            target = at < 0 ? "/" : target[at..];
        }
        // What is behind a fragment's mark would be done to all that is before it.
        if (target.Contains('#'))
            return Say("An address has no fragment.", out why);
        if (target.IndexOf('?') is >= 0 and var query)
            target = target[..query];
        if (target != Root && !target.StartsWith(Root + "/", StringComparison.Ordinal))
            return false;
        var parts = new List<string>();
        foreach (var part in target[Root.Length..].Split('/', StringSplitOptions.RemoveEmptyEntries))
        {
            var name = Uri.UnescapeDataString(part);
            if (name.AsSpan().IndexOfAny('/', '\\', '\0') >= 0 || name is "." or "..")
                return Say("A name has no slash, backslash or dots alone in it.", out why);
            if (part.Contains('%') && !IsWellEncoded(part))
                return Say("A name is encoded in UTF-8, each octet as % and two digits.", out why);
            parts.Add(name);
        }
        if (parts.Count == 0)
        {
            place = new SharePlace(null, null);
            return true;
        }
        if (parts.Count == 1)
        {
            place = new SharePlace(parts[0], null);
            return true;
        }
        if (!ProjectPath.TryParse(string.Join('/', parts.Skip(1)), out var path, out var fault))
            return Say(
                fault is PathFault.TooLong or PathFault.PartTooLong
                    ? $"A name has at most {ProjectPath.MaxPartBytes} bytes, and a path {ProjectPath.MaxBytes}."
                    : "This is no path that can stand in a project.",
                out why
            );
        place = new SharePlace(parts[0], path);
        return true;
    }

    /// <summary>The address, encoded (RFC 3986); of a folder with a slash behind it.</summary>
    public string Href(bool isFolder)
    {
        var href = new StringBuilder(Root);
        if (Project is not null)
            href.Append('/').Append(Uri.EscapeDataString(Project));
        foreach (var part in Path?.Text.Split('/') ?? [])
            href.Append('/').Append(Uri.EscapeDataString(part));
        return isFolder ? href.Append('/').ToString() : href.ToString();
    }

    private static bool IsWellEncoded(string part)
    {
        var bytes = new List<byte>();
        for (var i = 0; i < part.Length; i++)
        {
            if (part[i] != '%')
            {
                bytes.AddRange(Encoding.UTF8.GetBytes(part, i, 1));
                continue;
            }
            if (i + 2 >= part.Length || !char.IsAsciiHexDigit(part[i + 1]) || !char.IsAsciiHexDigit(part[i + 2]))
                return false;
            bytes.Add(Convert.ToByte(part.Substring(i + 1, 2), 16));
            i += 2;
        }
        try
        {
            new UTF8Encoding(false, throwOnInvalidBytes: true).GetString([.. bytes]);
            return true;
        }
        catch (DecoderFallbackException)
        {
            return false;
        }
    }

    private static bool Say(string sentence, out string? why)
    {
        why = sentence;
        return false;
    }
}
