using System.Text.Json.Nodes;
using Pelto.Core.Auditing;
using Pelto.Core.Elements;

namespace Pelto.Web.Components;

/// <summary>An entry of the audit as somebody reads it: values of fields that they may not read of every record are masked.</summary>
public sealed class AuditView(Catalogue catalogue, Viewer viewer)
{
    /// <summary>What stands for a value that is withheld.</summary>
    private const string Withheld = Masks.Pattern;

    /// <summary>The entry with what this person may not read of it masked.</summary>
    public AuditEntry For(AuditEntry entry) =>
        entry.Note.Kind != AuditKinds.Value || Reads(entry.Note.Subject)
            ? entry
            : entry with
            {
                Note = entry.Note with
                {
                    Before = entry.Note.Before is null ? null : Withheld,
                    After = entry.Note.After is null ? null : Withheld,
                },
            };

    /// <summary>Property by property what was changed of a definition; before and after as they are for anything else.</summary>
    public IReadOnlyList<PropertyChange> Details(AuditNote note) =>
        note.Kind switch
        {
            _ when note.Before is null && note.After is null => [],
            AuditKinds.Definition or AuditKinds.Layer or AuditKinds.Access when note.Subject != DefinitionChanges.Host =>
                new DefinitionDetails(catalogue, new(viewer, catalogue)).For(note.Before, note.After),
            _ => [new("", note.Before ?? PropertyChange.Nothing, note.After ?? PropertyChange.Nothing)],
        };

    /// <summary>What a changed definition is called, where what was done does not say it; empty for anything else.</summary>
    public string NameOf(AuditNote note)
    {
        if (
            note.Kind is not (AuditKinds.Definition or AuditKinds.Layer or AuditKinds.Access)
            || (note.After ?? note.Before) is not { } said
            || note.Subject == DefinitionChanges.Host
        )
            return "";
        var json = JsonNode.Parse(said)!;
        var name = json["label"]?.GetValue<string>()
            ?? string.Join(
                ", ",
                (json["on"] as JsonArray ?? [json["on"]?.DeepClone()])
                    .Select(on => $"{on}")
                    .Select(on => catalogue.FindField(on)?.Label ?? on)
            );
        return note.What.Contains(name, StringComparison.Ordinal) ? "" : name;
    }

    /// <summary>The code of the record type whose record is meant, when the person may see such records; else null.</summary>
    public string? RecordOf(AuditNote note) =>
        note is { RecordType: { } code, Record: not null } && catalogue.Find(code) is { } type && viewer.MayRead(type) ? code : null;

    // A field that is not live any more has no grants: whoever has everything by role reads what it held.
    private bool Reads(string field) =>
        catalogue.FindField(field) is { } known ? viewer.SureAt(known) >= AccessLevel.Read : AdminRights.All(viewer);
}
