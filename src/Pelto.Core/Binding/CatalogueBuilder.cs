using Pelto.Core.Access;
using Pelto.Core.Fills;
using Pelto.Core.Formulas;
using Pelto.Core.Layouts;
using Pelto.Core.Queries;

namespace Pelto.Core.Binding;

/// <summary>Puts host and site together: record types, then fields, then formulas and their order, then screens.</summary>
internal sealed class CatalogueBuilder
{
    private static readonly DateOnly AnyDay = new(2000, 1, 1);

    private readonly HostDescription host;
    private readonly SiteDefinition site;
    private readonly List<Problem> problems = [];
    private readonly Dictionary<Field, string> formulas = [];
    private readonly RuleBinder rules;
    private readonly LayerRules layers;
    private readonly List<(RecordType Type, LayerClash Clash)> clashes = [];

    public CatalogueBuilder(HostDescription host, SiteDefinition site)
    {
        // From here on a role is a role, whoever made it.
        this.host = host with { Roles = [.. host.Roles, .. site.Roles.Where(role => RoleRules.Refuse(role, host, site) is null)] };
        (this.site, rules, layers) = (site, new(problems), new(this.host, site, problems));
        problems.AddRange(
            site.Roles.Select(role => (role, Refusal: RoleRules.Refuse(role, host, site)))
                .Where(pair => pair.Refusal is not null)
                .Select(pair => new Problem("role:" + pair.role.Code, "label", pair.Refusal!))
        );
    }

    public Catalogue Build(int release)
    {
        if (site.Host is { } version && version != host.Version)
            problems.Add(new("host", "host", $"There is no {host.Label} {version} here."));
        foreach (var element in site.Elements())
            problems.AddRange(element.Problem(host).Select(wrong => new Problem(element.ElementId, wrong.Property, wrong.Sentence)));
        CheckIds();
        CheckLists();
        layers.Check();
        var types = host
            .RecordTypes.Select(description => Built(description, null))
            .Concat(new RecordTypeRules(host, site, problems).Sound().Select(own => Built(own.ToDescription(host.Companies), own)))
            .ToList();
        var guarding = new Guarding(host.Companies);
        foreach (var type in types)
            type.Guarding = guarding;
        foreach (var field in types.SelectMany(type => type.Parts).SelectMany(part => part.Fields))
            FindTarget(field, types);
        new DocumentBinder(host, types, problems).Bind();
        var rates = RateTable.From(host, types, problems);
        foreach (var type in types)
            type.Rates = rates;
        foreach (var definition in site.Fields.OrderBy(definition => definition.Kind == FieldKinds.ThroughLink))
            Add(definition, types);
        var pointing = types
            .SelectMany(type => type.Parts)
            .SelectMany(part => part.Fields)
            .Where(field => field.Target is not null && !field.IsThroughLink)
            .ToLookup(field => field.Target!);
        foreach (var type in types)
            type.PointedBy = [.. pointing[type]];
        foreach (var (field, text) in formulas)
            BindFormula(field, text);
        foreach (var type in types)
            BindCarriedAlong(type);
        var queries = new QueryBinder(site, types, problems);
        queries.CheckQueries();
        foreach (var field in types.SelectMany(type => type.Parts).SelectMany(part => part.AddedFields))
            queries.Bind(field);
        foreach (var field in types.SelectMany(type => type.Parts).SelectMany(part => part.Fields))
            rules.Bind(field);
        foreach (var field in types.SelectMany(type => type.Parts).SelectMany(part => part.Fields))
            field.GuardedBy = Guards(field, types);
        new GrantBinder(host, site, types, guarding, problems).Bind();
        foreach (var type in types)
            Finish(type);
        foreach (var type in types)
            clashes.AddRange(LayerRules.ClashesOfLists(type.Screens).Select(clash => (type, clash)));
        new PublicFormBinder(problems).Bind(types);
        problems.AddRange(
            clashes
                .Where(clash => clash.Clash.Refused)
                .Select(clash => new Problem(clash.Clash.Operation.Part, "place", clash.Clash.Sentence))
        );
        return new(release, host, site, types, problems) { Clashes = clashes, Guarding = guarding };
    }

