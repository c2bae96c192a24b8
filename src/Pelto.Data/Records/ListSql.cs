using System.Diagnostics.CodeAnalysis;
using System.Text;
using Pelto.Core.Formulas;
using Pelto.Core.Records;
using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>The SQL of a page of a list.</summary>
internal sealed class ListSql
{
    private readonly ListQuery query;
    private readonly IReadOnlyList<Field> wanted;
    private readonly OfferSql offer;
    private readonly string sql;
    private readonly Clock clock;

    // What is joined: for finding the rows of the page, then again for showing them.
    private LinkJoins joins;
    private QueryRow row;
    private FormulaNames names;
    private GuardedColumns guarded;
    private readonly Viewer viewer;

    /// <summary>Writes it.</summary>
    /// <param name="query">What is wanted.</param>
    /// <param name="wanted">The fields that are wanted; those that the viewer may not read are left out.</param>
    /// <param name="take">Rows wanted.</param>
    /// <param name="clock">What the clock says, for live fields.</param>
    /// <param name="viewer">For whom.</param>
    public ListSql(ListQuery query, IReadOnlyList<Field> wanted, int take, Clock clock, Viewer viewer)
    {
        (this.query, this.wanted, this.clock, this.viewer) = (query, wanted, clock, viewer);

        // With those that are always masked and show their ending, which is made of the value.
        Fields =
        [
            .. wanted.Where(field =>
                viewer.LevelAt(field) is var level
                && (level >= AccessLevel.Read || (level == AccessLevel.Masked && Masks.LeavesEnding(field)))
            ),
        ];
        Labelled = Fields.Where(IsLabelled).ToHashSet();
        Closed = Fields.Where(IsClosed).ToHashSet();
        offer = new(query.Offer, query.Type, Parameter);
        Begin();

        // The page is found first, with nothing joined but what it is found and put in order by; what is shown of its rows is fetched for
        // these alone.
        var where = Where();
        var page = $"{where}{OrderBy()} LIMIT {Parameter(ColumnType.Integer, (long)take)}";
        var found = $"SELECT h.id{From()}{page}";
        Begin();
        isShowing = true;
        var shown = Select();
        isShowing = false;
        var order = OrderBy();
        sql = $"{shown} FROM ({found}) AS p JOIN {Sql.Base(query.Type.Header)} h ON h.id = p.id{Joins()}{order}";
    }

    /// <summary>Writes the SQL of the list in groups.</summary>
    /// <param name="query">What is wanted; its order and its size count for nothing.</param>
    /// <param name="keys">What it is grouped by.</param>
    /// <param name="totalled">The fields whose totals are wanted.</param>
    /// <param name="clock">What the clock says, for live fields.</param>
    /// <param name="viewer">For whom.</param>
    public ListSql(ListQuery query, IReadOnlyList<GroupKey> keys, IReadOnlyList<Field> totalled, Clock clock, Viewer viewer)
    {
        (this.query, wanted, this.clock, this.viewer, Fields, Labelled) = (query, [], clock, viewer, [], new HashSet<Field>());
        offer = new(query.Offer, query.Type, Parameter);
        Begin();
        string Named(Field field, string suffix) => field.Source.ColumnNames(Prefix(field))(suffix);
        var selected = GroupSql.Select(keys, totalled, Named, link => IsLabelled(link) ? LinkLabel(link) : null);
        var (where, behind) = (Where(), GroupSql.Behind(keys, Named));
        sql = $"{selected}{From()}{where}{behind}";
    }

    [MemberNotNull(nameof(joins), nameof(row), nameof(names), nameof(guarded))]
    private void Begin()
    {
        joins = new(link => link.ColumnNames(link.IsAdded ? "a." : "h.")(""));
        row = new();
        names = new(row, Parameter) { Clock = clock, ParameterValue = viewer.Parameter };
        guarded = new(viewer.AccessAt(query.Type), names);
    }

