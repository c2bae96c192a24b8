using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>Finds the parameters of what stands in a query, and what they must be to be compared with what they meet.</summary>
internal static class Parameters
{
    /// <summary>All parameters under a node, with the type of what each meets; empty where that is not told.</summary>
    public static IEnumerable<(string Name, ValueForm Type)> Of(Syntax syntax, Part part) =>
        syntax switch
        {
            PathSyntax path => NameOf(path) is { } name ? [(name, ValueForm.Empty)] : [],
            BinarySyntax { Left: PathSyntax left } binary when NameOf(left) is { } name =>
            [
                (name, TypeOf(binary.Right, part)),
                .. Of(binary.Right, part),
            ],
            BinarySyntax { Right: PathSyntax right } binary when NameOf(right) is { } name =>
            [
                .. Of(binary.Left, part),
                (name, TypeOf(binary.Left, part)),
            ],
            BinarySyntax binary => Of(binary.Left, part).Concat(Of(binary.Right, part)),
            NegateSyntax negate => Of(negate.Operand, part),
            PercentSyntax percent => Of(percent.Operand, part),
            CallSyntax call => call.Arguments.SelectMany(argument => Of(argument, part)),
            _ => [],
        };

    private static string? NameOf(PathSyntax path) => path.Names[0].Text is [':', .. var name] ? name : null;

    private static ValueForm TypeOf(Syntax syntax, Part part)
    {
        var problems = new List<FormulaProblem>();
        var bound = new Binder(part, null, problems).Bind(syntax);
        return problems.Count > 0 ? ValueForm.Empty : bound.Type;
    }
}
