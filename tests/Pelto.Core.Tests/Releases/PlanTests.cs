using Pelto.Core.Releases;
using Xunit;

namespace Pelto.Core.Tests.Releases;

public sealed class PlanTests
{
    private static readonly FieldDefinition Place = new() { Id = "f-place", RecordType = "order", Code = "place", Label = "Place", Kind = "text", Length = 20 };

    [Fact(DisplayName = "A new field: said in plain words, stored in steps that each come before the switch, but for looking through the rows")]
    public void New_field_is_planned()
    {
        var plan = Make([], [Sample.Copies with { StartingValue = "2" }], StorageFacts.Nothing with { Records = new Dictionary<string, long> { ["order"] = 318 } });
        Assert.Equal("Adds Certificate copies (integer) to orders, after Placed.", plan.Changes.Single().Sentence);
        Assert.Equal("The 318 orders on file get no value; new ones begin with 2. Everyone who sees orders sees it.", plan.Changes.Single().Effect);
        Assert.Equal([typeof(CreateTable), typeof(AddColumn), typeof(AddCheck)], plan.Before.Select(step => step.GetType()));
        Assert.IsType<ValidateCheck>(plan.After.Single());
        Assert.True(plan.IsPublishable);
    }

    [Fact(DisplayName = "What is done already is not planned again")]
    public void Steps_know_when_they_are_done()
    {
        var made = Made(Place);
        var plan = Make([], [Place], made);
        Assert.Empty(plan.Before);
        Assert.All(Make([], [Place], StorageFacts.Nothing).Before, step => Assert.True(step.IsDone(made)));
    }

    [Fact(DisplayName = "A longer text loosens the rule before the switch and keeps the new one after it")]
    public void Longer_is_planned()
    {
        var plan = Make([Place], [Place with { Length = 60 }], Made(Place));
        Assert.Equal("Place takes 60 characters instead of 20.", plan.Changes.Single().Sentence);
        Assert.IsType<DropCheck>(plan.Before.Single());
        Assert.Equal([typeof(AddCheck), typeof(ValidateCheck)], plan.After.Select(step => step.GetType()));
    }

    [Fact(DisplayName = "Shorter than values on file is refused with their count")]
    public void Shorter_than_values_is_refused()
    {
        var facts = Made(Place) with { Misfits = new Dictionary<string, long> { ["f-place"] = 12 } };
        var plan = Make([Place], [Place with { Length = 5 }], facts);
        Assert.Equal(("f-place", "length"), (plan.Problems.Single().Element, plan.Problems.Single().Property));
        Assert.StartsWith("12 values on file would not fit.", plan.Problems.Single().Sentence, StringComparison.Ordinal);
        Assert.False(plan.IsPublishable);
    }

    [Fact(DisplayName = "A label is free to change and touches no storage")]
    public void Labels_are_free()
    {
        var plan = Make([Place], [Place with { Label = "Where to" }], Made(Place));
        Assert.Equal("Renames Place to Where to.", plan.Changes.Single().Sentence);
        Assert.Empty(plan.Before.Concat(plan.After));
    }

    [Theory(DisplayName = "Code, kind and part of a live field stay")]
    [InlineData("code"), InlineData("kind"), InlineData("part")]
    public void What_lasts_stays(string property)
    {
        var changed = property switch { "code" => Place with { Code = "other" }, "kind" => Place with { Kind = "date", Length = null }, _ => Place with { Part = "lines" } };
        Assert.Contains(Make([Place], [changed], Made(Place)).Problems, problem => problem.Property == property);
    }

    [Fact(DisplayName = "Taking a field out keeps its column, and its code cannot be given to another field over its data")]
    public void Taken_out_fields_keep_their_data()
    {
        var gone = Make([Place], [], Made(Place));
        Assert.Equal("Takes Place out of use.", gone.Changes.Single().Sentence);
        Assert.Empty(gone.Before.Concat(gone.After));
        Assert.Contains("its data is still kept", Make([], [Place with { Id = "f-other" }], Made(Place)).Problems.Single().Sentence, StringComparison.Ordinal);
        Assert.Empty(Make([], [Place], Made(Place)).Problems);
        Assert.Equal("kind", Make([], [Place with { Kind = "date", Length = null }], Made(Place)).Problems.Single().Property);
    }

    [Fact(DisplayName = "Choices are compared by code: added, taken away, renamed")]
    public void Choices_are_compared()
    {
        var old = new FieldDefinition { Id = "f-c", RecordType = "order", Code = "grade", Label = "Grade", Kind = "choice", Choices = [new("a", "A"), new("b", "B")] };
        var plan = Make([old], [old with { Choices = [new("a", "Alpha"), new("c", "C")] }], Made(old));
        Assert.Equal("Changes the choices of Grade: adds C; takes away B; renames to Alpha.", plan.Changes.Single().Sentence);
    }

    [Fact(DisplayName = "The same definition is an empty plan")]
    public void Nothing_is_nothing() => Assert.True(Make([Place], [Place with { }], Made(Place)).IsEmpty);

    [Fact(DisplayName = "A draft with a problem is not publishable, and not taken for empty")]
    public void Problems_block()
    {
        var plan = Make([], [Sample.Copies with { Code = "note" }], StorageFacts.Nothing);
        Assert.Equal((false, false), (plan.IsEmpty, plan.IsPublishable));
        Assert.Equal("Adds Certificate copies.", plan.Changes.Single().Sentence);
    }

    private static Plan Make(FieldDefinition[] live, FieldDefinition[] draft, StorageFacts facts) => Plan.Make(Sample.Catalogue(live), Sample.Catalogue(draft), facts);

    /// <summary>The database as it is once this field is live.</summary>
    private static StorageFacts Made(FieldDefinition definition)
    {
        var field = Sample.Catalogue(definition).FindField(definition.Id)!;
        var table = new TableFacts(
            new Dictionary<string, ColumnFacts> { [field.Code] = new(field.Id, field.Kind.Column) },
            [.. AddCheck.For(field).Select(check => new CheckFacts(check.Name, field.Code, IsValidated: true))]);
        return StorageFacts.Nothing with { Added = new Dictionary<string, TableFacts> { [field.Part.Table] = table } };
    }
}
