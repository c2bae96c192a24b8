using CsCheck;
using Pelto.Core.Access;
using Pelto.Core.Layouts;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Layouts;

public sealed class LayerTests
{
    private static readonly HostDescription Host = Sample.Host with
    {
        Companies = [new("fi", "Finland", "FI", "EUR"), new("no", "Norway", "NO", "NOK")],
    };

    private static readonly Viewer Desk = Sample.Desk with { Company = "no", SignIn = "dee" };

    [Fact(DisplayName = "Everyone, company, country, role, user: the later audience wins, whatever the order in which layers were made")]
    public void Later_audiences_win()
    {
        var layers = new[] { "user:dee", "role:desk", "country:NO", "company:no", "everyone" }
            .Select((audience, i) => Layer(audience, Relabel("order.note", audience)))
            .ToList();
        for (var count = layers.Count; count > 0; count--)
        {
            var (_, screen) = Screen(Desk, [.. layers.TakeLast(count)]);
            Assert.Equal(layers[^count].Audience, Place(screen, "order.note").TextIn(Locale.International).Label);
        }

        Assert.Equal("everyone", Place(Screen(Sample.Guest, [.. layers]).Screen, "order.note").TextIn(Locale.International).Label);
    }

    [Theory(DisplayName = "What is wrong with a condition is told of what somebody wrote, not of what was put around it")]
    [
        InlineData("NOT(total > )", "At character 9 of total > : Something is missing at the end."),
        InlineData("NOT((total > 1)", "At character 1 of (total > 1: This bracket is not closed."),
        InlineData("NOT(totl > 1)", "At character 1 of totl > 1: There is no field “totl”"),
        InlineData("totl > 1", "At character 1 of totl > 1: There is no field “totl”")
    ]
    public void Conditions_as_written(string when, string sentence)
    {
        var (catalogue, _) = Screen(
            Desk,
            Layer(
                "everyone",
                new LayerOperation
                {
                    Op = LayerOperation.Hide,
                    Part = "order.note",
                    When = when,
                }
            )
        );
        Assert.StartsWith(
            sentence,
            catalogue.Problems.First(problem => problem.Element == "a-everyone").Sentence,
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "A copy of a layer that makes parts is told of, where one person can get both")]
    public void Copies_are_told_of()
    {
        LayerOperation Again(string id) =>
            new()
            {
                Op = LayerOperation.Put,
                Part = id,
                After = "order.note",
                Screen = "order",
                New = new() { What = NewPart.Again, Field = "order.customer" },
            };
        (string, string)[] Twice(string audience, params (string Audience, string Id)[] layers)
        {
            var (catalogue, _) = Screen(Desk, [.. layers.Select(layer => Layer(layer.Audience, Again(layer.Id)))]);
            var screens = catalogue.Find("order")!.Screens;
            return
            [
                .. RoleConflicts
                    .MadeTwice(screens, screens.Layers.Single(layer => layer.Audience == audience))
                    .Select(twice => (twice.Other.Audience, twice.Part)),
            ];
        }

        Assert.Equal([("role:guest", "p-1")], Twice("role:desk", ("role:desk", "p-1"), ("role:guest", "p-2")));
        Assert.Equal([("role:desk", "p-2")], Twice("company:no", ("company:no", "p-2"), ("role:desk", "p-1")));
        Assert.Empty(Twice("company:no", ("company:no", "p-2"), ("company:fi", "p-1")));
    }

    [Fact(DisplayName = "What stands on the screen of some audience stands somewhere, also for adding alone")]
    public void Anywhere_is_for_anybody()
    {
        var hidden = new LayerOperation { Op = LayerOperation.Hide, Part = "order.note" };
        var (catalogue, _) = Screen(Desk, Layer("everyone", hidden));
        Assert.DoesNotContain(catalogue.Find("order")!.Screens.Anywhere, field => field.Code == "note");
        (catalogue, _) = Screen(
            Desk,
            Layer("everyone", hidden),
            Layer(
                "role:desk",
                new LayerOperation { Op = LayerOperation.Show, Part = "order.note" },
                new()
                {
                    Op = LayerOperation.Hide,
                    Part = "order.note",
                    On = "changing",
                }
            )
        );
        Assert.Contains(catalogue.Find("order")!.Screens.Anywhere, field => field.Code == "note");
        Assert.DoesNotContain(catalogue.Find("order")!.Screen.Layout.Fields, field => field.Code == "note");
    }

