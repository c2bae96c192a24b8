using Pelto.Data.Releases;
using Pelto.Data.SigningIn;

namespace Pelto.Data.Rights;

/// <summary>How publishing and signing in go.</summary>
/// <param name="TakesTwo">True where publishing takes two people.</param>
/// <param name="IsDemo">True on demo data, where people are picked.</param>
/// <param name="Factor">Of whom a second factor is required, one of <see cref="FactorDemand.All"/>.</param>
public sealed record PeopleSettingsRead(bool TakesTwo, bool IsDemo, string Factor);

/// <summary>Says how publishing and signing in go.</summary>
public sealed class PeopleSettings(Proposals proposals, DemoSetting demo, FactorDemand factors, People people, Credentials credentials)
{
    /// <summary>How they go.</summary>
    public async Task<PeopleSettingsRead> ReadAsync() =>
        new(await proposals.TakesTwoAsync(), await people.IsDemoAsync(), await factors.ReadAsync());

    /// <summary>Changes them. What is still missing, or why not, as sentences.</summary>
    public async Task<(string? Missing, string? Refusal)> SetAsync(PeopleSettingsRead wanted, Viewer by)
    {
        if (!wanted.IsDemo && await people.IsDemoAsync() && await credentials.PasswordSetAtAsync(by.Id) is null)
            return (null, "Choose a password first, under Signing in: without one you could not come back.");
        if (FactorDemand.All.All(one => one.Code != wanted.Factor))
            return (null, "Say of whom a second factor is required.");
        await factors.SetAsync(wanted.Factor, by);
        var missing = await proposals.SetTakesTwoAsync(wanted.TakesTwo, by);
        await demo.SetAsync(wanted.IsDemo, by);
        return (missing, null);
    }
}
