using Pelto.Core.Access;
using Pelto.Core.Layouts;

namespace Pelto.Core.Tests.Catalog;

/// <summary>Forms for people outside: what they can ask for, and what those people reach.</summary>
public sealed class PublicFormTests
{
    private static readonly PublicFormDefinition Good = new()
    {
        Address = "abcdefgh2345",
        Title = "Send us a claim",
        Fields = [new("name"), new("bought"), new("of", "number <> \"C-2\""), new("parts.description")],
    };

    private static Catalogue With(PublicFormDefinition form, params FieldDefinition[] more) =>
        Catalogue.Build(
            1,
            Sample.Host,
            new()
            {
                RecordTypes =
                [
                    new()
                    {
                        Id = "t-claim",
                        Code = "claim",
                        Label = "Claim",
                        Plural = "Claims",
                        Lines = [new("parts", "Part", "Parts")],
                        Read = ["*"],
                        Write = ["desk"],
                        PublicForm = form,
                    },
                ],
                Fields =
                [
                    new()
                    {
                        Id = "f-bought",
                        RecordType = "claim",
                        Code = "bought",
                        Label = "Bought on",
                        Kind = "date",
                        Required = true,
                    },
                    new()
                    {
                        Id = "f-of",
                        RecordType = "claim",
                        Code = "of",
                        Label = "Customer",
                        Kind = "link",
                        Target = "customer",
                    },
                    new()
                    {
                        Id = "f-verdict",
                        RecordType = "claim",
                        Code = "verdict",
                        Label = "Verdict",
                        Kind = "text",
                    },
                    new()
                    {
                        Id = "f-key",
                        RecordType = "claim",
                        Code = "key",
                        Label = "Key",
                        Kind = "secret",
                    },
                    new()
                    {
                        Id = "f-photo",
                        RecordType = "claim",
                        Code = "photo",
                        Label = "Photo",
                        Kind = "image",
                    },
                    .. more,
                ],
            }
        );

    [Fact(
        DisplayName = "People outside write what the form asks for, and nothing else is there for them: "
            + "no other field, no record of any type, nothing to change or delete"
    )]
    public void Outside_is_outside()
    {
        var catalogue = With(Good);
        Assert.Empty(catalogue.Problems);
        var form = catalogue.FindForm(Good.Address)!;
        var outside = Viewer.Outside(form, Locale.International);
        foreach (var type in catalogue.RecordTypes)
        {
            Assert.Equal(
                (AccessLevel.None, false, false, false, type == form.Type),
                (outside.LevelAt(type), outside.MayRead(type), outside.MayChange(type), outside.MayDelete(type), outside.MayCreate(type))
            );
            foreach (var field in type.Parts.SelectMany(part => part.Fields))
            {
                var asked =
                    type == form.Type && Good.Fields.Any(one => one.Field == (field.Part.IsLines ? $"parts.{field.Code}" : field.Code));
                Assert.Equal(asked ? AccessLevel.Write : AccessLevel.None, outside.LevelAt(field));
                Assert.Equal(asked && field.Code == "of", outside.MayChoose(field));
            }
        }

        Assert.Equal(["name", "bought", "of", "description"], form.Layout.Fields.Select(field => field.Code));
        Assert.Null(catalogue.FindForm("abcdefgh2346"));
    }

    [Theory(DisplayName = "What cannot be asked of people outside is said in a sentence")]
    [InlineData("nothing", null, "Claims have no field “nothing”.")]
    [InlineData("parts.nothing", null, "Claims have no field “parts.nothing”.")]
    [InlineData("number", null, "Number is filled by itself; a public form asks for what people type.")]
    [InlineData("key", null, "Key is a secret; a public form asks for none.")]
    [InlineData("photo", null, "Photo is a file; a public form takes none, since nobody would have looked at it before it is here.")]
    [InlineData(
        "of",
        null,
        "Say which customers people outside may find in Customer, such as NOT(ISBLANK(number)); TRUE() releases all of them."
    )]
    [InlineData("of", "number = ", "Customer, at character 10: Something is missing at the end.")]
    [InlineData("of", "number", "Customer: a condition gives yes or no, such as NOT(ISBLANK(number)).")]
    [InlineData("verdict", "TRUE()", "Verdict is not a link, so there is nothing to release.")]
    public void Refusals(string field, string? released, string sentence)
    {
        var catalogue = With(Good with { Fields = [new(field, released)] });
        Assert.Equal(sentence, Assert.Single(catalogue.Problems).Sentence);
        Assert.Equal("t-claim", catalogue.Problems[0].Element);
        Assert.Null(catalogue.FindForm(Good.Address));
    }

    [Fact(
        DisplayName = "A link that waits for a field which the form does not ask for is refused, "
            + "as is an address that could be guessed, and one that another form has"
    )]
    public void Forms_work_as_a_whole()
    {
        var narrowed = new FieldDefinition
        {
            Id = "f-order",
            RecordType = "claim",
            Code = "order",
            Label = "Order",
            Kind = "link",
            Target = "order",
            Offers = "customer = record.of",
        };
        Assert.Equal(
            "Order offers only what goes with Customer, which the public form does not ask for.",
            Assert.Single(With(Good with { Fields = [new("order", "TRUE()")] }, narrowed).Problems).Sentence
        );
        Assert.Empty(With(Good with { Fields = [.. Good.Fields, new("order", "TRUE()")] }, narrowed).Problems);
        Assert.Contains("12 to 60", Assert.Single(With(Good with { Address = "claims" }).Problems).Sentence, StringComparison.Ordinal);
        var site = With(Good).Site;
        var twin = Catalogue.Build(
            1,
            Sample.Host,
            site with
            {
                RecordTypes =
                [
                    .. site.RecordTypes,
                    new()
                    {
                        Id = "t-twin",
                        Code = "twin",
                        Label = "Twin",
                        Plural = "Twins",
                        Read = ["*"],
                        Write = ["desk"],
                        PublicForm = Good with { Fields = [new("name")] },
                    },
                ],
            }
        );
        Assert.Equal(
            ("t-twin", "Another public form has this address; Twin needs one of its own."),
            (Assert.Single(twin.Problems).Element, twin.Problems[0].Sentence)
        );
        Assert.Equal(2, With(Good with { Title = " ", Fields = [] }).Problems.Count);
    }

    [Fact(DisplayName = "New addresses differ, and fit the rule")]
    public void Addresses_differ()
    {
        var some = Enumerable.Range(0, 50).Select(_ => PublicFormDefinition.NewAddress()).ToList();
        Assert.Equal(50, some.Distinct().Count());
        Assert.All(some, address => Assert.Empty(With(Good with { Address = address }).Problems));
    }
}
