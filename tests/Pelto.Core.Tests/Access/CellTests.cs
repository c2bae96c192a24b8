using Pelto.Core.Access;
using Pelto.Core.Binding;
using Pelto.Core.Catalog;
using Pelto.Core.Values;
using Xunit;

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
        var cell = Cell.Of(field, whole, level, "Selkäsaari Boatyard");
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
        Assert.Equal(read, Cell.Of(FieldOf("text", ending), Value.Of(whole), level).Text());

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
        kind.Holds switch
        {
            ValueForm.Text => Value.Of(kind.IsChoice ? "a" : "FI12345678"),
            ValueForm.Number => Value.Of(12m),
            ValueForm.Money => Value.Money(12m, "EUR"),
            ValueForm.Quantity => Value.Quantity(12m, "KGM"),
            ValueForm.Date => Value.Of(Sample.Today),
            ValueForm.Time => Value.Of(new TimeOnly(8, 30)),
            ValueForm.Moment => Value.Of(new DateTime(2026, 11, 25, 8, 30, 0, DateTimeKind.Utc)),
            ValueForm.YesNo => Value.Of(true),
            ValueForm.Several => Value.Of(["a"]),
            ValueForm.Link => Value.LinkTo(7),
            ValueForm.Links => Value.LinksTo([7, 8]),
            ValueForm.File => Value.FileOf(Guid.Empty, "plan.pdf"),
            ValueForm.Secret => Value.Sealed("sealed"),
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind.Name, "A value of this kind is wanted here."),
        };
}
