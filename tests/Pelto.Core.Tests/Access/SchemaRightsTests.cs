using System.Text.Json.Nodes;
using Pelto.Core.Access;
using Pelto.Core.Elements;

namespace Pelto.Core.Tests.Access;

/// <summary>
/// Every property of the site definition takes a right: the JSON Schema is walked, each property that it knows is changed, there and back,
/// as every kind of person with part of the work.
/// </summary>
public sealed class SchemaRightsTests
{
    private const string There = "order shelf";

    private static readonly JsonObject Schema = Read();

    private static readonly Catalogue Live = Catalogue.Build(
        1,
        Sample.Host,
        new()
        {
            RecordTypes =
            [
                new()
                {
                    Id = "x",
                    Code = "shelf",
                    Label = "Shelf",
                    Plural = "Shelves",
                },
            ],
        }
    );

    // What names something has to name something that is there; all else may be anything.
    private static readonly Dictionary<string, string> Names = new()
    {
        ["recordType"] = "order",
        ["/recordTypes/0/code"] = "shelf",
        ["/guards/0/on"] = "order.note",
        ["/grants/0/on/0"] = "order.note",
        ["/grants/0/to/0"] = "role:desk",
        ["/layers/0/audience"] = "role:desk",
        ["/layers/0/operations/0/part"] = "order.note",
        ["screen"] = "order",
        ["/queries/0/reads/0"] = "order.note",
        ["/fields/0/heldFrom/0"] = "order.note",
    };

    public static TheoryData<string> Paths => [.. Walk().Select(walked => walked.Path).Distinct()];

    [Theory(DisplayName = "Who has every work but the one that a property takes, or all of it elsewhere, or none, does not change it")]
    [MemberData(nameof(Paths))]
    public void Takes_a_right(string path)
    {
        var whole = Of(Sample_document());
        foreach (var other in Walk().Where(walked => walked.Path == path).Select(walked => Of(walked.Changed)))
        {
            foreach (var (before, after) in new[] { (whole, other), (other, whole) })
            {
                var rules = new AdminRules(before, after, Live);
                var touches = rules.Touches().ToList();
                Assert.True(touches.Count > 0 || before.IsSameAs(after), $"{path} takes no right.");
                if (before.IsSameAs(after))
                    continue;
                var taken = Taken(path);
                Assert.Subset(taken.Append(AdminAction.Administration).ToHashSet(), touches.Select(touch => touch.Work).ToHashSet());
                Assert.NotNull(rules.RefuseChange(With()));
                Assert.NotNull(rules.RefuseChange(With([.. AdminWork.All.Select(work => work.Code).Except(taken).Select(AdminRight.To)])));
                if (!path.StartsWith("/roles", StringComparison.Ordinal) && !path.StartsWith("/shortcuts", StringComparison.Ordinal))
                    Assert.NotNull(
                        rules.RefuseChange(
                            With([
                                .. AdminWork
                                    .All.Where(work => AdminWork.HasTypes(work.Code))
                                    .Select(work => new AdminRight(work.Code, ["customer"], [])),
                            ])
                        )
                    );
                foreach (var touch in touches.Where(touch => touch.Work != AdminAction.Administration))
                    Assert.NotNull(
                        rules.RefuseChange(
                            With([.. AdminWork.All.Where(work => work.Code != touch.Work).Select(work => AdminRight.To(work.Code))])
                        )
                    );
                if (touches.Any(touch => touch.Work == AdminAction.Administration))
                    Assert.NotNull(rules.RefuseChange(With([.. AdminWork.All.Select(work => AdminRight.To(work.Code))])));
            }
        }
    }

    [Fact(DisplayName = "The walk reaches what the schema knows, and the document that it begins with is read and written whole")]
    public void Reaches_all()
    {
        Assert.True(Walk().Select(walked => walked.Path).Distinct().Count() > 150);
        Assert.Equal(
            Schema["properties"]!.AsObject().Select(property => property.Key).Order(),
            Walk().Select(walked => walked.Path.Split('/')[1]).Distinct().Order()
        );
        var whole = Of(Sample_document());
        Assert.True(whole.IsSameAs(SiteDefinition.FromJson(whole.ToJson())));
    }

