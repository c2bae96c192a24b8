using System.Net;
using AngleSharp.Html.Parser;
using Ganss.Xss;

namespace Pelto.Core.Values;

/// <summary>
/// Formatted text: HTML of which only harmless elements are kept. Cleaning happens when text is read, so that nothing else is ever on file.
/// </summary>
/// <remarks>
/// The work is done by a well-known sanitizer with a list of what is allowed; the OWASP list of cross-site scripting vectors is its test.
/// </remarks>
public static class Html
{
    private static readonly string[] Elements =
    [
        "p",
        "br",
        "b",
        "strong",
        "i",
        "em",
        "u",
        "s",
        "h3",
        "h4",
        "ul",
        "ol",
        "li",
        "blockquote",
        "a",
        "code",
        "pre",
        "sub",
        "sup",
    ];

    /// <summary>
    /// Keeps headings, paragraphs, lists, emphasis and links to the web or to mail; drops all else, and the content of what is never text.
    /// </summary>
    public static string Clean(string html)
    {
        var sanitizer = new HtmlSanitizer(
            new HtmlSanitizerOptions
            {
                AllowedTags = Elements.ToHashSet(StringComparer.OrdinalIgnoreCase),
                AllowedAttributes = new HashSet<string>(["href"], StringComparer.OrdinalIgnoreCase),
                AllowedSchemes = new HashSet<string>(["http", "https", "mailto"], StringComparer.OrdinalIgnoreCase),
                UriAttributes = new HashSet<string>(["href"], StringComparer.OrdinalIgnoreCase),
            }
        )
        {
            KeepChildNodes = true,
        };
        sanitizer.RemovingTag += static (_, removing) =>
        {
            if (
                removing.Tag.NodeName
                is "SCRIPT"
                    or "STYLE"
                    or "TITLE"
                    or "TEMPLATE"
                    or "NOSCRIPT"
                    or "IFRAME"
                    or "OBJECT"
                    or "TEXTAREA"
                    or "XMP"
                    or "SVG"
                    or "MATH"
            )
                removing.Tag.TextContent = "";
        };
        var clean = sanitizer.Sanitize(html.Replace("\0", "", StringComparison.Ordinal).ReplaceLineEndings("\n")).Trim();
        return string.IsNullOrWhiteSpace(ToText(clean)) ? "" : clean;
    }

    /// <summary>What such a text says, without its format.</summary>
    public static string ToText(string html)
    {
        var body = new HtmlParser().ParseDocument(html).Body!;
        foreach (var block in body.QuerySelectorAll("p, li, h3, h4, blockquote, pre, br"))
            block.After(body.Owner!.CreateTextNode("\n"));
        return body.TextContent.Trim();
    }

    /// <summary>Plain text as paragraphs.</summary>
    public static string FromText(string text) =>
        string.Concat(
            text.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                .Select(line => $"<p>{WebUtility.HtmlEncode(line)}</p>")
        );
}
