namespace Pelto.Core.Layouts;

/// <summary>The screens of record types and public forms.</summary>
public static class ScreensOfType
{
    extension(RecordType type)
    {
        /// <summary>Its screens, for all audiences.</summary>
        public Screens Screens
        {
            get => type.Bound<Screens>()!;
            internal set => type.Bind(value);
        }

        /// <summary>The screen that everyone gets, with all that conditions can bring.</summary>
        public Resolved Screen => type.Screens.Standard;
    }

    extension(PublicForm form)
    {
        /// <summary>Its one page: the fields that it asks for.</summary>
        public Layout Layout
        {
            get => form.Bound<Layout>()!;
            internal set => form.Bind(value);
        }
    }

    extension(Catalogue catalogue)
    {
        /// <summary>
        /// What layers say that could not be carried out as it is. A catalogue that is live may have some:
        /// an update of the host takes anchors away.
        /// </summary>
        public IReadOnlyList<(RecordType Type, LayerClash Clash)> Clashes
        {
            get => catalogue.Bound<IReadOnlyList<(RecordType Type, LayerClash Clash)>>() ?? [];
            internal set => catalogue.Bind(value);
        }
    }
}
