using CsCheck;
using Pelto.Core.Access;
using Pelto.Core.Elements;

namespace Pelto.Core.Tests.Access;

/// <summary>Rights to work on Pelto itself: what a change touches, who may make it, and that nobody gives more than they have.</summary>
public sealed class WorkTests
{
    private static readonly FieldDefinition Size = new()
    {
        Id = "f-size",
        RecordType = "customer",
        Code = "size",
        Label = "Size",
        Kind = "integer",
    };

    private static readonly SiteDefinition Before = new()
    {
        Fields = [Sample.Copies, Size],
        Guards = [new() { On = "order.note", Comment = "x" }],
    };

    private static Catalogue Live(SiteDefinition? site = null) => Core.Catalog.Catalogue.Build(1, Sample.Host, site ?? Before);

    private static Viewer With(params AdminRight[] rights) =>
        new(Guid.NewGuid(), "Wen", ["desk"])
        {
            SignIn = "wen",
            Company = "fi",
            Rights = rights,
        };

    private static AdminRight Right(string work, string types = "", string companies = "") =>
        new(work, types.Split(' ', StringSplitOptions.RemoveEmptyEntries), companies.Split(' ', StringSplitOptions.RemoveEmptyEntries));

    private static string? Refusal(SiteDefinition after, params AdminRight[] rights) =>
        new AdminRules(Before, after, Live()).RefuseChange(With(rights));

    private static SiteDefinition Layered(string audience, string part, string op = "hide") =>
        Before with
        {
            Layers =
            [
                new()
                {
                    Id = "l",
                    Label = "L",
                    Audience = audience,
                    Operations = [new() { Op = op, Part = part }],
                },
            ],
        };

    [Fact(DisplayName = "Each change takes its own right, at its record type; administrators need none, nobody else gets by without")]
    public void Changes()
    {
        var field = Before.With(Sample.Copies with { Label = "Copies" });
        Assert.Null(Refusal(field, Right(AdminWork.Define)));
        Assert.Null(Refusal(field, Right(AdminWork.Define, "order")));
        Assert.Equal("You may define fields, but not at orders.", Refusal(field, Right(AdminWork.Define, "customer")));
        Assert.Equal(
            "You may not define fields.",
            Refusal(field, Right(AdminWork.Arrange), Right(AdminWork.Grant), Right(AdminWork.People))
        );
        Assert.Null(new AdminRules(Before, field, Live()).RefuseChange(Sample.Administrator));
        Assert.NotNull(
            new AdminRules(Before, field, Live()).RefuseChange(Sample.Administrator with { Limits = new([], true, SetsUp: false) })
        );
        Assert.NotNull(Refusal(Before.Without("f-size"), Right(AdminWork.Define, "order")));
        Assert.NotNull(Refusal(Before with { Host = "2.0" }, [.. AdminWork.All.Select(work => Right(work.Code))]));

        // A shared list is of all record types that use it; one that none uses, of whoever defines anything.
        var list = new ChoiceList
        {
            Id = "c",
            Label = "Colours",
            Choices = [new("red", "Red")],
        };
        Assert.Null(Refusal(Before.With(list), Right(AdminWork.Define, "customer")));
        Assert.NotNull(
            Refusal(Before.With(list).With(Sample.Copies with { Kind = "choice", ChoiceList = "c" }), Right(AdminWork.Define, "customer"))
        );

        // A query by what it reads.
        var query = new QueryDefinition
        {
            Id = "q",
            Label = "Q",
            Sql = "SELECT 1",
            Reads = ["order.note"],
        };
        Assert.Null(Refusal(Before.With(query), Right(AdminWork.Query, "order")));
        Assert.NotNull(Refusal(Before.With(query), Right(AdminWork.Query, "customer")));
        Assert.NotNull(Refusal(Before.With(query), Right(AdminWork.Define)));
    }

    [Fact(
        DisplayName = "Arranging is limited to record types and to companies; where an added field stands for everyone goes with defining it"
    )]
    public void Arranging()
    {
        Assert.Null(Refusal(Layered("role:desk", "order.note"), Right(AdminWork.Arrange, "order")));
        Assert.NotNull(Refusal(Layered("role:desk", "order.note"), Right(AdminWork.Arrange, "customer")));
        Assert.Null(Refusal(Layered("company:fi", "order.note"), Right(AdminWork.Arrange, companies: "fi")));
        Assert.Null(Refusal(Layered("company:fi", "order.note"), Right(AdminWork.Arrange, "order", "fi no")));
        Assert.NotNull(Refusal(Layered("company:no", "order.note"), Right(AdminWork.Arrange, companies: "fi")));
        foreach (var audience in new[] { "everyone", "role:desk", "country:FI", "user:wen" })
            Assert.NotNull(Refusal(Layered(audience, "order.note"), Right(AdminWork.Arrange, companies: "fi")));
        Assert.Null(Refusal(Layered("everyone", "f-copies"), Right(AdminWork.Define, "order")));
        Assert.NotNull(Refusal(Layered("everyone", "order.note"), Right(AdminWork.Define, "order")));
        Assert.NotNull(Refusal(Layered("everyone", "f-copies", "lock"), Right(AdminWork.Define, "order")));
        Assert.NotNull(Refusal(Layered("role:desk", "f-copies"), Right(AdminWork.Define, "order")));
    }

