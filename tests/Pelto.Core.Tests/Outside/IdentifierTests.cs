using System.Numerics;
using CsCheck;

namespace Pelto.Core.Tests.Outside;

public sealed class IdentifierTests
{
    [Theory(DisplayName = "Worked examples of the standards are taken, and refused with any figure changed")]
    [
        InlineData("iban", "FI21 1234 5600 0007 85", "ISO 13616, IBAN registry"),
        InlineData("iban", "DE89 3704 0044 0532 0130 00", "ISO 13616, IBAN registry"),
        InlineData("iban", "NO93 8601 1117 947", "ISO 13616, IBAN registry")
    ]
    [
        InlineData("gtin", "6291041500213", "GS1, check digit calculator"),
        InlineData("gtin", "4006381333931", "common EAN-13 example"),
        InlineData("gtin", "96385074", "common EAN-8 example")
    ]
    [
        InlineData("isbn", "978-0-306-40615-7", "ISBN users' manual"),
        InlineData("container", "CSQU 305438 3", "ISO 6346, annex A"),
        InlineData("lei", "54930084UKLVMY22DS16", "ISO 17442 examples")
    ]
    public void Standards_hold(string scheme, string example, string source)
    {
        Assert.NotEmpty(source);
        var kind = new IdentifierKind(scheme);
        var parsed = kind.Parse(example);
        Assert.Null(parsed.Refusal);
        for (
            var i =
                scheme is "isbn" ? 3
                : scheme is "container" or "iban" ? 4
                : 0;
            i < parsed.Value.Text.Length;
            i++
        )
        {
            if (!char.IsAsciiDigit(parsed.Value.Text[i]))
                continue;
            var slip = parsed
                .Value.Text.Remove(i, 1)
                .Insert(i, ((parsed.Value.Text[i] - '0' + 1) % 10).ToString(CultureInfo.InvariantCulture));

            // ISO 6346 itself says that a check digit of 10 counts as 0, so a few slips pass there.
            if (scheme != "container")
                Assert.NotNull(kind.Parse(slip).Refusal);
        }
    }

    [Theory(DisplayName = "Examples of ISO/IEC 7064")]
    [InlineData("mod11_2", "07940"), InlineData("mod97_10", "79444"), InlineData("mod37_36", "A12425GABC1234002M")]
    public void Iso_7064_examples(string way, string example)
    {
        var kind = new IdentifierKind(IdentifierScheme.UserDefined, null, way);
        Assert.Null(kind.Parse(example).Refusal);
        Assert.NotNull(kind.Parse(example.Remove(1, 1).Insert(1, example[1] == '3' ? "4" : "3")).Refusal);
    }

    [Fact(DisplayName = "Two thousand numbers, good and bad, are judged as a library of the registry judges them (validator)")]
    public void A_library_agrees()
    {
        var random = new Random(20261125);
        var asked = new List<(string Ask, string Text)>();
        for (var i = 0; i < 500; i++)
        {
            var digits = string.Concat(Enumerable.Range(0, 18).Select(_ => (char)('0' + random.Next(10))));
            asked.Add(
                (
                    "gtin",
                    digits[
                        ..(
                            i % 3 == 0 ? 8
                            : i % 3 == 1 ? 13
                            : 14
                        )
                    ]
                )
            );
            asked.Add(("isbn", "978" + digits[..10]));
            asked.Add(
                (
                    "container",
                    $"{(char)('A' + random.Next(26))}{(char)('A' + random.Next(26))}{(char)('A' + random.Next(26))}U{digits[..7]}"
                )
            );
            asked.Add(("iban", i % 2 == 0 ? "FI" + digits[..16] : "NO" + digits[..13]));
        }

        // Blind chance gives few good ones: for each, the check digits that make it good are tried too.
        asked.AddRange(asked.ToList().SelectMany(question => Mended(question.Ask, question.Text)));
        // ISO 13616 leaves the check digits 00, 01 and 99 out, which the library does not look at.
        asked.RemoveAll(question => question.Ask == "iban" && question.Text[2..4] is "00" or "01" or "99");
        var verdicts = Reference.Ask(asked);
        Assert.True(verdicts.Count(verdict => verdict.GetBoolean()) > 1500);
        foreach (var ((ask, text), verdict) in asked.Zip(verdicts))
            Assert.True(
                verdict.GetBoolean() == (new IdentifierKind(ask).Parse(text).Refusal is null),
                $"{ask} {text}: the library says {verdict}"
            );
    }

    [Fact(DisplayName = "MOD 97-10 is what the whole number leaves, reckoned with big integers")]
    public void Mod97_is_a_remainder() =>
        Gen.String[Gen.Char["0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"], 2, 40]
            .Sample(text =>
            {
                var number = BigInteger.Parse(
                    string.Concat(
                        text.Select(c => char.IsAsciiDigit(c) ? c.ToString() : (c - 'A' + 10).ToString(CultureInfo.InvariantCulture))
                    ),
                    CultureInfo.InvariantCulture
                );
                return CheckDigits.Mod97(text) == (number % 97 == 1);
            });

    private static IEnumerable<(string Ask, string Text)> Mended(string ask, string text) =>
        ask == "iban"
            ? Enumerable
                .Range(2, 97)
                .Select(check => (ask, text[..2] + check.ToString("00", CultureInfo.InvariantCulture) + text[4..]))
                .Where(mended => new IdentifierKind("iban").Parse(mended.Item2).Refusal is null)
            : Enumerable
                .Range(0, 10)
                .Select(check => (ask, text[..^1] + check.ToString(CultureInfo.InvariantCulture)))
                .Where(mended => new IdentifierKind(ask).Parse(mended.Item2).Refusal is null);
}
