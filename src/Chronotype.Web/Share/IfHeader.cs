namespace Chronotype.Web.Share;

/// <summary>The <c>If</c> header (RFC 4918, 10.4): lists of conditions, one of which must hold.</summary>
public sealed class IfHeader
{
    /// <param name="Tag">The address that it is about; null for that of the request.</param>
    /// <param name="Conditions">All of which must hold.</param>
    public sealed record Listed(string? Tag, IReadOnlyList<Condition> Conditions);

    /// <param name="IsNot">It must not hold.</param>
    /// <param name="Token">A state token; null for an entity tag.</param>
    /// <param name="Tag">An entity tag with its quotes; null for a state token.</param>
    public sealed record Condition(bool IsNot, string? Token, string? Tag);

    private IfHeader(IReadOnlyList<Listed> lists) => Lists = lists;

    public IReadOnlyList<Listed> Lists { get; }

    /// <summary>All state tokens in it: the locks that a program says it holds.</summary>
    public IReadOnlySet<string> Tokens => Lists.SelectMany(l => l.Conditions).Select(c => c.Token).OfType<string>().ToHashSet();

    /// <returns>Null where it is not written as the header is.</returns>
    public static IfHeader? Parse(string text)
    {
        var (lists, at, tag) = (new List<Listed>(), 0, (string?)null);
        while (Skip() < text.Length)
        {
            if (text[at] == '<')
            {
                if (Until('>') is not { } about)
                    return null;
                tag = about;
                continue;
            }
            if (text[at++] != '(')
                return null;
            var conditions = new List<Condition>();
            while (Skip() < text.Length && text[at] != ')')
            {
                var isNot = string.Compare(text, at, "Not", 0, 3, StringComparison.OrdinalIgnoreCase) == 0;
                if (isNot)
                    at += 3;
                if (Skip() >= text.Length)
                    return null;
                if (text[at] == '<' && Until('>') is { } token)
                    conditions.Add(new Condition(isNot, token, null));
                else if (text[at] == '[' && Until(']') is { } etag)
                    conditions.Add(new Condition(isNot, null, etag.Trim()));
                else
                    return null;
            }
            if (at >= text.Length || conditions.Count == 0)
                return null;
            at++;
            lists.Add(new Listed(tag, conditions));
        }
        return lists.Count == 0 ? null : new IfHeader(lists);

        int Skip()
        {
            while (at < text.Length && char.IsWhiteSpace(text[at]))
                at++;
            return at;
        }

        // What stands between here and an end, which is passed.
        string? Until(char end)
        {
            var close = text.IndexOf(end, at);
            if (close < 0)
                return null;
            var found = text[(at + 1)..close];
            at = close + 1;
            return found;
        }
    }
}