    [Fact(
        DisplayName = "Whoever has part of the work is shown that part; "
            + "sent back as it came, it changes nothing of the rest, and what is added there is all that changes"
    )]
    public void Shown_in_part()
    {
        var site = Of(Sample_document());
        var rest = new FieldDefinition
        {
            Id = "f-size",
            RecordType = "customer",
            Code = "size",
            Label = "Size",
            Kind = "integer",
        };
        site = site with
        {
            Fields = [rest, .. site.Fields, rest with { Id = "f-more", Code = "more" }],
            Guards = [new() { On = "f-size" }, .. site.Guards, new() { On = "f-more" }],
            Queries = [],
            ChoiceLists = [],
        };
        var live = Catalogue.Build(
            1,
            Sample.Host,
            site with
            {
                Fields = [.. site.Fields.Where(field => field.RecordType == "customer")],
                RecordTypes = [],
                Layers = [],
                Grants = [],
                Removed = [],
                Guards = [.. site.Guards.Where(guard => guard.On != "order.note")],
            }
        );
        foreach (var work in AdminWork.InDraft)
        {
            var views = new SiteViews(With(new AdminRight(work, There.Split(' '), [])), live);
            var seen = views.VisibleTo(site);
            Assert.DoesNotContain("f-size", seen.ToJson(), StringComparison.Ordinal);
            Assert.DoesNotContain("f-more", seen.ToJson(), StringComparison.Ordinal);
            Assert.Equal(work is AdminWork.Grant or AdminWork.Publish, seen.Guards.Count > 0);
            Assert.NotEmpty(seen.Fields);
            Assert.Equal(site.ToJson(), views.Merged(site, seen).ToJson());
            var added = seen with { Fields = [.. seen.Fields, Sample.Copies] };
            Assert.Equal(["f-copies"], ElementSorts.Fields.Changed(new SiteChange(site, views.Merged(site, added), live)));
            Assert.Equal(site.Fields.Where(field => field.RecordType == "customer"), views.Merged(site, seen with { Fields = [] }).Fields);
            Assert.Equal(
                site.Guards.Where(guard => guard.On != "order.note"),
                views.Merged(site, seen with { Guards = [] }).Guards.Where(guard => guard.On != "order.note")
            );
        }

        Assert.Same(site, new SiteViews(Sample.Administrator, live).VisibleTo(site));
    }

    [Fact(DisplayName = "Each list of the site definition has its sort of element, which finds, tells and compares what is there")]
    public void Sorts_are_all()
    {
        var site = Of(Sample_document());
        var lists = typeof(SiteDefinition)
            .GetProperties()
            .Select(property => property.GetValue(site))
            .OfType<IEnumerable<ISiteElement>>()
            .ToList();
        Assert.Equal(Schema["properties"]!.AsObject().Count - 1, lists.Count);
        Assert.All(lists, list => Assert.Single(ElementSorts.All, sort => sort.In(site).SequenceEqual(list)));
        Assert.Equal(site.Elements(), ElementSorts.All.SelectMany(sort => sort.In(site)));
        Assert.Equal(ElementSorts.All.Count, ElementSorts.All.Select(sort => sort.Name).Distinct().Count());
        foreach (var sort in ElementSorts.All)
        {
            var id = sort.In(site).Single().ElementId;
            if (sort is not RemovedSort)
                Assert.Contains(Twice(site, sort).Problems, problem => problem.Element == id && SaysTwice(problem.Sentence));
            Assert.Contains(sort.Text(site, id)!.Split('\n')[1], site.ToJson(), StringComparison.Ordinal);
            var text = JsonNode.Parse(sort.Text(Placed(site, id), id)!)!.AsObject();
            Assert.Equal(sort.In(site).Single() is FieldDefinition, text.ContainsKey("place"));
            Assert.Null(sort.Text(SiteDefinition.Nothing, id));
            Assert.Equal([id], sort.Changed(new(SiteDefinition.Nothing, site, Live)));
            Assert.StartsWith("/setup/", sort.PageOf(id), StringComparison.Ordinal);
        }
    }

