using Pelto.Core.Access;
using Pelto.Core.Layouts;
using Pelto.Core.Records;

namespace Pelto.Core.Releases;

/// <summary>
/// Says who sees a field and who fills it, from the guards, grants and layers that decide it. It names no grant and nothing that the field
/// reads:
/// whoever defines a field need not know of either.
/// </summary>
public static class SeeingWords
{
    /// <summary>In sentences.</summary>
    /// <param name="field">The field.</param>
    /// <param name="catalogue">Its catalogue.</param>
    public static string For(Field field, Catalogue catalogue) => string.Join(" ", Access(field).Concat(Screens(field, catalogue.Host)));

    /// <summary>On whose screen it stands, in sentences.</summary>
    /// <param name="field">The field.</param>
    /// <param name="catalogue">Its catalogue.</param>
    public static string OnScreens(Field field, Catalogue catalogue) =>
        Screens(field, catalogue.Host).ToList() is { Count: > 0 } said
            ? string.Join(" ", said)
            : $"On the screen of everyone who sees {(IsForAll(field) ? "" : "it among ")}{field.Part.RecordType.Plural.ToLowerInvariant()}.";

    /// <summary>What lists do with it, in a sentence; of what no list can do, nothing.</summary>
    /// <param name="field">The field.</param>
    public static string InLists(Field field)
    {
        var type = field.Part.RecordType;
        var isShown =
            !field.Part.IsLines
            && type.Screens.ListFor(new(type), [.. type.Screens.Layers.Where(layer => layer.For!.Kind == AudienceKind.Everyone)])
                .Layout.PlacesOf(field)
                .Any();
        var does = new List<string>();
        if (isShown)
            does.Add("show it");
        if (!field.Part.IsLines && field.Kind.IsOrdered)
            does.Add("sort by it");
        if (Filter.TestsOf(field).Count > 0)
            does.Add("filter by it");
        if (does.Count == 0)
            return "";
        return $"Lists of {type.Plural.ToLowerInvariant()} "
            + $"{GrantWords.Listed(does)}{(isShown || field.Part.IsLines ? "" : "; it becomes a column once somebody puts it there")}.";
    }

    /// <summary>True when whoever may see a record of its type sees the field there, whatever else they may see.</summary>
    /// <param name="field">The field.</param>
    public static bool IsForAll(Field field) => IsForAll(field, []);

    private static bool IsForAll(Field field, HashSet<Field> looking)
    {
        var guarding = field.Part.RecordType.Guarding;
        if (!looking.Add(field) || guarding.GuardOf(field) is not null || IsWithheld(field, AccessLevel.Read))
            return false;
        return !field.IsThroughLink
            && (field.IsAdded ? field.GuardedBy : field.GuardedBy.Where(guarding.Restrains)).All(input =>
                field.ReadsHere(input) && IsForAll(input, looking)
            );
    }

    private static bool IsWithheld(Field field, AccessLevel level) =>
        field.Part.RecordType.Guarding.On(field).Any(bound => bound.Grant.Does == Grant.Withhold && bound.Level < level);

    private static IEnumerable<string> Access(Field field)
    {
        var many = field.Part.RecordType.Plural.ToLowerInvariant();
        var guarding = field.Part.RecordType.Guarding;
        if (IsForAll(field))
        {
            yield return $"Everyone who sees {many} sees it{(field.IsTyped && !field.Part.RecordType.Description.Maintained && !field.IsFilled ? Fills(field) : "")}.";
            yield break;
        }

        if (guarding.GuardOf(field) is not null)
            yield return "It is guarded: besides administrators, those see it to whom a grant gives it.";
        if (IsWithheld(field, AccessLevel.Read))
            yield return "It is withheld from some.";
        if (field.GuardedBy.Count > 0 || field.IsThroughLink)
            yield return $"Who may not see what it {(field.IsThroughLink ? "shows" : "reads")} does not see it either{(guarding.On(field).Any(bound => bound.Grant.Does == Grant.Open) ? ", unless it is opened for them" : "")}.";
    }

    private static string Fills(Field field)
    {
        var narrows =
            field.Narrowing is { } narrowing
            && narrowing.Condition.Reads.Concat(narrowing.Condition.RelatedFields).Any(field.Part.RecordType.Guarding.Restrains);
        return IsWithheld(field, AccessLevel.Write) || narrows
            ? "; fewer fill it than may change them"
            : $"; who may change them{(field.Target is { } target ? $" and sees {target.Plural.ToLowerInvariant()}" : "")} fills it";
    }

    // What each audience's own layer does, over what everyone gets; where it is another thing for new records, both are said.
    private static IEnumerable<string> Screens(Field field, HostDescription host)
    {
        var (onFile, adding) = (Screens(field, host, RecordMode.Changing).ToList(), Screens(field, host, RecordMode.Adding).ToList());
        return onFile.SequenceEqual(adding)
            ? onFile.Select(said => said + ".")
            :
            [
                .. onFile.Select(said => said + ", where a record is on file."),
                .. adding.Select(said => said + ", where a record is new."),
            ];
    }

    private static IEnumerable<string> Screens(Field field, HostDescription host, RecordMode mode)
    {
        var screens = field.Part.RecordType.Screens;
        Layer[] layers = [.. screens.Layers.Where(layer => layer.For!.Kind != AudienceKind.Everyone)];
        string Whom(IEnumerable<Layer> those) =>
            GrantWords.Listed([
                .. those
                    .Select(layer => layer.For is { Kind: AudienceKind.User, Code: var person } ? person : layer.For!.InWords(host))
                    .Distinct(),
            ]);
        bool Stands(Layer? layer) => screens.For(layer, mode).Layout.PlacesOf(field).Any();
        bool IsLocked(Layer? layer) =>
            screens.For(layer, mode).Layout.PlacesOf(field).ToList() is { Count: > 0 } places && places.TrueForAll(place => place.IsLocked);
        var stands = Stands(null);
        var others = layers.Where(layer => Stands(layer) != stands).ToList();
        if (others.Count > 0)
            yield return stands ? $"It is not on the screen of {Whom(others)}" : $"It is on the screen of {Whom(others)} only";
        else if (!stands)
            yield return "It is on no screen";
        var locks = layers.Where(layer => Stands(layer) && IsLocked(layer)).ToList();
        if (IsLocked(null))
            yield return "On the screen it is locked";
        else if (locks.Count > 0)
            yield return $"On the screen it is locked for {Whom(locks)}";
    }
}
