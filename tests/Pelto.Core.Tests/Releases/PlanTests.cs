using Pelto.Core.Elements;
using Pelto.Core.Releases;

namespace Pelto.Core.Tests.Releases;

public sealed class PlanTests
{
    private static readonly FieldDefinition Place = new()
    {
        Id = "f-place",
        RecordType = "order",
        Code = "place",
        Label = "Place",
        Kind = "text",
        Length = 20,
    };

    [Fact(
        DisplayName = "A new field: said in plain words, stored in steps that each come before the switch, but for looking through the rows"
    )]
    public void New_field_is_planned()
    {
        var plan = Make(
            [],
            [Sample.Copies with { DefaultValue = "2" }],
            StorageFacts.Nothing with
            {
                Records = new Dictionary<string, long> { ["order"] = 318 },
            }
        );
        Assert.Equal("Adds Certificate copies (integer) to orders, after Placed.", plan.Changes.Single().Sentence);
        Assert.Equal(
            "The 318 orders on file get no value; new ones begin with 2. Everyone who sees orders sees it; who may change them fills it.",
            plan.Changes.Single().Effect
        );
        Assert.Equal([typeof(CreateTable), typeof(AddColumn), typeof(AddCheck)], plan.Before.Select(step => step.GetType()));
        Assert.IsType<ValidateCheck>(plan.After.Single());
        Assert.True(plan.IsPublishable);
    }

    [Fact(DisplayName = "What is done already is not planned again")]
    public void Steps_know_when_they_are_done()
    {
        var made = Made(Place);
        var plan = Make([], [Place], made);
        Assert.Empty(plan.Before);
        Assert.All(Make([], [Place], StorageFacts.Nothing).Before, step => Assert.True(step.IsDone(made)));
    }

    [Theory(
        DisplayName = "A table that has had all the columns that the database keeps takes no further one: "
            + "the plan says so at the field, and what else it changes stays possible"
    )]
    [InlineData(AddedTables.Most, false)]
    [InlineData(AddedTables.Most - 1, true)]
    public void Full_tables_take_no_other_kind(int used, bool hasRoom)
    {
        var made = Made(Place);
        var full = made with { Added = new Dictionary<string, TableFacts> { ["order"] = made.Added["order"] with { Used = used } } };
        Assert.Empty(Make([Place], [Place with { Label = "Where to" }], full).Problems);
        var problems = Make([Place], [Place with { Kind = "date", Length = null, Column = 1 }], full).Problems;
        if (hasRoom)
            Assert.Empty(problems);
        else
            Assert.Equal(("f-place", "kind"), (Assert.Single(problems).Element, problems[0].Property));
    }

    [Fact(
        DisplayName = "Forty fields that are added alike are one change to read, with all forty behind it; "
            + "what is not alike stands by itself, and a few stay as they are"
    )]
    public void Alike_is_summarised()
    {
        List<FieldDefinition> many =
        [
            .. Enumerable.Range(0, 40).Select(i => Place with { Id = $"f-{i}", Code = $"place_{i}", Label = $"Place {i}" }),
        ];
        var plan = Make([Place], [Place with { Label = "Where to" }, .. many], Made(Place));
        var summary = plan.Summary().ToList();
        Assert.Equal(
            ["Renames Place to Where to.", "Adds 40 fields to orders: Place 0, Place 1, Place 2, Place 3 and 36 more."],
            summary.Select(one => one.Sentence)
        );
        Assert.Equal([1, 40], summary.Select(one => one.Changes.Count));
        Assert.Equal(plan.Changes, summary.SelectMany(one => one.Changes));
        Assert.Equal(
            "Retires 40 fields of orders: Place 0, Place 1, Place 2, Place 3 and 36 more.",
            Make([.. many], [.. many.Select(field => field with { Retired = true })], StorageFacts.Nothing).Summary().Single().Sentence
        );
        Assert.Equal(4, Make([], [.. many.Take(4)], StorageFacts.Nothing).Summary().Count());
    }

