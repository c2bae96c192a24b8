using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.DataProtection;

namespace Pelto.Web.Components;

/// <summary>
/// Carries a link that is being filled from a form to the list from which one chooses: sealed, so that nobody widens what is offered.
/// </summary>
public sealed class OfferTokens(IDataProtectionProvider protection)
{
    private readonly IDataProtector protector = protection.CreateProtector("offer");

    /// <summary>The link with what its condition reads of the record at hand.</summary>
    public string Write(Offer offer)
    {
        var (header, line) = (new JsonObject(), new JsonObject());
        foreach (var field in offer.Watches)
            (field.Part.IsLines ? line : header)[field.Id] = field.Kind.ToJson(
                (field.Part.IsLines ? offer.Line!.Values : offer.Record.Header)[field.Slot]
            );
        return protector.Protect(
            new JsonObject
            {
                ["field"] = offer.Field.Id,
                ["header"] = header,
                ["line"] = line,
            }.ToJsonString()
        );
    }

    /// <summary>The link again, or null when the token is not one of ours or the link is not there any more.</summary>
    public Offer? Read(string? token, Catalogue catalogue, Viewer viewer)
    {
        if (string.IsNullOrEmpty(token))
            return null;
        try
        {
            using var json = JsonDocument.Parse(protector.Unprotect(token));
            if (catalogue.FindField(json.RootElement.GetProperty("field").GetString()!) is not { Target: not null } field)
                return null;
            var record = new RecordState(field.Part.RecordType);
            Fill(json.RootElement.GetProperty("header"), catalogue, record.Header);
            if (!field.Part.IsLines)
                return Offer.To(viewer, field, record, null);
            var values = new Value[field.Part.Fields.Count];
            Fill(json.RootElement.GetProperty("line"), catalogue, values);
            return Offer.To(viewer, field, record, new("", null, values));
        }
        catch (Exception wrong) when (wrong is CryptographicException or JsonException or KeyNotFoundException)
        {
            return null;
        }
    }

    private static void Fill(JsonElement json, Catalogue catalogue, Value[] values)
    {
        foreach (var entry in json.EnumerateObject())
            if (catalogue.FindField(entry.Name) is { } field)
                values[field.Slot] = field.Kind.FromJson(entry.Value).Value;
    }
}
