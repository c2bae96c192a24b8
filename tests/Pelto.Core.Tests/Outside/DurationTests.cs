using System.Text.Json;
using System.Xml;
using CsCheck;

namespace Pelto.Core.Tests.Outside;

/// <summary>
/// Durations against those of W3C XML Schema 1.1 part 2 (3.3.6, the form of ISO 8601), as the .NET base library reads and writes them,
/// and how people write them (common practice, no source).
/// </summary>
public sealed class DurationTests
{
    private static readonly DurationKind Kind = new();

    [Fact(DisplayName = "What the programming interface gives is what the base library reads, and what that writes is read")]
    public void Is_that_of_the_standard() =>
        Gen.Long[-9_000_000_000, 9_000_000_000]
            .Sample(
                seconds =>
                {
                    var (value, span) = (Value.From((decimal)seconds), TimeSpan.FromSeconds(seconds));
                    Assert.Equal(span, XmlConvert.ToTimeSpan(Kind.ToJson(value)!.GetValue<string>()));
                    using var json = JsonDocument.Parse($"\"{XmlConvert.ToString(span)}\"");
                    Assert.Equal(new Parsed(value), Kind.FromJson(json.RootElement));
                },
                iter: 2000,
                threads: 1
            );

    [Theory(DisplayName = "A duration is read as people write it")]
    [
        InlineData("1 h 20 min", 4800),
        InlineData("1h20m", 4800),
        InlineData("1:20", 4800),
        InlineData("0:00:05", 5),
        InlineData("1.5 h", 5400)
    ]
    [
        InlineData("80 min", 4800),
        InlineData("2 days 1 hour", 176400),
        InlineData("-45 s", -45),
        InlineData("pt90m", 5400),
        InlineData("P1DT12H", 129600)
    ]
    public void Is_read(string typed, int seconds) => Assert.Equal(new Parsed(Value.From((decimal)seconds)), Kind.Parse(typed));

    [Theory(DisplayName = "What is none is refused with what is wanted")]
    [
        InlineData("90", "Say what “90” counts, such as 1 h 20 min."),
        InlineData("P1M", "years and months have no fixed length"),
        InlineData("PT", "“PT” is not a duration")
    ]
    [
        InlineData("soon", "“soon” is not a duration, such as 1 h 20 min."),
        InlineData("20 min 1 h", "is not a duration"),
        InlineData("1:75", "is not a duration"),
        InlineData("0.5 s", "to the second")
    ]
    [InlineData("99999999999999 h", "is not a duration")]
    public void Is_refused(string typed, string sentence) => Assert.Contains(sentence, Kind.Parse(typed).Refusal, StringComparison.Ordinal);

    [Fact(DisplayName = "What is far too long is refused at once, and not quoted")]
    public void Is_bounded() =>
        Assert.Equal("This is not a duration, such as 1 h 20 min.", Kind.Parse(new string('1', 1_000_000) + " x").Refusal);

    [Theory(DisplayName = "It is written with its units, hours beyond a day too")]
    [
        InlineData(4800, "1 h 20 min"),
        InlineData(0, "0 min"),
        InlineData(-45, "-45 s"),
        InlineData(129600, "36 h"),
        InlineData(3605, "1 h 5 s")
    ]
    public void Is_written(int seconds, string written) =>
        Assert.Equal(written, Kind.Format(Value.From((decimal)seconds)).Replace('\u00a0', ' '));

    [Fact(DisplayName = "A plain number becomes no duration, a time of day and a text do")]
    public void Is_converted()
    {
        Assert.Contains("hours, minutes or seconds", Kind.Convert(Value.From(90m), new IntegerKind()).Refusal, StringComparison.Ordinal);
        Assert.Equal(new Parsed(Value.From(4800m)), Kind.Convert(Value.From(new TimeOnly(1, 20)), new TimeKind()));
        Assert.Equal(new Parsed(Value.From(4800m)), Kind.Convert(Value.From("1 h 20 min"), new TextKind(20)));
        Assert.Equal("1\u00a0h 20\u00a0min", new TextKind(20).Convert(Value.From(4800m), Kind).Value.Text);
    }
}
