namespace Pelto.Core.Layouts;

/// <summary>Says in a few words what an operation of a layer does.</summary>
public static class LayerWords
{
    /// <summary>What it did to a part that is known, such as “moved it after Currency, when adding”.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="nameOf">What a part is called, by its id.</param>
    public static string Done(LayerOperation operation, Func<string, string> nameOf) => Say(operation, "it", nameOf, isDone: true);

    /// <summary>What it will do, with the part's name, such as “moves Payment terms after Currency”.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="nameOf">What a part is called, by its id.</param>
    public static string Coming(LayerOperation operation, Func<string, string> nameOf) =>
        Say(operation, nameOf(operation.Part), nameOf, isDone: false);

    /// <summary>What it did, with the part's name, such as “moved Payment terms after Currency”.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="nameOf">What a part is called, by its id.</param>
    public static string Whole(LayerOperation operation, Func<string, string> nameOf) =>
        Say(operation, nameOf(operation.Part), nameOf, isDone: true);

    private static string Say(LayerOperation operation, string name, Func<string, string> nameOf, bool isDone)
    {
        var on = operation.On switch
        {
            "adding" => ", when adding",
            "changing" => ", when changing",
            _ => "",
        };
        var where = string.IsNullOrWhiteSpace(operation.When) ? "" : $", where {operation.When}";
        if (OperationKinds.Find(operation.Op) is not { } kind)
            return $"{(isDone ? "did" : "does")} “{operation.Op}” to {name}{on}{where}";
        var (past, present) = kind.Verb(operation);
        return $"{(isDone ? past : present)} {kind.What(operation, name, nameOf)}{on}{where}";
    }
}
