using System.Collections.Concurrent;

namespace Pelto.Web.Components;

/// <summary>How a field is drawn.</summary>
public enum Drawing
{
    /// <summary>An input.</summary>
    Input,

    /// <summary>What it holds, on the screen of its record.</summary>
    Value,

    /// <summary>What it holds, in a row that is one line high.</summary>
    Cell,
}

/// <summary>A field for the page that draws its kind.</summary>
/// <param name="View">The field.</param>
/// <param name="As">How it is drawn.</param>
public sealed record KindView(FieldView View, Drawing As)
{
    private static readonly ConcurrentDictionary<string, string> Pages = new(StringComparer.Ordinal);

    /// <summary>The name of the page that draws a kind that is not entered as a line of text.</summary>
    public static string Page(FieldKind kind) => Pages.GetOrAdd(kind.Control, static control => $"Records/Kinds/_{control}");
}
