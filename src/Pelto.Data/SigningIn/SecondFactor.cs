using OtpNet;

namespace Pelto.Data.SigningIn;

/// <summary>
/// Codes that change with time (TOTP, RFC 6238): SHA-1, six digits, steps of 30 seconds, as all applications for it do by default.
/// </summary>
public static class SecondFactor
{
    private const int KeyLength = 20;

    /// <summary>A new key.</summary>
    public static byte[] NewKey() => KeyGeneration.GenerateRandomKey(KeyLength);

    /// <summary>The key as people type it (Base32, RFC 4648), in groups of four.</summary>
    public static string Typed(byte[] key) =>
        string.Join(' ', Base32Encoding.ToString(key).TrimEnd('=').Chunk(4).Select(four => new string(four)));

    /// <summary>The address that an application on a phone reads from a picture.</summary>
    public static string Address(byte[] key, string signIn) => new OtpUri(OtpType.Totp, key, signIn, "Pelto").ToString();

    /// <summary>
    /// The step of which a code is, when it is the code of now, or of the step before or after, for clocks that differ; null when it is
    /// none, or was used already.
    /// </summary>
    /// <param name="key">The key.</param>
    /// <param name="code">As typed.</param>
    /// <param name="now">The time.</param>
    /// <param name="last">The step of the last code that was accepted.</param>
    public static long? StepOf(byte[] key, string code, DateTimeOffset now, long last)
    {
        var digits = new string([.. code.Where(char.IsAsciiDigit)]);
        return
            digits.Length == 6
            && new Totp(key).VerifyTotp(now.UtcDateTime, digits, out var step, new VerificationWindow(1, 1))
            && step > last
            ? step
            : null;
    }
}
