namespace Pelto.Core.Catalog;

/// <summary>A document type's states, bound to its field.</summary>
/// <param name="Status">The field that says which.</param>
/// <param name="Description">The choices, and whether closed documents are locked.</param>
public sealed record Document(Field Status, DocumentDescription Description)
{
    /// <summary>True when a document with this status is worked on.</summary>
    public bool IsOpen(Value status) => Is(status, Description.Open);

    /// <summary>True when a document with this status is done.</summary>
    public bool IsClosed(Value status) => Is(status, Description.Closed);

    /// <summary>True when a document with this status counts no more.</summary>
    public bool IsCancelled(Value status) => Is(status, Description.Cancelled);

    /// <summary>True when a document with this status can only be cancelled, if at all.</summary>
    public bool IsLocked(Value status) => Description.Locks && !status.IsEmpty && !IsOpen(status);

    private static bool Is(Value status, string choice) => status.DataType == DataType.Text && status.Text == choice;
}

/// <summary>How one document type follows another, bound to their fields.</summary>
public sealed class Follow
{
    /// <summary>What the host says of it.</summary>
    public required FollowDescription Description { get; init; }

    /// <summary>The document before.</summary>
    public required RecordType Source { get; init; }

    /// <summary>The document that follows.</summary>
    public required RecordType Next { get; init; }

    /// <summary>Its link to the document before.</summary>
    public required Field Link { get; init; }

    /// <summary>What is copied into its header.</summary>
    public required IReadOnlyList<(Field To, Field From)> Copies { get; init; }

    /// <summary>What is set in its header.</summary>
    public required IReadOnlyList<(Field To, Value Value)> Sets { get; init; }

    /// <summary>How its lines are made, or null.</summary>
    public FollowLines? Lines { get; init; }

    /// <summary>The amount here.</summary>
    public required Field Measure { get; init; }

    /// <summary>The amount before, which all that follows does not exceed.</summary>
    public required Field UpTo { get; init; }

    /// <summary>How much has followed.</summary>
    public required Field Sum { get; init; }

    /// <summary>How much of a line, or of a header, is still open; nothing less than that.</summary>
    public decimal Open(Value[] before) => Math.Max(0, Amount(before[UpTo.Slot]) - Amount(before[Sum.Slot]));

    /// <summary>A number, or nothing.</summary>
    public static decimal Amount(Value value) => value.DataType == DataType.Number ? value.Number : 0;
}

/// <summary>How lines follow lines.</summary>
/// <param name="From">The lines before.</param>
/// <param name="To">The lines that follow.</param>
/// <param name="Reference">Holds the id of the line before.</param>
/// <param name="Copies">What is copied.</param>
public sealed record FollowLines(Part From, Part To, Field Reference, IReadOnlyList<(Field To, Field From)> Copies);

/// <summary>How the lines of a document type move stock, bound to fields, with where the stock is kept.</summary>
public sealed record StockMoves(bool IsOut, Part Lines, Field Item, Field? Lot, Field Quantity, Field Warehouse, Field Date)
{
    /// <summary>The lines of the item that say where how much lies.</summary>
    public required Part Places { get; init; }

    /// <summary>Their link to the warehouse.</summary>
    public required Field PlaceWarehouse { get; init; }

    /// <summary>What lies there.</summary>
    public required Field OnHand { get; init; }

    /// <summary>What is there of a lot.</summary>
    public required Field LotOnHand { get; init; }

    /// <summary>The record type of the moves.</summary>
    public required RecordType Move { get; init; }

    /// <summary>True where more may leave than is on hand.</summary>
    public bool MayGoBelow { get; init; }
}
