namespace Pelto.Core.Releases;

/// <summary>Decides for each field in which column and table it is kept.</summary>
public static class ColumnAssignment
{
    /// <summary>
    /// The same site with each field's column decided: a field that is live and changes to another kind gets a new column, over which its
    /// values are carried.
    /// </summary>
    /// <param name="site">The site.</param>
    /// <param name="live">What is live.</param>
    /// <param name="room">What the tables hold in which they are kept.</param>
    public static SiteDefinition WithColumns(this SiteDefinition site, SiteDefinition live, AddedRoom? room = null) =>
        site with
        {
            Host = site.Host ?? live.Host,
            Fields = [.. Placing.Assign(site, live, room ?? AddedRoom.Empty).Select(field => InColumn(field, live.Find(field.Id)))],
        };

    private static FieldDefinition InColumn(FieldDefinition field, FieldDefinition? old)
    {
        if (old is null)
            return field with { Column = 0, LastColumn = 0 };
        var goesBack = field.Column != old.Column && field.Column <= old.LastColumn;
        if (goesBack)
            return field with { LastColumn = old.LastColumn, DropsEarlier = false };
        return field.Kind == old.Kind
            ? field with
            {
                Column = old.Column,
                LastColumn = old.LastColumn,
            }
            : field with
            {
                Column = old.LastColumn + 1,
                LastColumn = old.LastColumn + 1,
                DropsEarlier = false,
            };
    }
}