    private static SiteDefinition Placed(SiteDefinition site, string id) =>
        site with
        {
            Layers =
            [
                new()
                {
                    Id = "l-place",
                    Operations =
                    [
                        new()
                        {
                            Op = LayerOperation.Put,
                            Part = id,
                            After = "order.note",
                        },
                    ],
                },
                .. site.Layers,
            ],
        };

    [Theory(DisplayName = "Who may not read a field changes neither what it takes nor its list of choices, whether it is stored or live")]
    [InlineData(false), InlineData(true)]
    public void Unread_fields_stay(bool isLive)
    {
        ChoiceList list = new()
        {
            Id = "l-grade",
            Label = "Grades",
            Choices = [new("a", "A"), new("b", "B")],
        };
        FieldDefinition field = new()
        {
            Id = "f-grade",
            RecordType = "order",
            Code = "grade",
            Label = "Grade",
            Kind = "choice",
        };
        field = field with { ChoiceList = list.Id };
        if (isLive)
            field = field with { Formula = "\"a\"", Live = true };
        var site = SiteDefinition.Nothing with { Fields = [field], ChoiceLists = [list], Guards = [new() { On = field.Id }] };
        var live = Catalogue.Build(1, Sample.Host, site);
        Assert.Empty(live.Problems);
        var author = With(AdminRight.To(AdminWork.Define));
        var shorter = site.With(list with { Choices = [new("a", "A")] });
        Assert.Contains("may not see", new AdminRules(site, shorter, live).RefuseChange(author), StringComparison.Ordinal);
        var open = site with { Guards = [] };
        Assert.Null(new AdminRules(open, shorter with { Guards = [] }, Catalogue.Build(1, Sample.Host, open)).RefuseChange(author));
        var other = site.With(field with { Help = "Which?", Required = !isLive });
        Assert.Equal(isLive, new AdminRules(site, other, live).RefuseChange(author) is null);
    }

    private static bool SaysTwice(string sentence) => sentence.Split(' ', '.').Intersect(["two", "twice", "already"]).Any();

    private static Catalogue Twice(SiteDefinition site, ElementSort sort)
    {
        var document = JsonNode.Parse(site.ToJson())!.AsObject();
        var list = document.Select(property => property.Value).OfType<JsonArray>().Single(list => IsOf(list, sort, site));
        list.Add(list[0]!.DeepClone());
        return Catalogue.Build(1, Sample.Host, Of(document));
    }

    private static bool IsOf(JsonArray list, ElementSort sort, SiteDefinition site) =>
        System.Text.Json.JsonSerializer.Serialize<object>(sort.In(site).Single(), SiteDefinition.Json) is var text
        && JsonNode.DeepEquals(list[0], JsonNode.Parse(text));

    // The work that a property takes, by what it belongs to.
    private static string[] Taken(string path) =>
        path.Split('/')[1] switch
        {
            "host" => [],
            "fields" => path.StartsWith("/fields/0/heldFrom", StringComparison.Ordinal)
            || path is "/fields" or "/fields/0/id" or "/fields/0/recordType"
                ? [AdminWork.Define, AdminWork.Grant]
                : [AdminWork.Define],
            "recordTypes" => [AdminWork.Define, AdminWork.Grant],
            "choiceLists" or "removed" => [AdminWork.Define],
            "queries" => [AdminWork.Query],
            "layers" => [AdminWork.Arrange, AdminWork.Define],
            "guards" or "grants" => [AdminWork.Grant],
            "roles" => [AdminWork.People],
            "shortcuts" => [AdminWork.Arrange],
            var other => throw new InvalidOperationException($"Nothing says which right {other} takes."),
        };

    private static Viewer With(params AdminRight[] rights) =>
        new(Guid.NewGuid(), "Wen", ["desk"])
        {
            SignIn = "wen",
            Company = "fi",
            Rights = rights,
        };

