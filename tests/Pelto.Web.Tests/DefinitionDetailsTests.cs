using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;
using Pelto.Core.Access;
using Pelto.Core.Binding;
using Pelto.Data.Hosts;
using Pelto.Tests;
using Pelto.Web.Components;

namespace Pelto.Web.Tests;

/// <summary>Changes of definitions as people read them.</summary>
public sealed class DefinitionDetailsTests
{
    [Fact(DisplayName = "Every property of every definition has a name in words in the history, or is none that people change")]
    public void Properties_have_names()
    {
        Type[] definitions =
        [
            typeof(FieldDefinition),
            typeof(RecordTypeDefinition),
            typeof(QueryDefinition),
            typeof(ChoiceList),
            typeof(Layer),
            typeof(Grant),
            typeof(Guard),
        ];
        foreach (
            var property in definitions
                .SelectMany(type => type.GetProperties(BindingFlags.Public | BindingFlags.Instance))
                .Where(property => property.CanWrite && property.GetCustomAttribute<JsonIgnoreAttribute>() is null)
        )
        {
            var name = property.GetCustomAttribute<JsonPropertyNameAttribute>()?.Name
                ?? JsonNamingPolicy.CamelCase.ConvertName(property.Name);
            var words = DefinitionDetails.Called(name);
            Assert.True(
                words is null ? DefinitionDetails.Unset.Contains(name) : words == "SQL" || !words.Any(char.IsUpper),
                $"{property.DeclaringType!.Name}.{name} is called {words ?? "nothing"}."
            );
        }
    }

    [Fact(
        DisplayName = "What a change names is called by its label: "
            + "kinds, record types, choice lists, people and fields; "
            + "what was written in a language of its own stays as it was written"
    )]
    public void Labels()
    {
        var site = new SiteDefinition { ChoiceLists = [new() { Id = "l-makes", Label = "Makes" }] };
        var catalogue = Catalogue.Build(1, new HostReader(TemplateDatabase.HostFolder).Read(), site);
        PropertyChange[] Read(Viewer viewer, string after) =>
            [.. new DefinitionDetails(catalogue, new(viewer, catalogue)).For("""{"id": "f", "kind": "text", "label": "Make"}""", after)];
        var changes = Read(
            Viewer.For(catalogue.Host.Roles.Single(role => role.Code == "administrator")),
            """{"id": "f", "kind": "choice", "label": "Make", "choiceList": "l-makes", "target": "partner", "write": ["order_desk"], "to": ["role:order_desk", "*"], "reads": ["partner.credit_limit"], "place": "after sales_order.payment_terms", "formula": "net_total * 2"}"""
        );
        Assert.Equal(
            [
                new("kind", "Text", "Choice"),
                new("choice list", "nothing", "Makes"),
                new("points to", "nothing", "Partners"),
                new("written by", "nothing", "Order desk"),
                new("to", "nothing", "role Order desk, everyone"),
                new("reads", "nothing", "Partner: Credit limit"),
                new("place", "nothing", "after Sales order: Payment terms"),
                new("formula", "nothing", "net_total * 2", true),
            ],
            changes
        );

        // Whoever is not shown a thing reads no more of it than the definition says.
        Assert.Equal(
            new PropertyChange("reads", "nothing", "partner.credit_limit"),
            Read(new(Guid.NewGuid(), "Nobody", []), """{"id": "f", "kind": "text", "label": "Make", "reads": ["partner.credit_limit"]}""")
                .Single()
        );
    }
}
