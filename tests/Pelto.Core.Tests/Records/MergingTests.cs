using CsCheck;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Records;

/// <summary>Two people on one record: three values decide — as opened, as entered, as it is now.</summary>
public sealed class MergingTests
{
    private readonly RecordType type = Sample.OrderType();

    [Fact(DisplayName = "Changes to different fields are merged")]
    public void Different_fields_merge()
    {
        var opened = Sample.Order(type);
        var now = opened.Copy();
        Sample.Set(now, "placed", Value.From(Sample.Today));
        var outcome = Run(now, opened, header: [("note", Value.From("mine")), ("placed", Value.Empty)]);
        Assert.True(outcome.IsGood);
        Assert.Equal((Value.From("mine"), Value.From(Sample.Today)), (outcome.State.Get("note"), outcome.State.Get("placed")));
    }

    [Fact(DisplayName = "A change to the same field is shown with both values and overrules nobody")]
    public void Same_field_clashes()
    {
        var opened = Sample.Order(type);
        var now = opened.Copy();
        Sample.Set(now, "note", Value.From("theirs"));
        var clash = Run(now, opened, header: [("note", Value.From("mine"))]).Clashes.Single();
        Assert.Equal(("header.note", Value.From("theirs"), Value.From("mine")), (clash.At.ToString(), clash.Theirs, clash.Mine));
    }

    [Fact(DisplayName = "Both wanting the same is no clash")]
    public void Same_change_is_no_clash()
    {
        var opened = Sample.Order(type);
        var now = opened.Copy();
        Sample.Set(now, "note", Value.From("both"));
        Assert.True(Run(now, opened, header: [("note", Value.From("both"))]).IsGood);
    }

    [Fact(DisplayName = "Lines that two people add all stay; one's removed line and another's changed field of it clash")]
    public void Lines_merge()
    {
        var opened = Sample.Order(type);
        var now = opened.Copy();
        Sample.AddLine(now, 3, 1, 7m, null);
        var added = Run(
            now,
            opened,
            lines: [Line("1", 1), Line("new", null, ("quantity", Value.From(4m)), ("price", Value.From(1m))), Line("2", 2)]
        );
        Assert.True(added.IsGood);
        Assert.Equal(["1", "new", "2", "3"], added.State.Lines[0].Select(line => line.Key));
        Assert.Equal(Value.From(44.5m), added.State.Get("total"));

        var changed = opened.Copy();
        changed.Lines[0][1].Values[type.LineParts[0].Find("price")!.Slot] = Value.From(6m);
        Assert.StartsWith(
            "Somebody else changed a line that you removed.",
            Run(changed, opened, lines: [Line("1", 1)]).Clashes.Single().Sentence,
            StringComparison.Ordinal
        );
        Assert.True(Run(opened.Copy(), opened, lines: [Line("1", 1)]).IsGood);
    }

    [Fact(DisplayName = "A line that somebody else removed: untouched it goes, changed it clashes")]
    public void Removed_lines_clash_only_when_changed()
    {
        var opened = Sample.Order(type);
        var now = opened.Copy();
        now.Lines[0].RemoveAt(1);
        Assert.Single(Run(now, opened, lines: [Line("1", 1), Line("2", 2, ("price", Value.From(5m)))]).State.Lines[0]);
        var stored = Run(now, opened, lines: [Line("1", 1), Line("2", 2, ("price", Value.From(9m)))]);
        Assert.Single(stored.Clashes);
        Assert.Equal(
            (Value.From(9m), Value.From(3m), null),
            (stored.State.Get(1, "price"), stored.State.Get(1, "quantity"), stored.State.Lines[0][1].Id)
        );
    }

    [Fact(DisplayName = "Whoever moved nothing takes over the order that others made")]
    public void Order_follows_whoever_moved()
    {
        var opened = Sample.Order(type);
        var now = opened.Copy();
        now.Lines[0].Reverse();
        Assert.Equal(["2", "1"], Run(now, opened, lines: [Line("1", 1), Line("2", 2)]).State.Lines[0].Select(line => line.Key));
        Assert.Equal(["2", "1"], Run(opened.Copy(), opened, lines: [Line("2", 2), Line("1", 1)]).State.Lines[0].Select(line => line.Key));
    }

    [Fact(DisplayName = "Sent twice, or sent with an id of another record, a line is refused")]
    public void Odd_lines_are_refused()
    {
        var order = Sample.Order(type);
        Assert.False(Run(order, null, lines: [Line("1", 1), Line("1", 1)]).IsGood);
        Assert.Contains(
            "There is no order line with the id 99",
            Run(order, null, lines: [Line("99", 99)]).Messages[0].Sentence,
            StringComparison.Ordinal
        );
    }

    [Fact(DisplayName = "Whatever two people do to two fields, nobody's change is lost without a word")]
    public void Nothing_is_lost_silently() =>
        Gen.Select(Gen.Int[0, 3], Gen.Int[0, 3], Gen.Int[0, 3])
            .Sample(
                (was, theirs, mine) =>
                {
                    var opened = Sample.Order(type);
                    Sample.Set(opened, "note", Value.From("v" + was));
                    var now = opened.Copy();
                    Sample.Set(now, "note", Value.From("v" + theirs));
                    var outcome = Run(now, opened, header: [("note", Value.From("v" + mine))]);
                    var (bothChanged, differ) = (theirs != was && mine != was, theirs != mine);
                    var expected = mine == was ? theirs : mine;
                    return outcome.Clashes.Count == (bothChanged && differ ? 1 : 0)
                        && outcome.State.Get("note") == Value.From("v" + expected);
                }
            );

    private Outcome Run(RecordState now, RecordState? opened, (string Code, Value Value)[]? header = null, EnteredLine[]? lines = null)
    {
        var changes = new RecordChanges { Opened = opened };
        foreach (var (code, value) in header ?? [])
            changes.Header[type.Header.Find(code)!] = value;
        if (lines is not null)
            changes.Lines[type.LineParts[0]] = [.. lines];
        return Pipeline.Run(now, changes, Sample.Desk, Sample.Today);
    }

    private EnteredLine Line(string key, long? id, params (string Code, Value Value)[] values) =>
        new(key, id, values.ToDictionary(pair => type.LineParts[0].Find(pair.Code)!, pair => (Parsed)pair.Value));
}
