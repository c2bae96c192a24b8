using Pelto.Core.Binding;
using Pelto.Data.Storage;

namespace Pelto.Web.Pages;

/// <summary>An added field in the register.</summary>
public sealed record RegisterEntry(FieldDefinition Definition, Part Part, string Kind, ElementHistory? History, long Filled, long Rows)
{
    /// <summary>Stands for what is seen through a link and kept nowhere.</summary>
    public const long ThroughLink = -1;

    /// <summary>Stands for a count where a field is calculated when it is read.</summary>
    public const long Live = -2;

    /// <summary>Stands for a count that this person may not be told.</summary>
    public const long Untold = -3;

    /// <summary>How many of a hundred rows hold a value.</summary>
    public string Share =>
        Rows == 0 ? "0 %"
        : Filled > 0 && Filled * 100 < Rows ? "under 1 %"
        : $"{Numbers.Format(Filled * 100 / Rows)} %";
}

/// <summary>A record type in the register.</summary>
public sealed record RegisterType(RecordType Type, IReadOnlyList<RegisterEntry> Entries, ReleaseMark? Changed);

/// <summary>
/// Every record type with what was added to it, when it last changed, and how much it is used. Retired fields are in it too.
/// </summary>
public sealed class RegisterModel(CurrentRequest request, ReleaseHistory history, FactsReader facts) : PageModel
{
    /// <summary>The record types.</summary>
    public IReadOnlyList<RegisterType> Types { get; private set; } = [];

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>True for administrators, who alone look at what removed fields held.</summary>
    public bool IsAdministrator => AdminRights.All(request.Viewer);

    /// <summary>True when the one who looks defines fields of a record type.</summary>
    public bool MayDefine(RecordType type) => request.Viewer.MayAt(AdminWork.Define, type.Code);

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync()
    {
        var known = await history.AllAsync();
        var site = request.Catalogue.Site;

        // A retired field stands in no part of the catalogue; for counting, it is brought back in a catalogue of its own.
        var whole = Catalogue.Build(
            request.Catalogue.Release,
            request.Catalogue.Host,
            site with
            {
                Fields = [.. site.Fields.Select(field => field with { Retired = false })],
            }
        );
        var rows = new Dictionary<string, long?>();
        var types = new List<RegisterType>();
        foreach (var type in whole.RecordTypes.Where(request.Views.Sees))
        {
            var entries = new List<RegisterEntry>();
            var fields = type.Parts.SelectMany(part => part.AddedFields).Where(request.Views.SeesDefinition).ToList();
            var filled = await facts.CountFilledAsync(fields, request.Viewer);
            foreach (var field in fields)
            {
                if (!rows.TryGetValue(field.Part.Table, out var count))
                    rows[field.Part.Table] = count = await facts.CountRowsAsync(field.Part, request.Viewer);
                entries.Add(
                    new(
                        site.Find(field.Definition!.Id)!,
                        field.Part,
                        field.KindInWords,
                        known.GetValueOrDefault(field.Definition.Id),
                        field.IsThroughLink ? RegisterEntry.ThroughLink
                            : field.IsLive ? RegisterEntry.Live
                            : filled.GetValueOrDefault(field, RegisterEntry.Untold),
                        count ?? 0
                    )
                );
            }

            types.Add(
                new(type, entries, entries.Select(entry => entry.History?.Changed).OfType<ReleaseMark>().MaxBy(mark => mark.Release))
            );
        }

        Types = [.. types.OrderByDescending(type => type.Entries.Count > 0)];
    }
}
