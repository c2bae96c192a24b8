namespace Pelto.Core.Formulas;

/// <summary>Gives the value of a part of a formula in a frame.</summary>
internal delegate Value Evaluator(Frame frame);

/// <summary>What a function is about; the help shows them in this order.</summary>
public enum FunctionGroup
{
    /// <summary>Conditions and errors.</summary>
    Logic,

    /// <summary>Reckoning and rounding.</summary>
    Numbers,

    /// <summary>Texts.</summary>
    Texts,

    /// <summary>Days and times.</summary>
    Dates,

    /// <summary>Over lines.</summary>
    Lists,

    /// <summary>Money and quantities.</summary>
    Amounts,

    /// <summary>Choices.</summary>
    Choices,
}

/// <summary>What a function takes at one place.</summary>
/// <param name="Name">As the help writes it.</param>
/// <param name="Type">The type wanted, or null for any.</param>
public sealed record Parameter(string Name, DataType? Type = null)
{
    /// <summary>True when it may be left out; <see cref="Default"/> then stands in for it.</summary>
    public bool IsOptional { get; init; }

    /// <summary>What stands for it when it is left out.</summary>
    public Value Default { get; init; }

    /// <summary>True for the last ones when they may follow again and again.</summary>
    public bool IsRepeated { get; init; }

    /// <summary>True when a list over lines may stand here.</summary>
    public bool IsList { get; init; }

    /// <summary>True when an empty value means something here; elsewhere it makes the result empty.</summary>
    public bool ReadsEmpty { get; init; }
}

/// <summary>
/// A function of the formula language: signature, documentation, what it does in memory, and the same in SQL. One more is one more of these
/// and a line in <see cref="Functions"/>.
/// </summary>
public abstract class Function
{
    /// <summary>As people write it, in any case.</summary>
    public abstract string Name { get; }

    /// <summary>What it is about.</summary>
    public abstract FunctionGroup Group { get; }

    /// <summary>What it does, as a sentence.</summary>
    public abstract string Summary { get; }

    /// <summary>A use of it with what that gives, such as <c>ABS(-3) = 3</c>. A test holds each to what it says.</summary>
    public abstract string Example { get; }

    /// <summary>What it takes, in order.</summary>
    public abstract IReadOnlyList<Parameter> Parameters { get; }

    /// <summary>True when what it gives changes by itself as time goes by.</summary>
    public virtual bool IsVolatile => false;

    /// <summary>As it is written, such as <c>ROUND(number; [digits])</c>.</summary>
    public string Signature =>
        $"{Name}({string.Join("; ", Parameters.Select(parameter => parameter.IsOptional ? $"[{parameter.Name}]" : parameter.IsRepeated && parameter == Parameters[^1] ? parameter.Name + "; …" : parameter.Name))})";

    /// <summary>True for a mean and the like: the sum of several says nothing.</summary>
    internal virtual bool IsMean => false;

    /// <summary>
    /// A function of the database that <see cref="Emit"/> uses, as a statement that makes it or replaces it; null when it uses none.
    /// </summary>
    internal virtual string? Helper => null;

    /// <summary>The type of the result, once those of the arguments are known.</summary>
    internal abstract DataType ResultType(IReadOnlyList<Bound> arguments);

    /// <summary>The type that an argument of any type has here; most functions give what they are given.</summary>
    internal virtual DataType TypeAt(int at, IReadOnlyList<Bound> arguments, DataType result) => result;

    /// <summary>
    /// Why these arguments cannot stand here though each is of a type that may, with the one that is at fault; null when they can.
    /// </summary>
    internal virtual (Bound At, string Message)? Refuse(IReadOnlyList<Bound> arguments) => null;

    /// <summary>Turns evaluated arguments into an evaluator of the call.</summary>
    internal abstract Evaluator Compile(BoundCall call, IReadOnlyList<Evaluator> arguments);

    /// <summary>The call as SQL, from its arguments'.</summary>
    internal abstract SqlPart Emit(BoundCall call, IReadOnlyList<SqlPart> arguments);

    /// <summary>What it takes where that many stand before: the last ones again and again when they may be repeated.</summary>
    public Parameter ParameterAt(int at)
    {
        if (at < Parameters.Count)
            return Parameters[at];
        var repeated = Parameters.Count(parameter => parameter.IsRepeated);
        return Parameters[Parameters.Count - repeated + ((at - Parameters.Count) % repeated)];
    }

    /// <summary>True when so many arguments may stand.</summary>
    internal bool Takes(int count)
    {
        var minimum = Parameters.Count(parameter => !parameter.IsOptional);
        var repeated = Parameters.Count(parameter => parameter.IsRepeated);
        return count >= minimum && (count <= Parameters.Count || (repeated > 0 && (count - Parameters.Count) % repeated == 0));
    }
}

/// <summary>All functions, found by name in any case.</summary>
public static class Functions
{
    /// <summary>All of them, by name.</summary>
    public static IReadOnlyDictionary<string, Function> ByName { get; } =
        new[]
        {
            LogicFunctions.All,
            NumberFunctions.All,
            TextFunctions.All,
            DateFunctions.All,
            ListFunctions.All,
            AmountFunctions.All,
            ChoiceFunctions.All,
            [new HolidayList([]), new Exchange(null)],
        }
            .SelectMany(group => group)
            .ToDictionary(function => function.Name, StringComparer.OrdinalIgnoreCase);

    /// <summary>The schema of the database in which the functions are that formulas use there.</summary>
    public const string Schema = "formulas";

    /// <summary>Makes all of them; safe to repeat.</summary>
    public static string Script =>
        $"""
            CREATE SCHEMA IF NOT EXISTS {Schema};
            {string.Join("\n", SqlHelpers.All.Concat(ByName.Values.Select(function => function.Helper).OfType<string>().Distinct()))}
            """;
}
