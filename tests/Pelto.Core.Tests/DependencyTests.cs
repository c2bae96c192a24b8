using Pelto.Core.Catalog;
using Xunit;

namespace Pelto.Core.Tests;

public sealed class DependencyTests
{
    [Fact(DisplayName = "The core stands on the base class library alone: no database, no web")]
    public void Core_stands_alone() => Assert.All(
        typeof(Catalogue).Assembly.GetReferencedAssemblies().Select(assembly => assembly.Name!),
        name => Assert.StartsWith("System", name, StringComparison.Ordinal));
}
