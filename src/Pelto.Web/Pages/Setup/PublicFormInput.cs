namespace Pelto.Web.Pages;

/// <summary>A field that a public form may ask for, as ticked and typed.</summary>
public sealed class FormFieldInput
{
    /// <summary>Its code, for a field of lines after theirs.</summary>
    public string Field { get; set; } = "";

    /// <summary>Whether the form asks for it.</summary>
    public bool Asked { get; set; }

    /// <summary>For links: which records people outside may find.</summary>
    public string Released { get; set; } = "";
}

/// <summary>What stands in the inputs of the page of a public form, as text, so that nothing typed is lost.</summary>
public sealed class PublicFormInput
{
    /// <summary>Its heading.</summary>
    public string Title { get; set; } = "";

    /// <summary>What stands above the fields.</summary>
    public string Text { get; set; } = "";

    /// <summary>What people read once they have sent it.</summary>
    public string Thanks { get; set; } = "";

    /// <summary>The last part of its address.</summary>
    public string Address { get; set; } = "";

    /// <summary>Whether it takes nothing just now.</summary>
    public bool Closed { get; set; }

    /// <summary>The fields that there are, in the order in which the form asks for those that it asks for.</summary>
    public List<FormFieldInput> Rows { get; set; } = [];

    /// <summary>The inputs for a definition, or for a form that is begun.</summary>
    /// <param name="form">The form; null for one that is begun.</param>
    /// <param name="label">What people call one record.</param>
    public static PublicFormInput From(PublicFormDefinition? form, string label) =>
        form is null
            ? new() { Title = label, Address = PublicFormDefinition.NewAddress() }
            : new()
            {
                Title = form.Title,
                Text = form.Text ?? "",
                Thanks = form.Thanks ?? "",
                Address = form.Address,
                Closed = form.Closed,
                Rows =
                [
                    .. form.Fields.Select(asked => new FormFieldInput
                    {
                        Field = asked.Field,
                        Asked = true,
                        Released = asked.Released ?? "",
                    }),
                ],
            };

    /// <summary>The definition that the inputs make.</summary>
    public PublicFormDefinition ToForm() =>
        new()
        {
            Title = Title.Trim(),
            Text = OrNull(Text),
            Thanks = OrNull(Thanks),
            Address = Address.Trim(),
            Closed = Closed,
            Fields = [.. Rows.Where(row => row.Asked).Select(row => new FormField(row.Field, OrNull(row.Released)))],
        };

    /// <summary>Gives every field that can be asked for a row: those that have none come last, in the order of the screen.</summary>
    public void Complete(IEnumerable<Field> fields)
    {
        var codes = fields.Select(CodeOf).ToList();
        Rows.RemoveAll(row => !row.Asked && !codes.Contains(row.Field));
        Rows.AddRange(codes.Where(code => Rows.TrueForAll(row => row.Field != code)).Select(code => new FormFieldInput { Field = code }));
    }

    /// <summary>How a form names a field.</summary>
    public static string CodeOf(Field field) => field.Part.IsLines ? $"{field.Part.Code}.{field.Code}" : field.Code;

    private static string? OrNull(string text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim().ReplaceLineEndings("\n");
}
