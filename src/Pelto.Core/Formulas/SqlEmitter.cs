using System.Runtime.CompilerServices;

namespace Pelto.Core.Formulas;

/// <summary>
/// Turns a bound tree into SQL. Each rule here has its twin in <see cref="Compiler"/>; a test holds them against each other.
/// </summary>
internal sealed class SqlEmitter(SqlNames names, Frame? atHand, SqlRow? item = null, bool isFarItem = false)
{
    /// <summary>The longest SQL that one formula becomes.</summary>
    public const int LongestSql = 100_000;

    /// <exception cref="FormulaTooLongException">The SQL would be longer than the database is asked to read.</exception>
    public SqlPart Emit(Bound bound)
    {
        // Live fields that go round in a circle are refused when they are defined; until somebody mends that, they lead nowhere here
        // either.
        if (!RuntimeHelpers.TryEnsureSufficientExecutionStack())
            throw new FormulaTooLongException();
        var written = Written(bound);

        // What is read twice stands there twice, and so does what that reads: fields calculated from one another could grow without end.
        if (written.Text.Length + (written.Fails?.Length ?? 0) + (written.Lacks?.Length ?? 0) > LongestSql)
            throw new FormulaTooLongException();
        return written.Text == "NULL" && bound.DataType != DataType.Empty
            ? written with
            {
                Text = $"NULL::{SqlHelpers.TypeOf(bound.DataType)}",
            }
            : written;
    }

    private SqlPart Written(Bound bound) =>
        bound switch
        {
            BoundLiteral { Value.IsEmpty: true } => new("NULL"),
            BoundParameter parameter => new(names.Parameter(parameter.Name, parameter.DataType)),
            BoundLiteral literal => new(names.Of(literal.Value, ColumnOf(literal.DataType))),
            BoundField { Of: Place.AtHand } field => Given(field.Field, atHand!.Header[field.Field.Slot]),
            BoundField { Of: Place.AtHandLine } field => Given(field.Field, atHand!.Line![field.Field.Slot]),
            BoundField field => Column(
                field.Field,
                field.Of switch
                {
                    Place.Item => item!,
                    Place.Line => names.Line!,
                    _ => names.Header,
                },
                isFarItem && field.Of == Place.Item
            ),
            BoundThrough through => EmitRelated(through),
            BoundNegate negate => Emit(negate.Operand) is var operand ? operand with { Text = $"(-{operand.Text})" } : default,
            BoundConvert convert => Convert(convert, Emit(convert.Operand)),
            BoundBinary { Operator: "&" } binary => Join(Emit(binary.Left), Emit(binary.Right)),
            BoundBinary { Operator: "+" or "-" or "*" or "/" or "^" } binary => Reckon(binary, Emit(binary.Left), Emit(binary.Right)),
            BoundBinary binary when binary.Left is BoundParameter || binary.Right is BoundParameter => Meet(
                binary,
                Emit(binary.Left),
                Emit(binary.Right)
            ),
            BoundBinary binary => Compare(
                binary.Operator,
                binary.Left.DataType == DataType.Empty ? binary.Right.DataType : binary.Left.DataType,
                Emit(binary.Left),
                Emit(binary.Right)
            ),
            BoundCall call when DateFunctions.AtMoment(call.Function, names.Clock) is { } now => new(
                names.Now(now, ColumnOf(call.DataType))
            ),
            BoundCall call when ListFunctions.TakesLast(call.Function) is { } isLast && call.Arguments[0] is BoundList of => EmitOrdered(
                of,
                call.Arguments[1] as BoundList,
                isLast
            ),
            BoundCall { Function: Exchange { Rates: { } rates } } call => Exchange.EmitWith([.. call.Arguments.Select(Emit)], currency =>
                RateOf(rates, currency, Emit(call.Arguments[2]).Text)
            ),
            BoundCall call => call.Function.Emit(
                call,
                [.. call.Arguments.Select(argument => argument is BoundList list ? EmitList(call, list) : Emit(argument))]
            ),
            _ => throw new InvalidOperationException($"A node of type {bound.GetType().Name} cannot be written as SQL."),
        };

