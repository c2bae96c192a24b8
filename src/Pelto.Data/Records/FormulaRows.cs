using Pelto.Core.Formulas;
using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>
/// The rows over which the formula of a field is calculated in the database: <c>h</c> the records, <c>l</c> their lines for a field of
/// lines; <c>a</c> and <c>la</c> what is added beside each.
/// </summary>
internal sealed class FormulaRows
{
    private readonly Part part;
    private readonly Field? fills;
    private readonly QueryRow header = new();
    private readonly QueryRow line = new("l", "la");

    /// <summary>Begins.</summary>
    /// <param name="field">The field.</param>
    /// <param name="command">Takes the parameters.</param>
    /// <param name="clock">What the clock says.</param>
    public FormulaRows(Field field, NpgsqlCommand command, Clock clock)
    {
        (fills, part) = (field, field.Part);
        Names = NamesIn(command, clock);
        Given = Formula.ToSql(field, Names);
    }

    /// <summary>Begins, for a formula that fills nothing, such as a condition.</summary>
    /// <param name="part">The part whose rows it is about.</param>
    /// <param name="formula">The formula.</param>
    /// <param name="command">Takes the parameters.</param>
    /// <param name="clock">What the clock says.</param>
    public FormulaRows(Part part, Formula formula, NpgsqlCommand command, Clock clock)
    {
        this.part = part;
        Names = NamesIn(command, clock);
        Given = formula.ToSql(Names);
    }

    private Field Filled => fills ?? throw new InvalidOperationException("This formula fills nothing.");

    private FormulaNames NamesIn(NpgsqlCommand command, Clock clock) =>
        new(header, command.Add, part.IsLines ? line : null) { Clock = clock };

    /// <summary>How formulas are named over these rows.</summary>
    public FormulaNames Names { get; }

    /// <summary>What the formula gives.</summary>
    public SqlPart Given { get; }

    /// <summary>The field's row: the record's, or the line's.</summary>
    public string Row => part.IsLines ? "l" : "h";

    /// <summary>What stands beside it.</summary>
    public string Beside => part.IsLines ? "la" : "a";

    /// <summary>The row that holds the field itself: that one, or one of its own where several tables joined stand there.</summary>
    public string Stored => IsOneOfSeveral ? "k" : Beside;

    private bool IsOneOfSeveral => fills is { IsStored: true, IsAdded: true } && part.AddedTables.Count > 1;

    /// <summary>What the formula gives, column by column, empty where it fails.</summary>
    public IEnumerable<string> Values =>
        new[] { Given.Unfailing.Text, Given.Unfailing.Unit }
            .Take(Filled.Columns.Count)
            .Select((text, at) => $"({text})::{Filled.Columns[at].Type.SqlType()}");

    /// <summary>The rows, for behind FROM; once all columns have been asked for.</summary>
    /// <param name="withStored">True to join what is added beside the field's row in any case.</param>
    /// <param name="besides">What else holds for the row of what is added, to be found sooner.</param>
    public string From(bool withStored, string besides = "")
    {
        var type = part.RecordType;
        var records =
            $"{Sql.Base(type.Header)} h{Join(type.Header, header.NeedsAdded || (withStored && !part.IsLines), "h", "a", part.IsLines ? "" : besides)}{header.Joins}";
        var rows = part.IsLines
            ? $"{records} JOIN {Sql.Base(part)} l ON l.parent = "
                + $"h.id{Join(part, line.NeedsAdded || withStored, "l", "la", besides)}{line.Joins}"
            : records;
        return withStored && IsOneOfSeveral ? $"{rows} LEFT JOIN {Sql.Of(fills!)} {Stored} ON {Stored}.id = {Row}.id" : rows;
    }

    /// <summary>
    /// Conditions for the rows that a refill may touch: nobody typed over what was filled, and no document before goes before the formula.
    /// </summary>
    /// <param name="command">Takes the parameters.</param>
    public IEnumerable<string> Refillable(NpgsqlCommand command)
    {
        if (Filled.IsComputed)
            yield break;
        yield return $"({Beside}.{Sql.Origins}::jsonb -> {command.Add(Core.Values.ColumnType.Text, Filled.Id)} ->> 'by') IS NULL";
        foreach (var carried in Filled.CarriedFrom)
            yield return $"{(part.IsLines ? carried.Follow.Lines!.Reference : carried.Follow.Link).ColumnNames($"{Row}.")("")} IS NULL";
    }

    private static string Join(Part part, bool isRequired, string row, string beside, string besides = "") =>
        isRequired ? $" LEFT JOIN {Sql.AddedTable(part)} {beside} ON {beside}.id = {row}.id{besides}" : "";
}