    private void CheckIds()
    {
        CheckIds("fields", site.Fields);
        CheckIds("choice lists", site.ChoiceLists);
        CheckIds("queries", site.Queries);
        CheckIds("layers", site.Layers);
        CheckIds("grants", site.Grants);
        CheckIds("shortcuts", site.Shortcuts);
        foreach (
            var removed in site.Removed.Where(removed =>
                site.Fields.Any(field => field.Places().Any(place => field.IdIn(place) == removed.Id))
            )
        )
            problems.Add(new(removed.Id, "removed", $"{removed.Label} is there, so it cannot be removed as well."));
    }

    private void CheckIds(string many, IReadOnlyList<ISiteElement> all)
    {
        if (all.Any(element => string.IsNullOrWhiteSpace(element.ElementId)))
            problems.Add(new("", "id", $"Each of the {many} needs a lasting id."));
        foreach (
            var twice in all.GroupBy(element => element.ElementId, StringComparer.Ordinal)
                .Where(group => group.Key.Length > 0 && group.Count() > 1)
        )
            problems.Add(new(twice.Key, "id", $"The id {twice.Key} is used for two {many}."));
    }

    private void CheckLists()
    {
        foreach (var list in site.ChoiceLists)
        {
            if (string.IsNullOrWhiteSpace(list.Label) || list.Label.Length > 80)
                problems.Add(new(list.Id, "label", "Give the list a label of at most 80 characters."));
            ChoiceRules.Checked(list.Choices, (property, sentence) => problems.Add(new(list.Id, property, sentence)));
        }

        foreach (
            var twice in site
                .ChoiceLists.GroupBy(list => list.Label.Trim(), StringComparer.OrdinalIgnoreCase)
                .Where(group => group.Count() > 1)
        )
            problems.Add(new(twice.Last().Id, "label", $"Another list is called {twice.Key}."));
    }

    private RecordType Built(RecordTypeDescription description, RecordTypeDefinition? own)
    {
        var type = new RecordType
        {
            Description = description,
            Definition = own,
            Companies = host.Companies,
        };
        type.Header = new Part
        {
            Code = Part.HeaderCode,
            Label = description.Label,
            Plural = description.Plural,
            RecordType = type,
        };
        type.LineParts =
        [
            .. description.Lines.Select(lines => new Part
            {
                Code = lines.Code,
                Label = lines.Label,
                Plural = lines.Plural,
                RecordType = type,
            }),
        ];
        AddBuiltIn(type.Header, description.Fields, description.Code);
        foreach (var (part, lines) in type.LineParts.Zip(description.Lines))
            AddBuiltIn(part, lines.Fields, $"{description.Code}.{part.Code}");
        return type;
    }

    private void AddBuiltIn(Part part, IReadOnlyList<FieldDescription> descriptions, string prefix)
    {
        foreach (var description in descriptions)
        {
            var id = $"{prefix}.{description.FirstCode ?? description.Was ?? description.Code}";
            if (FieldKinds.Make(description, (property, sentence) => problems.Add(new(id, property, sentence))) is not { } kind)
                continue;
            if (kind.IsSeveralLinks)
                problems.Add(new(id, "kind", "Only added fields point to several records."));
            var field = new Field
            {
                Id = id,
                Content = description,
                Kind = kind,
                Part = part,
                Slot = part.Fields.Count,
                IsAdded = false,
                Numbering = description.Numbering,
            };
            part.Add(field);
            if (description.Formula is { } text)
                formulas.Add(field, text);
        }
    }

    private void FindTarget(Field field, List<RecordType> types)
    {
        if (field.Kind.TargetCode is not { } target)
            return;
        field.Target = types.FirstOrDefault(type => type.Code == target);
        if (field.Target is null)
            problems.Add(new(field.Id, "target", $"There is no record type “{target}” to point to."));
    }