    public List<NpgsqlParameter> Parameters { get; } = [];

    /// <summary>The fields whose values each row gives.</summary>
    public IReadOnlyList<Field> Fields { get; }

    private bool IsClosed(Field link) =>
        link.Target is { } target && viewer.Form is null && !viewer.AccessAt(target).For(target).Read.IsSure;

    private bool IsLabelled(Field link) => link.Target is not null && viewer.MaySeeThrough(link);

    /// <summary>The links that are shown with what they point to.</summary>
    public IReadOnlySet<Field> Labelled { get; }

    /// <summary>The links whose targets are not all for this person to read: one that has no label points to what they may not.</summary>
    public IReadOnlySet<Field> Closed { get; } = new HashSet<Field>();

    /// <summary>The fields of which each row says how much is shown.</summary>
    public IReadOnlyList<RowLevel> Levels { get; private set; } = [];

    /// <summary>What stands at the end of each row: whether conditions hold that decide that.</summary>
    public IReadOnlyList<string> Answers { get; private set; } = [];

    public override string ToString() => sql;

    private string Select()
    {
        var selected = new StringBuilder("SELECT h.id");
        foreach (var field in Fields)
        {
            selected.Append(", ").AppendJoin(", ", Columns.Quoted(field.Source, PlainPrefix(field)));
            if (Labelled.Contains(field))
                selected.Append(", ").Append(ShownLabel(field));
        }

        Levels = [.. wanted.Select(guarded.LevelOf).OfType<RowLevel>()];
        Answers = [.. guarded.Answers];
        foreach (var answer in Answers)
            selected.Append(", ").Append(answer);

        return selected.ToString();
    }

    // Written last, when it is known which ways through links are needed.
    private string From() => $" FROM {Sql.Base(query.Type.Header)} h{Joins()}{offer.Live}";

    private string Joins() =>
        $"{(query.Type.Header.StoredFields.Any() ? $" LEFT JOIN {Sql.AddedTable(query.Type.Header)} a ON a.id = h.id" : "")}{joins.Sql}{row.Joins}{guarded.Joins}";

    private string Where()
    {
        var conditions = new List<string>();
        foreach (var word in RecordLists.Words(query.Search ?? ""))
        {
            var parameter = Like(word);
            conditions.Add(
                "(false"
                    + string.Concat(
                        query
                            .Type.Description.Search.Select(query.Type.Header.Find)
                            .OfType<Field>()
                            .Where(viewer.MayFind)
                            .Select(field => $" OR {(field.Kind.IsOneLink ? LinkLabel(field) : Column(field))} ILIKE {parameter}")
                    )
                    + ")"
            );
        }

        if (viewer.AccessAt(query.Type).For(query.Type).Read is { IsSure: false } read)
            conditions.Add(read.ToSql(names));
        conditions.AddRange(query.Filters.Select(Condition));
        conditions.AddRange(offer.Conditions.Select(condition => $"({condition})"));
        if (query.After is not null)
            conditions.Add(Past(Cursor.Read(query.After, query.Order)));
        return conditions.Count == 0 ? "" : $" WHERE {string.Join(" AND ", conditions)}";
    }

    private string Condition(Filter filter)
    {
        if (filter.Field.Part is not { IsLines: true } lines)
            return Compared(filter);
        line = new("x", "xa");

        // Where "is not" is said of lines, none of them is that.
        var none = filter.Test == FilterTest.Not;
        var condition =
            Compared(none ? filter with { Test = FilterTest.Is } : filter)
            + guarded.AndLine(filter.Field, (FormulaNames)names.At(filter.Field, line));
        var beside =
            (filter.Field.IsAdded || line.NeedsAdded) && lines.StoredFields.Any()
                ? $" {(filter.Field.IsLive || line.NeedsAdded || filter.Test == FilterTest.Empty ? "LEFT " : "")}JOIN {Sql.AddedTable(lines)} xa ON xa.id = x.id"
                : "";
        return $"{(none ? "NOT " : "")}EXISTS (SELECT FROM {Sql.Base(lines)} x{beside}{line.Joins} WHERE x.parent = h.id AND {condition})";
    }

