using Pelto.Core.Releases;

namespace Pelto.Data.Records;

/// <summary>What the database says against a save or a deletion, in words.</summary>
internal static class SaveRefusals
{
    /// <summary>What people read of a rule of the database that a save ran into; null for anything else.</summary>
    public static Message? Explain(RecordType type, PostgresException error) =>
        error.SqlState switch
        {
            PostgresErrorCodes.UniqueViolation when FieldOf(type, error.ConstraintName, "_unique") is { } field => new(
                new(field.Part, null, field),
                OutsideChecks.Taken(field)
            ),
            PostgresErrorCodes.UniqueViolation
                when type
                    .Parts.SelectMany(part => part.StoredFields)
                    .FirstOrDefault(field => new AddUnique(field).Name == error.ConstraintName)
                    is { } field => new(new(field.Part, null, field), OutsideChecks.Taken(field)),
            PostgresErrorCodes.ForeignKeyViolation when FieldOf(type, error.ConstraintName, "_fkey") is { } field => new(
                new(field.Part, null, field),
                $"{field.Label} points to a record that does not exist."
            ),
            PostgresErrorCodes.ForeignKeyViolation
                when error.SchemaName == Sql.Linked
                    && type
                        .Parts.SelectMany(part => part.StoredFields)
                        .FirstOrDefault(field => field.Kind.IsSeveralLinks && new KeepLinks(field).Table == error.TableName)
                        is { } several => new(new(several.Part, null, several), $"{several.Label} points to a record that does not exist."),
            PostgresErrorCodes.ForeignKeyViolation
                when type.Next.FirstOrDefault(follow =>
                    follow.Lines is { } lines && error.ConstraintName == $"{lines.To.Table}_{lines.Reference.Code}_fkey"
                )
                    is { Lines: { } followed, Next: var next } => new(
                new(followed.From, null, null),
                $"{next.Plural} follow a line that was removed ({followed.From.Label}): it stays."
            ),
            PostgresErrorCodes.ProgramLimitExceeded => new(
                new(type.Header, null, null),
                "So many of the added fields are filled in here "
                    + "that the database cannot keep them in one row, which holds some 450 of them at least. Empty some."
            ),
            _ => null,
        };

    private static Field? FieldOf(RecordType type, string? constraint, string ending) =>
        type.Parts.SelectMany(part => part.Fields).FirstOrDefault(field => constraint == $"{field.Part.Table}_{field.Code}{ending}");

    /// <summary>True for what goes away when one tries again.</summary>
    public static bool IsPassing(Exception error) =>
        error switch
        {
            DbUpdateConcurrencyException => true,
            DbUpdateException { InnerException: PostgresException inner } => IsPassing(inner),
            PostgresException postgres => postgres.SqlState
                is PostgresErrorCodes.DeadlockDetected
                    or PostgresErrorCodes.SerializationFailure
                    or PostgresErrorCodes.LockNotAvailable,
            _ => false,
        };

    /// <summary>What holds a record.</summary>
    // What the viewer may see of it by count and field, and otherwise a word for the rest. A retired field holds on as well, since it can
    // come back.
    public static string WhatPoints(Catalogue catalogue, IReadOnlyList<Pointing> pointing, PostgresException error, Viewer viewer)
    {
        var holding = pointing.Where(one => !one.Field.Content.ClearsWithTarget).ToList();
        if (holding.Count > 0)
            return $"{Listed([.. holding.Select(one => $"{one.InWords} ({one.Field.Label})")])} still {(holding is [{ Count: 1 }] ? "points" : "point")}";
        var retired = catalogue.Site.Fields.FirstOrDefault(field =>
            field.Retired
            && error.ConstraintName?.StartsWith($"{field.ColumnName}_link_", StringComparison.Ordinal) == true
            && field
                .Places()
                .Any(place =>
                    catalogue.Find(place.RecordType)?.FindPart(place.Part) is { } part
                    && AddedTables.NameOf(part, field.Table) == error.TableName
                )
        );
        retired ??= catalogue.Site.Fields.FirstOrDefault(field =>
            field.Retired
            && error.SchemaName == Sql.Linked
            && field
                .Places()
                .Any(place =>
                    catalogue.Find(place.RecordType)?.FindPart(place.Part) is { } part
                    && KeepLinks.TableOf(part, field.ColumnName) == error.TableName
                )
        );
        return retired is not null && viewer.May(AdminWork.Define)
            ? $"the retired field {retired.Label} still points"
            : "records that you may not see still point";
    }

    private static string Listed(IReadOnlyList<string> parts) =>
        parts.Count < 3 ? string.Join(" and ", parts) : $"{string.Join(", ", parts.SkipLast(1))} and {parts[^1]}";
}
