using Pelto.Core.Elements;
using Pelto.Core.Layouts;
using Pelto.Core.Releases;
using Pelto.Core.Updates;

namespace Pelto.Core.Tests.Updates;

/// <summary>
/// The host's version 2.0, worked by hand: the section Head is renamed with another id, note becomes remark and moves to the front page,
/// vat is taken away, window is new after placed, and discount of lines becomes rebate.
/// </summary>
public sealed class HostUpdateTests
{
    private static readonly HostDescription Next = (
        Sample.Host with
        {
            Version = "2.0",
            Follows = "1.0",
            RecordTypes = [Sample.Host.RecordTypes[0], Orders()],
        }
    ).Following(Sample.Host);
    private static readonly HostDescription Now = Sample.Host.Knowing(Next);

    private static RecordTypeDescription Orders()
    {
        var old = Sample.Host.RecordTypes[1];
        return old with
        {
            Fields =
            [
                .. old
                    .Fields.Where(field => field.Code != "vat")
                    .Select(field =>
                        field.Code == "note" ? field with { Code = "remark", Was = "note", Column = "note", Label = "Remark" } : field
                    ),
                new()
                {
                    Code = "window",
                    Label = "Window",
                    Kind = "text",
                    Length = 20,
                },
            ],
            Lines =
            [
                old.Lines[0] with
                {
                    Fields =
                    [
                        .. old.Lines[0]
                            .Fields.Select(field =>
                                field.Code switch
                                {
                                    "discount" => field with { Code = "rebate", Was = "discount", Column = "discount" },
                                    "amount" => field with
                                    {
                                        Formula = field.Formula!.Replace("discount", "rebate", StringComparison.Ordinal),
                                    },
                                    _ => field,
                                }
                            ),
                    ],
                },
            ],
            Screen = new([
                new(
                    "order.main",
                    "Order",
                    [
                        new(
                            "order.main.top",
                            "Who and when",
                            [new("number", 2), new("customer", 4), new("placed", 2), new("window", 2), new("remark", 4)]
                        )
                        {
                            Was = "order.main.head",
                        },
                        new("order.main.lines", "Lines", [new("quantity", 2), new("price", 2), new("rebate", 2), new("amount", 2)])
                        {
                            Lines = "lines",
                        },
                        new("order.main.totals", "Totals", [new("total", 3)]),
                    ]
                ),
            ]),
        };
    }

    private static FieldDefinition Field(string code, string kind = "text") =>
        new()
        {
            Id = "f-" + code,
            RecordType = "order",
            Code = code,
            Label = code,
            Kind = kind,
        };

    private static LayerOperation Put(string part, string after) =>
        new()
        {
            Op = LayerOperation.Put,
            Part = part,
            After = after,
        };

    private static SiteDefinition Site(params LayerOperation[] operations) =>
        new()
        {
            Fields = [Field("ramp"), Field("grade"), Field("depot")],
            Layers =
            [
                new Layer
                {
                    Id = "site",
                    Label = "Site",
                    Operations = operations,
                },
            ],
        };

    private static HostUpdate Update(SiteDefinition site, HostDescription? to = null, HostDescription? from = null) =>
        HostUpdate.Make(Catalogue.Build(3, from ?? Now, site), to ?? Next);

    private static Catalogue After(HostUpdate update) => Catalogue.Build(4, update.To, update.Site);

    private static IReadOnlyList<string> Section(Catalogue catalogue, string id) =>
        [.. catalogue.Find("order")!.Screen.Layout.Sections.Single(section => section.Id == id).Items.Select(item => item.Id)];

    [Fact]
    public void Says_what_the_host_changes()
    {
        string[] said = [.. Update(Site()).Changes.Select(change => change.Sentence)];
        Assert.Equal(
            [
                "Remark has the code remark instead of note; who still sends the old one is understood.",
                "Note is called Remark.",
                "Remark moves from the page More to the page Order, section Who and when.",
                "Window is new (text, up to 20), in Who and when on the page Order.",
                "Discount has the code rebate instead of discount; who still sends the old one is understood.",
                "Vat is removed. What records hold in it stays in the ERP's table, and comes back with the field.",
                "The page More is removed.",
                "The section Head is called Who and when.",
                "The section Notes is removed.",
            ],
            said
        );
    }