    public IEnumerable<string> Conditions(Bound bound)
    {
        if (bound is BoundCall { Function: LogicFunctions.AndOr { IsAnd: true } } all && Emit(bound).Fails is null)
            return all.Arguments.SelectMany(Conditions);
        if (
            bound is BoundBinary { Operator: "=" or "<" or "<=" or ">" or ">=" } compared
            && compared.Left.DataType is not (DataType.Money or DataType.Quantity)
            && (compared.Operator != "=" || IsFilled(compared.Left) || IsFilled(compared.Right))
        )
        {
            var (left, right) = (Emit(compared.Left), Emit(compared.Right));
            if (left.Fails is null && right.Fails is null)
                return [$"{Key(compared.Left.DataType, left.Text)} {compared.Operator} {Key(compared.Right.DataType, right.Text)}"];
        }

        var whole = Emit(bound);
        return whole.Fails is null ? [whole.Text] : [$"NOT {whole.Fails}", whole.Text];
    }

    // Where one side is never empty, a plain comparison says the same as the careful one, and an index can serve it.
    private bool IsFilled(Bound bound) =>
        bound switch
        {
            BoundLiteral literal => !literal.Value.IsEmpty,
            BoundParameter => true,
            BoundField { Of: Place.AtHand } field => !atHand!.Header[field.Field.Slot].IsEmpty,
            BoundField { Of: Place.AtHandLine } field => !atHand!.Line![field.Field.Slot].IsEmpty,
            _ => false,
        };

    /// <summary>What a live field gives: its formula's value, fitted to the field, and an error where the field does not take it.</summary>
    public static SqlPart EmitFitting(Field field, SqlNames names)
    {
        var formula = field.Formula!;
        var given = new SqlEmitter(names, null).Emit(formula.Bound);
        var text = formula.DataType == DataType.Empty ? $"({given.Text})::{SqlHelpers.TypeOf(field.Kind.DataType)}" : given.Text;
        var fitted = given with
        {
            Text = field.Kind.FitSql(text, given.Unit),
            Unit = given.Unit ?? (field.Kind.DataType is DataType.Money or DataType.Quantity ? "NULL::text" : null),
        };
        // It is rounded already: how many decimals there are need not be asked.
        if (field.IsLive && field.Kind.IsBoundlessLive)
        {
            if (Magnitudes.Most(formula.Bound) < (double)FieldKind.MaxLive)
                return fitted.After([given]);

            // Written so that the formula stands in its value once: what a list filters and sorts by is calculated as often as it stands
            // there.
            var most = FieldKind.MaxLive.ToString(System.Globalization.CultureInfo.InvariantCulture);
            var bounded = $"nullif(greatest(nullif(least({fitted.Text}, {most}), {most}), -{most}), -{most})";
            return (fitted with { Text = bounded, IsNullThere = given.Fails is null }).After(
                [given],
                $"coalesce(abs({fitted.Text}) >= {most}, false)"
            );
        }

        // Nor its size, where what it reads cannot make it too large: to be rounded may add one.
        var fits = field.Kind.MaxNumber is { } largest && Magnitudes.Most(formula.Bound) + 1 < largest * 0.999;
        var checks = field
            .Kind.Checks(suffix => suffix.Length == 0 ? $"({fitted.Text})" : $"({fitted.Unit})")
            .Where(check => check.Name != "scale" && !(fits && check.Name == "size"))
            .Select(check => check.Sql)
            .ToList();
        return checks.Count == 0
            ? fitted
            : fitted.After([given], $"(NOT coalesce({string.Join(" AND ", checks.Select(check => $"({check})"))}, true))");
    }

    // What other records cannot calculate counts as empty here, as when they are read into memory.
    private SqlPart Column(Field field, SqlRow row, bool isFar)
    {
        if (field.IsLive && names.ExpandsLive && row.Live(field, () => EmitFitting(field, names.At(field, row))) is var live)
            return isFar ? live with { Fails = null, Lacks = null } : live;
        var text = row.Column(field, field.Columns[0].Suffix);
        if (field.Kind.DataType == DataType.Number && field.Columns[0].Type == ColumnType.Integer)
            text = $"({text})::numeric";
        return new(
            text,
            Unit: field.Kind.DataType is DataType.Money or DataType.Quantity ? row.Column(field, field.Columns[1].Suffix) : null
        );
    }

    private SqlPart Given(Field field, Value value) =>
        field.Kind.DataType is DataType.Money or DataType.Quantity
            ? new(
                names.Of(value.IsEmpty ? value : Value.From(value.Amount), ColumnType.Numeric),
                Unit: names.Of(value.IsEmpty ? value : Value.From(value.Unit), ColumnType.Text)
            )
            : new(names.Of(value, field.Kind.DataType == DataType.Number ? ColumnType.Numeric : field.Columns[0].Type));

