namespace Pelto.Core.Definitions;

/// <summary>What makes a record type a document: it is open, closed in the end, or cancelled.</summary>
/// <param name="Status">The code of the field that says which; a choice.</param>
/// <param name="Open">The choice of those that are worked on.</param>
/// <param name="Closed">The choice of those that are done.</param>
/// <param name="Cancelled">The choice of those that count no more.</param>
/// <param name="Locks">True when a closed document can only be cancelled: neither changed nor deleted.</param>
public sealed record DocumentDescription(string Status, string Open, string Closed, string Cancelled, bool Locks = false);

/// <summary>How a document is made from the one before it, and what of that one it follows up.</summary>
/// <param name="RecordType">The code of the document before.</param>
/// <param name="Link">The code of the link to it.</param>
/// <param name="Label">What people choose: Make delivery.</param>
/// <param name="Measure">What is followed up, in lines if there are any, otherwise in the header.</param>
public sealed record FollowDescription(string RecordType, string Link, string Label, MeasureDescription Measure)
{
    /// <summary>Header fields that are copied: code here, code there.</summary>
    public IReadOnlyDictionary<string, string> Copies { get; init; } = new Dictionary<string, string>();

    /// <summary>Header fields that are set, as a person would type it.</summary>
    public IReadOnlyDictionary<string, string> Sets { get; init; } = new Dictionary<string, string>();

    /// <summary>How lines are made from lines, or null when only headers follow each other.</summary>
    public FollowLinesDescription? Lines { get; init; }

    /// <summary>True when the document before is closed once nothing of it is open.</summary>
    public bool Closes { get; init; }
}

/// <summary>How lines of a document follow lines of the one before.</summary>
/// <param name="From">The code of the lines before.</param>
/// <param name="To">The code of the lines here.</param>
/// <param name="Reference">The code of the field here that holds the id of the line before; an integer.</param>
/// <param name="Copies">Fields that are copied: code here, code there.</param>
public sealed record FollowLinesDescription(string From, string To, string Reference, IReadOnlyDictionary<string, string> Copies);

/// <summary>What is followed up.</summary>
/// <param name="Field">The code of the amount here.</param>
/// <param name="UpTo">The code of the amount before, which all that follows does not exceed.</param>
/// <param name="Sum">The code of the field before that holds how much has followed.</param>
public sealed record MeasureDescription(string Field, string UpTo, string Sum);

/// <summary>Where a host keeps stock.</summary>
/// <param name="Item">The code of the record type that is stocked.</param>
/// <param name="Places">The code of its lines that say where how much lies.</param>
/// <param name="Warehouse">The code of their link to the warehouse.</param>
/// <param name="OnHand">The code of what lies there.</param>
/// <param name="Lot">The code of the record type of lots.</param>
/// <param name="LotOnHand">The code of what is there of a lot.</param>
/// <param name="Move">
/// The code of the record type whose records are the moves; with the fields <c>item</c>, <c>warehouse</c>, <c>lot</c>, <c>moved_on</c>,
/// <c>quantity</c> and <c>document</c>.
/// </param>
public sealed record StockDescription(
    string Item,
    string Places,
    string Warehouse,
    string OnHand,
    string Lot,
    string LotOnHand,
    string Move
)
{
    /// <summary>True where more may leave than is on hand: then whoever saves is told. False where that is refused.</summary>
    public bool BelowZero { get; init; }
}

/// <summary>How the lines of a document move stock.</summary>
/// <param name="Direction"><c>in</c> or <c>out</c>.</param>
/// <param name="Lines">The code of the lines.</param>
/// <param name="Item">The code of their item.</param>
/// <param name="Lot">The code of their lot.</param>
/// <param name="Quantity">The code of how much.</param>
/// <param name="Warehouse">The code, in the header, of the warehouse.</param>
/// <param name="Date">The code, in the header, of the day.</param>
public sealed record StockMoveDescription(
    string Direction,
    string Lines,
    string Item,
    string Lot,
    string Quantity,
    string Warehouse,
    string Date
);