    // Site and host each changed something, or the same: by hand, one case each.
    [Theory]
    [InlineData("order.total", Fate.Stays, null)]
    [InlineData("order.placed", Fate.Stays, "The ERP's new Window comes right after it.")]
    [InlineData("order.note", Fate.Follows, "ramp goes with Remark to the page Order, section Who and when.")]
    [InlineData("order.main.head", Fate.Follows, "Head is called Who and when now.")]
    [InlineData("order.vat", Fate.LosesAnchor, "ramp was to stand after Vat, which is no longer in 2.0; it stands after Total meanwhile.")]
    [InlineData(
        "order.more.notes",
        Fate.LosesAnchor,
        "ramp was to stand after Notes, which is no longer in 2.0; it stands first in Totals meanwhile."
    )]
    public void An_added_field_stays_follows_or_says_where_it_stands_meanwhile(string anchor, Fate fate, string? sentence)
    {
        var update = Update(Site(Put("f-ramp", anchor)));
        var one = Assert.Single(update.Fates);
        Assert.Equal((fate, sentence), (one.Fate, one.Sentence));
        Assert.True(update.IsPossible);
        Assert.Equal(
            ["f-depot", "f-grade", "f-ramp"],
            After(update).Find("order")!.Screen.Layout.Fields.Where(field => field.IsAdded).Select(field => field.Id).Order()
        );
    }

    [Fact]
    public void What_stood_after_what_is_gone_stands_where_that_stood()
    {
        var after = After(Update(Site(Put("f-ramp", "order.vat"), Put("f-grade", "order.note"), Put("f-depot", "f-grade"))));
        Assert.Equal(["order.total", "f-ramp"], Section(after, "order.main.totals"));
        Assert.Equal(
            ["order.number", "order.customer", "order.placed", "order.window", "order.note", "f-grade", "f-depot"],
            Section(after, "order.main.head")
        );
    }

    [Fact]
    public void A_name_of_ones_own_stays_though_the_host_renames_and_what_is_gone_has_nothing_to_do()
    {
        var update = Update(
            Site(
                new()
                {
                    Op = LayerOperation.Relabel,
                    Part = "order.main.head",
                    Label = "Kopf",
                },
                new() { Op = LayerOperation.Hide, Part = "order.vat" },
                new() { Op = LayerOperation.Hide, Part = "order.more" }
            )
        );
        Assert.Equal([Fate.Stays, Fate.HasNothingToDo, Fate.HasNothingToDo], update.Fates.Select(fate => fate.Fate));
        Assert.Equal("It goes on being called “Kopf” here; the ERP calls it Who and when instead of Head now.", update.Fates[0].Sentence);
        Assert.Equal(
            "Kopf",
            After(update)
                .Find("order")!
                .Screen.Layout.Sections.First(section => section.Id == "order.main.head")
                .LabelIn(Pelto.Core.Values.Locale.International)
        );
    }

    [Fact]
    public void Columns_of_lists_go_along_too()
    {
        var update = Update(
            Site(
                new()
                {
                    Op = LayerOperation.Put,
                    Part = "list:order.note",
                    After = "list:order.customer",
                },
                new()
                {
                    Op = LayerOperation.Put,
                    Part = "list:order.vat",
                    After = "list:order.total",
                },
                new() { Op = LayerOperation.Hide, Part = "list:order.total" }
            )
        );
        Assert.Equal([Fate.Follows, Fate.HasNothingToDo, Fate.Stays], update.Fates.Select(fate => fate.Fate));
        Assert.Equal("Vat is no longer in 2.0: nothing is left to do.", update.Fates[1].Sentence);
        Assert.Equal(
            "number customer remark",
            string.Join(
                " ",
                After(update)
                    .Find("order")!
                    .Screens.ListFor(Sample.Desk)
                    .Layout.Places.Select(place => place.Field)
                    .Where(field => !field.IsAdded)
                    .Select(field => field.Code)
            )
        );
    }

