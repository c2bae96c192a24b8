using Pelto.Core.Records;

namespace Pelto.Data.Tests;

/// <summary>Editing a record within one request, and the catalogues that requests ask for.</summary>
public sealed class EditTests(Site site) : IClassFixture<Site>
{
    [Fact(
        DisplayName = "However often it is tried, a record is tried as it was when editing began: "
            + "what others save does not get in between, and trying changes nothing of it"
    )]
    public async Task Tries_are_about_one_state()
    {
        var type = site.Type("sales_order");
        var reference = type.Header.Find("reference")!;
        var edit = (await site.Store.EditAsync(type, 12, Site.Desk))!;
        var (before, opened) = (edit.Current.Header[reference.Slot], RecordJson.Write(edit.Current, Site.Desk).ToJsonString());
        var saved = await site.Saver.SaveAsync(type, 12, site.Changes("sales_order", ("reference", Value.From("theirs"))), Site.Desk);
        Assert.Equal(SaveResult.Saved, saved.Result);

        RecordChanges Ours() => site.Changes("sales_order", ("wanted_by", Value.From(new DateOnly(2026, 12, 24))));
        var (first, second) = (await edit.TryAsync(Ours()), await edit.TryAsync(Ours()));
        Assert.Equal([before, before], [first.State.Header[reference.Slot], second.State.Header[reference.Slot]]);
        Assert.Equal(RecordJson.Write(first.State, Site.Desk).ToJsonString(), RecordJson.Write(second.State, Site.Desk).ToJsonString());
        Assert.Equal(opened, RecordJson.Write(edit.Current, Site.Desk).ToJsonString());

        // Saving reads anew, and merges.
        var ours = await site.Saver.SaveAsync(type, 12, Ours(), Site.Desk);
        Assert.Equal("theirs", ours.Outcome.State.Header[reference.Slot].Text);
    }

    [Fact(
        DisplayName = "Editing begins with nothing for whoever may not read the record, and trying is refused to whoever may not change it"
    )]
    public async Task Editing_keeps_to_access()
    {
        var type = site.Type("sales_order");
        Assert.Null(await site.Store.EditAsync(type, 999_999, Site.Desk));
        var guest = (await site.Store.EditAsync(type, 12, Site.Guest))!;
        await Assert.ThrowsAsync<AccessRefusedException>(() =>
            guest.TryAsync(site.Changes("sales_order", ("reference", Value.From("mine"))))
        );
        await Assert.ThrowsAsync<AccessRefusedException>(() => site.Store.EditAsync(type, null, Site.Guest));
    }

    [Fact(
        DisplayName = "A catalogue of a draft, or of an earlier release, "
            + "is built once for all who ask; of many asked for, the last few are kept"
    )]
    public async Task Catalogues_are_kept()
    {
        var drafts = Enumerable.Range(0, 6).Select(n => site.Catalogues.Live.Site with { Fields = [Site.Field($"kept_{n}")] }).ToList();
        var first = site.Catalogues.Build(drafts[0]);
        Assert.Same(site.Catalogues.Build(drafts[1]), site.Catalogues.Build(drafts[1]));
        Assert.Same(first, site.Catalogues.Build(drafts[0]));
        foreach (var other in drafts.Skip(1))
            site.Catalogues.Build(other);
        Assert.NotSame(first, site.Catalogues.Build(drafts[0]));

        for (var n = 0; n < 3; n++)
            await site.PublishAsync(Site.Field($"went_live_{n}"));
        var old = await site.Catalogues.AtAsync(1);
        Assert.Equal(1, old.Release);
        Assert.Same(old, await site.Catalogues.AtAsync(1));
        Assert.Null(old.Find("sales_order")!.Header.Find("went_live_0"));
    }
}
