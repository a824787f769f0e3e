using System.Text.RegularExpressions;
using System.Xml.Linq;

namespace Chronotype.Formats.Drawings;

/// <summary>
/// What a drawing's own style sheets say, said on the elements themselves (CSS 2.2, 6.4). Rules of simple selectors are followed, which is
/// what drawing programs write: of all, an element's name, its classes, its identity.
/// </summary>
internal static partial class SvgStyles
{
    private const int MostRules = 10_000;

    /// <summary>Gives each element a style that says its own first, and then those of the sheets, from the most telling down.</summary>
    public static void Inline(XElement root)
    {
        var rules = root.Descendants()
            .Where(e => e.Name.LocalName == "style")
            .SelectMany(e => Rules(e.Value))
            .Take(MostRules)
            .Select((r, order) => (r.Name, r.Id, r.Classes, r.Declarations, Order: order))
            .OrderByDescending(r => r.Id.Length > 0)
            .ThenByDescending(r => r.Classes.Length)
            .ThenByDescending(r => r.Name.Length > 0)
            .ThenByDescending(r => r.Order)
            .ToList();
        if (rules.Count == 0)
            return;
        foreach (var element in root.DescendantsAndSelf())
        {
            var classes = ((string?)element.Attribute("class") ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
            var said = rules
                .Where(r => r.Name.Length == 0 || r.Name == element.Name.LocalName)
                .Where(r => r.Id.Length == 0 || r.Id == (string?)element.Attribute("id"))
                .Where(r => r.Classes.All(classes.Contains))
                .Select(r => r.Declarations)
                .Prepend((string?)element.Attribute("style") ?? "")
                .Where(d => d.Length > 0);
            if (string.Join(';', said) is { Length: > 0 } style)
                element.SetAttributeValue("style", style);
        }
    }

    private static IEnumerable<(string Name, string Id, string[] Classes, string Declarations)> Rules(string sheet)
    {
        foreach (Match rule in Rule().Matches(Comment().Replace(sheet, "")))
        {
            var declarations = Important().Replace(rule.Groups[2].Value, "");
            foreach (var selector in rule.Groups[1].Value.Split(',').Select(s => s.Trim()))
            {
                if (Selector().Match(selector) is { Success: true } simple && selector.Length > 0)
                    yield return (
                        simple.Groups["name"].Value is var name && name == "*" ? "" : name,
                        simple.Groups["id"].Value,
                        [.. simple.Groups["class"].Captures.Select(c => c.Value)],
                        declarations
                    );
            }
        }
    }

    [GeneratedRegex(@"/\*.*?\*/", RegexOptions.Singleline)]
    private static partial Regex Comment();

    // What stands in a rule of rules, such as for printing, is no rule of its own here.
    [GeneratedRegex(@"(?<![^\s}>])([^{}@;]+)\{([^{}]*)\}")]
    private static partial Regex Rule();

    [GeneratedRegex(@"\s*!\s*important", RegexOptions.IgnoreCase)]
    private static partial Regex Important();

    [GeneratedRegex(@"^(?<name>\*|[\w-]+)?(?:\.(?<class>[\w-]+)|#(?<id>[\w-]+))*$")]
    private static partial Regex Selector();
}
