namespace Pelto.Core.Formulas;

/// <summary>Finds the parameters of what stands in a query, and what they must be to be compared with what they meet.</summary>
internal static class Parameters
{
    /// <summary>All parameters under a node, with the type of what each meets; empty where that is not told.</summary>
    public static IEnumerable<(string Name, DataType Type)> In(Syntax syntax, Part part) =>
        syntax switch
        {
            PathSyntax path => NameOf(path) is { } name ? [(name, DataType.Empty)] : [],
            BinarySyntax { Left: PathSyntax left } binary when NameOf(left) is { } name =>
            [
                (name, TypeOf(binary.Right, part)),
                .. In(binary.Right, part),
            ],
            BinarySyntax { Right: PathSyntax right } binary when NameOf(right) is { } name =>
            [
                .. In(binary.Left, part),
                (name, TypeOf(binary.Left, part)),
            ],
            BinarySyntax binary => In(binary.Left, part).Concat(In(binary.Right, part)),
            NegateSyntax negate => In(negate.Operand, part),
            PercentSyntax percent => In(percent.Operand, part),
            CallSyntax call => call.Arguments.SelectMany(argument => In(argument, part)),
            _ => [],
        };

    private static string? NameOf(PathSyntax path) => path.Names[0].Text is [':', .. var name] ? name : null;

    private static DataType TypeOf(Syntax syntax, Part part)
    {
        var problems = new List<FormulaProblem>();
        var bound = new Binder(part, null, problems).Bind(syntax);
        return problems.Count > 0 ? DataType.Empty : bound.DataType;
    }
}
