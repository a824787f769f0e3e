using Chronotype.Core.Content;

namespace Chronotype.Web.Uploads;

/// <summary>
/// Where a save's picture is had. The address tells the content, so a browser may keep the picture for as long as it likes.
/// </summary>
public static class PreviewAddress
{
    /// <param name="page">Of a picture with pages, which, from 0.</param>
    public static string Of(Guid save, ContentHash content, int side, int page = 0) =>
        $"/saves/{save}/preview/{side}?of={Of(content)}{(page > 0 ? $"&page={page}" : "")}";

    /// <summary>Of a file of a project's own.</summary>
    /// <param name="content">Which of its contents, counted from 1; null for what it holds now.</param>
    public static string OfFile(Guid entry, ContentHash hash, int side, int? content = null) =>
        $"/files/{entry}/preview/{side}?of={Of(hash)}{(content is null ? "" : $"&content={content}")}";

    internal static string Of(ContentHash content) => content.ToString()[..16];
}