    [Fact(DisplayName = "A layer that says what a part is called in other languages alone leaves what it is called by all others")]
    public void Languages_alone()
    {
        var only = new LayerOperation
        {
            Op = LayerOperation.Relabel,
            Part = "order.note",
            Texts = new Dictionary<string, string> { ["fi"] = "Huomautus" },
        };
        string In(string language, params Layer[] layers) =>
            Place(Screen(Desk, layers).Screen, "order.note").TextIn(Locale.For(language, "")).Label;
        Assert.Equal(("Huomautus", "Note"), (In("fi-FI", Layer("everyone", only)), In("nb-NO", Layer("everyone", only))));
        Layer[] both =
        [
            Layer("everyone", Relabel("order.note", "Remark") with { Texts = new Dictionary<string, string> { ["nb"] = "Merknad" } }),
            Layer("role:desk", only),
        ];
        Assert.Equal(("Huomautus", "Merknad", "Remark"), (In("fi-FI", both), In("nb-NO", both), In("de-DE", both)));
        Assert.Equal("called Note otherwise in fi (“Huomautus”)", LayerWords.Whole(only, static _ => "Note"));
    }

    [Fact(DisplayName = "Of two roles of one person, the layer that stands later wins, and both are told in turn")]
    public void Later_roles_win()
    {
        var both = Desk with { Roles = ["guest", "desk"] };
        var (catalogue, screen) = Screen(
            both,
            Layer("role:desk", Relabel("order.note", "Desk's")),
            Layer("role:guest", Relabel("order.note", "Guest's"))
        );
        Assert.Equal("Guest's", Place(screen, "order.note").TextIn(Locale.International).Label);
        Assert.Equal(
            ["role:desk called it “Desk's”.", "role:guest called it “Guest's”."],
            catalogue.Find("order")!.Screens.Why(screen, "order.note", static _ => true)
        );

        // Whoever is not shown a field is not told its name, nor a condition over it.
        var (moved, said) = Screen(
            Desk,
            Layer(
                "role:desk",
                new LayerOperation
                {
                    Op = "move",
                    Part = "order.placed",
                    After = "order.note",
                    When = "note <> \"x\"",
                }
            )
        );
        Assert.Equal(
            ["role:desk moved it after Note, where note <> \"x\"."],
            moved.Find("order")!.Screens.Why(said, "order.placed", static _ => true)
        );
        Assert.Equal(
            ["role:desk moved it after another field, where something holds that you are not shown."],
            moved.Find("order")!.Screens.Why(said, "order.placed", static field => field.Code != "note")
        );

        // That they disagree is told for either of them; what they say alike, or of other things, is no conflict.
        var desk = Layer("role:desk", Relabel("order.note", "Desk's"), Relabel("order.placed", "Day"));
        var type = Screen(
            both,
            desk,
            Layer(
                "role:guest",
                Relabel("order.note", "Guest's"),
                Relabel("order.placed", "Day"),
                new() { Op = "hide", Part = "order.placed" }
            )
        )
            .Catalogue.Find("order")!;
        Assert.Equal(
            ("a-role:guest", "order.note", "a-role:guest"),
            RoleConflicts.In(type.Screens, desk).Select(conflict => (conflict.Other.Id, conflict.Part, conflict.Wins.Id)).Single()
        );
    }

