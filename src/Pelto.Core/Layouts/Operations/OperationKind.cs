namespace Pelto.Core.Layouts;

/// <summary>
/// What an operation of a layer is: all that Pelto has to know of it. Listed once, in <see cref="OperationKinds"/>; nobody asks for its
/// name elsewhere.
/// </summary>
public abstract class OperationKind
{
    /// <summary>What definitions call it.</summary>
    public abstract string Name { get; }

    /// <summary>True for what can be said of a column of a list.</summary>
    public virtual bool IsOfColumns => false;

    /// <summary>True for what can be said of parts of a screen.</summary>
    public virtual bool IsOfScreens => true;

    /// <summary>True for what people may say for themselves of a screen: what takes nothing from anybody else.</summary>
    public virtual bool IsOwnOnScreens => false;

    /// <summary>True for what people may say for themselves of a list.</summary>
    public virtual bool IsOwnInLists => false;

    /// <summary>How it is set on a part, where that is a choice of a few; null where it is set in a way of its own.</summary>
    public virtual OperationChoice? Choice => null;

    /// <summary>True for what the settings of a part say; all else that a layer says of it stays when they are set.</summary>
    public virtual bool IsSetting => Choice is not null;

    /// <summary>The verb: as it was done, and as it will be.</summary>
    public abstract (string Past, string Present) Verb(LayerOperation operation);

    /// <summary>What follows the verb.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="name">What its part is called.</param>
    /// <param name="nameOf">What another part is called, by its id.</param>
    public abstract string What(LayerOperation operation, string name, Func<string, string> nameOf);

    /// <summary>Why it cannot be said so, as a sentence; null when it can.</summary>
    public virtual string? Refuse(LayerOperation operation) => null;

    /// <summary>Does it to a part.</summary>
    /// <param name="tree">The screen.</param>
    /// <param name="node">The part.</param>
    /// <param name="step">The operation, and whose layer says it.</param>
    /// <returns>True when the part tells that this was done to it.</returns>
    internal abstract bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step);

    /// <summary>Where something is put, in words.</summary>
    protected static string After(LayerOperation operation, Func<string, string> nameOf) =>
        operation.After is { } after ? $" after {nameOf(after)}" : "";
}

/// <summary>An operation that says one thing of its part, whatever part that is.</summary>
internal abstract class SettingOperation : OperationKind
{
    public override bool IsSetting => true;

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) => name;

    internal sealed override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        Set(node, step.Operation);
        return true;
    }

    /// <summary>Says it of the part.</summary>
    protected abstract void Set(ScreenNode node, LayerOperation operation);
}

/// <summary>What a part is, for those who set it.</summary>
/// <param name="IsSection">True for a section, or a list of what points here.</param>
/// <param name="IsOfList">True for a column of a list.</param>
/// <param name="IsOrdered">True for a place whose field has an order.</param>
public sealed record ArrangedPart(bool IsSection, bool IsOfList, bool IsOrdered);

/// <summary>How an operation is set on a part: a choice of a few, of which the empty one says nothing.</summary>
/// <param name="Label">What the choice is called.</param>
/// <param name="Options">What there is to choose from, in words.</param>
/// <param name="IsFor">True for parts of which it can be said.</param>
/// <param name="Read">What an operation chooses.</param>
/// <param name="Write">The operation that says what was chosen.</param>
public sealed record OperationChoice(
    string Label,
    IReadOnlyList<(string Value, string Label)> Options,
    Func<ArrangedPart, bool> IsFor,
    Func<LayerOperation, string> Read,
    Func<string, LayerOperation> Write
);