    [Fact(
        DisplayName = "Whoever gives access gives no more than they have, "
            + "and frees nothing that they could not give; withholding is open to them"
    )]
    public void Granting()
    {
        Grant Give(string on, string level, string does = Grant.Give, string to = "role:guest") =>
            new()
            {
                Id = "g",
                Does = does,
                To = [to],
                On = [on],
                Level = level,
                Comment = "x",
            };
        Assert.Null(Refusal(Before.With(Give("f-copies", "write")), Right(AdminWork.Grant)));
        Assert.Equal(
            "You may not read Note of all orders yourself, so you cannot let others.",
            Refusal(Before.With(Give("order.note", "read")), Right(AdminWork.Grant))
        );
        Assert.NotNull(Refusal(Before with { Guards = [] }, Right(AdminWork.Grant)));
        Assert.Null(Refusal(Before.With(Give("order.note", "none", Grant.Withhold)), Right(AdminWork.Grant)));
        Assert.Null(Refusal(Before.With(new Guard { On = "f-copies" }), Right(AdminWork.Grant, "order")));
        Assert.NotNull(Refusal(Before.With(new Guard { On = "f-size" }), Right(AdminWork.Grant, "order")));
        Assert.NotNull(Refusal(Before.With(Give("f-copies", "write", to: "company:no")), Right(AdminWork.Grant, companies: "fi")));
        Assert.Null(Refusal(Before.With(Give("f-copies", "write", to: "company:fi")), Right(AdminWork.Grant, companies: "fi")));

        // What was withheld is not freed either, by changing it or by taking it out.
        var withheld = Before.With(Give("f-copies", "read", Grant.Withhold, "role:desk"));
        Assert.NotNull(new AdminRules(withheld, Before, Live(withheld)).RefuseChange(With(Right(AdminWork.Grant))));
        Assert.NotNull(
            new AdminRules(withheld, withheld.With(Give("f-copies", "write", Grant.Give, "role:desk")), Live(withheld)).RefuseChange(
                With(Right(AdminWork.Grant))
            )
        );
    }

    [Fact(
        DisplayName = "A condition over what its author may not read is refused; "
            + "what others asked before keeps nobody from saying more in the same layer, or from calling a field otherwise"
    )]
    public void Asking()
    {
        var asking = new LayerOperation
        {
            Op = "hide",
            Part = "order.placed",
            When = "note = \"x\"",
        };
        var before = Before with
        {
            Fields = [Sample.Copies with { RequiredWhen = "note = \"x\"" }, Size],
            Layers =
            [
                new()
                {
                    Id = "site",
                    Label = "Site",
                    Audience = "everyone",
                    Operations = [asking],
                },
            ],
        };
        string? Refused(SiteDefinition after) =>
            new AdminRules(before, after, Live(before)).RefuseChange(With(Right(AdminWork.Arrange), Right(AdminWork.Define)));
        SiteDefinition Said(params LayerOperation[] more) =>
            before with
            {
                Layers = [before.Layers[0] with { Operations = [asking, .. more] }],
            };
        Assert.Null(
            Refused(
                Said(
                    new() { Op = "hide", Part = "order.reference" },
                    new()
                    {
                        Op = "hide",
                        Part = "order.reference",
                        When = "copies = 1",
                    }
                )
            )
        );
        Assert.Contains("may not read", Refused(Said(asking with { Part = "order.reference" })), StringComparison.Ordinal);
        Assert.Contains("may not read", Refused(Said(asking with { When = "LEN(note) = 3" })), StringComparison.Ordinal);
        Assert.Contains(
            "may not read",
            Refused(before with { Layers = [before.Layers[0] with { Audience = "role:guest", Comment = "x" }] }),
            StringComparison.Ordinal
        );
        Assert.Null(Refused(before.With(before.Fields[0] with { Label = "How many" })));
        Assert.Contains(
            "may not read",
            Refused(before.With(before.Fields[0] with { RequiredWhen = "LEN(note) = 3" })),
            StringComparison.Ordinal
        );
        Assert.Contains("may not read", Refused(before.With(before.Fields[0] with { Unique = true })), StringComparison.Ordinal);
    }