    // A field that does not work is left out, so that the rest of the screen can still be shown beside its problem.
    private void Add(FieldDefinition definition, List<RecordType> types)
    {
        if (definition.Retired)
        {
            KeepCode(definition, types);
            return;
        }

        // With its type, a field is out of use too; elsewhere it goes on.
        if (definition.Places().All(IsRetired))
            return;
        var before = problems.Count;
        var content = site.Resolve(definition);
        FieldTexts.Check(definition, (property, sentence) => Refuse(definition, property, sentence));
        if (content.Kind == FieldKinds.ThroughLink)
        {
            AddThroughLink(definition, types, before);
            return;
        }

        var kind = FieldKinds.Make(content, (property, sentence) => Refuse(definition, property, sentence));
        if (kind?.TargetCode is { } target)
            CheckLink(definition, target, types);
        if (definition.ChoiceList is { Length: > 0 } list && site.FindList(list) is null)
            Refuse(definition, "choiceList", "The choice list no longer exists. Choose another.");
        if (kind is not null)
            CheckStart(definition, kind);
        if (definition is { Query: not null, Locked: true } && (definition.Required || !string.IsNullOrWhiteSpace(definition.RequiredWhen)))
            Refuse(definition, "required", "It is locked: nobody could type the required value.");
        if (kind is not null && definition.Formula is { Length: > 0 })
            CheckFilled(definition, kind);
        var parts = new List<(Part Part, string Id)>();
        foreach (var place in definition.Places().Where(place => !IsRetired(place)))
        {
            if (FindPart(definition, place, types) is not { } part)
                continue;
            if (parts.Exists(other => other.Part == part))
                Refuse(definition, "alsoOn", $"It appears twice on {part.Plural.ToLowerInvariant()}.");
            CheckCode(definition, part, kind, types);
            parts.Add((part, definition.IdIn(place)));
        }

        if (definition.CarriedAlong)
        {
            if (kind is { StaysWithRecord: true })
                Refuse(definition, "carriedAlong", $"Values of the kind {kind.Label.ToLowerInvariant()} stay with their record.");
            else if (definition is { Formula.Length: > 0, Fills: FillMode.Always })
                Refuse(definition, "carriedAlong", "A formula fills it anew on each document.");
            else if (!parts.Exists(to => parts.Exists(from => Follows(from.Part, to.Part))))
                Refuse(
                    definition,
                    "carriedAlong",
                    "It is on no two documents of which one is made from the other: put it on the next one too."
                );
        }

        if (problems.Count > before || kind is null)
            return;
        foreach (var (part, id) in parts)
        {
            var field = new Field
            {
                Id = id,
                Content = definition,
                Kind = kind,
                Part = part,
                Slot = part.Fields.Count,
                IsAdded = true,
            };
            part.Add(field);
            FindTarget(field, types);
            if (definition.Formula is { Length: > 0 } text)
                formulas.Add(field, text);
        }
    }

    private static bool Follows(Part from, Part to) =>
        to.RecordType.Follows.Any(follow =>
            follow.Source == from.RecordType && (from.IsLines ? follow.Lines?.From == from && follow.Lines.To == to : !to.IsLines)
        );

    private void CheckFilled(FieldDefinition definition, FieldKind kind)
    {
        if (definition.Fills == FillMode.Always)
        {
            CheckComputed(definition, kind);
            return;
        }

        if (kind.DataType is DataType.Secret or DataType.File)
            Refuse(definition, "formula", $"Values of the kind {kind.Label.ToLowerInvariant()} stay with their record.");
        if (definition.Live)
            Refuse(definition, "live", "What people may change, or what stays as it was when it was chosen, is kept with its record.");
        if (definition.Locked && (definition.Required || !string.IsNullOrWhiteSpace(definition.RequiredWhen)))
            Refuse(definition, "required", "It is locked: nobody could type the required value.");
    }

    // Nobody types what a formula fills.
    private void CheckComputed(FieldDefinition definition, FieldKind kind)
    {
        if (kind.DataType is DataType.Secret or DataType.File or DataType.Several or DataType.Link or DataType.Links)
            Refuse(definition, "formula", $"A formula gives no value of the kind {kind.Label.ToLowerInvariant()}.");
        if (definition.Required || !string.IsNullOrWhiteSpace(definition.RequiredWhen))
            Refuse(definition, "required", "A formula fills it: nobody could type the required value.");
        if (definition.Unique)
            Refuse(definition, "unique", "A formula fills it: two records may come to the same value.");
        if (!string.IsNullOrWhiteSpace(definition.DefaultValue))
            Refuse(definition, "defaultValue", "A formula fills it, from the start.");
        if (
            !string.IsNullOrWhiteSpace(definition.Check)
            || !string.IsNullOrWhiteSpace(definition.Pattern)
            || !string.IsNullOrWhiteSpace(definition.Minimum)
            || !string.IsNullOrWhiteSpace(definition.Maximum)
        )
            Refuse(
                definition,
                "check",
                "A formula fills it: nobody could correct what a rule refuses. Put the rule on a field that it is calculated from."
            );
    }