    [Fact]
    public void Formulas_and_conditions_read_the_new_codes_and_going_back_gives_all_back()
    {
        var site = Site(
            Put("f-ramp", "order.note"),
            new()
            {
                Op = LayerOperation.Hide,
                Part = "order.main.totals",
                When = "note = \"none\"",
            }
        );
        site = site with
        {
            Fields =
            [
                .. site.Fields,
                Field("loud") with
                {
                    Formula = "UPPER(note) & \"note\"",
                    Live = true,
                },
                Field("saved", "decimal") with
                {
                    Digits = 9,
                    Decimals = 2,
                    Formula = "SUM(lines.price * lines.discount / 100)",
                },
                Field("seen", "seen") with
                {
                    RecordType = "customer",
                    Path = null,
                    Kind = "decimal",
                    Digits = 9,
                    Decimals = 2,
                    Formula = "COUNT(order.customer.note)",
                },
            ],
        };
        var update = Update(site);
        Assert.Empty(update.Problems);
        Assert.Equal(
            ["UPPER(remark) & \"note\"", "SUM(lines.price * lines.rebate / 100)", "COUNT(order.customer.remark)"],
            update.Site.Fields.Select(field => field.Formula).OfType<string>()
        );
        Assert.Equal("remark = \"none\"", update.Site.Layers[0].Operations[1].When);
        var back = Update(update.Site, Now, Next);
        Assert.Empty(back.Problems);
        Assert.True(back.Site.IsSameAs(site with { Host = "1.0" }));
    }

    [Fact]
    public void A_field_of_ones_own_gives_its_code_to_the_host_and_gets_it_back()
    {
        var site = Site(Put("f-window", "order.placed")) with
        {
            Fields = [Field("window"), Field("ramp") with { Formula = "window & \"!\"" }],
        };
        var update = Update(site);
        var window = update.Site.Find("f-window")!;
        Assert.Equal(("window_own", "window", "window"), (window.Code, window.StoredAs, window.ColumnName));
        Assert.Equal("window_own & \"!\"", update.Site.Find("f-ramp")!.Formula);
        Assert.Contains(update.Rewritings, rewriting => rewriting is { Element: "f-window", Before: "window", After: "window_own" });
        Assert.Empty(update.Problems);
        Assert.Empty(Planning.Make(Catalogue.Build(3, Now, site), After(update), StorageFacts.Nothing).Problems);
        var back = Update(update.Site, Now, Next);
        Assert.True(back.Site.IsSameAs(site with { Host = "1.0" }));
    }

    [Fact]
    public void A_formula_over_what_is_gone_keeps_the_update_back_and_says_so()
    {
        var update = Update(Site() with { Fields = [Field("net", "decimal") with { Digits = 9, Decimals = 2, Formula = "total - vat" }] });
        Assert.Equal(
            new("f-net", "formula", "net reads Vat, which no longer exists. Let it read something else first."),
            Assert.Single(update.Problems)
        );

        // Not even where its code would name another field there, which the formula does not mean.
        var taken = Update(Site() with { Fields = [Field("window"), Field("half") with { Formula = "LEFT(window; 2)" }] });
        var meant = taken.Site with { Fields = [.. taken.Site.Fields, Field("short") with { Formula = "LEFT(window; 3)" }] };
        Assert.Equal("short", Assert.Single(Update(meant, Now, Next).Problems).Sentence.Split(' ')[0]);
        var kinds = Next with
        {
            Version = "3.0",
            RecordTypes =
            [
                Next.RecordTypes[0],
                Next.RecordTypes[1] with
                {
                    Fields =
                    [
                        .. Next.RecordTypes[1]
                            .Fields.Select(field =>
                                field.Code == "placed" ? field with { Kind = "text", Length = 10, DefaultValue = null } : field
                            ),
                    ],
                },
            ],
        };
        Assert.Contains(Update(Site(), kinds).Problems, problem =>
            problem.Sentence.StartsWith("Placed becomes text", StringComparison.Ordinal)
        );
        Assert.Equal("There is no Shop 9.9 here.", Catalogue.Build(1, Now, Site() with { Host = "9.9" }).Problems[0].Sentence);
    }

    [Fact]
    public void Both_codes_are_understood_while_forms_of_both_versions_are_open()
    {
        var (before, after) = (Catalogue.Build(1, Now, Site()).Find("order")!, After(Update(Site())).Find("order")!);
        Assert.Equal("order.note", before.Header.Find("remark")!.Id);
        Assert.Equal("order.note", after.Header.Find("note")!.Id);
        Assert.Equal("note", after.Header.Find("remark")!.Columns[0].Name);
        Assert.Equal("order.lines.discount", after.LineParts[0].Find("rebate")!.Id);
    }
}
