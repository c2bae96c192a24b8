using System.Security.Cryptography;
using System.Text;

namespace Pelto.Data.Definitions;

/// <summary>The key of secrets cannot be used, with what is wrong and what to do.</summary>
public sealed class KeyException(string message) : Exception(message);

/// <summary>
/// Encrypts secrets with AES-256-GCM (NIST SP 800-38D), under a key that is in a file and not in the database: a copy of the database alone
/// tells none.
/// </summary>
public sealed class Secrets
{
    private const string Prefix = "1:";
    private const int NonceSize = 12;
    private const int TagSize = 16;
    private const int KeySize = 32;
    private readonly byte[] key;

    /// <summary>Reads the key, or makes one when there is no file yet.</summary>
    /// <param name="file">The file that holds it, for the owner's eyes only.</param>
    /// <exception cref="KeyException">The file holds no key.</exception>
    public Secrets(string file)
    {
        if (!File.Exists(file))
            Make(file);
        key = Read(File.ReadAllText(file).Trim())
            ?? throw new KeyException(
                $"The file {Path.GetFileName(file)} holds no key of secrets: 64 hexadecimal digits are wanted. "
                    + "Put back the one from before."
            );
    }

    /// <summary>Encrypts, bound to a place: what is copied to another place cannot be read there.</summary>
    /// <param name="plain">What was entered.</param>
    /// <param name="place">The lasting id of the field.</param>
    public string Seal(string plain, string place)
    {
        var text = Encoding.UTF8.GetBytes(plain);
        var sealedBytes = new byte[NonceSize + TagSize + text.Length];
        var nonce = sealedBytes.AsSpan(0, NonceSize);
        RandomNumberGenerator.Fill(nonce);
        using var cipher = new AesGcm(key, TagSize);
        cipher.Encrypt(
            nonce,
            text,
            sealedBytes.AsSpan(NonceSize + TagSize),
            sealedBytes.AsSpan(NonceSize, TagSize),
            Encoding.UTF8.GetBytes(place)
        );
        return Prefix + Convert.ToBase64String(sealedBytes);
    }

    /// <summary>A password that follows from the key and a purpose, and is kept nowhere (HMAC-SHA-256, RFC 2104).</summary>
    public string Derive(string purpose) => Convert.ToHexStringLower(HMACSHA256.HashData(key, Encoding.UTF8.GetBytes(purpose)));

    /// <summary>Decrypts. Null when the key, the place or the text is not the one that it was sealed with.</summary>
    public string? Open(string stored, string place)
    {
        if (!stored.StartsWith(Prefix, StringComparison.Ordinal))
            return null;
        try
        {
            var bytes = Convert.FromBase64String(stored[Prefix.Length..]);
            if (bytes.Length < NonceSize + TagSize)
                return null;
            var plain = new byte[bytes.Length - NonceSize - TagSize];
            using var cipher = new AesGcm(key, TagSize);
            cipher.Decrypt(
                bytes.AsSpan(0, NonceSize),
                bytes.AsSpan(NonceSize + TagSize),
                bytes.AsSpan(NonceSize, TagSize),
                plain,
                Encoding.UTF8.GetBytes(place)
            );
            return Encoding.UTF8.GetString(plain);
        }
        catch (Exception wrong) when (wrong is CryptographicException or FormatException)
        {
            return null;
        }
    }

    private static byte[]? Read(string text) =>
        text.Length == 2 * KeySize && text.All(char.IsAsciiHexDigit) ? Convert.FromHexString(text) : null;

    // Several nodes may start at once: the first to put the file in place decides.
    private static void Make(string file)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(file))!);
        var fresh = file + "." + Guid.NewGuid().ToString("N");
        var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
            options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        using (var stream = new FileStream(fresh, options))
            stream.Write(Encoding.ASCII.GetBytes(Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(KeySize))));
        try
        {
            File.Move(fresh, file, overwrite: false);
        }
        catch (IOException) when (File.Exists(file))
        {
            File.Delete(fresh);
        }
    }
}