    private SqlPart EmitRelated(BoundThrough through)
    {
        var link = Emit(through.Link);
        var row = names.RelatedRow(through.Field.Part.RecordType, link.Text);
        var column = Column(through.Field, row, isFar: true);
        string? Selected(string? text) => text is null ? null : $"(SELECT {text} FROM {row.From})";
        return new(Selected(column.Text)!, link.Fails, link.Lacks, Selected(column.Unit));
    }

    // What a function takes from a list, as subqueries over its rows.
    private SqlPart EmitList(BoundCall call, BoundList list)
    {
        var rows = new ListRows(RowsOf(list));
        var each = new SqlEmitter(names, atHand, rows.Row, list.IsFar).Emit(list.Item);
        var (fails, missing) = rows.Fails(each);
        if (ListFunctions.JoinsTexts(call.Function) || ListFunctions.AggregateOf(call.Function) is not { } aggregate)
            return new(rows.Over(each.Text, $"array_agg(v ORDER BY {ListRows.Order})"), fails, missing);
        if (list.DataType is DataType.Money or DataType.Quantity && aggregate == "sum")
            return EmitTotal(list.DataType == DataType.Money, rows, each, fails, missing);
        return new(
            rows.Over(each.Text, $"{aggregate}(v)"),
            fails,
            missing,
            ListFunctions.NeedsCount(call.Function) ? rows.Over(each.Text, "count(v)") : null
        );
    }

    private string RateOf(RateTable rates, string currency, string day)
    {
        var rows = names.All(rates.Rate.Part);
        var (code, since, rate) = (rows.Column(rates.Currency, ""), rows.Column(rates.Since, ""), rows.Column(rates.Rate, ""));
        return $"(CASE WHEN {currency} = '{rates.Base}' THEN 1 ELSE (SELECT nullif(greatest({rate}, 0), 0) "
            + $"FROM {rows.From} AND {code} = {currency} AND {since} <= {day} ORDER BY {since} DESC, {rows.Id} DESC LIMIT 1) END)";
    }

    private SqlRows RowsOf(BoundList list) =>
        list.Over switch
        {
            LinkingRows linking => names.Linking(linking.Part, linking.Link, linking.To is null ? names.Header.Id : Emit(linking.To).Text),
            LinkedRows linked => names.Linked(linked.Part.RecordType, Emit(linked.Links).Text),
            var lines => names.Lines(lines.Part),
        };

    private static SqlPart EmitTotal(bool isMoney, ListRows rows, SqlPart each, string? fails, string? missing)
    {
        var unit = $"CASE WHEN {each.Text} IS NOT NULL THEN {each.Unit} END";
        var first = rows.Over(unit, $"(array_agg(v ORDER BY {ListRows.Order}) FILTER (WHERE v IS NOT NULL))[1]");
        var apart = rows.Over(isMoney ? unit : $"formulas.unit_dimension({unit})", "min(v) <> max(v)");
        var total = isMoney
            ? rows.Over(each.Text, "sum(v)")
            : $"(CASE WHEN {rows.Over(unit, "count(DISTINCT v)")} <= 1 THEN "
                + $"{rows.Over(each.Text, "sum(v)")} ELSE round(round({rows.Over($"{each.Text} * formulas.unit_factor({each.Unit})", "sum(v)")}, 20) / formulas.unit_factor({first}), {Compiler.Divided}) END)";
        return new(total, SqlPart.Any(fails, $"(coalesce({apart}, false))"), missing, first);
    }

    private SqlPart EmitOrdered(BoundList of, BoundList? by, bool isLast)
    {
        var rows = new ListRows(RowsOf(of));
        var inner = new SqlEmitter(names, atHand, rows.Row, of.IsFar);
        var (value, key) = (inner.Emit(of.Item), by is null ? (SqlPart?)null : inner.Emit(by.Item));
        var (fails, missing) = rows.Fails(new SqlPart("").After(key is { } other ? [value, other] : [value]));
        string Chosen(string what) => rows.Chosen(what, value.Text, by is null ? null : Key(by.DataType, key!.Value.Text), isLast);
        return new(Chosen(value.Text), fails, missing, value.Unit is null ? null : Chosen(value.Unit));
    }

