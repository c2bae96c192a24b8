using Pelto.Core.Access;
using Pelto.Core.Elements;
using Pelto.Core.Releases;

namespace Pelto.Core.Tests.Access;

/// <summary>A stored value keeps its guard, whatever becomes of the definitions that it was filled by.</summary>
public sealed class GuardInheritanceTests
{
    private static readonly FieldDefinition Copy = new()
    {
        Id = "f-copy",
        RecordType = "order",
        Code = "copy",
        Label = "Copy",
        Kind = "text",
        Length = 80,
        Formula = "note",
    };

    private static readonly FieldDefinition Second = Copy with { Id = "f-second", Code = "second", Label = "Second", Formula = "copy" };

    private static readonly SiteDefinition Start = new() { Fields = [Copy, Second], Guards = [new() { On = "order.note" }] };

    private static Catalogue Build(SiteDefinition site) => Catalogue.Build(1, Sample.Host, site);

    // As the draft does it: each change on top of the one before.
    private static SiteDefinition After(SiteDefinition live, params Func<SiteDefinition, SiteDefinition>[] changes) =>
        changes.Aggregate(live, (draft, change) => GuardInheritance.Keep(draft, change(draft).WithColumns(live), Build(live)));

    private static AccessLevel LevelOf(SiteDefinition site, string id) =>
        Build(site).FindField(id) is { } field ? Sample.Desk.LevelAt(field) : AccessLevel.None;

    public static TheoryData<string> Ways =>
        [
            "typed",
            "other formula",
            "live",
            "chosen",
            "query",
            "kind",
            "retired",
            "retired and typed",
            "removed and back",
            "removed, its guard too",
            "removed and back in one draft",
            "first typed, then its input removed",
            "order of changes",
        ];

    [Theory(
        DisplayName = "However a field that was filled from a guarded one is changed, what it holds stays kept from whoever may not read that"
    )]
    [MemberData(nameof(Ways))]
    public void Stays(string way)
    {
        Assert.Equal((AccessLevel.None, AccessLevel.None), (LevelOf(Start, "f-copy"), LevelOf(Start, "f-second")));
        var typed = Copy with { Formula = null };
        var columns = new[] { "copy" }.ToLookup(_ => "f-copy");
        SiteDefinition Gone(SiteDefinition site) =>
            site.Without("f-copy") with
            {
                Removed = [new("f-copy", "Copy", "order", "header", "copy", [.. columns["f-copy"]])],
            };
        SiteDefinition Free(SiteDefinition site) => site.With(Second with { Formula = null });
        var changed = way switch
        {
            "typed" => After(Start, site => site.With(typed)),
            "other formula" => After(Start, site => site.With(Copy with { Formula = "\"x\"" })),
            "live" => After(After(Start, site => site.With(Copy with { Live = true, Formula = "\"x\"" })), site =>
                site.With(site.Find("f-copy")! with { Live = false, Formula = null })
            ),
            "chosen" => After(Start, site => site.With(Copy with { Formula = "\"x\"", Fills = FillMode.Chosen })),
            "query" => After(Start, site => site.With(typed with { Query = new() { Id = "q" } })),
            "kind" => After(After(Start, site => site.With(typed)), site =>
                site.With(site.Find("f-copy")! with { Kind = "long_text", Length = null })
            ),
            "retired" => After(After(Start, site => site.With(Copy with { Retired = true })), site => site.With(typed)),
            "retired and typed" => After(After(Start, site => site.With(typed with { Retired = true })), site =>
                site.With(site.Find("f-copy")! with { Retired = false })
            ),
            "removed and back" => After(After(Start, Free, Gone), site => site.With(typed with { ReadBack = true }) with { Removed = [] }),
            "removed, its guard too" => After(After(After(Start, Free, Gone), site => site with { Removed = [] }), site =>
                site.With(typed with { ReadBack = true }) with
                {
                    Removed = [],
                }
            ),
            "removed and back in one draft" => After(Start, Free, Gone, site => site.With(typed) with { Removed = [] }),
            "first typed, then its input removed" => After(After(Start, site => site.With(typed)), site =>
                site.With(site.Find("f-copy")! with { Label = "Renamed" })
            ),
            _ => After(
                Start,
                site => site.With(Copy with { Label = "Renamed" }),
                site => site.With(site.Find("f-copy")! with { Formula = null }),
                site => site.With(site.Find("f-copy")! with { Label = "Again" })
            ),
        };
        Assert.Equal(AccessLevel.None, LevelOf(changed, "f-copy"));
        Assert.Equal(AccessLevel.None, LevelOf(changed, "f-second"));
        Assert.True(Sample.Administrator.LevelAt(Build(changed).FindField("f-copy")!) >= AccessLevel.Read);
    }

