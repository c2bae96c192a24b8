namespace Pelto.Web.Components;

/// <summary>The classes of style sheets by which a section looks as layers say.</summary>
internal static class SectionClasses
{
    extension(LayoutSection section)
    {
        /// <summary>One class for each, such as <c>tint-moss</c>, with a blank before it.</summary>
        public string LookClasses => string.Concat(section.Looks.Select(look => $" {look.Key}-{look.Value}"));
    }
}
