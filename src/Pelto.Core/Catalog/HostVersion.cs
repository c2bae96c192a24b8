namespace Pelto.Core.Catalog;

/// <summary>
/// Ties a version of the host to the one before it: what is the same part under another name keeps its lasting id, and what is gone is
/// remembered with where it stood.
/// </summary>
public static class HostVersion
{
    /// <summary>A version that knows what it follows.</summary>
    /// <param name="next">The version, as its files describe it.</param>
    /// <param name="before">The version that it is an update of, tied to what that follows.</param>
    public static HostDescription Following(this HostDescription next, HostDescription before) =>
        next with
        {
            RecordTypes =
            [
                .. next.RecordTypes.Select(type =>
                    before.RecordTypes.FirstOrDefault(old => old.Code == type.Code) is { } old ? Tie(type, old, next.Version) : type
                ),
            ],
        };

    /// <summary>
    /// A version that understands the codes of the one that follows it, and knows where what that one brings would stand: a site may go
    /// back.
    /// </summary>
    /// <param name="before">The version.</param>
    /// <param name="next">The one that follows it, tied to it.</param>
    public static HostDescription Knowing(this HostDescription before, HostDescription next) =>
        before with
        {
            RecordTypes =
            [
                .. before.RecordTypes.Select(type =>
                    next.RecordTypes.FirstOrDefault(other => other.Code == type.Code) is not { } later
                        ? type
                        : type with
                        {
                            Fields = Known(type.Fields, later.Fields),
                            Removed = RemovedSince(later, type, before.Version)
                                .Concat(type.Removed)
                                .DistinctBy(part => part.Key)
                                .ToDictionary(StringComparer.Ordinal),
                            Lines =
                            [
                                .. type.Lines.Select(lines =>
                                    lines with
                                    {
                                        Fields = Known(
                                            lines.Fields,
                                            later.Lines.FirstOrDefault(other => other.Code == lines.Code)?.Fields ?? []
                                        ),
                                    }
                                ),
                            ],
                        }
                ),
            ],
        };

    private static IReadOnlyList<FieldDescription> Known(IReadOnlyList<FieldDescription> fields, IReadOnlyList<FieldDescription> later) =>
        [
            .. fields.Select(field =>
                later.FirstOrDefault(other => other.Was == field.Code) is { } other
                    ? field with
                    {
                        OtherCodes = [.. field.OtherCodes, other.Code, .. other.OtherCodes.Where(code => code != field.Code)],
                    }
                    : field
            ),
        ];

    private static RecordTypeDescription Tie(RecordTypeDescription type, RecordTypeDescription old, string version)
    {
        var tied = type with
        {
            Fields = Tie(type.Fields, old.Fields),
            Lines =
            [
                .. type.Lines.Select(lines =>
                    lines with
                    {
                        Fields = Tie(lines.Fields, old.Lines.FirstOrDefault(other => other.Code == lines.Code)?.Fields ?? []),
                    }
                ),
            ],
            Screen = new([
                .. type.Screen.Pages.Select(page =>
                    page with
                    {
                        Id = page.Was ?? page.Id,
                        Sections = [.. page.Sections.Select(section => section with { Id = section.Was ?? section.Id })],
                    }
                ),
            ]),
        };
        return tied with { Removed = RemovedSince(old, tied, version) };
    }

    private static IReadOnlyList<FieldDescription> Tie(IReadOnlyList<FieldDescription> fields, IReadOnlyList<FieldDescription> before) =>
        [
            .. fields.Select(field =>
                before.FirstOrDefault(old => old.Code == (field.Was ?? field.Code)) is not { } old
                    ? field
                    : field with
                    {
                        FirstCode = old.FirstCode ?? old.Code,
                        Column = field.Column ?? old.Column,
                        OtherCodes = field.Was is { } was ? [was, .. old.OtherCodes.Where(code => code != field.Code)] : old.OtherCodes,
                    }
            ),
        ];

    private static Dictionary<string, RemovedPart> RemovedSince(RecordTypeDescription old, RecordTypeDescription next, string version)
    {
        var (before, now) = (PartsOf(old), PartsOf(next).Select(part => part.Id).ToHashSet(StringComparer.Ordinal));
        var gone = old.Removed.Where(part => !now.Contains(part.Key)).ToDictionary(StringComparer.Ordinal);
        foreach (var (id, label, after) in before.Where(part => !now.Contains(part.Id)))
            gone[id] = new(label, after, version);
        return gone;
    }

    // Each part of a screen with what it stands after, or first in.
    private static List<(string Id, string Label, string After)> PartsOf(RecordTypeDescription type)
    {
        var parts = new List<(string, string, string)>();
        var afterPage = "screen:" + type.Code;
        foreach (var page in type.Screen.Pages)
        {
            parts.Add((page.Id, page.Label, afterPage));
            var afterSection = afterPage = page.Id;
            foreach (var section in page.Sections)
            {
                parts.Add((section.Id, section.Label, afterSection));
                var afterPlace = afterSection = section.Id;
                var (fields, prefix) = section.Lines is null
                    ? (type.Fields, type.Code)
                    : (type.Lines.FirstOrDefault(lines => lines.Code == section.Lines)?.Fields ?? [], $"{type.Code}.{section.Lines}");
                foreach (var place in section.Places)
                {
                    if (fields.FirstOrDefault(field => field.Code == place.Field) is not { } field)
                        continue;
                    var id = $"{prefix}.{field.FirstCode ?? field.Was ?? field.Code}";
                    parts.Add((id, field.Label, afterPlace));
                    afterPlace = id;
                }
            }
        }

        return parts;
    }
}