    // The kind is that of what is seen, so the path is followed before the field is made; in each place on its own.
    private void AddThroughLink(FieldDefinition definition, List<RecordType> types, int before)
    {
        if (definition.Required || !string.IsNullOrWhiteSpace(definition.RequiredWhen))
            Refuse(definition, "required", "It is seen through a link: it cannot be required here.");
        if (definition.Unique)
            Refuse(definition, "unique", "It is seen through a link: it cannot be unique here.");
        if (!string.IsNullOrWhiteSpace(definition.DefaultValue))
            Refuse(definition, "defaultValue", "It is seen through a link: it has no default.");
        foreach (var place in definition.Places().Where(place => !IsRetired(place)))
        {
            if (FindPart(definition, place, types) is not { } part)
                continue;
            CheckCode(definition, part, null, types);
            if (FollowPath(definition, part) is not { } path || problems.Count > before)
                continue;
            var field = new Field
            {
                Id = definition.IdIn(place),
                Content = definition,
                Kind = path[^1].Kind,
                Part = part,
                Slot = part.Fields.Count,
                IsAdded = true,
                Path = path,
                Target = path[^1].Target,
            };
            part.Add(field);
        }
    }

    private List<Field>? FollowPath(FieldDefinition definition, Part part)
    {
        var codes = (definition.Path ?? "").Split('.', StringSplitOptions.TrimEntries);
        if (codes.Length < 2 || codes.Any(code => code.Length == 0))
        {
            Refuse(definition, "path", "Say through which link and what, such as customer.credit_limit.");
            return null;
        }

        var path = new List<Field>();
        var at = part;
        foreach (var code in codes)
        {
            var field = at.Find(code);
            if (field is null)
            {
                var nearest = Nearest.To(code, at.Fields.Select(candidate => candidate.Code));
                Refuse(definition, "path", $"{at.Label} has no field “{code}”.{(nearest is null ? "" : $" Did you mean {nearest}?")}");
                return null;
            }

            path.Add(field);
            if (path.Count == codes.Length)
                break;
            if (field.Kind.IsSeveralLinks)
            {
                Refuse(definition, "path", $"{field.Label} can point to several records, so nothing single is seen through it.");
                return null;
            }

            if (field.Target is not { } target || field.IsThroughLink)
            {
                Refuse(definition, "path", $"{field.Label} is not a link, so nothing is seen through it.");
                return null;
            }

            at = target.Header;
        }

        if (path[^1] is not ({ IsStored: false } or { Kind.StaysWithRecord: true } or { Kind.IsSeveralLinks: true }))
            return path;
        Refuse(definition, "path", $"{path[^1].Label} can be looked at with its own record only.");
        return null;
    }

    private void CheckLink(FieldDefinition definition, string target, List<RecordType> types)
    {
        if (target.Length > 0 && types.TrueForAll(type => type.Code != target))
            Refuse(definition, "target", $"There is no record type “{target}” to point to.");
        if (!string.IsNullOrWhiteSpace(definition.DefaultValue))
            Refuse(definition, "defaultValue", "A link begins empty: which record fits is seen only at the record.");
        if (definition.ClearsWithTarget && definition.Required)
            Refuse(
                definition,
                "clearsWithTarget",
                "It is required, so it cannot become empty "
                    + "when what it points to is deleted. Let the target stay, or let the field be empty."
            );
    }

    private bool IsRetired(AlsoOn place) => site.RecordTypes.Any(type => type.Code == place.RecordType && type.Retired);

    // A retired field keeps its code, since its data is still there.
    private void KeepCode(FieldDefinition definition, List<RecordType> types)
    {
        foreach (var place in definition.Places())
            if (types.Find(type => type.Code == place.RecordType)?.FindPart(place.Part) is { } part)
                part.Keep(definition.Code);
    }

