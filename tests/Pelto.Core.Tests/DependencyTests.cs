namespace Pelto.Core.Tests;

public sealed class DependencyTests
{
    private static readonly string[] Libraries = ["HtmlSanitizer", "AngleSharp", "PhoneNumbers"];

    [Fact(DisplayName = "The core stands on the base class library and on two libraries that touch nothing outside: no database, no web")]
    public void Core_stands_alone() =>
        Assert.All(typeof(Catalogue).Assembly.GetReferencedAssemblies().Select(assembly => assembly.Name!).Except(Libraries), name =>
            Assert.StartsWith("System", name, StringComparison.Ordinal)
        );
}