    private string Compared(Filter filter)
    {
        var (field, column) = (filter.Field, Column(filter.Field));
        return filter.Test switch
        {
            FilterTest.Empty => $"{column} IS NULL",
            FilterTest.Filled => $"{column} IS NOT NULL",
            FilterTest.Contains when field.Kind.IsSeveralChoices =>
                $"{column} @> {Parameter(ColumnType.TextArray, filter.Value.Codes.ToArray())}",
            FilterTest.Contains when field.Kind is { IsOneChoice: true, Choices: { } choices } =>
                $"{column} = ANY({Parameter(ColumnType.TextArray, choices.Reading(filter.Text).Select(one => one.Code).ToArray())})",
            FilterTest.Contains => $"{Text(field)} ILIKE {Like(filter.Text)}",
            FilterTest.Is => Equal(field, filter.Value),
            FilterTest.Not => $"({column} IS NULL OR NOT ({Equal(field, filter.Value)}))",
            FilterTest.From => Ordered(field, ">=", filter.Value),
            FilterTest.To => Ordered(field, "<=", filter.Value),
            _ => $"({Ordered(field, ">=", filter.Value)} AND {Ordered(field, "<=", filter.Until)})",
        };
    }

    // What people read of a value that is looked for: a target's label, a file's name, the text itself.
    private string Text(Field field) =>
        field.Kind.IsLink ? LinkLabel(field)
        : field.Kind.IsFile ? field.Source.ColumnNames(Prefix(field))("_name")
        : Column(field);

    private string Equal(Field field, Value value) =>
        field.Kind.IsSeveralLinks
            ? $"EXISTS (SELECT FROM {Sql.LinkTable(field)} l WHERE l.owner = {Prefix(field)}id "
                + $"AND l.target = {Parameter(ColumnType.Integer, value.Targets[0])})"
        : field.Kind.DataType == DataType.Text && !field.Kind.IsChoice
            ? $"lower({Column(field)}) = lower({Parameter(ColumnType.Text, value.Text)})"
        : field.Kind.DataType == DataType.Quantity ? Ordered(field, "=", value)
        : string.Join(
            " AND ",
            field.Source.Columns.Select(
                (column, i) => $"{Prefix(field)}{Sql.Name(column.Name)} = {Parameter(column.Type, field.Kind.ToColumn(value, i))}"
            )
        );

    private string Ordered(Field field, string comparison, Value value)
    {
        var compared =
            $"{field.Kind.OrderSql(field.Source.ColumnNames(Prefix(field)))} {comparison} "
            + $"{Parameter(field.Kind.OrderType, field.Kind.OrderKey(value))}";
        return field.Kind.Common is { } common
            ? $"({compared} AND {field.Source.ColumnNames(Prefix(field))(common)} = {Parameter(ColumnType.Text, value.Unit)})"
            : compared;
    }

    // Rows after the cursor: the first key is past its value, or equal and the rest is past. Empty comes last either way.
    private string Past(Cursor cursor)
    {
        var past = $"h.id > {Parameter(ColumnType.Integer, cursor.Id)}";
        for (var i = query.Order.Count - 1; i >= 0; i--)
        {
            var key = query.Order[i];
            var column = SortColumn(key.Field);
            if (cursor.Keys[i] is not { } value)
            {
                past = $"({column} IS NULL AND {past})";
                continue;
            }

            var parameter = Parameter(key.Field.Kind.IsOneLink ? ColumnType.Text : key.Field.Kind.OrderType, value);
            var beyond = $"{column} {(key.Descending ? "<" : ">")} {parameter}";
            past = $"({beyond}{(IsNeverEmpty(key.Field) ? "" : $" OR {column} IS NULL")} OR ({column} = {parameter} AND {past}))";
        }

        return past;
    }