    // Each value is named in a query of its own before it is put together: what an aggregate takes must not belong to the query outside.
    private sealed class ListRows(SqlRows rows)
    {
        public const string Order = "o1, o2";

        public SqlRow Row => rows;

        public string Over(string each, string aggregate) =>
            $"(SELECT {aggregate} FROM (SELECT {each} AS v{Ordered} FROM {rows.From}) AS q)";

        // A list fails when one of its rows does; the first that does says of which kind the error is.
        public (string? Fails, string? Lacks) Fails(SqlPart each) =>
            each.Fails is null
                ? (null, null)
                : (
                    $"coalesce({Over(each.Fails, "bool_or(v)")}, false)",
                    each.Lacks is null
                        ? null
                        : $"coalesce({Over($"CASE WHEN {each.Fails} THEN {each.Lacks} END", $"(array_agg(v ORDER BY {Order}) FILTER (WHERE v IS NOT NULL))[1]")}, false)"
                );

        public string Chosen(string what, string value, string? key, bool isLast)
        {
            var down = isLast ? " DESC" : "";
            return $"(SELECT w FROM (SELECT {what} AS w, {value} AS "
                + $"v{(key is null ? "" : $", {key} AS k")}{Ordered} FROM {rows.From}) AS q "
                + $"WHERE v IS NOT NULL{(key is null ? "" : " AND k IS NOT NULL")} ORDER BY "
                + $"{(key is null ? "" : $"k{down}, ")}o1{down}, o2{down} LIMIT 1)";
        }

        private string Ordered => $", {rows.Order[0]} AS o1, {rows.Order[1]} AS o2";
    }

    private SqlPart Convert(BoundConvert convert, SqlPart operand) =>
        convert.Operand.DataType == DataType.Empty
            ? operand with
            {
                Text = $"({operand.Text})::{SqlHelpers.TypeOf(convert.DataType)}",
                Unit = convert.DataType is DataType.Money or DataType.Quantity ? "NULL::text" : null,
            }
            : operand with
            {
                Text = (convert.DataType, convert.Operand.DataType) switch
                {
                    (DataType.Text, DataType.Number) => $"trim_scale({operand.Text})::text",
                    (DataType.Text, DataType.Date) => $"to_char({operand.Text}, 'YYYY-MM-DD')",
                    (DataType.Text, DataType.Time) => $"to_char(DATE '2000-01-01' + {operand.Text}, 'HH24:MI:SS')",
                    (DataType.Text, _) => $"(CASE {operand.Text} WHEN true THEN 'TRUE' WHEN false THEN 'FALSE' END)",
                    (DataType.Number, _) => $"({operand.Text})::int::numeric",
                    (DataType.Date, _) => $"(({operand.Text}) AT TIME ZONE '{names.Clock.Zone.Id}')::date",
                    (DataType.Time, _) => $"date_trunc('second', ({operand.Text}) AT TIME ZONE '{names.Clock.Zone.Id}')::time",
                    _ => $"({operand.Text} <> 0)",
                },
            };

    private static SqlPart Join(SqlPart left, SqlPart right) =>
        new SqlPart($"nullif(coalesce({left.Text}, '') || coalesce({right.Text}, ''), '')").After([left, right]);