    [Fact(DisplayName = "A definition that stands on several record types counts the records of all")]
    public void All_places_count()
    {
        var plan = Make(
            [],
            [Place with { AlsoOn = [new("customer", "header")] }],
            StorageFacts.Nothing with
            {
                Records = new Dictionary<string, long> { ["order"] = 318, ["customer"] = 12 },
            }
        );
        Assert.StartsWith("The 318 orders and 12 customers on file get no value;", plan.Changes.Single().Effect, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "A longer text loosens the rule before the switch and keeps the new one after it")]
    public void Longer_is_planned()
    {
        var plan = Make([Place], [Place with { Length = 60 }], Made(Place));
        Assert.Equal("Place takes 60 characters instead of 20.", plan.Changes.Single().Sentence);
        Assert.IsType<DropCheck>(plan.Before.Single());
        Assert.Equal([typeof(AddCheck), typeof(ValidateCheck)], plan.After.Select(step => step.GetType()));
    }

    [Fact(DisplayName = "Shorter than values on file is refused with their count")]
    public void Shorter_than_values_is_refused()
    {
        var facts = Made(Place) with { Misfits = new Dictionary<string, long> { ["f-place"] = 12 } };
        var plan = Make([Place], [Place with { Length = 5 }], facts);
        Assert.Equal(("f-place", "length"), (plan.Problems.Single().Element, plan.Problems.Single().Property));
        Assert.StartsWith("12 values on file would not fit.", plan.Problems.Single().Sentence, StringComparison.Ordinal);
        Assert.False(plan.IsPublishable);
    }

    [Fact(DisplayName = "A field that nobody places makes no layer, so that the plan tells of the field alone")]
    public void No_layer_for_nothing() =>
        Assert.Empty(
            new SiteDefinition { Fields = [Place] }
                .Placing(Place.Id, null)
                .Layers
        );

    [Fact(DisplayName = "A label is free to change and touches no storage")]
    public void Labels_are_free()
    {
        var plan = Make([Place], [Place with { Label = "Where to" }], Made(Place));
        Assert.Equal("Renames Place to Where to.", plan.Changes.Single().Sentence);
        Assert.Empty(plan.Before.Concat(plan.After));
    }

    [Fact(
        DisplayName = "A change of kind goes over a new column: values are carried before the switch, and what was written meanwhile after it"
    )]
    public void Kinds_change()
    {
        var facts = Made(Place) with { Conversions = new Dictionary<string, Conversions> { ["f-place"] = new(40, 2, []) } };
        var plan = Make([Place], [Settled(Place, Place with { Kind = "date", Length = null })], facts);
        Assert.Equal("Place becomes date.", plan.Changes.Single().Sentence);
        Assert.StartsWith(
            "40 values on file are converted while everyone works; 2 cannot be turned and become empty.",
            plan.Changes.Single().Effect,
            StringComparison.Ordinal
        );
        Assert.Equal([typeof(AddColumn), typeof(TrackColumn), typeof(ConvertValues)], plan.Before.Select(step => step.GetType()));
        Assert.IsType<FinishConversion>(plan.After[0]);
        Assert.Equal("place__2", ((AddColumn)plan.Before[0]).Column.Name);
    }

    [Fact(
        DisplayName = "A change of kind taken back in the draft leaves the column; "
            + "taken back when live, it goes to the earlier column; the next change gets a third"
    )]
    public void Kinds_change_back()
    {
        var changed = Settled(Place, Place with { Kind = "date", Length = null });
        Assert.Equal(1, changed.Column);
        Assert.Equal(0, Settled(Place, changed with { Kind = "text", Length = 20 }).Column);
        var back = Settled(changed, Place with { Column = 0 });
        Assert.Equal((0, 1), (back.Column, back.LastColumn));
        Assert.Equal(2, Settled(back, back with { Kind = "integer" }).Column);
    }

