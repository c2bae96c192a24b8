namespace Pelto.Core.Rules;

/// <summary>The public form of a record type.</summary>
public static class FormOfType
{
    extension(RecordType type)
    {
        /// <summary>The form through which people outside send records in, or null.</summary>
        public PublicForm? PublicForm
        {
            get => type.Bound<PublicForm>();
            internal set => type.Bind(value);
        }
    }

    extension(Catalogue catalogue)
    {
        /// <summary>Finds a public form by the last part of its address.</summary>
        /// <param name="address">The last part of its address.</param>
        public PublicForm? FindForm(string address) =>
            catalogue
                .RecordTypes.Select(type => type.PublicForm)
                .OfType<PublicForm>()
                .FirstOrDefault(form => form.Definition.Address == address);
    }
}

/// <summary>A public form, bound and ready to use.</summary>
public sealed class PublicForm : Bindable
{
    private readonly IReadOnlyDictionary<Field, Narrowing?> fields;

    internal PublicForm(RecordType type, PublicFormDefinition definition, IReadOnlyDictionary<Field, Narrowing?> asked) =>
        (Type, Definition, this.fields) = (type, definition, asked);

    /// <summary>What is sent in.</summary>
    public RecordType Type { get; }

    /// <summary>What was said about it.</summary>
    public PublicFormDefinition Definition { get; }

    /// <summary>True for a field that it asks for.</summary>
    public bool Asks(Field field) => fields.ContainsKey(field);

    /// <summary>Which records of a link's target people outside may find and choose; null for none.</summary>
    public Narrowing? ReleasedBy(Field link) => fields.GetValueOrDefault(link);

    /// <summary>Why people outside cannot be asked for a field, as a sentence; null when they can.</summary>
    public static string? RefusalOf(Field field) =>
        field switch
        {
            { IsTyped: false } => $"{field.Label} is filled by itself; a public form asks for what people type.",
            { Kind.IsSecret: true } => $"{field.Label} is a secret; a public form asks for none.",
            { Kind.IsFile: true } =>
                $"{field.Label} is a file; a public form takes none, since nobody would have looked at it before it is here.",
            _ when field.Part.RecordType.Document?.Status == field => $"{field.Label} is decided here, not outside.",
            _ => null,
        };
}
