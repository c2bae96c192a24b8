using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>A formula that is bound to the fields of a part and ready to run.</summary>
/// <remarks>Text, tokens, syntax, bound tree, delegate: each step is a function of the one before, and each node knows its place in the text.</remarks>
public sealed class Formula
{
    private readonly Evaluator evaluator;

    private Formula(string text, ValueForm type, IReadOnlySet<Field> reads, Evaluator evaluator) =>
        (Text, Type, Reads, this.evaluator) = (text, type, reads, evaluator);

    /// <summary>As written.</summary>
    public string Text { get; }

    /// <summary>The type of what it gives.</summary>
    public ValueForm Type { get; }

    /// <summary>The fields that it depends on, of the header and of lines.</summary>
    public IReadOnlySet<Field> Reads { get; }

    /// <summary>Binds a formula to a part of a record type. Gives null and problems when it makes no sense there.</summary>
    /// <param name="text">The formula.</param>
    /// <param name="part">Where its value stands: names are looked up there first, then in the header.</param>
    /// <param name="problems">Takes what is wrong, at its place in the text.</param>
    public static Formula? Bind(string text, Part part, List<FormulaProblem> problems)
    {
        var syntax = Parser.Parse(text, problems);
        if (problems.Count > 0) return null;
        var binder = new Binder(part, problems);
        var bound = binder.Bind(syntax);
        return problems.Count > 0 ? null : new(text, bound.Type, binder.Reads, Compiler.Compile(bound));
    }

    /// <summary>The value in this frame. Never throws: what cannot be computed is an error value with its reason.</summary>
    public Value Evaluate(Frame frame) => evaluator(frame);
}