    [Fact(DisplayName = "What everyone does without stays for one person, where it stood; anchors to what is hidden still hold")]
    public void Hidden_stays_for_one()
    {
        var everyone = Layer(
            "everyone",
            new() { Op = "hide", Part = "order.placed" },
            new()
            {
                Op = "put",
                Part = "order.note",
                After = "order.placed",
            }
        );
        var (_, others) = Screen(Sample.Guest, everyone, Layer("user:dee", new LayerOperation { Op = "show", Part = "order.placed" }));
        Assert.Equal(["number", "customer", "note"], Codes(others, "order.main.head"));
        Assert.Equal("order.customer", others.Hidden["order.placed"]);
        // What is put where its anchor is gone stands in sight all the same.
        var (_, lost) = Screen(
            Desk,
            everyone,
            Layer(
                "role:desk",
                new LayerOperation
                {
                    Op = "put",
                    Part = "order.placed",
                    After = "order.gone",
                    Width = 5,
                }
            )
        );
        Assert.Equal((5, 1), (Place(lost, "order.placed").Width, lost.Clashes.Count));
        var (_, hers) = Screen(Desk, everyone, Layer("user:dee", new LayerOperation { Op = "show", Part = "order.placed" }));
        Assert.Equal(["number", "customer", "placed", "note"], Codes(hers, "order.main.head"));
    }

    [Fact(
        DisplayName = "Of a hidden section, one field can be shown again and the others stay hidden; a field moved while hidden stays hidden"
    )]
    public void Sections_and_pages_hide_what_they_hold()
    {
        var (_, hidden) = Screen(Desk, Layer("everyone", new LayerOperation { Op = "hide", Part = "order.more" }));
        Assert.Single(hidden.Layout.Pages);
        Assert.DoesNotContain(hidden.Layout.Fields, field => field.Code == "note");
        var (_, one) = Screen(
            Desk,
            Layer("everyone", new LayerOperation { Op = "hide", Part = "order.main.head" }),
            Layer("role:desk", new LayerOperation { Op = "show", Part = "order.number" })
        );
        Assert.Equal(["number", "customer"], Codes(one, "order.main.head"));
        Assert.Contains("Customer cannot be hidden", Assert.Single(one.Clashes).Sentence, StringComparison.Ordinal);
        var (_, moved) = Screen(
            Desk,
            Layer("everyone", new LayerOperation { Op = "hide", Part = "order.note" }),
            Layer(
                "role:desk",
                new LayerOperation
                {
                    Op = "move",
                    Part = "order.note",
                    After = "order.customer",
                }
            )
        );
        Assert.DoesNotContain(moved.Layout.Fields, field => field.Code == "note");
    }

    [Fact(
        DisplayName = "A page, a section and a field of another page are put where they belong; "
            + "the field once more where it is asked for is one value at two places"
    )]
    public void New_parts_are_made()
    {
        var layer = Layer(
            "role:desk",
            new()
            {
                Op = "put",
                Part = "p-page",
                Screen = "order",
                Label = "Rigging",
                After = "order.main",
                New = new() { What = "page" },
            },
            new()
            {
                Op = "put",
                Part = "p-sec",
                Screen = "order",
                Label = "Slings",
                Texts = new Dictionary<string, string> { ["nb"] = "Stropper" },
                After = "p-page",
                New = new() { What = "section" },
            },
            new()
            {
                Op = "put",
                Part = "p-text",
                Screen = "order",
                After = "p-sec",
                New = new() { What = "guidance", Text = "Read it off the plan." },
            },
            new()
            {
                Op = "put",
                Part = "p-note",
                Screen = "order",
                After = "p-text",
                Width = 5,
                New = new() { What = "again", Field = "order.note" },
            },
            new()
            {
                Op = "put",
                Part = "order.placed",
                After = "p-note",
            }
        );
        var (catalogue, screen) = Screen(Desk, layer);
        Assert.Empty(catalogue.Problems);
        Assert.Equal(["order.main", "p-page", "order.more"], screen.Layout.Pages.Select(page => page.Id));
        var section = Assert.Single(screen.Layout.Pages[1].Sections);
        Assert.Equal(["p-text", "p-note", "order.placed"], section.Items.Select(item => item.Id));
        Assert.Equal("Stropper", section.LabelIn(Locale.For("nb-NO", null)));
        Assert.True(((LayoutPlace)section.Items[1]).IsAgain);
        Assert.Equal((5, "note"), (section.Items[1].Width, ((LayoutPlace)section.Items[1]).Field.Code));
        Assert.Equal(screen.Layout.Fields.Count(), screen.Layout.Fields.Distinct().Count());

        // Where its own place is hidden, the other one holds the input.
        var (_, only) = Screen(Desk, Layer("role:desk", [.. layer.Operations, new() { Op = "hide", Part = "order.note" }]));
        Assert.False(only.Layout.Places.Single(place => place.Field.Code == "note").IsAgain);
    }

