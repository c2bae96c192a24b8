namespace Pelto.Web.Components;

/// <summary>The classes of style sheets by which columns of lines have their widths.</summary>
internal static class LineClasses
{
    private static readonly string[] Classes = [.. Enum.GetNames<LineWidth>().Select(name => "l-" + name.ToLowerInvariant())];

    extension(FieldKind kind)
    {
        /// <summary>The class of its column.</summary>
        public string LineClass => Classes[(int)kind.LineWidth];
    }
}
