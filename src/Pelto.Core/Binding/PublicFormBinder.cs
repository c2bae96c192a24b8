using Pelto.Core.Formulas;
using Pelto.Core.Layouts;

namespace Pelto.Core.Binding;

/// <summary>Makes public forms ready, once all fields are known, and says what is wrong with them.</summary>
internal sealed class PublicFormBinder(List<Problem> problems)
{
    /// <summary>The property that problems of a form point to.</summary>
    public const string Property = "publicForm";

    private const int ShortestAddress = 12;

    public void Bind(IReadOnlyList<RecordType> types)
    {
        foreach (var type in types.Where(type => type.Definition?.PublicForm is not null))
            Bind(type, type.Definition!.PublicForm!);
        foreach (
            var twice in types
                .Where(type => type.PublicForm is not null)
                .GroupBy(type => type.PublicForm!.Definition.Address, StringComparer.Ordinal)
                .Where(group => group.Count() > 1)
        )
            Refuse(twice.Last(), "address", $"Another public form has this address; {twice.Last().Label} needs one of its own.");
    }

    private void Bind(RecordType type, PublicFormDefinition form)
    {
        var before = problems.Count;
        CheckTexts(type, form);
        var asked = new Dictionary<Field, Narrowing?>();
        foreach (var chosen in form.Fields)
        {
            if (Find(type, chosen.Field) is not { } field)
            {
                Refuse(type, "fields", $"{type.Plural} have no field “{chosen.Field}”.");
                continue;
            }

            if (PublicForm.RefusalOf(field) is { } refusal)
                Refuse(type, "fields", refusal);
            else if (!asked.TryAdd(field, ReleasedBy(type, field, chosen)))
                Refuse(type, "fields", $"{field.Label} appears twice on the public form.");
        }

        if (form.Fields.Count == 0)
            Refuse(type, "fields", "Choose at least one field that the public form asks for.");
        foreach (var field in asked.Keys)
            CheckWatched(type, field, asked);
        if (problems.Count == before)
            type.PublicForm = new(type, form, asked) { Layout = LayoutOf(type, form, asked.Keys) };
    }

    private void CheckTexts(RecordType type, PublicFormDefinition form)
    {
        if (
            form.Address.Length is < ShortestAddress or > 60
            || !form.Address.All(letter => char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter == '-')
        )
            Refuse(
                type,
                "address",
                $"The address of a public form has {ShortestAddress} to 60 letters a to z, digits and hyphens, so that nobody guesses it."
            );
        if (string.IsNullOrWhiteSpace(form.Title))
            Refuse(type, "title", "Give the public form a heading, as people outside will read it.");
        else if (form.Title.Length > 80 || form.Title.Any(char.IsControl))
            Refuse(type, "title", "A heading has at most 80 characters, on one line.");
        if (form.Text?.Length > 2000 || form.Thanks?.Length > 2000)
            Refuse(type, "text", "A text on the public form has at most 2,000 characters.");
    }

    private static Field? Find(RecordType type, string code)
    {
        var dot = code.IndexOf('.', StringComparison.Ordinal);
        return dot < 0 ? type.Header.Find(code) : type.LineParts.FirstOrDefault(part => part.Code == code[..dot])?.Find(code[(dot + 1)..]);
    }

    private Narrowing? ReleasedBy(RecordType type, Field field, FormField chosen)
    {
        if (field.Target is not { } target)
        {
            if (!string.IsNullOrWhiteSpace(chosen.Released))
                Refuse(type, "released", $"{field.Label} is not a link, so there is nothing to release.");
            return null;
        }

        if (string.IsNullOrWhiteSpace(chosen.Released))
        {
            Refuse(
                type,
                "released",
                $"Say which {target.Plural.ToLowerInvariant()} people outside may find in "
                    + $"{field.Label}, such as {Example(target)}; TRUE() releases all of them."
            );
            return null;
        }

        var found = new List<FormulaProblem>();
        var condition = Formula.Bind(chosen.Released, target.Header, found, field.Part);
        foreach (var problem in found)
            Refuse(type, "released", $"{field.Label}, at character {problem.At.From + 1}: {problem.Message}");
        if (condition is not null && condition.DataType != DataType.YesNo)
            Refuse(type, "released", $"{field.Label}: a condition gives yes or no, such as {Example(target)}.");
        return condition?.DataType == DataType.YesNo ? new(condition, null) : null;
    }

    // Otherwise it would wait for ever for a field that nobody outside can fill.
    private void CheckWatched(RecordType type, Field link, Dictionary<Field, Narrowing?> asked)
    {
        foreach (var narrowing in new[] { link.Narrowing, asked[link] }.OfType<Narrowing>())
        foreach (
            var watched in narrowing.Watches.Where(watched =>
                !asked.ContainsKey(watched)
                && !narrowing.Condition.MayBeEmpty.Contains(watched)
                && string.IsNullOrWhiteSpace(watched.Content.DefaultValue)
            )
        )
            Refuse(type, "fields", $"{link.Label} offers only what goes with {watched.Label}, which the public form does not ask for.");
    }

    private static Layout LayoutOf(RecordType type, PublicFormDefinition form, IEnumerable<Field> asked)
    {
        var fields = asked.ToList();
        var sections = new List<LayoutSection>();
        foreach (var part in type.Parts)
        {
            var places = fields
                .Where(field => field.Part == part)
                .Select(field => new LayoutPlace(field, part.IsLines ? field.Kind.Width : Math.Max(field.Kind.Width, 6)))
                .ToList();
            if (places.Count > 0)
                sections.Add(new($"form.{part.Code}", part.IsLines ? part.Plural : form.Title, part.IsLines ? part : null, places));
        }

        return new([new("form", form.Title, sections)]);
    }

    private static string Example(RecordType target) =>
        target.Header.Fields.FirstOrDefault(field => field.Kind is { IsOneChoice: true, Choices.All.Count: > 0 })
            is { Kind.Choices: { } choice } field
            ? $"{field.Code} = \"{choice.All[0].Code}\""
            : $"NOT(ISBLANK({target.Identifier.Code}))";

    private void Refuse(RecordType type, string part, string sentence) =>
        problems.Add(new(type.Definition!.Id, $"{Property}.{part}", sentence));
}