    private Part? FindPart(FieldDefinition definition, AlsoOn place, List<RecordType> types)
    {
        var type = types.FirstOrDefault(candidate => candidate.Code == place.RecordType);
        if (type is null)
        {
            Refuse(
                definition,
                "recordType",
                place.RecordType.Length == 0 ? "Choose a record type." : $"There is no record type “{place.RecordType}”."
            );
            return null;
        }

        var part = type.FindPart(place.Part);
        if (part is null)
            Refuse(
                definition,
                "part",
                $"{type.Label} has no part “{place.Part}”. It has: {string.Join(", ", type.Parts.Select(candidate => candidate.Code))}."
            );
        return part;
    }

    private void CheckCode(FieldDefinition definition, Part part, FieldKind? kind, List<RecordType> types)
    {
        if (part.Find(definition.Code) is { } other && other.Code == definition.Code)
            Refuse(
                definition,
                "code",
                $"The code {definition.Code} is taken by {(other.IsAdded ? "the added" : "the built-in")} field {other.Label}."
            );
        else if (part.Fields.FirstOrDefault(built => (built.Content as FieldDescription)?.Column == definition.Code) is { } stored)
            Refuse(definition, "code", $"The code {definition.Code} names the column of {stored.Label}; choose another code.");
        else if (part.IsStored(definition.Code))
            Refuse(
                definition,
                "code",
                $"The code {definition.Code} belongs to a retired field whose data is still kept. Bring that back, or choose another code."
            );
        else if (
            kind?.Columns.Select(column => part.FindColumn(definition.ColumnName + column.Suffix)).OfType<Field>().FirstOrDefault() is
            { IsAdded: true } crossed
        )
            Refuse(definition, "code", $"The code {definition.Code} names a column that {crossed.Label} is kept in; choose another code.");
        else if (
            part is { IsLines: false }
            && types.SelectMany(type => type.LineParts).Any(lines => lines.RecordType == part.RecordType && lines.Code == definition.Code)
        )
            Refuse(definition, "code", $"The code {definition.Code} is taken by the lines.");
    }

    private void CheckStart(FieldDefinition definition, FieldKind kind)
    {
        if (Field.Starts(kind, definition.DefaultValue, AnyDay).Refusal is { } refusal)
            Refuse(definition, "defaultValue", $"Its own rules refuse this default. {refusal}");
    }

    private void BindFormula(Field field, string text)
    {
        var found = new List<FormulaProblem>();
        field.Formula = Formula.Bind(text, field.Part, found);
        var id = field.Definition?.Id ?? field.Id;
        problems.AddRange(found.Select(problem => new Problem(id, "formula", $"At character {problem.At.From + 1}: {problem.Message}")));
        if (field.Formula is not { } formula)
            return;
        var misfit =
            formula.DataType != field.Kind.DataType && formula.DataType != DataType.Empty
                ? $"The formula gives {Binder.NameOf(formula.DataType)}, and the field takes {Binder.NameOf(field.Kind.DataType)}."
            : formula.DataType is DataType.Link or DataType.Links && formula.Source?.Target != field.Target
                ? $"The formula gives a link to {formula.Source?.Target?.Plural.ToLowerInvariant() ?? "other records"}, "
                    + $"and the field points to {field.Target?.Plural.ToLowerInvariant() ?? "others"}."
            : null;
        if (misfit is null)
            return;

        // Until it fits it fills nothing: the draft is shown, with all else in it.
        problems.Add(new(id, "formula", misfit));
        field.Formula = null;
    }

    // What documents copy, or carry along, goes before what a formula would fill in.
    private static void BindCarriedAlong(RecordType type)
    {
        foreach (var field in type.Parts.SelectMany(part => part.Fields).Where(field => !field.IsThroughLink && !field.IsLive))
        {
            if (field is { Definition.CarriedAlong: true } && !field.IsComputed)
                field.CarriedFrom = [.. type.Follows.SelectMany(follow => (
                            field.Part.IsLines
                                ? follow.Lines?.To == field.Part
                                    ? follow.Lines.From
                                    : null
                                : follow.Source.Header
                        )?.AddedFields.Where(from => from.Definition!.Id == field.Definition.Id).Select(from => new CarriedFrom(follow, from)) ?? [])];
            else if (field.Formula is not null && !field.IsComputed)
                field.CarriedFrom =
                [
                    .. type.Follows.SelectMany(follow =>
                        (field.Part.IsLines ? follow.Lines?.Copies ?? [] : follow.Copies)
                            .Where(copy => copy.To == field)
                            .Select(copy => new CarriedFrom(follow, copy.From))
                    ),
                ];
        }
    }

