namespace Pelto.Core.Formulas;

/// <summary>
/// An amount of money in another currency, at the rates of a day. All rates are held against one currency, so that between two others the
/// way leads through that (as Council Regulation (EC) 1103/97, article 4, has it for the euro; from memory), without rounding on the way.
/// </summary>
/// <param name="rates">The rates, which become part of the formula when it is bound; null where there are none.</param>
internal sealed class Exchange(RateTable? rates) : Function
{
    public override string Name => "EXCHANGE";

    public override FunctionGroup Group => FunctionGroup.Amounts;

    public override string Summary =>
        "An amount of money in another currency, at the rate that is valid on a day; an error where there is none.";

    public override string Example => "AMOUNT(EXCHANGE(MONEY(12; \"EUR\"); \"EUR\"; DATE(2026; 1; 31))) = 12";

    public override IReadOnlyList<Parameter> Parameters { get; } =
    [new("amount", DataType.Money), new("currency", DataType.Text), new("day", DataType.Date)];

    /// <summary>The rates, or null.</summary>
    public RateTable? Rates => rates;

    /// <summary>The same function with rates that are known.</summary>
    public static Exchange Of(RateTable? rates) => new(rates);

    internal override DataType ResultType(IReadOnlyList<Bound> arguments) => DataType.Money;

    internal override (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) =>
        arguments[1] is BoundLiteral { Value: { DataType: DataType.Text } code } && !Currencies.IsKnown(code.Text)
            ? (arguments[1], $"“{code.Text}” is not a currency.")
            : null;

    internal override Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments) =>
        frame =>
        {
            var (amount, code, day) = (arguments[0](frame), arguments[1](frame), arguments[2](frame));
            foreach (var given in (ReadOnlySpan<Value>)[amount, code, day])
                if (given.IsError)
                    return given;
            if (amount.IsEmpty || code.IsEmpty || day.IsEmpty)
                return Value.Empty;
            if (amount.Unit == code.Text)
                return amount;
            var (from, to) = (RateOf(amount.Unit), RateOf(code.Text));
            if (from.IsError || to.IsError)
                return Value.NotAvailable(
                    $"There is no rate from {amount.Unit} to {Letters.Slice(code.Text, 0, 40)} on "
                        + $"{day.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}."
                );

            // What is not read yet is empty for now.
            if (from.IsEmpty || to.IsEmpty)
                return Value.Empty;
            try
            {
                return Value.Money(Numbers.Round(amount.Amount * to.Number / from.Number, Compiler.Divided), code.Text);
            }
            catch (OverflowException)
            {
                return Value.Failed(Reasons.TooLarge);
            }

            Value RateOf(string currency) =>
                currency == rates?.Base ? Value.From(1m)
                : rates is null || frame.Rate is null ? Value.NotAvailable("")
                : frame.Rate(currency, day.Date) is { DataType: DataType.Number, Number: <= 0 } ? Value.NotAvailable("")
                : frame.Rate(currency, day.Date);
        };

    // Without rates; with them the emitter reads them, see EmitWith.
    internal override SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments) => EmitWith(arguments, static _ => "NULL::numeric");

    /// <summary>The call as SQL.</summary>
    /// <param name="arguments">The amount, the currency, the day.</param>
    /// <param name="rateOf">Gives the rate of a currency, which is NULL where there is none.</param>
    internal static SqlPart EmitWith(IReadOnlyList<SqlPart> arguments, Func<string, string> rateOf)
    {
        var (amount, code, day) = (arguments[0], arguments[1].Text, arguments[2].Text);
        var (from, to) = (rateOf(amount.Unit!), rateOf(code));
        var known = $"({amount.Text}) IS NOT NULL AND ({code}) IS NOT NULL AND ({day}) IS NOT NULL";
        var missing = $"coalesce({known} AND {amount.Unit} <> {code} AND ({from} IS NULL OR {to} IS NULL), false)";
        var text =
            $"(CASE WHEN NOT ({known}) THEN NULL WHEN {amount.Unit} = {code} THEN {amount.Text} ELSE "
            + $"round(round({amount.Text} * {to}, 20) / {from}, {Compiler.Divided}) END)";
        return (new SqlPart(text, Unit: $"(CASE WHEN {known} THEN {code} END)") { Lacks = missing }).After(arguments, missing);
    }
}
