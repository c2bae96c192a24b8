using Pelto.Core.Access;
using Pelto.Core.Records;

namespace Pelto.Core.Tests;

/// <summary>A small host for tests: customers, and orders with lines and totals.</summary>
internal static class Sample
{
    public static DateOnly Today { get; } = new(2026, 11, 25);

    public static HostDescription Host { get; } =
        new(
            "shop",
            "Shop",
            "1.0",
            [new("administrator", "Administrator"), new("desk", "Desk"), new("guest", "Guest")],
            [Customer(), Order()]
        );

    public static Viewer Administrator { get; } = new(Guid.NewGuid(), "Ada", ["administrator"]);

    public static Viewer Desk { get; } = new(Guid.NewGuid(), "Dee", ["desk"]);

    public static Viewer Guest { get; } = new(Guid.NewGuid(), "Gus", ["guest"]);

    public static Catalogue Catalogue(params FieldDefinition[] fields) =>
        Core.Catalog.Catalogue.Build(1, Host, new SiteDefinition { Fields = fields });

    public static RecordType OrderType(params FieldDefinition[] fields) => Catalogue(fields).Find("order")!;

    public static FieldDefinition Copies { get; } =
        new()
        {
            Id = "f-copies",
            RecordType = "order",
            Code = "copies",
            Label = "Certificate copies",
            Kind = "integer",
        };

    /// <summary>An order on file: 2 × 10.00 and 3 × 5.00 with a tenth off.</summary>
    public static RecordState Order(RecordType type)
    {
        var state = new RecordState(type) { Id = 7, Version = "1" };
        Set(state, "number", Value.From("O-7"));
        Set(state, "customer", Value.LinkTo(1));
        Set(state, "note", Value.From("as agreed"));
        AddLine(state, 1, 2, 10m, null);
        AddLine(state, 2, 3, 5m, 10m);
        Pipeline.Fill(state);
        return state;
    }

    public static void AddLine(RecordState state, long id, decimal quantity, decimal price, decimal? discount)
    {
        var part = state.Type.LineParts[0];
        var values = new Value[part.Fields.Count];
        values[part.Find("quantity")!.Slot] = Value.From(quantity);
        values[part.Find("price")!.Slot] = Value.From(price);
        if (discount is { } off)
            values[part.Find("discount")!.Slot] = Value.From(off);
        state.LinesOf(part).Add(new(id.ToString(System.Globalization.CultureInfo.InvariantCulture), id, values));
    }

    public static void Set(RecordState state, string code, Value value) => state.Header[state.Type.Header.Find(code)!.Slot] = value;

    public static Value Get(this RecordState state, string code) => state.Header[state.Type.Header.Find(code)!.Slot];

    public static Value Get(this RecordState state, int line, string code) =>
        state.Lines[0][line].Values[state.Type.LineParts[0].Find(code)!.Slot];

    private static RecordTypeDescription Customer() =>
        new()
        {
            Code = "customer",
            Label = "Customer",
            Plural = "Customers",
            Identifier = "number",
            Name = "name",
            Fields = [Text("number", required: true), Text("name", required: true)],
            Screen = new([new("customer.main", "Customer", [new("customer.main.who", "Who", [new("number", 2), new("name", 6)])])]),
            List = ["number", "name"],
            Search = ["name"],
            Order = "name",
            Access = new(["*"], ["desk"]),
        };

    private static RecordTypeDescription Order() =>
        new()
        {
            Code = "order",
            Label = "Order",
            Plural = "Orders",
            Identifier = "number",
            Name = "customer",
            Fields =
            [
                Text("number", required: true) with
                {
                    Numbering = new("O-", 4, 1),
                },
                new()
                {
                    Code = "customer",
                    Label = "Customer",
                    Kind = "link",
                    Target = "customer",
                    Required = true,
                },
                new()
                {
                    Code = "placed",
                    Label = "Placed",
                    Kind = "date",
                    DefaultValue = "today",
                },
                Text("note"),
                Number("total", "SUM(lines.amount)"),
                Number("vat", "ROUND(total * 0.255; 2)"),
            ],
            Lines =
            [
                new(
                    "lines",
                    "Order line",
                    "Order lines",
                    [
                        Number("quantity") with
                        {
                            DefaultValue = "1",
                            Required = true,
                        },
                        Number("price"),
                        Number("discount"),
                        Number("amount", "ROUND(quantity * price * (1 - IF(discount > 0; discount; 0) / 100); 2)"),
                    ]
                ),
            ],
            Screen = new([
                new(
                    "order.main",
                    "Order",
                    [
                        new("order.main.head", "Head", [new("number", 2), new("customer", 4), new("placed", 2)]),
                        new("order.main.lines", "Lines", [new("quantity", 2), new("price", 2), new("discount", 2), new("amount", 2)])
                        {
                            Lines = "lines",
                        },
                        new("order.main.totals", "Totals", [new("total", 3), new("vat", 3)]),
                    ]
                ),
                new("order.more", "More", [new("order.more.notes", "Notes", [new("note", 8)])]),
            ]),
            List = ["number", "customer", "total"],
            Search = ["number"],
            Order = "-number",
            Access = new(["desk", "guest"], ["desk"]),
        };

    private static FieldDescription Text(string code, bool required = false) =>
        new()
        {
            Code = code,
            Label = Label(code),
            Kind = "text",
            Length = 40,
            Required = required,
        };

    private static FieldDescription Number(string code, string? formula = null) =>
        new()
        {
            Code = code,
            Label = Label(code),
            Kind = "decimal",
            Digits = 12,
            Decimals = 2,
            Formula = formula,
        };

    private static string Label(string code) => char.ToUpperInvariant(code[0]) + code[1..];
}