    private static SiteDefinition Of(JsonNode document) => SiteDefinition.FromJson(document.ToJsonString());

    private static JsonObject Sample_document() => (JsonObject)Example(Schema, "")!;

    private static JsonObject Read()
    {
        using var reader = new StreamReader(typeof(SiteDefinition).Assembly.GetManifestResourceStream("site.schema.json")!);
        return JsonNode.Parse(reader.ReadToEnd())!.AsObject();
    }

    // All properties that the schema knows, and the document with each changed.
    private static IEnumerable<(string Path, JsonObject Changed)> Walk()
    {
        foreach (var (path, to) in Changes(Schema, "", Sample_document()))
        {
            var document = Sample_document();
            var steps = path.Split('/')[1..];
            var parent = steps[..^1]
                .Aggregate((JsonNode)document, (node, step) =>
                    node is JsonArray list ? list[int.Parse(step, System.Globalization.CultureInfo.InvariantCulture)]! : node[step]!
                );
            if (parent is JsonArray array)
                array[0] = to;
            else
                parent[steps[^1]] = to;
            yield return (path, document);
        }
    }

    private static IEnumerable<(string Path, JsonNode? To)> Changes(JsonObject schema, string path, JsonNode? now)
    {
        schema = Resolved(schema);
        if (now is JsonObject record)
        {
            foreach (var (name, value) in record)
            foreach (
                var change in Changes(
                    schema["properties"]?[name] as JsonObject ?? schema["additionalProperties"]!.AsObject(),
                    $"{path}/{name}",
                    value
                )
            )
                yield return change;
            if (path.Length > 0 && Allows(schema, "null"))
                yield return (path, null);
        }
        else if (now is JsonArray list)
        {
            foreach (var change in list.SelectMany((one, at) => Changes(schema["items"]!.AsObject(), $"{path}/{at}", one)))
                yield return change;
            yield return (path, new JsonArray());
        }
        else if (schema["enum"] is JsonArray values)
        {
            foreach (var value in values.Where(value => value?.ToString() != now?.ToString()))
                yield return (path, value?.DeepClone());
        }
        else
        {
            yield return (
                path,
                now!.GetValueKind() switch
                {
                    System.Text.Json.JsonValueKind.True => JsonValue.Create(false),
                    System.Text.Json.JsonValueKind.Number => JsonValue.Create(now.GetValue<int>() + 1),
                    _ => JsonValue.Create(path.EndsWith("/recordType", StringComparison.Ordinal) ? "customer" : now + "2"),
                }
            );
        }
    }

    // One of each: every property is there.
    private static JsonNode? Example(JsonObject schema, string path)
    {
        schema = Resolved(schema);
        if (schema["enum"] is JsonArray values)
            return values[0]?.DeepClone();
        if (schema["properties"] is JsonObject properties)
            return new JsonObject(
                properties.Select(property =>
                    KeyValuePair.Create(property.Key, Example(property.Value!.AsObject(), $"{path}/{property.Key}"))
                )
            );
        if (Allows(schema, "array"))
            return new JsonArray(Example(schema["items"]!.AsObject(), path + "/0"));
        if (Allows(schema, "object"))
            return new JsonObject { ["fi"] = Example(schema["additionalProperties"]!.AsObject(), path + "/fi") };
        if (Allows(schema, "integer"))
            return 1;
        return Allows(schema, "string") ? Names.GetValueOrDefault(path) ?? Names.GetValueOrDefault(path.Split('/')[^1]) ?? "x" : true;
    }

    private static bool Allows(JsonObject schema, string type) =>
        schema["type"] is JsonArray several ? several.Any(one => one!.ToString() == type) : schema["type"]?.ToString() == type;

    private static JsonObject Resolved(JsonObject schema) =>
        schema["$ref"]?.ToString() is { } to ? Schema["$defs"]![to.Split('/')[^1]]!.AsObject()
        : schema["oneOf"] is JsonArray either ? Resolved(either.First(one => one!["$ref"] is not null)!.AsObject())
        : schema;
}