    [Fact(
        DisplayName = "Only when adding, only when changing, and only under a condition, "
            + "which a person who may not see what it reads is not told by"
    )]
    public void Moments_and_conditions()
    {
        var layer = Layer(
            "everyone",
            new()
            {
                Op = "hide",
                Part = "order.placed",
                On = "adding",
            },
            new()
            {
                Op = "put",
                Part = "p-sec",
                Screen = "order",
                Label = "Slings",
                After = "order.main.head",
                When = "note <> \"\"",
                New = new() { What = "section" },
            },
            new()
            {
                Op = "put",
                Part = "p-text",
                Screen = "order",
                After = "p-sec",
                New = new() { What = "guidance", Text = "Mind the angle." },
            },
            new()
            {
                Op = "put",
                Part = "order.note",
                After = "p-sec",
            }
        );
        var catalogue = Catalogue.Build(1, Host, new() { Layers = [layer] });
        Assert.Empty(catalogue.Problems);
        var type = catalogue.Find("order")!;
        var state = Sample.Order(type);
        var screen = type.Screens.For(Desk, state);
        Assert.Equal(["note"], Codes(screen, "p-sec"));
        Assert.Contains(screen.Layout.Fields, field => field.Code == "placed");
        Assert.Same(screen, type.Screens.For(Sample.Guest, state));
        Sample.Set(state, "note", Value.Empty);
        var without = type.Screens.For(Desk, state);
        Assert.Equal(["note"], Codes(without, "order.more.notes"));
        Assert.DoesNotContain(without.Layout.Sections.SelectMany(section => section.Items), item => item.Id == "p-text");
        Assert.DoesNotContain(type.Screens.For(Desk, Pipeline.Fresh(type, Sample.Today)).Layout.Fields, field => field.Code == "placed");
        Assert.Equal(
            "everyone hid it, when adding.",
            Assert.Single(type.Screens.Why(type.Screens.For(Desk, Pipeline.Fresh(type, Sample.Today)), "order.placed", static _ => true))
        );
        Assert.Contains(
            Catalogue
                .Build(
                    1,
                    Host,
                    new()
                    {
                        Layers =
                        [
                            Layer(
                                "everyone",
                                new LayerOperation
                                {
                                    Op = "hide",
                                    Part = "order.note",
                                    When = "nott = 1",
                                }
                            ),
                        ],
                    }
                )
                .Problems,
            problem => problem.Sentence.Contains("note", StringComparison.Ordinal)
        );
    }

    [Fact(
        DisplayName = "What nobody could do without is neither hidden nor locked, "
            + "for any audience, and the reason is given before it goes live"
    )]
    public void Harm_is_refused()
    {
        foreach (var op in new[] { "hide", "lock" })
        {
            var (catalogue, screen) = Screen(Desk, Layer("role:desk", new LayerOperation { Op = op, Part = "order.customer" }));
            Assert.Contains(catalogue.Problems, problem =>
                problem.Element == "order.customer"
                && problem.Sentence.StartsWith(
                    $"Customer cannot be {(op == "lock" ? "locked" : "hidden")}: it is required",
                    StringComparison.Ordinal
                )
            );
            Assert.Contains(screen.Layout.Places, place => place is { IsLocked: false, Field.Code: "customer" });
        }

        // Asked for here and taken away in one go is harm as well; asked for somewhere else is not.
        Assert.NotEmpty(
            Screen(
                Desk,
                Layer("everyone", new LayerOperation { Op = "require", Part = "order.note" }),
                Layer("role:desk", new LayerOperation { Op = "hide", Part = "order.note" })
            ).Catalogue.Problems
        );
        Assert.Empty(
            Screen(
                Desk,
                Layer("role:guest", new LayerOperation { Op = "require", Part = "order.note" }),
                Layer("role:desk", new LayerOperation { Op = "hide", Part = "order.note" })
            ).Catalogue.Problems
        );
    }

