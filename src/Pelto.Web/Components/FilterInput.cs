using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.ModelBinding.Validation;
using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>A filter that somebody is about to add to a list, as typed.</summary>
[ValidateNever]
public sealed class FilterInput
{
    private Locale locale = Locale.International;

    /// <summary>The code of the field.</summary>
    public string? In { get; set; }

    /// <summary>How it is compared.</summary>
    public FilterTest? Test { get; set; }

    /// <summary>With what.</summary>
    public string? Value { get; set; }

    /// <summary>For between: the other end.</summary>
    public string? Until { get; set; }

    /// <summary>True when the person asked to add it.</summary>
    public bool IsAsked { get; set; }

    /// <summary>Why it cannot be added.</summary>
    [BindNever]
    public string? Refusal { get; private set; }

    /// <summary>The fields that can be looked in.</summary>
    [BindNever]
    public IReadOnlyList<Field> Fields { get; private set; } = [];

    /// <summary>The record type.</summary>
    [BindNever]
    public RecordType Type { get; private set; } = default!;

    /// <summary>The field that was chosen, or the first.</summary>
    [BindNever]
    public Field Field => Fields.FirstOrDefault(each => Filter.PathOf(each) == In) ?? Fields[0];

    /// <summary>The tests of that field.</summary>
    [BindNever]
    public IReadOnlyList<FilterTest> Tests => Filter.TestsOf(Field);

    /// <summary>The test that was chosen, or the field's first.</summary>
    [BindNever]
    public FilterTest Chosen => Test is { } test && Tests.Contains(test) ? test : Tests[0];

    /// <summary>The conventions of the person who types.</summary>
    [BindNever]
    public Locale Locale => locale;

    /// <summary>True for what this person may look in.</summary>
    public static bool MayFilter(Viewer viewer, Field field) => viewer.MayFind(field);

    /// <summary>Makes it ready for a record type and a person.</summary>
    public FilterInput For(RecordType type, Viewer viewer)
    {
        (Type, locale) = (type, viewer.Locale);
        Fields =
        [
            .. type
                .ListColumns.Concat(type.Header.Fields)
                .Concat(type.LineParts.SelectMany(part => part.Fields))
                .Distinct()
                .Where(field => MayFilter(viewer, field)),
        ];
        return this;
    }

    /// <summary>True when what is typed is the name or the number of a record that a link points to.</summary>
    [BindNever]
    public bool IsOfTarget => Field.Kind.IsLink && Chosen is FilterTest.Is or FilterTest.Not && !string.IsNullOrWhiteSpace(Value);

    /// <summary>The filter, or null with a <see cref="Refusal"/>.</summary>
    /// <param name="target">What a link points to, where <see cref="IsOfTarget"/>.</param>
    public Filter? Read(Parsed? target = null)
    {
        if (target is { } found)
        {
            Refusal = found.Refusal;
            return Refusal is null ? Filter.Pointing(Field, found.Value.Target) with { Test = Chosen } : null;
        }

        var (filter, refusal) = Filter.Read(Field, Chosen, Value, Until, locale);
        Refusal = refusal;
        return filter;
    }
}