    [Fact(DisplayName = "To publish a draft takes the right for all that it changes")]
    public void Publishing()
    {
        var after = Before.With(Sample.Copies with { Label = "Copies" }).With(Size with { Label = "Girth" });
        string? Refused(params AdminRight[] rights) => new AdminRules(Before, after, Live()).RefusePublishing(With(rights));
        Assert.Null(Refused(Right(AdminWork.Publish)));
        Assert.Null(Refused(Right(AdminWork.Publish, "order customer")));
        Assert.NotNull(Refused(Right(AdminWork.Publish, "order")));
        Assert.NotNull(Refused(Right(AdminWork.Define)));
    }

    [Fact(
        DisplayName = "A change of a person gives nothing that its maker does not have: "
            + "no administrator, no right beyond theirs, no field that they do not read"
    )]
    public void Gained()
    {
        var live = Live(
            Before.With(
                new Grant
                {
                    Id = "g",
                    To = ["role:guest"],
                    On = ["order.note"],
                    Level = "read",
                    Comment = "x",
                }
            )
        );
        var (giver, plain) = (With(Right(AdminWork.People), Right(AdminWork.Define, "order")), new Viewer(Guid.NewGuid(), "Pat", []));
        Assert.Null(Gains.Refuse(giver, plain, plain with { Roles = ["desk"] }, live));
        Assert.Equal(
            "Pat would be an administrator, which you are not.",
            Gains.Refuse(giver, plain, plain with { Roles = ["administrator"] }, live)
        );
        Assert.Contains("Note of orders", Gains.Refuse(giver, plain, plain with { Roles = ["guest"] }, live), StringComparison.Ordinal);
        Assert.Null(Gains.Refuse(Sample.Administrator, plain, plain with { Roles = ["administrator"] }, live));
        Assert.Null(Gains.Refuse(giver, plain, plain with { Rights = [Right(AdminWork.Define, "order")] }, live));
        Assert.NotNull(Gains.Refuse(giver, plain, plain with { Rights = [Right(AdminWork.Define)] }, live));
        Assert.NotNull(Gains.Refuse(giver, plain, plain with { Rights = [Right(AdminWork.Publish)] }, live));

        // What they had already is not given; but who could act as them gains it.
        var guest = plain with { Roles = ["guest"] };
        Assert.Null(Gains.Refuse(giver, guest, guest with { Name = "Patricia" }, live));
        Assert.NotNull(Gains.Refuse(giver, null, guest, live));
    }

    [Fact(DisplayName = "A right includes another exactly when it covers all that the other does")]
    public void Includes()
    {
        var rights = Gen.Select(
                Gen.OneOf(Gen.Const(""), Gen.Const("a"), Gen.Const("b"), Gen.Const("a b")),
                Gen.OneOf(Gen.Const(""), Gen.Const("fi"), Gen.Const("no"), Gen.Const("fi no"))
            )
            .Select(pair => Right(AdminWork.Grant, pair.Item1, pair.Item2));
        string?[] types = [null, "a", "b", "c"];
        IReadOnlyList<string>?[] companies = [null, ["fi"], ["no"], ["fi", "no"], ["se"]];
        Gen.Select(rights, rights)
            .Sample(
                (one, other) =>
                    Assert.Equal(
                        types.All(type =>
                            companies.All(company =>
                                !other.Covers(new(AdminWork.Grant, type, company)) || one.Covers(new(AdminWork.Grant, type, company))
                            )
                        ),
                        one.Includes(other)
                    ),
                iter: 500
            );
    }

    [Fact(DisplayName = "A token is held to its record types, and to reading, on every way; an administrator's too")]
    public void Tokens()
    {
        var live = Live();
        var (order, customer) = (live.Find("order")!, live.Find("customer")!);
        var reads = Sample.Administrator with { Limits = new(["order"], Writes: false, SetsUp: false) };
        Assert.False(reads.MayRead(customer));
        Assert.True(reads.MayRead(order));
        Assert.False(reads.MayChange(order) || reads.MayCreate(order) || reads.MayDelete(order));
        Assert.All(order.Parts.SelectMany(part => part.Fields), field => Assert.True(reads.LevelAt(field) < AccessLevel.Write));
        Assert.Equal(AccessLevel.None, reads.LevelAt(customer.Header.Fields[0]));
        Assert.Equal(AccessLevel.Write, (Sample.Administrator with { Limits = new([], true, true) }).LevelAt(order.Header.Find("note")!));
        Assert.False(reads.MaySetUp());
    }
}
