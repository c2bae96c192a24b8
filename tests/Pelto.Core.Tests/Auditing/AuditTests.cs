using Pelto.Core.Auditing;
using Pelto.Core.Elements;

namespace Pelto.Core.Tests.Auditing;

/// <summary>What goes on record, and what ties it together.</summary>
public sealed class AuditTests
{
    private static readonly AuditEntry Added = new(
        1,
        DateTimeOffset.Parse("2026-11-26T08:15:30.123456Z", CultureInfo.InvariantCulture),
        Guid.Parse("0192f0c1-0000-7000-8000-000000000001"),
        "Henna Aro",
        "127.0.0.1",
        new(AuditKinds.Definition, "f-1", "Added Size") { After = """{"id":"f-1"}""" }
    );

    private static readonly AuditEntry Changed = new(
        2,
        DateTimeOffset.Parse("2026-11-26T08:15:31Z", CultureInfo.InvariantCulture),
        null,
        "Pelto",
        "",
        new(AuditKinds.Value, "partner.credit_limit", "Changed Luottoraja, in €")
        {
            Before = "4000",
            After = "5000",
            RecordType = "partner",
            Record = 5,
            Line = 12,
        }
    );

    // Calculated with Python's hashlib from the description in audit.schema.json, without this code.
    [Fact(DisplayName = "The digests of a chain are those that another program calculates from its description")]
    public void Digests()
    {
        var first = Added.Hash(AuditEntry.Beginning);
        Assert.Equal("456b7b0aae53382ba25b257ca167413a44c5273c3c7a440e192fe92ffdd8686b", first);
        Assert.Equal("4ed2de64c577f783cd5734ef137c61199dcffffc0b5a1c5cd156e49a969a1a2a", Changed.Hash(first));
    }

    [Fact(DisplayName = "Whatever is changed of an entry, or moved from one of its texts to the next, changes its digest")]
    public void Nothing_can_be_moved()
    {
        var note = Changed.Note;
        AuditEntry[] others =
        [
            Changed with
            {
                Number = 3,
            },
            Changed with
            {
                At = Changed.At.AddTicks(10),
            },
            Changed with
            {
                Person = Guid.Empty,
            },
            Changed with
            {
                By = "Pelt",
            },
            Changed with
            {
                From = "o",
            },
            Changed with
            {
                By = "",
                From = "Pelto",
            },
            Changed with
            {
                Note = note with { Kind = "valu", Subject = "epartner.credit_limit" },
            },
            Changed with
            {
                Note = note with { Before = null },
            },
            Changed with
            {
                Note = note with { Before = "" },
            },
            Changed with
            {
                Note = note with { Before = "40005000", After = "" },
            },
            Changed with
            {
                Note = note with { Before = "4000,4:5000", After = null },
            },
            Changed with
            {
                Note = note with { RecordType = null },
            },
            Changed with
            {
                Note = note with { Record = 51, Line = 2 },
            },
            Changed with
            {
                Note = note with { Line = null },
            },
            Changed with
            {
                Note = note with { What = note.What + " " },
            },
        ];
        Assert.Equal(others.Length + 1, others.Append(Changed).Select(entry => entry.Hash("x")).Distinct().Count());
        Assert.NotEqual(Changed.Hash("x"), Changed.Hash("y"));
    }

    private static RecordType Type(IEnumerable<string> guards, params FieldDefinition[] fields)
    {
        var catalogue = Core.Catalog.Catalogue.Build(
            1,
            Sample.Host,
            new SiteDefinition { Fields = fields, Guards = [.. guards.Select(on => new Guard { On = on })] }
        );
        Assert.Empty(catalogue.Problems);
        return catalogue.Find("order")!;
    }

    private static string[] Said(RecordState? before, RecordState? after) =>
        [
            .. GuardedChanges
                .Between(before, after)
                .Select(note => $"{note.What}: {note.Before ?? "-"} > {note.After ?? "-"} @{note.Record}/{note.Line}"),
        ];

    [Fact(
        DisplayName = "Changes of guarded fields are told one by one, "
            + "in the header and on lines that come, change and go; of others nothing is"
    )]
    public void Guarded_values()
    {
        var type = Type(["order.note", "order.lines.price"]);
        var (before, after) = (Sample.Order(type), Sample.Order(type));
        Assert.Empty(Said(before, after));
        Sample.Set(after, "note", Value.Empty);
        Sample.Set(after, "customer", Value.LinkTo(2));
        var price = type.LineParts[0].Find("price")!;
        after.Lines[0][0].Values[price.Slot] = Value.From(12.5m);
        after.Lines[0].RemoveAt(1);
        Sample.AddLine(after, 3, 1, 7m, null);
        Assert.Equal(
            [
                "Emptied Note of O-7: as agreed > - @7/",
                "Changed Price of a line of O-7: 10 > 12.5 @7/1",
                "Emptied Price of a line of O-7: 5 > - @7/2",
                "Filled Price of a line of O-7: - > 7 @7/3",
            ],
            Said(before, after)
        );
        Assert.Equal(
            [
                "Filled Note of O-7: - > as agreed @7/",
                "Filled Price of a line of O-7: - > 10 @7/1",
                "Filled Price of a line of O-7: - > 5 @7/2",
            ],
            Said(null, before)
        );
        Assert.Equal(3, Said(before, null).Length);
    }

    [Fact(DisplayName = "A guarded record type has all its stored fields on record; a secret only as being there")]
    public void Guarded_types()
    {
        var secret = new FieldDefinition
        {
            Id = "f-code",
            RecordType = "order",
            Code = "door",
            Label = "Door",
            Kind = "secret",
            Length = 20,
        };
        var (type, plain) = (Type(["type:order"], secret), Type([], secret));
        Assert.Empty(GuardedChanges.FieldsOf(plain));
        Assert.Equal(type.Parts.SelectMany(part => part.Fields).Count(field => field.IsStored), GuardedChanges.FieldsOf(type).Count);
        var (before, after) = (Sample.Order(type), Sample.Order(type));
        Sample.Set(before, "door", Value.Sealed("1:abc"));
        Sample.Set(after, "door", Value.Sealed("1:def"));
        Assert.Equal(["Changed Door of O-7: (secret) > (secret) @7/"], Said(before, after));
    }

    [Fact(DisplayName = "A change of definitions is told element by element, with what it was and became")]
    public void Definitions()
    {
        var before = new SiteDefinition { Fields = [Sample.Copies], Guards = [new Guard { On = "order.note" }] };
        var after = before with
        {
            Fields = [Sample.Copies with { Label = "Copies" }],
            Guards = [],
            Grants =
            [
                new Grant
                {
                    Id = "g-1",
                    To = ["role:desk"],
                    On = ["order.note"],
                    Level = "read",
                },
            ],
            Host = "1.1",
        };
        var notes = DefinitionChanges.Between(before, after, "All at once").ToList();
        Assert.Equal(
            [("definition", "f-copies"), ("access", "order.note"), ("access", "g-1"), ("definition", "host")],
            notes.Select(note => (note.Kind, note.Subject))
        );
        Assert.Contains("Certificate copies", notes[0].Before, StringComparison.Ordinal);
        Assert.Null(notes[1].After);
        Assert.Null(notes[2].Before);
        Assert.Empty(DefinitionChanges.Between(after, after, "Nothing"));
    }
}
