using static Pelto.Core.Formulas.Declare;

namespace Pelto.Core.Formulas;

/// <summary>
/// Money and quantities: what they are made of, and reckoning with them. Amounts of different currencies, or of units that measure
/// different things, do not add.
/// </summary>
internal static class AmountFunctions
{
    public static IReadOnlyList<Function> All { get; } =
    [
        new Made(
            "MONEY",
            DataType.Money,
            "An amount of money, from a number and a code of ISO 4217.",
            "AMOUNT(MONEY(12; \"EUR\")) = 12",
            "currency",
            "is not a currency",
            static code => Currencies.IsKnown(code) ? code : null,
            static sql => sql,
            static sql => $"{sql} NOT IN ({string.Join(", ", Currencies.All.Select(one => $"'{one}'"))})"
        ),
        new Made(
            "QUANTITY",
            DataType.Quantity,
            "A quantity, from a number and a unit: as it is written every day, or by its code in UN/ECE Recommendation 20.",
            "UNIT(QUANTITY(3; \"kg\")) = \"KGM\"",
            "unit",
            "is not a unit",
            static text => Units.Read(text)?.Code,
            static sql => $"formulas.unit_code({sql})",
            static sql => $"formulas.no_unit({sql})"
        ),
        new Taken(
            "AMOUNT",
            DataType.Number,
            "The number of an amount of money or of a quantity.",
            "AMOUNT(QUANTITY(3; \"MTR\")) = 3",
            null,
            static value => Value.From(value.Amount),
            static given => given.Text
        ),
        new Taken(
            "CURRENCY",
            DataType.Text,
            "The currency of an amount of money.",
            "CURRENCY(MONEY(12; \"EUR\")) = \"EUR\"",
            DataType.Money,
            static value => Value.From(value.Unit),
            static given => given.Unit!
        ),
        new Taken(
            "UNIT",
            DataType.Text,
            "The unit of a quantity.",
            "UNIT(QUANTITY(3; \"MTR\")) = \"MTR\"",
            DataType.Quantity,
            static value => Value.From(value.Unit),
            static given => given.Unit!
        ),
        new Converted(),
    ];

    /// <summary>Functions of the database about units.</summary>
    public static IEnumerable<string> Helpers =>
        [
            "CREATE OR REPLACE FUNCTION formulas.unit_factor(a text) RETURNS numeric LANGUAGE sql IMMUTABLE "
                + $"PARALLEL SAFE AS $$ SELECT CASE a {string.Concat(Units.All.Select(unit => $"WHEN '{unit.Code}' THEN {unit.Factor.ToString(CultureInfo.InvariantCulture)} "))}END $$;",
            "CREATE OR REPLACE FUNCTION formulas.unit_code(a text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ "
                + $"SELECT coalesce({Cases("a", Units.Written)}, {Cases("lower(a)", Units.WrittenSmall)}) $$;",
            "CREATE OR REPLACE FUNCTION formulas.no_unit(a text) RETURNS boolean LANGUAGE sql IMMUTABLE "
                + "STRICT PARALLEL SAFE AS $$ SELECT formulas.unit_code(a) IS NULL $$;",
            "CREATE OR REPLACE FUNCTION formulas.unit_dimension(a text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS "
                + $"$$ SELECT CASE {string.Concat(Units.All.GroupBy(unit => unit.Dimension).Select(group => $"WHEN a IN ({string.Join(", ", group.Select(unit => $"'{unit.Code}'"))}) THEN '{group.Key}' "))}END $$;",
        ];