    private static SqlPart Reckon(BoundBinary binary, SqlPart left, SqlPart right)
    {
        var (op, parts) = (binary.Operator, new[] { left, right });
        string NotNull(string text) => $"({left.Text} IS NOT NULL AND {right.Text} IS NOT NULL AND {text} IS NULL)";
        switch (op, binary.Left.DataType, binary.Right.DataType)
        {
            case ("-", DataType.Date, DataType.Date):
                return new SqlPart($"({left.Text} - {right.Text})::numeric").After(parts);
            case ("-", DataType.Moment, _):
                return new SqlPart(
                    $"round(round(trunc(extract(epoch FROM {left.Text} - {right.Text})), 20) / 86400, {Compiler.Divided})"
                ).After(parts);
            case (_, DataType.Date, _) or (_, _, DataType.Date):
                var (day, days) = binary.Left.DataType == DataType.Date ? (left, right) : (right, left);
                var later = $"formulas.add_days({day.Text}, {(op == "-" ? "-" : "")}{days.Text})";
                return new SqlPart(later).After(parts, NotNull(later));
            case ("+" or "-", DataType.Money or DataType.Quantity, _):
                return new SqlPart(
                    $"({left.Text} {op} {AmountFunctions.EmitInUnitOf(left, right, binary.Left.DataType == DataType.Money)})",
                    Unit: UnitOf(left, right)
                ).After(parts, AmountFunctions.EmitApart(left, right, binary.Left.DataType == DataType.Money));
            case ("/", DataType.Money or DataType.Quantity, DataType.Money or DataType.Quantity):
                var apart = AmountFunctions.EmitApart(left, right, binary.Left.DataType == DataType.Money);
                return Divide(
                    left,
                    right with
                    {
                        Text = AmountFunctions.EmitInUnitOf(left, right, binary.Left.DataType == DataType.Money),
                        Fails = SqlPart.Any(right.Fails, apart),
                    }
                );
            case ("/", _, _) when binary.Right is BoundLiteral { Value: { DataType: DataType.Number, Number: not 0 } }:
                return new SqlPart($"round(round({left.Text}, 20) / {right.Text}, {Compiler.Divided})", Unit: left.Unit).After(parts);
            case ("/", _, _):
                return Divide(left, right) with { Unit = UnitOf(left, right) };
            case ("^", _, _):
                var power = $"formulas.power({left.Text}, {right.Text})";
                return new SqlPart(power).After(parts, NotNull(power));
            default:
                return new SqlPart($"({left.Text} {op} {right.Text})", Unit: UnitOf(left, right)).After(parts);
        }
    }

    // What comes to nothing has no unit either.
    private static string? UnitOf(SqlPart left, SqlPart right) =>
        (left.Unit ?? right.Unit) is { } unit ? $"(CASE WHEN {left.Text} IS NOT NULL AND {right.Text} IS NOT NULL THEN {unit} END)" : null;

    private static SqlPart Divide(SqlPart left, SqlPart right) =>
        new SqlPart($"round(round({left.Text}, 20) / nullif({right.Text}, 0), {Compiler.Divided})").After(
            [left, right],
            $"coalesce({left.Text} IS NOT NULL AND {right.Text} = 0, false)"
        );

    /// <summary>A comparison of two values of a type; never NULL.</summary>
    public static SqlPart Compare(string op, DataType type, SqlPart left, SqlPart right)
    {
        if (type is DataType.Money or DataType.Quantity && left.Unit is not null && right.Unit is not null)
        {
            var same = AmountFunctions.EmitInUnitOf(left, right, type == DataType.Money);
            var (none, equal) = ($"({left.Text} IS NULL AND {right.Text} IS NULL)", $"coalesce({left.Text} = {same}, false)");
            return new SqlPart(
                op switch
                {
                    "=" => $"({none} OR {equal})",
                    "<>" => $"(NOT ({none} OR {equal}))",
                    _ => $"coalesce({left.Text} {op} {same}, false)",
                }
            ).After([left, right], AmountFunctions.EmitApart(left, right, type == DataType.Money));
        }

        var (a, b) = (Key(type, left.Text), Key(type, right.Text));
        return new SqlPart(
            op switch
            {
                "=" => $"({a} IS NOT DISTINCT FROM {b})",
                "<>" => $"({a} IS DISTINCT FROM {b})",
                _ => $"coalesce({a} {op} {b}, false)",
            }
        ).After([left, right]);
    }

    // An empty parameter meets nothing, whichever way it is compared, as in SQL: who asks for the orders of no customer wants none.
    private static SqlPart Meet(BoundBinary binary, SqlPart left, SqlPart right) =>
        new SqlPart(
            $"coalesce({Key(binary.Left.DataType, left.Text)} {binary.Operator} {Key(binary.Right.DataType, right.Text)}, false)"
        ).After([left, right]);

    // Texts are compared without regard to case, letter by letter, and in the order of their code points.
    private static string Key(DataType type, string text) =>
        type == DataType.Text ? $"(upper({text} COLLATE \"C.utf8\") COLLATE \"C\")" : text;

    private static ColumnType ColumnOf(DataType form) =>
        form switch
        {
            DataType.Number or DataType.Money or DataType.Quantity => ColumnType.Numeric,
            DataType.Date => ColumnType.Date,
            DataType.YesNo => ColumnType.Boolean,
            DataType.Time => ColumnType.Time,
            DataType.Moment => ColumnType.Moment,
            _ => ColumnType.Text,
        };
}
