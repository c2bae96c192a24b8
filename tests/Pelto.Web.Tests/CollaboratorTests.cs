using System.Reflection;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Npgsql;
using Pelto.Data;

namespace Pelto.Web.Tests;

/// <summary>A class that asks for much does much: what a page or a service works with is counted.</summary>
/// <remarks>What only one handler of a page needs, it takes there. The clock and the log are not counted.</remarks>
public sealed class CollaboratorTests
{
    private const int Most = 6;

    private static readonly HashSet<Type> Services = [.. ServicesOf(), typeof(CurrentRequest), typeof(NpgsqlDataSource)];

    [Fact]
    public void No_page_and_no_service_works_with_more_than_six_others()
    {
        var all = new[] { typeof(Program).Assembly, typeof(PeltoData).Assembly }.SelectMany(assembly => assembly.GetTypes()).ToList();
        var counted = all.Select(type => (type.Name, Count: CountOf(type))).Where(one => one.Count > Most).OrderBy(one => one.Name);
        Assert.Empty(counted);
        Assert.Contains(all, type => typeof(PageModel).IsAssignableFrom(type) && CountOf(type) > 3);
    }

    // A class that works with at least one service; records are what such a class is given or gives.
    private static int CountOf(Type type) =>
        type.GetMethod("<Clone>$") is null
            ? type.GetConstructors(BindingFlags.Instance | BindingFlags.Public | BindingFlags.NonPublic)
                .Select(made => made.GetParameters().Select(parameter => parameter.ParameterType).Where(IsCounted).ToList())
                .Select(asked => asked.Exists(Services.Contains) ? asked.Count : 0)
                .DefaultIfEmpty(0)
                .Max()
            : 0;

    private static bool IsCounted(Type type) =>
        (type.IsClass || type.IsInterface)
        && type != typeof(string)
        && type != typeof(TimeProvider)
        && !typeof(ILogger).IsAssignableFrom(type);

    private static IEnumerable<Type> ServicesOf()
    {
        var services = new ServiceCollection();
        services.AddPeltoData("Host=nowhere", "nowhere", "nowhere");
        return services
            .Select(service => service.ServiceType)
            .Where(type => type.Namespace?.StartsWith("Pelto", StringComparison.Ordinal) == true)
            .Append(typeof(IDbContextFactory<Data.Definitions.PeltoContext>));
    }
}
