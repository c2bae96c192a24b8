namespace Pelto.Core.Tests.Catalog;

public sealed class CatalogueTests
{
    [Fact(DisplayName = "An added field stands among the built-in ones and differs only in who may change it")]
    public void Added_fields_join()
    {
        var catalogue = Sample.Catalogue(Sample.Copies);
        var field = catalogue.Find("order")!.Header.Find("copies")!;
        Assert.Empty(catalogue.Problems);
        Assert.True(field.IsAdded);
        Assert.Equal(catalogue.Find("order")!.Header.Fields[field.Slot], field);
        Assert.Contains(field, catalogue.Find("order")!.ListColumns);
    }

    public static TheoryData<FieldDefinition, string, string> Wrongs { get; } =
        new()
        {
            { Sample.Copies with { Code = "note" }, "code", "taken by the built-in field Note" },
            { Sample.Copies with { Code = "2nd" }, "code", "cannot be a code" },
            { Sample.Copies with { Code = "id" }, "code", "a column id of its own" },
            { Sample.Copies with { Code = "lines" }, "code", "taken by the lines" },
            { Sample.Copies with { Code = "" }, "code", "Give it a code." },
            { Sample.Copies with { Label = " " }, "label", "Give it a label" },
            { Sample.Copies with { Kind = "colour" }, "kind", "There is no kind “colour”" },
            { Sample.Copies with { Kind = "link", Target = "boat" }, "target", "There is no record type “boat” to point to." },
            { Sample.Copies with { Kind = "link" }, "target", "Choose the record type" },
            { Sample.Copies with { Kind = "link", Target = "customer", DefaultValue = "1" }, "defaultValue", "A link begins empty" },
            {
                Sample.Copies with
                {
                    Kind = "link",
                    Target = "customer",
                    Required = true,
                    ClearsWithTarget = true,
                },
                "clearsWithTarget",
                "cannot become empty"
            },
            { Sample.Copies with { RecordType = "boat" }, "recordType", "There is no record type “boat”." },
            { Sample.Copies with { Part = "rows" }, "part", "It has: header, lines." },
            {
                Sample.Copies with
                {
                    DefaultValue = "two",
                },
                "defaultValue",
                "Its own rules refuse this default. “two” is not a whole number."
            },
            { Sample.Copies with { Kind = "text", Length = 3, DefaultValue = "long one" }, "defaultValue", "At most 3 characters fit" },
            { Sample.Copies with { Kind = "text", Length = 0 }, "length", "1 to 4000 characters" },
            { Sample.Copies with { Kind = "decimal", Digits = 4, Decimals = 5 }, "decimals", "no more than there are in all" },
            { Sample.Copies with { Kind = "choice" }, "choices", "Name at least one choice" },
            { Sample.Copies with { Kind = "choice", Choices = [new("a", "One"), new("a", "Two")] }, "choices", "is used for two choices" },
            { Sample.Copies with { Kind = "choice", Choices = [new("a", "One"), new("b", "one ")] }, "choices", "is there twice" },
        };

    [Theory(DisplayName = "What does not work becomes a problem at its property, and the rest still stands"), MemberData(nameof(Wrongs))]
    public void Wrong_definitions_become_problems(FieldDefinition wrong, string property, string said)
    {
        var catalogue = Sample.Catalogue(wrong);
        Assert.Contains(catalogue.Problems, problem =>
            problem.Element == wrong.Id && problem.Property == property && problem.Sentence.Contains(said, StringComparison.Ordinal)
        );
        Assert.Null(catalogue.FindField(wrong.Id));
        Assert.NotNull(catalogue.Find("order")!.Header.Find("note"));
    }

    [Fact(DisplayName = "Required, on no screen and without a default would lock everyone out: refused with the reason")]
    public void Unreachable_required_is_refused()
    {
        var site = new SiteDefinition { Fields = [Sample.Copies with { Required = true }] }.Placing(
            "f-copies",
            new() { Op = LayerOperation.Hide, Part = "f-copies" }
        );
        Assert.Contains(Catalogue.Build(1, Sample.Host, site).Problems, problem => problem is { Element: "f-copies", Property: "place" });
        var filled = site.With(Sample.Copies with { Required = true, DefaultValue = "1" });
        Assert.Empty(Catalogue.Build(1, Sample.Host, filled).Problems);
    }

    [Fact(DisplayName = "The same code may stand in the header and in the lines")]
    public void Parts_have_codes_of_their_own() =>
        Assert.Empty(Sample.Catalogue(Sample.Copies, Sample.Copies with { Id = "f-2", Part = "lines" }).Problems);

    [Fact(DisplayName = "The site definition reads back as it was written, and refuses what it does not know")]
    public void Definition_reads_back()
    {
        var site = new SiteDefinition { Fields = [Sample.Copies with { DefaultValue = "2", Help = "How many?" }] }.Placing(
            "f-copies",
            new()
            {
                Op = "put",
                Part = "f-copies",
                After = "order.note",
            }
        );
        Assert.True(SiteDefinition.FromJson(site.ToJson()).IsSameAs(site));
        Assert.Equal("2", SiteDefinition.FromJson("""{"fields":[{"defaultValue": 2}]}""").Fields[0].DefaultValue);
        Assert.Throws<System.Text.Json.JsonException>(() => SiteDefinition.FromJson("""{"feilds":[]}"""));
    }

    [Theory(DisplayName = "A code follows from the label: a plain identifier, unique")]
    [
        InlineData("Certificate copies", "certificate_copies"),
        InlineData("Leg angle, °", "leg_angle"),
        InlineData("Näyttö Øst", "naytto_ost")
    ]
    [InlineData("2nd mate", "n2nd_mate"), InlineData("  --  ", ""), InlineData("Note", "note_2"), InlineData("Position", "position_2")]
    public void Codes_follow_labels(string label, string code) => Assert.Equal(code, Codes.From(label, ["note"]));

    [Fact(DisplayName = "A circle of formulas is refused with the path that closes it")]
    public void Circles_are_refused()
    {
        var order = Sample.Host.RecordTypes[1];
        var fields = order.Fields.Select(field => field.Code == "total" ? field with { Formula = "vat + 1" } : field).ToList();
        var catalogue = Catalogue.Build(
            1,
            Sample.Host with
            {
                RecordTypes = [Sample.Host.RecordTypes[0], order with { Fields = fields }],
            },
            SiteDefinition.Nothing
        );
        Assert.Contains(catalogue.Problems, problem =>
            problem.Sentence == "These fields depend on each other in a circle: Total reads Vat reads Total."
        );
    }

    [Fact(DisplayName = "Each kind that can be chosen is made from its own name")]
    public void Kinds_are_made() =>
        Assert.All(FieldKinds.Definable, kind =>
            Assert.Equal(
                kind.GetType(),
                FieldKinds.Make(Sample.Copies with { Kind = kind.Name, Choices = [new Choice("a", "A")] }, static (_, _) => { })!.GetType()
            )
        );
}
