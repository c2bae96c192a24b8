using System.Text.Json;
using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>The few column types that values are kept in. Size and range live in CHECKs, which can be swapped while people work; a type cannot.</summary>
public enum ColumnType
{
    /// <summary><c>text</c>.</summary>
    Text,

    /// <summary><c>bigint</c>.</summary>
    Integer,

    /// <summary><c>numeric</c> without precision.</summary>
    Numeric,

    /// <summary><c>date</c>.</summary>
    Date,

    /// <summary><c>boolean</c>.</summary>
    Boolean,
}

/// <summary>A rule that the database keeps for a column.</summary>
/// <param name="Name">What the rule is about, such as <c>length</c>; part of the constraint's name.</param>
/// <param name="Sql">The condition, over the quoted column.</param>
public sealed record ColumnCheck(string Name, string Sql);

/// <summary>What values a field takes: how they are read, written, checked and kept. One more kind is one more of these and a line in FieldKinds.</summary>
public abstract record FieldKind
{
    /// <summary>The kind's name in definitions and in the programming interface.</summary>
    public abstract string Name { get; }

    /// <summary>What people call it.</summary>
    public abstract string Label { get; }

    /// <summary>The type of its values in formulas.</summary>
    public abstract ValueForm Holds { get; }

    /// <summary>How it is kept.</summary>
    public abstract ColumnType Column { get; }

    /// <summary>Columns of twelve that it takes on a screen until somebody arranges it.</summary>
    public virtual int Width => 2;

    /// <summary>True when values are read down a column, aligned at the right.</summary>
    public bool IsFigure => Holds == ValueForm.Number;

    /// <summary>Reads what a person typed, trimmed and not empty.</summary>
    protected abstract Parsed Read(string text);

    /// <summary>Writes a value that is not empty, as people read it; <see cref="Parse"/> reads it back.</summary>
    protected abstract string Write(Value value);

    /// <summary>Says why a value (not empty) does not belong in this field, or null when it does.</summary>
    public virtual string? Refuse(Value value) => null;

    /// <summary>What the database checks for such a column, named by its quoted name.</summary>
    public virtual IEnumerable<ColumnCheck> Checks(string column) => [];

    /// <summary>Reads a value from the programming interface.</summary>
    public abstract Parsed FromJson(JsonElement json);

    /// <summary>Writes a value for the programming interface.</summary>
    public abstract JsonNode? ToJson(Value value);

    /// <summary>This kind as a JSON Schema, for the OpenAPI document.</summary>
    public abstract JsonObject Schema();

    /// <summary>Reads what a person typed. Blank is empty, whatever the kind; what this kind cannot hold is refused with a sentence.</summary>
    public Parsed Parse(string? text)
    {
        var trimmed = text?.Trim();
        if (string.IsNullOrEmpty(trimmed)) return Value.Empty;
        var parsed = Read(trimmed);
        return parsed.Refusal is null && Refuse(parsed.Value) is { } refusal ? new(parsed.Value, refusal) : parsed;
    }

    /// <summary>Writes a value as people read it; empty is the empty text, a failed computation its reason.</summary>
    public string Format(Value value) => value.Type switch
    {
        ValueForm.Empty => "",
        ValueForm.Error => value.Reason,
        _ => Write(value),
    };

    /// <summary>The value as the database driver takes it.</summary>
    public object? ToColumn(Value value) => value.Type switch
    {
        ValueForm.Empty or ValueForm.Error => null,
        ValueForm.Text => value.Text,
        ValueForm.Number when Column == ColumnType.Integer => (long)value.Number,
        ValueForm.Number => value.Number,
        ValueForm.Date => value.Date,
        ValueForm.YesNo => value.Yes,
        _ => value.Target,
    };

    /// <summary>The value that the database driver gave.</summary>
    public Value FromColumn(object? kept) => kept switch
    {
        null or DBNull => Value.Empty,
        string text => Value.Of(text),
        long number => Holds == ValueForm.Link ? Value.LinkTo(number) : Value.Of((decimal)number),
        decimal number => Value.Of(number),
        DateOnly date => Value.Of(date),
        bool yes => Value.Of(yes),
        _ => throw new InvalidOperationException($"A column of kind {Name} held a {kept.GetType().Name}."),
    };

    /// <summary>A JSON Schema for this type that also allows null, which is how an empty value is sent.</summary>
    protected static JsonObject Nullable(string type) => new() { ["type"] = new JsonArray(type, "null") };

    /// <summary>Shared by kinds that read JSON of one shape only.</summary>
    protected Parsed WrongJson(JsonElement json, string wanted) => WrongJsonFor(json, wanted);

    internal Parsed WrongJsonFor(JsonElement json, string wanted) => Parsed.Refused($"{wanted} is wanted here, not {Describe(json)}.");

    private static string Describe(JsonElement json) => json.ValueKind switch
    {
        JsonValueKind.String => $"“{json.GetString()}”",
        JsonValueKind.Object => "an object",
        JsonValueKind.Array => "a list",
        _ => json.GetRawText(),
    };
}
