using System.Text;
using OtpNet;
using Pelto.Data.SigningIn;

namespace Pelto.Data.Tests;

/// <summary>Second factors and passwords against what others have written of them.</summary>
public sealed class CredentialTests
{
    // RFC 6238, appendix B: the SHA-1 rows, of eight digits; those of six are their last six (RFC 4226, 5.3: the number modulo ten to the
    // digits).
    [Theory(DisplayName = "Codes are those of RFC 6238")]
    [InlineData(59, "94287082")]
    [InlineData(1111111109, "07081804")]
    [InlineData(1111111111, "14050471")]
    [InlineData(1234567890, "89005924")]
    [InlineData(2000000000, "69279037")]
    [InlineData(20000000000, "65353130")]
    public void Codes(long seconds, string code)
    {
        var (key, now) = (Encoding.ASCII.GetBytes("12345678901234567890"), DateTimeOffset.FromUnixTimeSeconds(seconds));
        Assert.Equal(code, new Totp(key, totpSize: 8).ComputeTotp(now.UtcDateTime));
        Assert.Equal(seconds / 30, SecondFactor.StepOf(key, code[2..], now, 0));
        Assert.Equal(seconds / 30, SecondFactor.StepOf(key, $"{code[2..5]} {code[5..]}", now.AddSeconds(30), 0));
        Assert.Null(SecondFactor.StepOf(key, code[2..], now, seconds / 30));
        Assert.Null(SecondFactor.StepOf(key, code[2..], now.AddSeconds(90), 0));
        Assert.Null(SecondFactor.StepOf(key, code, now, 0));
    }

    [Fact(DisplayName = "A key is typed in Base32 (RFC 4648) and read from the address that applications know")]
    public void Keys()
    {
        // RFC 4648, section 10: BASE32("foobar").
        Assert.Equal("MZXW 6YTB OI", SecondFactor.Typed(Encoding.ASCII.GetBytes("foobar")));
        Assert.StartsWith("otpauth://totp/", SecondFactor.Address(SecondFactor.NewKey(), "henna.aro"), StringComparison.Ordinal);
        Assert.Equal(20, SecondFactor.NewKey().Length);
    }

    [Theory(DisplayName = "Long passwords of any characters are taken; short, common and expected ones are not (NIST SP 800-63B)")]
    [InlineData("Tuulinen aamu, kolme venettä", true)]
    [InlineData("correct horse battery staple", true)]
    [InlineData("雪の朝に船が三つ静かに出ていった", true)]
    [InlineData("zq8Kv0xWm2Lr7Tb", true)]
    [InlineData("zq8Kv0xWm2Lr7T", false)]
    [InlineData("passwordpassword1", false)]
    [InlineData("qwertyuiopasdfgh", false)]
    [InlineData("1234567890123456", false)]
    [InlineData("aaaaaaaaaaaaaaaaaaaa", false)]
    [InlineData("henna.arohenna.aro", false)]
    [InlineData("iloveyou iloveyou", false)]
    [InlineData("touvisalmi2026!!", false)]
    [InlineData("Tuulinen\taamu, kolme venettä", false)]
    public void Passwords(string password, bool isGood) =>
        Assert.Equal(isGood, PasswordRules.Refuse(password, ["Henna Aro", "henna.aro", "Touvisalmi"]) is null);

    [Fact(DisplayName = "128 characters are taken, and what looks the same is the same, however it was typed")]
    public void Length_and_form()
    {
        var words = string.Join(' ', Enumerable.Range(0, 30).Select(n => (n * 7919).ToString(CultureInfo.InvariantCulture) + "kq"));
        Assert.Null(PasswordRules.Refuse(words[..128], []));
        Assert.NotNull(PasswordRules.Refuse(words[..129], []));
        Assert.NotNull(PasswordRules.Refuse($"{'\ud800'} is half of a character, as it were", []));
        Assert.Equal(PasswordRules.Normal("caf\u00e9"), PasswordRules.Normal("cafe\u0301"));
        Assert.Equal(PasswordRules.Normal("ﬁne"), PasswordRules.Normal("fine"));
    }
}
