using Pelto.Core.Access;
using Pelto.Core.Formulas;

namespace Pelto.Core.Tests.Access;

/// <summary>
/// The rule of access a second time, as plainly as it can be said: every grant is looked at for every question, nothing is prepared and
/// nothing is kept. For tests only.
/// </summary>
internal sealed class NaiveAccess(SiteDefinition site, HostDescription host, Viewer viewer, RecordState state)
{
    public AccessLevel LevelAt(Field field, LineState? line)
    {
        var type = field.Part.RecordType;
        if (!May(type, "read", line))
            return AccessLevel.None;
        var mine = site.Grants.Where(grant => !grant.IsOnTypes && IsOn(grant, field) && IsMine(grant)).ToList();
        var isGuarded = site.Guards.Any(guard => guard.On == IdOf(field));

        // What it starts with.
        var level =
            isGuarded && !IsAdministrator ? AccessLevel.None
            : May(type, "change", line) ? AccessLevel.Write
            : AccessLevel.Read;

        // The highest that is given.
        foreach (var grant in mine.Where(grant => grant.Does != Grant.Withhold && Holds(grant, field.Part, line, orElse: false)))
            if (AccessLevels.Read(grant.Level) is { } given && given > level)
                level = given;

        // What changing the record is withheld by, the field is as well.
        if (level == AccessLevel.Write && Withheld(type, "change", line))
            level = AccessLevel.Read;

        // The lowest that is left.
        foreach (var grant in mine.Where(grant => grant.Does == Grant.Withhold && Holds(grant, field.Part, line, orElse: true)))
            if (AccessLevels.Read(grant.Level) is { } left && left < level)
                level = left;

        // The strictest of what it is calculated from, where nobody opened it.
        if (!mine.Any(grant => grant.Does == Grant.Open && Holds(grant, field.Part, line, orElse: false)))
        {
            foreach (var input in field.GuardedBy)
            {
                if (!field.IsAdded && !IsRestrained(input))
                    continue;
                var isHere = input.Part == field.Part || !input.Part.IsLines;
                var of =
                    isHere ? LevelAt(input, input.Part.IsLines ? line : line)
                    : state.LinesOf(input.Part).Count == 0 ? AccessLevel.Write
                    : OnEveryRecord(input, field.IsAdded);
                if (of < AccessLevel.Read && of < level)
                    level = of;
            }
        }

        return level == AccessLevel.Write && (!field.IsTyped || (field.Target is { } target && !May(target, "read", null)))
            ? AccessLevel.Read
            : level;
    }

    private bool IsAdministrator => viewer.Roles.Contains(Viewer.Administrator);

    // Over all records, with conditions answered for the worse.
    // For what the ERP itself calculates, only fields are guarded, not records.
    private AccessLevel OnEveryRecord(Field field, bool isAdded)
    {
        var asked = isAdded
            ? site
            : site with
            {
                Guards = [.. site.Guards.Where(guard => !guard.On.StartsWith(Grant.TypePrefix, StringComparison.Ordinal))],
                Grants =
                [
                    .. site.Grants.Where(grant => !grant.IsOnTypes),
                    new()
                    {
                        To = ["everyone"],
                        On = [Grant.OnType(field.Part.RecordType.Code)],
                        May = ["read"],
                    },
                ],
            };
        var worst = new NaiveAccess(
            asked with
            {
                Grants =
                [
                    .. asked.Grants.Select(grant =>
                        string.IsNullOrEmpty(grant.When) ? grant
                        : grant.Does == Grant.Withhold ? grant with { When = null }
                        : grant with { To = ["user:nobody at all"], When = null }
                    ),
                ],
            },
            host,
            viewer,
            state
        );
        return worst.LevelAt(field, null);
    }

    private bool IsRestrained(Field field) =>
        site.Guards.Any(guard => guard.On == IdOf(field) || guard.On == Grant.OnType(field.Part.RecordType.Code))
        || site.Grants.Any(grant =>
            grant.Does == Grant.Withhold
            && (
                grant.IsOnTypes
                    ? grant.On.Contains(Grant.OnType(field.Part.RecordType.Code)) && grant.May!.Contains("read")
                    : IsOn(grant, field) && AccessLevels.Read(grant.Level) < AccessLevel.Read
            )
        )
        || field.GuardedBy.Any(IsRestrained);

    private bool May(RecordType type, string right, LineState? line)
    {
        if (right != "read" && !May(type, "read", line))
            return false;
        var access = type.Description.Access;
        var has =
            IsAdministrator
            || (
                !site.Guards.Any(guard => guard.On == Grant.OnType(type.Code))
                && (right == "read" ? access.Read.Concat(access.Write) : access.Write).Any(role =>
                    (role == "*" && viewer.Roles.Count > 0) || viewer.Roles.Contains(role)
                )
            );
        var given = GrantsOn(type)
            .Any(grant =>
                grant.Does == Grant.Give
                && (right == "read" || grant.May!.Contains(right))
                && Holds(grant, type.Header, line, orElse: false)
            );
        return (has || given) && !Withheld(type, right, line);
    }

    private bool Withheld(RecordType type, string right, LineState? line) =>
        GrantsOn(type)
            .Any(grant => grant.Does == Grant.Withhold && grant.May!.Contains(right) && Holds(grant, type.Header, line, orElse: true));

    private IEnumerable<Grant> GrantsOn(RecordType type) =>
        site.Grants.Where(grant => grant.On.Contains(Grant.OnType(type.Code)) && IsMine(grant));

    private static bool IsOn(Grant grant, Field field) => grant.On.Contains(IdOf(field));

    private static string IdOf(Field field) => field.Definition?.Id ?? field.Id;

    private bool IsMine(Grant grant) =>
        grant.To.Any(text => Audience.TryParse(text, out var audience) && audience.Holds(viewer, host.Companies));

    private bool Holds(Grant grant, Part part, LineState? line, bool orElse)
    {
        if (string.IsNullOrEmpty(grant.When))
            return true;
        var condition = Formula.Bind(
            grant.When,
            part,
            [],
            parameters: new Dictionary<string, DataType> { ["person"] = DataType.Text, ["company"] = DataType.Text }
        )!;
        var answer = condition.Evaluate(
            state.FrameAt(line) with
            {
                Typed = name => name == "person" ? Value.From(viewer.SignIn) : Value.From(viewer.Company),
            }
        );
        return answer.DataType == DataType.YesNo ? answer.Yes : orElse;
    }
}
