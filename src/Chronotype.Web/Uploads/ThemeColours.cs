using System.Text.RegularExpressions;

namespace Chronotype.Web.Uploads;

/// <summary>The theme's colours for what is drawn apart from the page, read from the styles that pages are served.</summary>
public sealed partial class ThemeColours(IWebHostEnvironment environment)
{
    private readonly Lazy<Dictionary<string, string>> tokens = new(() =>
    {
        var styles = environment.WebRootFileProvider.GetFileInfo("app.css");
        if (!styles.Exists)
            return [];
        using var reader = new StreamReader(styles.CreateReadStream());
        return Token()
            .Matches(reader.ReadToEnd())
            .DistinctBy(m => m.Groups[1].Value)
            .ToDictionary(m => m.Groups[1].Value, m => m.Groups[2].Value);
    });

    /// <param name="token">As the theme names it, such as <c>ink</c>.</param>
    /// <returns>As CSS writes it; what text is drawn in by itself where the theme has no such colour.</returns>
    public string this[string token] => tokens.Value.GetValueOrDefault(token, "currentColor");

    [GeneratedRegex("--color-([a-z0-9-]+):\\s*(#[0-9a-fA-F]{3,8})")]
    private static partial Regex Token();
}
