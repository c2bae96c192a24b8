using Xunit.Sdk;
using Xunit.v3;

[assembly: TestMethodOrderer(typeof(Pelto.Tests.TestOrder))]
[assembly: TestCaseOrderer(typeof(Pelto.Tests.TestOrder))]

namespace Pelto.Tests;

/// <summary>
/// Tests of a class share a site, so they go in the same order everywhere: by name. Left to itself, the runner takes an order from where
/// the files lie.
/// </summary>
/// <remarks>PELTO_TEST_ORDER, a number, takes another order, to find those that need one.</remarks>
public sealed class TestOrder : ITestMethodOrderer, ITestCaseOrderer
{
    private static readonly int? Seed = int.TryParse(Environment.GetEnvironmentVariable("PELTO_TEST_ORDER"), out var seed) ? seed : null;

    /// <inheritdoc/>
    public IReadOnlyCollection<TTestMethod?> OrderTestMethods<TTestMethod>(IReadOnlyCollection<TTestMethod?> testMethods)
        where TTestMethod : ITestMethod => Order(testMethods, method => method?.MethodName);

    /// <inheritdoc/>
    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases)
        where TTestCase : ITestCase => Order(testCases, testCase => testCase.TestCaseDisplayName);

    private static T[] Order<T>(IEnumerable<T> tests, Func<T, string?> name)
    {
        T[] ordered = [.. tests.OrderBy(name, StringComparer.Ordinal)];
        if (Seed is { } seed)
            new Random(seed).Shuffle(ordered);
        return ordered;
    }
}
