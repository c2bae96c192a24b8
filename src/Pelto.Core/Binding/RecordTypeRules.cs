namespace Pelto.Core.Binding;

/// <summary>Says what is wrong with the definitions of user-defined record types.</summary>
internal sealed class RecordTypeRules(HostDescription host, SiteDefinition site, List<Problem> problems)
{
    private const int LongestTable = 48;

    /// <summary>The types that can be built, retired ones left out.</summary>
    public IEnumerable<RecordTypeDefinition> Sound() =>
        site
            .RecordTypes.Where(type =>
            {
                var before = problems.Count;
                Check(type);
                return problems.Count == before && !type.Retired;
            })
            .ToList();

    private void Check(RecordTypeDefinition type)
    {
        CheckText(type, "label", type.Label, "Give it a label, as people will read it for one of them.");
        CheckText(type, "plural", type.Plural, "Say what people call many of them.");
        CheckCode(type, "code", type.Code);
        if (host.RecordTypes.Any(built => built.Code == type.Code))
            Refuse(type, "code", $"There is a built-in record type with the code {type.Code}.");
        if (site.RecordTypes.Any(other => other.Id != type.Id && other.Code == type.Code))
            Refuse(type, "code", $"Another record type has the code {type.Code}.");
        if (site.RecordTypes.Count(other => other.Id == type.Id) > 1)
            Refuse(type, "id", $"The id {type.Id} is used for two record types.");
        if (type.Code == "new")
            Refuse(type, "code", "“new” has a meaning of its own in addresses; choose another code.");
        CheckLines(type);
        CheckNumbering(type);
        if (type.Numbering.PerCompany && host.Companies.Count == 0)
            Refuse(type, "numbering", "The ERP has no companies that could have their own count.");
        foreach (
            var role in type
                .Read.Concat(type.Write)
                .Concat(type.Create ?? [])
                .Concat(type.Delete ?? [])
                .Distinct()
                .Where(role => role != "*" && host.Roles.All(known => known.Code != role))
        )
            Refuse(type, "access", $"There is no role “{role}”.");
    }

    private void CheckLines(RecordTypeDefinition type)
    {
        var taken = new HashSet<string>(StringComparer.Ordinal)
        {
            Part.HeaderCode,
            RecordTypeDefinition.NumberCode,
            RecordTypeDefinition.NameCode,
            RecordTypeDefinition.CompanyCode,
            RecordTypeDefinition.StatusCode,
        };
        foreach (var lines in type.Lines)
        {
            CheckText(type, "lines", lines.Label, "Give the lines a label, as people will read it for one of them.");
            CheckText(type, "lines", lines.Plural, "Say what people call many of the lines.");
            CheckCode(type, "lines", lines.Code);
            if (!taken.Add(lines.Code))
                Refuse(type, "lines", $"The code {lines.Code} is taken already.");
            var table = $"{type.Code}_{lines.Code}";
            if (table.Length > LongestTable)
                Refuse(type, "lines", $"The codes {type.Code} and {lines.Code} are too long together: {LongestTable - 1} characters fit.");
            if (
                host.RecordTypes.Any(built => built.Code == table || built.Lines.Any(part => $"{built.Code}_{part.Code}" == table))
                || site.RecordTypes.Any(other => other.Code == table)
            )
                Refuse(type, "lines", $"The code {lines.Code} makes a name that is taken already; choose another.");
        }
    }

    private void CheckNumbering(RecordTypeDefinition type)
    {
        var numbering = type.Numbering;
        if (numbering.Prefix.Length > 10 || numbering.Prefix.Any(char.IsControl))
            Refuse(type, "numbering", "What stands before the number has 10 characters at most.");
        if (numbering.Digits is < 1 or > 12)
            Refuse(type, "numbering", "A number has 1 to 12 digits.");
        if (numbering.Start is < 1 or > 999_999_999)
            Refuse(type, "numbering", "The first number is at least 1.");
    }

    private void CheckText(RecordTypeDefinition type, string property, string text, string missing)
    {
        if (string.IsNullOrWhiteSpace(text))
            Refuse(type, property, missing);
        else if (text.Length > 60 || text.Any(char.IsControl))
            Refuse(type, property, "A label has at most 60 characters, on one line.");
    }

    private void CheckCode(RecordTypeDefinition type, string property, string code)
    {
        if (!Codes.IsCode(code))
            Refuse(type, property, $"“{code}” cannot be a code: {Codes.Rule}");
        else if (Codes.IsReserved(code))
            Refuse(type, property, $"Every table has a column {code} of its own; choose another code.");
    }

    private void Refuse(RecordTypeDefinition type, string property, string sentence) => problems.Add(new(type.Id, property, sentence));
}