    // What a field is calculated from, asked for with or copied from: who may not see that is not told by this.
    private static HashSet<Field> Guards(Field field, List<RecordType> types)
    {
        var held = field
            .Definition?.HeldFrom.Select(id =>
                types.Select(type => type.TryFindField(id, out var found) ? found : null).FirstOrDefault(found => found is not null)
            )
            .OfType<Field>()
            ?? [];
        var inputs =
            field.Formula is not null || field.Asking is { When: not QueryWhen.Offer }
                ? field.Inputs.Concat(field.Asking?.Reads ?? [])
                : [];
        var copied = field.Part.RecordType.Follows.SelectMany(follow =>
            (field.Part.IsLines ? follow.Lines?.Copies ?? [] : follow.Copies).Where(copy => copy.To == field).Select(copy => copy.From)
        );
        return
        [
            .. inputs.Concat(field.CarriedFrom.Select(carried => carried.From)).Concat(copied).Concat(held).Where(input => input != field),
        ];
    }

    private void Finish(RecordType type)
    {
        var before = problems.Count;
        type.FillOrder = FillOrders.For(type, problems);
        var goesRound = problems.Count > before;
        foreach (
            var field in type.FillOrder.Where(field => !goesRound && field is { IsAdded: true, Formula: not null } && !SqlProbe.Fits(field))
        )
            problems.Add(
                new(
                    field.Definition!.Id,
                    "formula",
                    "It is calculated from other live fields, and these from others, "
                        + "so often that the database could not read it all. Let one of those that it reads be kept instead of live."
                )
            );
        foreach (var field in type.Parts.SelectMany(part => part.AddedFields).Where(field => field.Content.Indexed))
            if (Indexing.Refuse(field) is { } refusal)
                problems.Add(new(field.Definition!.Id, "indexed", refusal));
        type.RelatedFields = type
            .Parts.SelectMany(part => part.Fields)
            .SelectMany(field => field.Formulas.Concat([field.Rules.RequiredWhen, field.Rules.ShownWhen, field.Rules.Check]))
            .OfType<Formula>()
            .Concat(type.Guarding.ConditionsAt(type))
            .SelectMany(formula => formula.RelatedFields)
            .Concat(type.FillOrder.SelectMany(field => field.CarriedFrom).Select(carried => carried.From))
            .ToHashSet();
        type.Screens = layers.ScreensOf(type);
        clashes.AddRange(LayerRules.ClashesOf(type.Screens).Select(clash => (type, clash)));
        var shown = type.Screen.Layout.Fields.ToHashSet();
        type.ListColumns =
        [
            .. type.Description.List.Select(type.Header.Find).OfType<Field>(),
            .. type.Screen.Layout.Fields.Where(field => field.IsAdded && !field.Part.IsLines).Take(ListOf.MaxDefaultColumns),
        ];
        foreach (var field in type.Parts.SelectMany(part => part.AddedFields))
        {
            if (shown.Contains(field) || !string.IsNullOrWhiteSpace(field.Content.DefaultValue))
                continue;
            if (field.Required)
                problems.Add(
                    new(
                        field.Definition!.Id,
                        "required",
                        $"{field.Label} is required, but is on no screen of {type.Plural.ToLowerInvariant()} and has no "
                            + "default: nobody could save a record. Place it, give it a default, or let it be empty."
                    )
                );
            else if (field.Rules.RequiredWhen is { } condition)
                problems.Add(
                    new(
                        field.Definition!.Id,
                        "requiredWhen",
                        $"{field.Label} can be required, but is on no screen of {type.Plural.ToLowerInvariant()}: "
                            + $"where {condition.Text} holds, nobody could save a record. Place it, or let it be empty."
                    )
                );
        }
    }

    private void Refuse(FieldDefinition definition, string property, string sentence) =>
        problems.Add(new(definition.Id, property, sentence));
}
