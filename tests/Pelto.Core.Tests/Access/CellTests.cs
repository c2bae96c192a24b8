using Pelto.Core.Access;

namespace Pelto.Core.Tests.Access;

public sealed class CellTests
{
    public static TheoryData<string, AccessLevel> Levels =>
        new(from kind in FieldKinds.Definable from level in Enum.GetValues<AccessLevel>() select (kind.Name, level));

    [Theory(DisplayName = "Of a value of any kind, whoever may not read it gets nothing: no text, no label, no JSON, no value")]
    [MemberData(nameof(Levels))]
    public void Nothing_is_told_below_reading(string name, AccessLevel level)
    {
        var field = FieldOf(name);
        var whole = SomeOf(field.Kind);
        var cell = Cell.From(field, whole, level, "Selkäsaari Boatyard");
        if (level >= AccessLevel.Read)
        {
            Assert.Equal((whole, level, null as string), (cell.Value, cell.Level, cell.Mask));
            Assert.Equal(field.Kind.IsLink ? "Selkäsaari Boatyard" : field.Kind.Format(whole), cell.Text());
            Assert.Equal(field.Kind.ToJson(whole)?.ToJsonString(), cell.ToJson()?.ToJsonString());
            return;
        }

        Assert.Equal((Value.Empty, "", null, null), (cell.Value, cell.Label, cell.ToJson(), cell.Ending));
        Assert.Equal(level == AccessLevel.Masked ? Masks.Pattern : "", cell.Text());
    }

    [Theory(DisplayName = "An ending is left of a masked text that is long enough, where its guard leaves one, and of nothing else")]
    [InlineData(true, AccessLevel.Masked, "FI12345678", "••••• 5678")]
    [InlineData(true, AccessLevel.Masked, "1234567", "•••••")]
    [InlineData(false, AccessLevel.Masked, "FI12345678", "•••••")]
    [InlineData(true, AccessLevel.None, "FI12345678", "")]
    [InlineData(true, AccessLevel.Read, "FI12345678", "FI12345678")]
    public void Endings(bool ending, AccessLevel level, string whole, string read) =>
        Assert.Equal(read, Cell.From(FieldOf("text", ending), Value.From(whole), level).Text());

    private static Field FieldOf(string kind, bool ending = false)
    {
        var definition = new FieldDefinition
        {
            Id = "f-any",
            RecordType = "order",
            Code = "any_of_it",
            Label = "Any",
            Kind = kind,
            Target = kind is "link" or "links" ? "customer" : null,
            Choices = kind is "choice" or "choices" ? [new("a", "Apple")] : null,
        };
        var site = new SiteDefinition { Fields = [definition], Guards = [new() { On = "f-any", Ending = ending }] };
        return Catalogue.Build(1, Sample.Host, site).FindField("f-any")!;
    }

    private static Value SomeOf(FieldKind kind) =>
        kind.DataType switch
        {
            DataType.Text => Value.From(kind.IsChoice ? "a" : "FI12345678"),
            DataType.Number => Value.From(12m),
            DataType.Money => Value.Money(12m, "EUR"),
            DataType.Quantity => Value.Quantity(12m, "KGM"),
            DataType.Date => Value.From(Sample.Today),
            DataType.Time => Value.From(new TimeOnly(8, 30)),
            DataType.Moment => Value.From(new DateTime(2026, 11, 25, 8, 30, 0, DateTimeKind.Utc)),
            DataType.YesNo => Value.From(true),
            DataType.Several => Value.From(["a"]),
            DataType.Link => Value.LinkTo(7),
            DataType.Links => Value.LinksTo([7, 8]),
            DataType.File => Value.FileOf(Guid.Empty, "plan.pdf"),
            DataType.Secret => Value.Sealed("sealed"),
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind.Name, "A value of this kind is expected here."),
        };
}
