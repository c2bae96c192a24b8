using Pelto.Web.Components;

namespace Pelto.Web.Tests;

/// <summary>Settings of a part of a screen, as they are sent.</summary>
public sealed class PartSettingsTests
{
    [Theory(DisplayName = "What is typed in other languages is kept, or refused with the line that is wrong: none is skipped")]
    [InlineData("nb: Merke\nFI: Merkki\n\n", null)]
    [InlineData("nb: Time: of day", null)]
    [InlineData("nb: Merke\nMerkki", "“Merkki” does not begin with its language")]
    [InlineData("norsk: Merke", "“norsk: Merke” does not begin with its language")]
    [InlineData("nb:", "“nb:” does not begin with its language")]
    [InlineData("nb: Merke\nNB: Merkelapp", "The language nb is there twice.")]
    public void Other_languages(string typed, string? refusal)
    {
        var settings = new PartSettings { Part = "sales_order.payment_terms", Texts = typed };
        if (refusal is not null)
        {
            Assert.StartsWith(refusal, settings.Refusal, StringComparison.Ordinal);
            return;
        }

        Assert.Null(settings.Refusal);
        var stored = settings.PutInto(new Layer { Id = "l" }).Operations.Single().Texts!;
        Assert.Equal(
            typed.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(line => (line[..2].ToLowerInvariant(), line[4..])),
            stored.Select(text => (text.Key, text.Value))
        );
    }
}
