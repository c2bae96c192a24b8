namespace Pelto.Data;

/// <summary>Refuses what somebody may not do at all, before anything is read or written for them.</summary>
internal static class Allowing
{
    /// <summary>
    /// What changes access, people, tokens, how people sign in, or what is live, is done for nobody whose session has grown old: the one
    /// check, which everything that does so begins with.
    /// </summary>
    public static void MustBeSure(Viewer viewer)
    {
        if (viewer.MustConfirm)
            throw new ConfirmationRequiredException();
    }

    public static void MustRead(RecordType type, Viewer viewer)
    {
        if (!viewer.MayRead(type))
            throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
    }

    public static void MustCreate(RecordType type, Viewer viewer)
    {
        if (!viewer.MayCreate(type))
            throw new AccessRefusedException($"You may not create {type.Plural.ToLowerInvariant()}.");
    }

    public static void MustDelete(RecordType type, Viewer viewer)
    {
        MustRead(type, viewer);
        if (!viewer.MayDelete(type))
            throw new AccessRefusedException(
                viewer.MayChange(type)
                    ? $"You may not delete {type.Plural.ToLowerInvariant()}."
                    : $"You may read {type.Plural.ToLowerInvariant()}, but not change them."
            );
    }

    // As the record stands: to change it, or at least one of its fields.
    public static void MustWrite(RecordState state, RecordAccess access, Viewer viewer)
    {
        if (
            viewer.Form is not null
            || access.MayChange
            || state.Type.Parts.Any(part =>
                part.Fields.Any(field =>
                    part.IsLines
                        ? state.LinesOf(part).Exists(line => access.LevelAt(field, line.Key) == AccessLevel.Write)
                        : access.LevelAt(field, null) == AccessLevel.Write
                )
            )
        )
            return;
        throw new AccessRefusedException($"You may read {state.Title}, but not change it as it stands.");
    }

    public static void MustWrite(RecordType type, Viewer viewer)
    {
        MustRead(type, viewer);
        if (!viewer.MayChange(type))
            throw new AccessRefusedException($"You may read {type.Plural.ToLowerInvariant()}, but not change them.");
    }
}
