using CsCheck;
using Pelto.Core.Records;

namespace Pelto.Core.Tests.Records;

/// <summary>What lists are grouped by.</summary>
public sealed class GroupKeyTests
{
    [Fact(
        DisplayName = "Days of a month, a quarter or a year, and no others, "
            + "keep to the filter of their group; leap years and the last year included"
    )]
    public void Groups_of_days_are_whole()
    {
        var field = Sample.Catalogue([]).Find("order")!.Header.Fields.First(field => field.Kind is DateKind);
        var steps = GroupKey.StepsOf(field).Where(step => step != GroupStep.Value).ToArray();
        Assert.Equal([GroupStep.Month, GroupStep.Quarter, GroupStep.Year], steps);
        Gen.Select(Gen.Int[0, DateOnly.MaxValue.DayNumber], Gen.Int[-400, 400], Gen.Int[0, 2])
            .Sample(
                (number, away, at) =>
                {
                    var key = new GroupKey(field, steps[at]);
                    var day = DateOnly.FromDayNumber(number);
                    var first = key.Step switch
                    {
                        GroupStep.Month => new DateOnly(day.Year, day.Month, 1),
                        GroupStep.Quarter => new(day.Year, ((day.Month - 1) / 3 * 3) + 1, 1),
                        _ => new(day.Year, 1, 1),
                    };
                    var filter = key.FilterFor(Value.From(first));
                    var other = DateOnly.FromDayNumber(Math.Clamp(number + away, 0, DateOnly.MaxValue.DayNumber));
                    var together =
                        other.Year == day.Year
                        && (
                            key.Step == GroupStep.Year
                            || (key.Step == GroupStep.Month ? other.Month == day.Month : (other.Month - 1) / 3 == (day.Month - 1) / 3)
                        );
                    return (filter.Value.Date <= other && other <= filter.Until.Date) == together;
                }
            );
    }

    [Fact(DisplayName = "A key is read as it was written; what makes no groups says so")]
    public void Keys_are_read_back()
    {
        var type = Sample.Catalogue([]).Find("order")!;
        foreach (var key in type.Header.Fields.SelectMany(field => GroupKey.StepsOf(field).Select(step => new GroupKey(field, step))))
            Assert.Equal(key, GroupKey.Parse(type, key.Write()).Key);
        Assert.Equal("There is no field “nothing” to group by.", GroupKey.Parse(type, "nothing").Refusal);
        var day = type.Header.Fields.First(field => field.Kind is DateKind);
        Assert.Contains($"{day.Code}:month", GroupKey.Parse(type, day.Code + ":week").Refusal, StringComparison.Ordinal);
        Assert.Contains("is grouped by", GroupKey.Parse(type, day.Code + ":2").Refusal, StringComparison.Ordinal);
        Assert.Equal(
            ("2026-05", "toukokuu 2026", "2026, quarter 2"),
            (
                new GroupKey(day, GroupStep.Month).Format(Value.From(new DateOnly(2026, 5, 1)), Locale.International),
                new GroupKey(day, GroupStep.Month).Format(
                    Value.From(new DateOnly(2026, 5, 1)),
                    new(CultureInfo.GetCultureInfo("fi-FI"), TimeZoneInfo.Utc)
                ),
                new GroupKey(day, GroupStep.Quarter).Format(Value.From(new DateOnly(2026, 4, 1)), Locale.International)
            )
        );
    }
}