    // The same for QUANTITY and CONVERT: letter by letter first, then in small letters.
    private static string Cases(string of, IEnumerable<KeyValuePair<string, Unit>> ways) =>
        $"CASE {of} {string.Concat(ways.GroupBy(way => way.Value).Select(group => string.Concat(group.Select(way => $"WHEN '{way.Key.Replace("'", "''", StringComparison.Ordinal)}' THEN '{way.Value.Code}' "))))}END";

    /// <summary>Two amounts together, in the currency or unit of the first.</summary>
    public static Value Add(Value left, Value right) =>
        left.IsError ? left
        : InUnitOf(left, right) is var same && same.IsError ? same
        : With(left, left.Amount + same.Amount);

    /// <summary>An amount in the currency or unit of another; an error when they do not go together.</summary>
    public static Value InUnitOf(Value other, Value amount)
    {
        if (amount.Unit == other.Unit)
            return amount;
        if (amount.DataType == DataType.Money)
            return Value.Failed($"Amounts of different currencies do not go together: {other.Unit} and {amount.Unit}.");
        if (Units.Find(other.Unit) is not { } to || Units.Find(amount.Unit) is not { } from || from.Dimension != to.Dimension)
            return Value.Failed($"Quantities of different kinds do not go together: {Named(other.Unit)} and {Named(amount.Unit)}.");
        return Value.Quantity(Numbers.Round(Units.Convert(amount.Amount, from, to), Compiler.Divided), to.Code);
    }

    /// <summary>The same currency or unit with another number.</summary>
    public static Value With(Value amount, decimal number) =>
        amount.DataType == DataType.Money ? Value.Money(number, amount.Unit) : Value.Quantity(number, amount.Unit);

    /// <summary>In SQL: the amount of the second in the unit of the first.</summary>
    public static string EmitInUnitOf(SqlPart other, SqlPart amount, bool isMoney) =>
        isMoney
            ? amount.Text
            : $"(CASE WHEN {amount.Unit} = {other.Unit} THEN {amount.Text} ELSE round(round({amount.Text} * "
                + $"formulas.unit_factor({amount.Unit}), 20) / formulas.unit_factor({other.Unit}), {Compiler.Divided}) END)";

    /// <summary>In SQL: when two amounts do not go together.</summary>
    public static string EmitApart(SqlPart left, SqlPart right, bool isMoney) =>
        isMoney
            ? $"coalesce({left.Unit} <> {right.Unit}, false)"
            : $"coalesce(formulas.unit_dimension({left.Unit}) <> formulas.unit_dimension({right.Unit}), false)";

    /// <summary>In SQL: two amounts together, where an empty one counts as nothing.</summary>
    public static SqlPart EmitAdd(SqlPart left, SqlPart right, bool isMoney) =>
        new SqlPart(
            $"coalesce({left.Text} + {EmitInUnitOf(left, right, isMoney)}, {left.Text}, {right.Text})",
            Unit: $"coalesce({left.Unit}, {right.Unit})"
        ).After([left, right], EmitApart(left, right, isMoney));

    private static string Named(string unit) => Units.Find(unit)?.Symbol ?? unit;

    /// <summary>An amount from a number and the code of a currency or unit.</summary>
    /// <remarks>
    /// What is read of the second is a code, or null for what is none. SQL says apart what the code is, and whether it is none.
    /// </remarks>
    private sealed class Made(
        string name,
        DataType result,
        string summary,
        string example,
        string of,
        string refusal,
        Func<string, string?> read,
        Func<string, string> readSql,
        Func<string, string> isNoneSql
    ) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Amounts;

        public override string Summary => summary;

        public override string Example => example;

        public override IReadOnlyList<Parameter> Parameters { get; } = [Number("amount"), Text(of)];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            arguments[1] is BoundLiteral { Value: { DataType: DataType.Text } code } && read(code.Text) is null
                ? (arguments[1], $"“{code.Text}” {refusal}.")
                : null;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var (amount, code) = (arguments[0](frame), arguments[1](frame));
                if (amount.IsError)
                    return amount;
                if (code.IsError)
                    return code;
                if (amount.IsEmpty || code.IsEmpty)
                    return Value.Empty;
                return read(code.Text) is not { } unit ? Value.Failed($"“{Letters.Slice(code.Text, 0, 40)}” {refusal}.")
                    : result == DataType.Money ? Value.Money(amount.Number, unit)
                    : Value.Quantity(amount.Number, unit);
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var (amount, text) = (arguments[0].Text, arguments[1].Text);
            var code = Literal(call.Arguments[1], read) ?? readSql(text);
            var fails = call.Arguments[1] is BoundLiteral ? null : $"coalesce({amount} IS NOT NULL AND {isNoneSql(text)}, false)";
            return new SqlPart(
                $"(CASE WHEN {text} IS NOT NULL THEN {amount} END)",
                Unit: $"(CASE WHEN {amount} IS NOT NULL THEN {code} END)"
            ).After([.. arguments], fails);
        }
    }

    private static string? Literal(Bound argument, Func<string, string?> read) =>
        argument is BoundLiteral { Value: { DataType: DataType.Text } text } && read(text.Text) is { } code ? $"'{code}'" : null;

    /// <summary>What an amount is made of.</summary>
    private sealed class Taken(
        string name,
        DataType result,
        string summary,
        string example,
        DataType? takes,
        Func<Value, Value> take,
        Func<SqlPart, string> sql
    ) : Function
    {
        public override string Name => name;

        public override FunctionGroup Group => FunctionGroup.Amounts;

        public override string Summary => summary;

        public override string Example => example;

        public override IReadOnlyList<Parameter> Parameters { get; } = [new("amount", takes)];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => result;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            arguments[0].DataType is DataType.Money or DataType.Quantity or DataType.Empty
                ? null
                : (arguments[0], $"{Name} takes money or a quantity, not {Binder.NameOf(arguments[0].DataType)}.");

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments)
        {
            var given = arguments[0];
            return frame => given(frame) is var value && (value.IsEmpty || value.IsError) ? value : take(value);
        }

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) =>
            new SqlPart(call.Arguments[0].DataType == DataType.Empty ? "NULL" : sql(arguments[0])).After(arguments);
    }

    /// <summary>CONVERT: a quantity in another unit.</summary>
    private sealed class Converted : Function
    {
        public override string Name => "CONVERT";

        public override FunctionGroup Group => FunctionGroup.Amounts;

        public override string Summary =>
            "A quantity in another unit of what it measures: as it is written every day, or by its code in UN/ECE Recommendation 20.";

        public override string Example => "AMOUNT(CONVERT(QUANTITY(2; \"KMT\"); \"MTR\")) = 2000";

        public override IReadOnlyList<Parameter> Parameters { get; } = [new("quantity", DataType.Quantity), Text("unit")];

        internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Quantity;

        internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
            arguments[1] is BoundLiteral { Value: { DataType: DataType.Text } code } && Units.Read(code.Text) is null
                ? (arguments[1], $"“{code.Text}” is not a unit.")
                : null;

        internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
            frame =>
            {
                var (quantity, unit) = (arguments[0](frame), arguments[1](frame));
                if (quantity.IsError)
                    return quantity;
                if (unit.IsError)
                    return unit;
                return quantity.IsEmpty || unit.IsEmpty
                    ? Value.Empty
                    : InUnitOf(Value.Quantity(0, Units.Read(unit.Text)?.Code ?? unit.Text), quantity);
            };

        internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments)
        {
            var to = new SqlPart(
                "0",
                Unit: Literal(call.Arguments[1], static text => Units.Read(text)?.Code)
                    ?? $"coalesce(formulas.unit_code({arguments[1].Text}), {arguments[1].Text})"
            );
            var fails =
                $"coalesce({arguments[0].Text} IS NOT NULL AND formulas.unit_dimension({to.Unit}) IS DISTINCT "
                + $"FROM formulas.unit_dimension({arguments[0].Unit}) AND {to.Unit} IS NOT NULL, false)";
            return new SqlPart(
                EmitInUnitOf(to, arguments[0], isMoney: false),
                Unit: $"(CASE WHEN {arguments[0].Text} IS NOT NULL THEN {to.Unit} END)"
            ).After([arguments[0] with { Unit = null }, arguments[1]], fails);
        }
    }
}