    [Fact(DisplayName = "Layers need a name, a comment, and an audience that there is, of which each has one")]
    public void Layers_are_checked()
    {
        var site = new SiteDefinition
        {
            Layers =
            [
                Layer("role:nobody"),
                Layer("country:SE"),
                Layer("team:x"),
                Layer("role:desk") with
                {
                    Comment = " ",
                    Label = "",
                },
                Layer("role:desk") with
                {
                    Id = "b",
                },
            ],
        };
        Assert.Equal(
            ["audience", "audience", "audience", "audience", "comment", "label"],
            Catalogue.Build(1, Host, site).Problems.Select(problem => problem.Property).Order()
        );
        Assert.Contains(
            "There is a layer for role Desk already",
            string.Concat(Catalogue.Build(1, Host, site).Problems.Select(problem => problem.Sentence)),
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Tab goes as one reads; a layer sets it from field to field and has it pass by, never across header and lines")]
    public void Tab_order()
    {
        Assert.Equal(TabOrder.AsRead, Screen(Desk).Screen.Layout.Tabs);
        var (_, screen) = Screen(
            Desk,
            Layer(
                "role:desk",
                new()
                {
                    Op = "tab",
                    Part = "order.note",
                    After = "order.number",
                },
                new()
                {
                    Op = "tab",
                    Part = "order.placed",
                    Off = true,
                },
                new()
                {
                    Op = "tab",
                    Part = "order.customer",
                    After = "order.lines.price",
                }
            )
        );
        Assert.Equal(["order.number", "order.note", "order.customer"], screen.Layout.Tabs.StopsOf(screen.Layout).Take(3));
        Assert.DoesNotContain("order.placed", screen.Layout.Tabs.StopsOf(screen.Layout));
        Assert.Contains("it comes as one reads", Assert.Single(screen.Clashes).Sentence, StringComparison.Ordinal);
    }

    [Fact(
        DisplayName = "Whatever layers say: no field is lost or stands twice, nothing overlaps, "
            + "hidden is never in the Tab order, and the same layer, or the same operation, once more changes nothing"
    )]
    public void Any_layers()
    {
        var type = Catalogue.Build(1, Host, new() { Fields = [Sample.Copies] }).Find("order")!;
        var fields = type.Parts.SelectMany(part => part.Fields).Select(field => field.Id).ToArray();
        string[] others =
        [
            "order.main",
            "order.more",
            "order.main.head",
            "order.main.lines",
            "order.more.notes",
            "p-page",
            "p-sec",
            "p-text",
            "p-again",
        ];
        var making = Layer(
            "everyone",
            new()
            {
                Op = "put",
                Part = "p-page",
                Screen = "order",
                Label = "Rigging",
                New = new() { What = "page" },
            },
            new()
            {
                Op = "put",
                Part = "p-sec",
                Screen = "order",
                Label = "Slings",
                After = "p-page",
                New = new() { What = "section" },
            },
            new()
            {
                Op = "put",
                Part = "p-text",
                Screen = "order",
                After = "p-sec",
                New = new() { What = "guidance", Text = "Mind the angle." },
            },
            new()
            {
                Op = "put",
                Part = "p-again",
                Screen = "order",
                After = "p-text",
                New = new() { What = "again", Field = "order.note" },
            }
        );
        var part = Gen.OneOf(OneOf(fields), OneOf(others));
        var operation = Gen.Select(
            OneOf([.. OperationKinds.All.Select(static kind => kind.Name)]),
            part,
            part,
            Gen.Int[1, 12],
            Gen.Bool,
            (op, about, after, width, off) =>
                new LayerOperation
                {
                    Op = op,
                    Part = about,
                    After = after,
                    Width = width,
                    Label = "Called",
                    Off = off,
                }
        );
        var laid = Gen.Select(OneOf("company:no", "country:NO", "role:desk", "user:dee"), operation.Array[0, 12], (audience, operations) =>
            Layer(audience, operations)
        );
        laid.Array[0, 4]
            .Select(layers => layers.DistinctBy(layer => layer.Audience).Prepend(making).ToArray())
            .Sample(
                layers =>
                {
                    var laidOn = Catalogue.Build(1, Host, new() { Fields = [Sample.Copies], Layers = layers }).Find("order")!;
                    var screen = laidOn.Screens.For(Desk, Sample.Order(laidOn));
                    var inputs = screen.Layout.Places.Where(place => !place.IsAgain).ToList();
                    Assert.Equal(inputs.Count, inputs.Select(place => place.Field).Distinct().Count());
                    Assert.All(screen.Layout.Places, place => Assert.InRange(place.Width, 1, 12));
                    Assert.All(screen.Layout.Sections, section =>
                        Assert.All(section.Places, place => Assert.True(section.Contains(place.Field.Part)))
                    );
                    var hides = layers.SelectMany(layer => layer.Operations).Any(one => one.Op == "hide");
                    if (!hides)
                        Assert.All(type.Screen.Layout.Fields, field =>
                            Assert.Contains(screen.Layout.Fields, shown => shown.Id == field.Id)
                        );
                    var stops = screen.Layout.Tabs.StopsOf(screen.Layout).ToList();
                    Assert.Equal(stops.Count, stops.Distinct().Count());
                    Assert.DoesNotContain(stops, screen.Hidden.ContainsKey);
                    Assert.All(stops, stop => Assert.Contains(screen.Layout.Places, place => place.Id == stop));

                    var inOrder = LayoutResolver.InOrder(layers).ToList();
                    Assert.Equal(Shape(screen), Shape(LayoutResolver.Resolve(laidOn, inOrder.Concat(inOrder))));
                    Assert.Equal(
                        Shape(screen),
                        Shape(
                            LayoutResolver.Resolve(
                                laidOn,
                                inOrder.Select(layer =>
                                    layer with
                                    {
                                        Operations = [.. layer.Operations.SelectMany(one => new[] { one, one })],
                                    }
                                )
                            )
                        )
                    );
                },
                print: layers => SiteDefinition.Text(layers)
            );
    }

    private static Gen<string> OneOf(params string[] values) => Gen.Int[0, values.Length - 1].Select(i => values[i]);

    private static string Shape(Resolved screen) =>
        string.Join(
            '|',
            screen.Layout.Pages.Select(page =>
                $"{page.Id}({string.Join(',', page.Sections.Select(section => $"{section.Id}[{string.Join(' ', section.Items.Select(item => $"{item.Id}:{item.Width}"))}]"))})"
            )
        );

    private static Layer Layer(string audience, params LayerOperation[] operations) =>
        new()
        {
            Id = "a-" + audience,
            Label = audience,
            Comment = "For a test",
            Audience = audience,
            Operations = operations,
        };

    private static LayerOperation Relabel(string part, string label) =>
        new()
        {
            Op = "relabel",
            Part = part,
            Label = label,
        };

    private static (Catalogue Catalogue, Resolved Screen) Screen(Viewer viewer, params Layer[] layers)
    {
        var catalogue = Catalogue.Build(1, Host, new() { Layers = layers });
        var type = catalogue.Find("order")!;
        return (catalogue, type.Screens.For(viewer, Sample.Order(type)));
    }

    private static LayoutPlace Place(Resolved screen, string id) => screen.Layout.Places.Single(place => place.Id == id);

    private static IEnumerable<string> Codes(Resolved screen, string section) =>
        screen.Layout.Sections.Single(one => one.Id == section).Places.Select(place => place.Field.Code);
}
