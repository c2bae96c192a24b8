using System.Text.Json;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Records;

public sealed class RecordJsonTests
{
    private readonly RecordType type = Sample.OrderType(Sample.Copies);

    [Fact(DisplayName = "A record reads back as it was written")]
    public void Records_read_back()
    {
        var order = Sample.Order(type);
        using var json = JsonDocument.Parse(RecordJson.Write(order, Sample.Desk).ToJsonString());
        var read = RecordJson.Read(json.RootElement, type, new RecordState(type));
        Assert.Equal(order.Header, read.Header);
        Assert.Equal(order.Lines[0].Select(line => line.Values), read.Lines[0].Select(line => line.Values));
    }

    [Fact(DisplayName = "Written under an older release, it takes what it does not hold from the record as it is now")]
    public void Older_records_are_filled_up()
    {
        using var json = JsonDocument.Parse(RecordJson.Write(Sample.Order(Sample.OrderType()), Sample.Desk).ToJsonString());
        var now = Sample.Order(type);
        Sample.Set(now, "copies", Value.From(5m));
        Assert.Equal(Value.From(5m), RecordJson.Read(json.RootElement, type, now).Get("copies"));
    }

    [Theory(DisplayName = "What makes no sense is refused at its JSON pointer (RFC 6901)")]
    [InlineData("""{"values": {"nte": "x"}}""", "/values/nte")]
    [InlineData("""{"valeus": {}}""", "/valeus")]
    [InlineData("""{"lines": {"rows": []}}""", "/lines/rows")]
    [InlineData("""{"lines": {"lines": {}}}""", "/lines/lines")]
    [InlineData("""{"lines": {"lines": [{}, {"qty": 1}]}}""", "/lines/lines/1/qty")]
    [InlineData("""{"lines": {"lines": [{"id": "one"}]}}""", "/lines/lines/0/id")]
    [InlineData("[]", "")]
    public void Nonsense_is_refused(string sent, string pointer)
    {
        using var json = JsonDocument.Parse(sent);
        var refusals = new List<(string Pointer, string Sentence)>();
        RecordJson.ReadChanges(json.RootElement, type, refusals);
        Assert.Equal(pointer, refusals.Single().Pointer);
    }

    [Fact(DisplayName = "A message points into what was sent")]
    public void Messages_point()
    {
        using var json = JsonDocument.Parse("""{"lines": {"lines": [{"id": 1}, {"quantity": null}]}}""");
        var changes = RecordJson.ReadChanges(json.RootElement, type, []);
        var message = Pipeline.Run(Sample.Order(type), changes, Sample.Desk, Sample.Today).Messages.Single();
        Assert.Equal("/lines/lines/1/quantity", RecordJson.Pointer(message.At, changes));
    }
}