    [Fact(DisplayName = "A guarded field that is removed, or retired, and comes back, comes back guarded; so does what came from it")]
    public void Guard_comes_back()
    {
        var live = Start with { Guards = [new() { On = "f-copy" }], Fields = [Copy with { Formula = null }, Second] };
        var gone = After(
            live,
            site => site.With(Second with { Formula = null }),
            site => site.Without("f-copy") with { Removed = [new("f-copy", "Copy", "order", "header", "copy", ["copy"])] }
        );
        Assert.Equal("f-copy", Assert.Single(gone.Guards).On);
        Assert.Empty(Build(gone).Problems);
        Assert.Equal(AccessLevel.None, LevelOf(gone, "f-second"));
        var back = After(gone, site => site.With(Copy with { Formula = null, ReadBack = true }) with { Removed = [] });
        Assert.Equal((AccessLevel.None, AccessLevel.None), (LevelOf(back, "f-copy"), LevelOf(back, "f-second")));
    }

    [Fact(DisplayName = "It is opened again only by somebody who may give access and reads what it came from; the plan names it")]
    public void Opened_again()
    {
        var held = After(Start, site => site.With(Copy with { Formula = null }));
        Assert.Equal(["order.note"], held.Find("f-copy")!.HeldFrom);
        Assert.Contains(Planning.Make(Build(Start), Build(held), StorageFacts.Nothing).Changes, change =>
            change.Sentence.StartsWith("Copy is still kept from whoever may not read Note of orders", StringComparison.Ordinal)
        );
        var free = After(held, site => site.With(site.Find("f-copy")! with { HeldFrom = [] }));
        Assert.Equal(AccessLevel.Write, LevelOf(free, "f-copy"));
        Assert.Contains(Planning.Make(Build(held), Build(free), StorageFacts.Nothing).Changes, change =>
            change.Sentence.StartsWith("Copy is no longer kept from", StringComparison.Ordinal) && change.IsAccess
        );
        Assert.Equal(
            AccessLevel.Write,
            LevelOf(
                After(
                    held,
                    site => site.With(site.Find("f-copy")! with { HeldFrom = [] }),
                    site => site.With(site.Find("f-copy")! with { Label = "Renamed" })
                ),
                "f-copy"
            )
        );
        string? Refused(params string[] works) =>
            new AdminRules(held, free, Build(held)).RefuseChange(Sample.Desk with { Rights = [.. works.Select(AdminRight.To)] });
        Assert.Equal("You may not give access.", Refused(AdminWork.Define));
        Assert.Contains("You may not read Note of all orders", Refused(AdminWork.Define, AdminWork.Grant), StringComparison.Ordinal);
        Assert.Null(new AdminRules(held, free, Build(held)).RefuseChange(Sample.Administrator));
        var reader = held.With(
            new Grant
            {
                Id = "g",
                To = ["role:desk"],
                On = ["order.note"],
                Level = "read",
            }
        );
        Assert.Null(
            new AdminRules(
                reader,
                After(reader, site => site.With(site.Find("f-copy")! with { HeldFrom = [] })),
                Build(reader)
            ).RefuseChange(Sample.Desk with { Rights = [AdminRight.To(AdminWork.Grant)] })
        );
    }
}
