namespace Pelto.Core.Catalog;

/// <summary>The exchange rates of the ERP: how much of a currency one unit of the base is worth, from a day on.</summary>
/// <param name="Currency">The field with the currency.</param>
/// <param name="Since">The field with the first day.</param>
/// <param name="Rate">The field with the rate.</param>
/// <param name="Base">The currency that all are held against.</param>
public sealed record RateTable(Field Currency, Field Since, Field Rate, string Base)
{
    /// <summary>Its fields.</summary>
    public IEnumerable<Field> Fields => [Currency, Since, Rate];

    /// <summary>The rates that a host describes; null when it has none, or when what it says makes no sense.</summary>
    /// <param name="host">The host.</param>
    /// <param name="types">All record types.</param>
    /// <param name="problems">Takes what is wrong.</param>
    public static RateTable? From(HostDescription host, IReadOnlyList<RecordType> types, List<Problem> problems)
    {
        if (host.Rates is not { } said)
            return null;
        var header = types.FirstOrDefault(type => type.Code == said.RecordType && type.Definition is null)?.Header;
        if (
            header?.Find(said.Currency) is { Kind.DataType: DataType.Text } currency
            && header.Find(said.Since) is { Kind.DataType: DataType.Date } since
            && header.Find(said.Rate) is { Kind: { DataType: DataType.Number, Columns: [{ Type: ColumnType.Numeric }] } } rate
        )
            return new(currency, since, rate, said.Base);
        problems.Add(
            new(host.Code, "rates", "Exchange rates need a record type with a currency, a first day and a rate, which is a decimal.")
        );
        return null;
    }
}