    [Fact(DisplayName = "Retired, a field leaves the catalogue and keeps its column and its code")]
    public void Retired_fields_keep_their_data()
    {
        var plan = Make([Place], [Place with { Retired = true }], Made(Place));
        Assert.Equal("Retires Place.", plan.Changes.Single().Sentence);
        Assert.Empty(plan.Before.Concat(plan.After));
        Assert.Contains(
            "retired field",
            Make([Place with { Retired = true }], [Place with { Retired = true }, Sample.Copies with { Code = "place" }], Made(Place))
                .Problems.Single()
                .Sentence,
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Removed, a field's data is saved and only then dropped, after the switch")]
    public void Removed_fields_are_saved_first()
    {
        var site = new SiteDefinition { Removed = [new("f-place", "Place", "order", "header", "place", ["place"])] };
        var plan = Planning.Make(
            Sample.Catalogue(Place),
            Core.Catalog.Catalogue.Build(1, Sample.Host, site),
            Made(Place) with
            {
                Filled = new Dictionary<string, long> { ["f-place"] = 7 },
            }
        );
        Assert.Equal("Removes Place for good.", plan.Changes.Single().Sentence);
        Assert.Contains("(7 values)", plan.Changes.Single().Effect, StringComparison.Ordinal);
        Assert.Empty(plan.Before);
        Assert.Equal([typeof(SaveData), typeof(DropColumns)], plan.After.Select(step => step.GetType()));
    }

    [Fact(DisplayName = "Unique is a database's promise, made before the switch; values that stand twice forbid it")]
    public void Uniqueness_is_planned()
    {
        var plan = Make([Place], [Place with { Unique = true }], Made(Place));
        Assert.IsType<AddUnique>(plan.Before.Single());
        Assert.Equal(
            "unique",
            Make([Place], [Place with { Unique = true }], Made(Place) with { Doubles = new Dictionary<string, long> { ["f-place"] = 3 } })
                .Problems.Single()
                .Property
        );
    }

    [Fact(DisplayName = "Filling records on file and merging choices become jobs of the release, once")]
    public void Jobs_are_planned()
    {
        var filled = Place with { DefaultValue = "Quay", FillExisting = true };
        Assert.Equal(
            (PlannedJob.FillStart, "f-place", "Quay"),
            Make([Place], [filled], Made(Place)).Jobs.Select(job => (job.Work, job.Field, job.To)).Single()
        );
        Assert.Empty(Make([filled], [filled with { Label = "Where" }], Made(Place)).Jobs);
        var choice = new FieldDefinition
        {
            Id = "f-c",
            RecordType = "order",
            Code = "grade",
            Label = "Grade",
            Kind = "choice",
            Choices = [new("a", "A"), new("b", "B")],
        };
        var merged = choice with { Choices = [new("a", "A"), new Choice("b", "B") { MergedInto = "a" }] };
        var plan = Make([choice], [merged], Made(choice) with { Merged = new Dictionary<(string, string), long> { [("f-c", "b")] = 5 } });
        Assert.Equal((PlannedJob.MergeChoice, "b", "a"), plan.Jobs.Select(job => (job.Work, job.From, job.To)).Single());
        Assert.StartsWith("5 records with B get A; it can be undone.", plan.Changes.Single().Effect, StringComparison.Ordinal);
    }

    [Fact(DisplayName = "One definition for several record types has a column in each, and a change reaches all")]
    public void One_definition_reaches_all()
    {
        var both = Place with { AlsoOn = [new("customer", "header", Printed: true)] };
        var catalogue = Sample.Catalogue(both);
        Assert.Empty(catalogue.Problems);
        Assert.Equal(
            ["order", "customer"],
            new[] { "f-place", "f-place@customer.header" }.Select(id => catalogue.FindField(id)!.Part.Table)
        );
        Assert.Equal(2, Make([], [both], StorageFacts.Nothing).Before.OfType<AddColumn>().Count());
        Assert.Equal("Where", Sample.Catalogue(both with { Label = "Where" }).FindField("f-place@customer.header")!.Label);
    }

    [Theory(DisplayName = "Code and part of a live field stay")]
    [InlineData("code"), InlineData("part")]
    public void What_lasts_stays(string property)
    {
        var changed = property switch
        {
            "code" => Place with { Code = "other" },
            _ => Place with { Part = "lines" },
        };
        Assert.Contains(Make([Place], [changed], Made(Place)).Problems, problem => problem.Property == property);
    }

    [Fact(DisplayName = "Taking a field out keeps its column, and its code cannot be given to another field over its data")]
    public void Taken_out_fields_keep_their_data()
    {
        var gone = Make([Place], [], Made(Place));
        Assert.Equal("Takes Place out of use.", gone.Changes.Single().Sentence);
        Assert.Empty(gone.Before.Concat(gone.After));
        Assert.Contains(
            "its data is still kept",
            Make([], [Place with { Id = "f-other" }], Made(Place)).Problems.Single().Sentence,
            StringComparison.Ordinal
        );
        Assert.Empty(Make([], [Place], Made(Place)).Problems);
        Assert.Equal("kind", Make([], [Place with { Kind = "date", Length = null }], Made(Place)).Problems.Single().Property);
    }

    [Fact(DisplayName = "Choices are compared by code: added, taken away, renamed")]
    public void Choices_are_compared()
    {
        var old = new FieldDefinition
        {
            Id = "f-c",
            RecordType = "order",
            Code = "grade",
            Label = "Grade",
            Kind = "choice",
            Choices = [new("a", "A"), new("b", "B")],
        };
        var plan = Make([old], [old with { Choices = [new("a", "Alpha"), new("c", "C")] }], Made(old));
        Assert.Equal("Changes the choices of Grade: adds C; takes away B; renames A to Alpha.", plan.Changes.Single().Sentence);
    }

    [Fact(DisplayName = "The same definition is an empty plan")]
    public void Nothing_is_nothing() => Assert.True(Make([Place], [Place with { }], Made(Place)).IsEmpty);

    [Fact(DisplayName = "A draft with a problem is not publishable, and not taken for empty")]
    public void Problems_block()
    {
        var plan = Make([], [Sample.Copies with { Code = "note" }], StorageFacts.Nothing);
        Assert.Equal((false, false), (plan.IsEmpty, plan.IsPublishable));
        Assert.Equal("Adds Certificate copies.", plan.Changes.Single().Sentence);
    }

    private static FieldDefinition Settled(FieldDefinition live, FieldDefinition draft) =>
        new SiteDefinition { Fields = [draft] }
            .WithColumns(new() { Fields = [live] })
            .Fields[0];

    private static readonly FieldDefinition Buyer = new()
    {
        Id = "f-buyer",
        RecordType = "order",
        Code = "buyer",
        Label = "Buyer",
        Kind = "link",
        Target = "customer",
    };

    [Fact(
        DisplayName = "A link is a true reference before anybody can write one; looking through what is on file and the index come after"
    )]
    public void Links_are_references()
    {
        var plan = Make([], [Buyer], StorageFacts.Nothing);
        Assert.Equal([typeof(CreateTable), typeof(AddColumn), typeof(AddReference)], plan.Before.Select(step => step.GetType()));
        Assert.Equal([typeof(ValidateReference), typeof(AddLinkIndex)], plan.After.Select(step => step.GetType()));
        Assert.StartsWith("Adds Buyer (link to customers) to orders", plan.Changes.Single().Sentence, StringComparison.Ordinal);
    }

    [Fact(
        DisplayName = "What follows deleting the target can change any time: "
            + "one reference takes the place of the other. What it points to, and being a link at all, stays"
    )]
    public void Links_last()
    {
        var facts = Made(Buyer);
        var table = facts.Added["order"] with
        {
            References = [new("as_it_was_called", "buyer", IsValidated: true, "customer", Clears: false)],
            LinkIndexes = new HashSet<string> { new AddLinkIndex(Sample.Catalogue(Buyer).FindField("f-buyer")!).Name },
        };
        var made = facts with { Added = new Dictionary<string, TableFacts> { ["order"] = table } };
        Assert.Empty(Make([Buyer], [Buyer], made) is var same ? same.Before.Concat(same.After) : []);

        var plan = Make([Buyer], [Buyer with { ClearsWithTarget = true }], made);
        Assert.Equal([typeof(DropReference), typeof(AddReference)], plan.Before.Select(step => step.GetType()));
        Assert.Equal("Buyer becomes empty when what it points to is deleted.", plan.Changes.Single().Sentence);

        Assert.Contains(Make([Buyer], [Buyer with { Target = "order" }], made).Problems, problem =>
            problem is { Element: "f-buyer", Property: "target" }
        );
        Assert.Contains(Make([Buyer], [Buyer with { Kind = "text", Target = null }], made).Problems, problem =>
            problem is { Element: "f-buyer", Property: "kind" }
        );
        Assert.Contains(
            Make([Sample.Copies], [Sample.Copies with { Kind = "link", Target = "customer" }], Made(Sample.Copies)).Problems,
            problem => problem is { Element: "f-copies", Property: "kind" }
        );
    }

    [Fact(
        DisplayName = "The table of several links is made anew "
            + "when what follows deleting a target is another, and looked through whatever its foreign key is called"
    )]
    public void Link_tables_last()
    {
        var buyers = Buyer with { Kind = "links" };
        var field = Sample.Catalogue(buyers).FindField("f-buyer")!;
        StorageFacts With(ReferenceFacts reference) =>
            Made(buyers) with
            {
                LinkTables = new Dictionary<string, ReferenceFacts> { [new KeepLinks(field).Table] = reference },
            };
        var there = new ReferenceFacts("target_as_it_was", "target", IsValidated: true, "customer", Clears: false);
        Assert.Empty(Make([buyers], [buyers], With(there)) is var same ? same.Before.Concat(same.After) : []);
        Assert.Equal(
            "target_as_it_was",
            Assert.IsType<ValidateLinks>(Make([buyers], [buyers], With(there with { IsValidated = false })).After.Single()).Name
        );
        Assert.IsType<KeepLinks>(Make([buyers], [buyers with { ClearsWithTarget = true }], With(there)).Before.Single());
    }

    [Fact(
        DisplayName = "What stands in databases by name keeps its name: "
            + "it comes from what is kept there, and from nothing that only people read"
    )]
    public void Names_last()
    {
        FieldDefinition[] definitions =
        [
            Place with
            {
                Unique = true,
                Indexed = true,
            },
            Place with
            {
                Id = "f-town",
                RecordType = "customer",
                Code = "town",
                Label = "Town",
            },
            Buyer with
            {
                Finds = ["town"],
            },
            Buyer with
            {
                Id = "f-buyers",
                Code = "buyers",
                Label = "Buyers",
                Kind = "links",
                ClearsWithTarget = true,
            },
            Sample.Copies with
            {
                Id = "f-twice",
                Code = "twice",
                Label = "Twice",
                Kind = "integer",
                Formula = "copies * 2",
                Live = true,
                Indexed = true,
            },
            Sample.Copies,
        ];
        var catalogue = Sample.Catalogue(definitions);
        Field Of(string id) => catalogue.FindField(id)!;
        string[] names =
        [
            .. AddCheck.For(Of("f-place")).Select(check => check.Name),
            new AddUnique(Of("f-place")).Name,
            new AddListIndex(Of("f-place")).Name,
            new AddListIndex(Of("f-twice")).Name,
            new AddReference(Of("f-buyer")).Name,
            new AddLinkIndex(Of("f-buyer")).Name,
            .. AddFindIndex.For(Of("f-buyer")).Select(index => index.Name),
            new KeepLinks(Of("f-buyers")).Table,
            new KeepLinks(Of("f-buyers")).Name,
        ];
        Assert.Equal(
            [
                "place_length_572b6c5b",
                "place_unique_3eeb7e96",
                "place_list_e4153f16",
                "twice_list_38ec7c9b",
                "buyer_link_deed263a",
                "buyer_links_3eeb7e96",
                "customer_find_23b97b68",
                "order__buyers",
                "target_543bb074",
            ],
            names
        );

        // The same formula over another column is another index.
        var moved = Sample.Catalogue([
            .. definitions.Select(field => field.Id == Sample.Copies.Id ? field with { Column = 1, LastColumn = 1 } : field),
        ]);
        Assert.NotEqual(new AddListIndex(Of("f-twice")).Name, new AddListIndex(moved.FindField("f-twice")!).Name);
    }

    private static Plan Make(FieldDefinition[] live, FieldDefinition[] draft, StorageFacts facts) =>
        Planning.Make(Sample.Catalogue(live), Sample.Catalogue(draft), facts);

    /// <summary>The database as it is once this field is live.</summary>
    private static StorageFacts Made(FieldDefinition definition)
    {
        var field = Sample.Catalogue(definition).FindField(definition.Id)!;
        var table = TableFacts.Bare with
        {
            Columns = field.Columns.ToDictionary(column => column.Name, column => new ColumnFacts(field.Id, column.Type)),
            Checks = [.. AddCheck.For(field).Select(check => new CheckFacts(check.Name, field.Columns[0].Name, IsValidated: true))],
        };
        return StorageFacts.Nothing with { Added = new Dictionary<string, TableFacts> { [field.Part.Table] = table } };
    }
}