    private string OrderBy() =>
        $" ORDER BY {string.Concat(query.Order.Select(key => $"{SortColumn(key.Field)}{(key.Descending ? " DESC" : "")}{(IsNeverEmpty(key.Field) || (key.Descending && IsFilled(key.Field)) ? "" : " NULLS LAST")}, "))}h.id";

    // Said only where it matters, so that an index on a column that is never empty serves both directions.
    private bool IsNeverEmpty(Field field) => !field.IsAdded && field.Required && !guarded.Decides(field);

    // What the list is held to has a value: then the order of an index serves downwards too.
    private bool IsFilled(Field field) =>
        query.Filters.Any(filter =>
            filter.Field == field
            && filter.Test is FilterTest.Is or FilterTest.Between or FilterTest.From or FilterTest.To or FilterTest.Filled
        );

    private string Like(string text) => Parameter(ColumnType.Text, "%" + RecordLists.Escaped(text) + "%");

    private string Parameter(ColumnType type, object? value)
    {
        Parameters.Add(Columns.Parameter(type, value));
        return Invariant($"${Parameters.Count}");
    }

    // For a condition over lines: the line.
    private QueryRow line = new();

    private string Prefix(Field field) => guarded.Decides(field) ? guarded.Prefix(field, PlainPrefix(field)) : PlainPrefix(field);

    private string PlainPrefix(Field field) =>
        field.IsThroughLink ? joins.Prefix(field.Path)
        : field.IsLive ? Live(field, field.Part.IsLines ? line : row)
        : field.Part.IsLines
            ? field.IsAdded ? "xa."
                : "x."
        : field.IsAdded ? "a."
        : "h.";

    private string Live(Field field, QueryRow of) => of.Prefix(field, (FormulaNames)names.At(field, of));

    private bool isShowing;

    private string Column(Field field) => field.Source.ColumnNames(Prefix(field))("");

    private string SortColumn(Field field) =>
        field.Kind.IsOneLink ? LinkLabel(field) : field.Kind.OrderSql(field.Source.ColumnNames(Prefix(field)));

    // Where it depends on the target whether it may be read, it is asked for each.
    private string ShownLabel(Field field) =>
        viewer.MayFind(field) ? LinkLabel(field)
        : field.Kind.IsSeveralLinks ? Several(field, RowAccess.And(field.Target!, viewer, "t.id", Parameter, clock), isWhole: true)
        : $"(SELECT coalesce(t.{RecordLists.NameColumn(field.Target!)}, '') FROM {Sql.Base(field.Target!.Header)} t "
            + $"WHERE t.id = {field.Source.ColumnNames(PlainPrefix(field))("")}{RowAccess.And(field.Target!, viewer, "t.id", Parameter, clock)})";

    private string LinkLabel(Field field) =>
        guarded.Decides(field) && !isShowing ? $"CASE WHEN {Column(field)} IS NOT NULL THEN {Label(field)} END" : Label(field);

    private string Several(Field field, string and, bool isWhole = false) =>
        $"(SELECT {(isWhole ? $"CASE WHEN count(*) = cardinality({field.Source.ColumnNames(PlainPrefix(field))("")}) THEN " : "")}string_agg(t.{RecordLists.NameColumn(field.Target!)}, ', ' ORDER BY u.o){(isWhole ? " END" : "")} FROM unnest({(isShowing ? field.Source.ColumnNames(PlainPrefix(field))("") : Column(field))}) WITH ORDINALITY AS u(id, o) JOIN {Sql.Base(field.Target!.Header)} t ON t.id = u.id{and})";

    private string Label(Field field) =>
        field.Kind.IsSeveralLinks
            ? Several(field, "")
            : $"{joins.To(field.IsThroughLink ? field.Path : [field])}.{RecordLists.NameColumn(field.Target!)}";
}
