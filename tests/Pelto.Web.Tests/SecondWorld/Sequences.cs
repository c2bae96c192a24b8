using System.Text.RegularExpressions;

namespace Pelto.Web.Tests.SecondWorld;

/// <summary>
/// Makes up what somebody asks, one thing after another: by the endpoint list, by the handlers of pages, and by what whoever wants to know
/// a guarded value would try.
/// </summary>
public sealed class Sequences(Random random, Worlds worlds, IReadOnlyList<string> addresses, IReadOnlyList<string> handlers)
{
    private static readonly string[] Types = ["partner", "item", "sales_order", "delivery", "claim"];

    // What questions are made of: guarded fields, what comes of them, and what lies behind links.
    private static readonly string[] Guarded =
    [
        "credit_limit",
        "note",
        "inner_note",
        "next_limit",
        "told",
        "customer.credit_limit",
        "customer.note",
        "customer.inner_note",
        "customer.told",
        "customer.name",
        "customer.payment_terms",
        "their_limit",
        "their_note",
        "brought",
        "other.name",
        "LAST(partner.credit_limit; TRUE())",
        "lines.margin",
        "cost",
        "item.cost",
        "turnover",
        "orders",
        "customer.turnover",
        "lines.remark",
        "remarks",
        .. Worlds.CodesOfKinds,
        .. Worlds.CodesOfKinds.Select(static code => "customer." + code),
    ];

    private T One<T>(params IReadOnlyList<T> of) => of[random.Next(of.Count)];

    private string Id(string type) => worlds.Ids.TryGetValue(type, out var ids) ? Text(One(ids)) : "1";

    private static string Text(long number) => number.ToString(CultureInfo.InvariantCulture);

    // Half of the way to an answer is to ask whether it is more than something.
    private string Asking(string field) =>
        One(
            $"{field} > {One(5_000, 17_000, 20_000, 50_000, 100_000, random.Next(200_000))}",
            $"LEFT(TEXT({field}; \"0\"); 1) = \"{random.Next(10)}\"",
            $"LEFT({field}; 1) = \"{One("i", "n", "o")}\"",
            $"ISBLANK({field})",
            $"LEN({field}) > {random.Next(20)}"
        );

    /// <summary>Up to five steps of somebody, or of two people in turn.</summary>
    public IReadOnlyList<(Asker Asker, Step Step)> Next(Asker asker)
    {
        if (random.Next(4) > 0)
            return [.. Of(asker).Select(step => (asker, step))];
        var (other, mine) = (One(Worlds.People), Of(asker));
        var theirs = new Queue<Step>(Of(other));
        return
        [
            .. mine.SelectMany(step =>
                    theirs.Count > 0 && random.Next(2) == 0 ? new[] { (other, theirs.Dequeue()), (asker, step) } : [(asker, step)]
                )
                .Take(6),
        ];
    }

    private IReadOnlyList<Step> Of(Asker asker)
    {
        if (asker == Worlds.Outside)
            return [.. Enumerable.Range(0, random.Next(1, 6)).Select(_ => Outside())];
        if (random.Next(4) == 0)
            return Directed(asker);
        var steps = new List<Step>();
        var most = random.Next(1, 6);
        var works = asker.Works.Any(work => work is not ("people" or "arrange_own")) && random.Next(4) > 0;
        while (steps.Count < most)
            steps.Add(
                works && random.Next(3) > 0
                    ? Working(asker)
                    : random.Next(10) switch
                    {
                        < 3 => new Get(Address()),
                        < 5 => Listing(),
                        < 7 => Entering(),
                        < 8 => Sending(),
                        < 9 => new Send(
                            "POST",
                            "/api/v1/formulas/try",
                            new JsonObject
                            {
                                ["text"] = random.Next(2) == 0 ? One(Guarded) : $"IF({Asking(One(Guarded))}; 1; 2)",
                                ["recordType"] = One("partner", "sales_order"),
                                ["recordId"] = long.Parse(Id(One("partner", "sales_order")), CultureInfo.InvariantCulture),
                            }.ToJsonString()
                        ),
                        _ => new Fill(
                            Filled(One(handlers)),
                            "main form",
                            "",
                            ("text", One(Guarded)),
                            ("field", One("partner.note", "f-inner", "f-limit")),
                            ("record", Id("partner"))
                        ),
                    }
            );
        return steps;
    }

    // Each place in an address with something that stands there.
    private string Filled(string address) => Regex.Replace(address, @"\{(\w+)[^}]*\}", place => place.Groups[1].Value switch
            {
                "type" or "next" => One(Types),
                "id" or "record" => random.Next(6) == 0 ? "new" : Id(One(Types)),
                "field" or "element" => One(
                    "partner.note",
                    "f-inner",
                    "f-through",
                    "f-limit",
                    "f-told",
                    "f-margin",
                    "f-fit",
                    "f-wanted",
                    "f-turnover",
                    "f-lines",
                    "f-" + One(Worlds.CodesOfKinds),
                    "partner.credit_limit",
                    "partner.street",
                    "partner.email",
                    "partner.name",
                    "f-said",
                    "partner.main.identity",
                    "partner.main"
                ),
                _ => "1",
            });

    private string Address()
    {
        var path = Filled(One(addresses));
        var type = Types.FirstOrDefault(one => path.Contains(one, StringComparison.Ordinal)) ?? One(Types);
        return path
            + One(
                "",
                "",
                $"?type={type}&record={Id(type)}",
                $"?text={One("Other", "P-0", "note", "inner", "I-1")}",
                $"?type={type}&record={Id(type)}&person=eero.lahdenmaa&field={One("partner.note", "partner.credit_limit", "f-limit", "f-told")}&of=draft",
                $"?handler=Card",
                $"?handler=Pointing&field=sales_order.customer",
                $"?from=sales_order/{Id("sales_order")}",
                $"?record={Id(type)}",
                $"?of={One("list", "draft")}&type={type}"
            );
    }

    private Step Listing()
    {
        var type = One(Types);
        var field = One(
            type switch
            {
                "partner" =>
                [
                    "note",
                    "credit_limit",
                    "inner_note",
                    "next_limit",
                    "told",
                    "name",
                    "country",
                    "said",
                    "payment_terms",
                    "turnover",
                    "orders",
                    One(Worlds.CodesOfKinds),
                    One(Worlds.CodesOfKinds),
                ],
                "item" => ["cost", "name", "price", "number"],
                "sales_order" => new[]
                {
                    "customer",
                    "their_note",
                    "their_limit",
                    "brought",
                    "other",
                    "net_total",
                    "payment_terms",
                    "fitting",
                    "remarks",
                },
                _ => ["customer", "order", "status"],
            }
        );
        var ask = One(
            $"filter={field}~{One("from", "is", "contains", "filled", "to", "before")}~{One("20000", "Other", "note", "1", "5")}",
            $"order={One("", "-")}{field}",
            $"search={One("Other", "note", "inner", "P-000", "Kuusilahti", "SO-1")}",
            $"group={field}",
            $"filter={field}~is~{Id("partner")}"
        );
        return new Get(
            One(
                $"/records/{type}?{ask}",
                $"/api/v1/records/{type}?{ask}&take={One(5, 50, 200)}",
                $"/api/v1/records/{type}/groups?{ask.Replace("group=", "by=", StringComparison.Ordinal)}&by={field}",
                $"/records/{type}/export.csv?{ask}"
            )
        );
    }

    // What can be done without being signed in: the public form, and knocking everywhere else.
    private Step Outside()
    {
        if (random.Next(4) == 0)
            return new Get(One(Address(), Worlds.Form));
        var handler = One(
            "",
            "",
            $"Pick&field={One("f-c1", "f-c2", "f-c3", "f-c6", "partner.credit_limit")}&text={One("", "Other", "P-0", "1", "note")}",
            "Try"
        );
        return new Fill(
            Worlds.Form,
            "main form",
            handler,
            ("header.name", "asked"),
            ("header.customer", Id("partner")),
            ("header.good", One("", Id("partner"))),
            ("header.item", One("", Id("item"))),
            ("header.worth", One("", "1", $"{random.Next(200_000)}")),
            ("header.because", One("", "so")),
            ("header.theirs", One("", "x"))
        );
    }

    private Step Entering()
    {
        var type = One("partner", "sales_order", "sales_order", "delivery", "item");
        var page = $"/records/{type}/{(random.Next(4) == 0 ? "new" : Id(type))}";
        var typed = new List<(string, string)>();
        void Type(string name, params string[] of)
        {
            if (random.Next(3) == 0)
                typed.Add((name, One(of)));
        }

        Type("customer", Id("partner"));
        Type("customer.text", $"P-000{random.Next(9)}", "Other");
        Type("other", Id("partner"));
        Type("fitting", Id("partner"));
        Type("wanted", "1", "20000", $"{random.Next(200_000)}");
        Type("why_so", "", "so");
        Type("reference", "asked");
        Type("said", "asked");
        Type("credit_limit", "1");
        Type("status", "open", "confirmed", "cancelled");
        Type("lines.order", "n1");
        Type("lines.n1.item", Id("item"));
        Type("lines.n1.quantity", "2");
        Type("brought.by", "again", "hand");
        return new Fill(
            page,
            "#record",
            One(
                "Try",
                "Draw",
                "",
                $"Pick&field={One("sales_order.customer", "f-other", "f-fit", "sales_order.lines.item")}&line=n1&text={One("", "Other", "P-0", "note")}",
                $"Asked&field={One("f-brought", "f-fit")}",
                "Reveal&field=f-inner",
                "Delete"
            ),
            [.. typed]
        );
    }

    private Step Sending()
    {
        var values = new JsonObject();
        void Put(string name, params JsonNode?[] of)
        {
            if (random.Next(3) == 0)
                values[name] = One(of)?.DeepClone();
        }

        var type = One("sales_order", "sales_order", "partner", "delivery");
        Put("customer", long.Parse(Id("partner"), CultureInfo.InvariantCulture));
        Put("other", long.Parse(Id("partner"), CultureInfo.InvariantCulture), null);
        Put("fitting", long.Parse(Id("partner"), CultureInfo.InvariantCulture));
        Put("wanted", 1, 20_000, random.Next(200_000));
        Put("why_so", "", "so");
        Put("reference", "asked");
        Put("said", "asked");
        Put("status", "open", "cancelled", "confirmed");
        var body = new JsonObject { ["values"] = values };
        if (type != "partner" && random.Next(2) == 0)
            body["lines"] = new JsonObject
            {
                ["lines"] = new JsonArray([
                    .. Enumerable
                        .Range(0, random.Next(1, 4))
                        .Select(_ => new JsonObject { ["item"] = long.Parse(Id("item"), CultureInfo.InvariantCulture), ["quantity"] = 1 }),
                ]),
            };
        var (method, address) = One(
            ("POST", $"/api/v1/records/{type}/try"),
            ("POST", $"/api/v1/records/{type}/try?id={Id(type)}"),
            ("PATCH", $"/api/v1/records/{type}/{Id(type)}"),
            ("POST", $"/api/v1/records/{type}"),
            ("POST", $"/api/v1/records/sales_order/{Id("sales_order")}/next/delivery"),
            ("DELETE", $"/api/v1/records/{type}/{Id(type)}")
        );
        if (type == "partner")
            foreach (var name in values.Select(pair => pair.Key).Where(name => name is not ("said" or "note")).ToList())
                values.Remove(name);
        return new Send(method, address, body.ToJsonString());
    }

    private Step Working(Asker asker) =>
        random.Next(8) switch
        {
            0 => new Get(
                One(
                    "/api/v1/setup/plan",
                    "/api/v1/setup/draft",
                    "/setup/draft",
                    "/api/v1/setup/definition",
                    "/setup/fields?type=partner",
                    "/setup/map",
                    "/setup/register",
                    "/setup/access?type=partner"
                )
            ),
            1 or 2 when asker.Works.Contains("publish") => new Send("POST", "/api/v1/setup/publish", """{"comment":"For a test"}"""),
            3 when asker.Works.Contains("define") => new Fill(
                $"/setup/fields/{One("f-other", "f-fit", "f-wanted", "f-x1", "new?type=sales_order", "new?type=partner")}",
                "#field",
                One("Try", "Names", "Facts", ""),
                (
                    One("Formula", "Offers", "RequiredWhen", "ShownWhen", "Check"),
                    One(Asking(One(Guarded)), One(Guarded), $"record.{One(Guarded)} > 1")
                ),
                ("Kind", One("decimal", "link", "text")),
                ("Target", "partner"),
                ("Label", "Asked"),
                ("Record", One("", "SO-1040", "P-0003")),
                ("text", "cred"),
                ("at", "4"),
                ("of", One("partner", "sales_order")),
                ("onFile", "true"),
                ("CheckMessage", "no")
            ),
            4 when asker.Works.Contains("query") => new Fill(
                "/setup/queries/new",
                "form",
                One("Try", "Look", "Names", ""),
                ("Label", $"Asked {random.Next(4)}"),
                ("IsSql", "true"),
                ("Sql", Sql())
            ),
            5 when asker.Works.Contains("grant") => new Get(
                $"/setup/access/why?type={One("partner", "sales_order")}&field={One("partner.said", "f-said", "partner.credit_limit", "f-margin", "f-other")}&person=eero.lahdenmaa&record={Id(One("partner", "sales_order"))}&of=draft"
            ),
            _ => Change(),
        };

    private string Sql() =>
        One(
            "SELECT credit_limit AS a FROM partner WHERE id = 1",
            "SELECT to_json(p)->>'credit_limit' AS a FROM partner p WHERE id = 1",
            "SELECT p::text AS a FROM partner p ORDER BY id LIMIT 1",
            "SELECT value AS a FROM partner p, json_each_text(row_to_json(p)) WHERE id = 1",
            "SELECT table_to_xml('partner', true, true, '')::text AS a",
            "SELECT schema_to_xml('readable', true, true, '')::text AS a",
            "SELECT count(*) AS a FROM U&\"\\0070g_class\"",
            "SELECT query_to_xml('SELECT note FROM partner', true, true, '')::text AS a",
            $"SELECT count(*) AS a FROM partner WHERE credit_limit > {random.Next(90_000)}",
            "SELECT name AS a FROM partner WHERE country = 'NO' ORDER BY id LIMIT 1",
            "SELECT number AS a FROM partner ORDER BY id LIMIT 1",
            "SELECT max(name) AS a FROM partner",
            "SELECT (p).note AS a FROM partner p WHERE id = 2",
            "SELECT string_agg(x.v::text, ',') AS a FROM (SELECT p AS v FROM partner p LIMIT 3) x"
        );

    // What somebody does who is after a certain value, from the first step to the answer.
    private IReadOnlyList<Step> Directed(Asker asker)
    {
        var (partner, order, item) = (Id("partner"), Id("sales_order"), Id("item"));
        var publish = new Send("POST", "/api/v1/setup/publish", """{"comment":"For a test"}""");
        if (asker.Works.Length > 1)
            switch (random.Next(7))
            {
                case 0:
                    // A field that keeps what is guarded, and then does not say so any more.
                    var kind = One(
                        ("text", "note"),
                        ("text", "inner_note"),
                        ("text", "told"),
                        ("decimal", "credit_limit"),
                        ("decimal", "next_limit")
                    );
                    JsonObject Made(string? formula)
                    {
                        var made = new JsonObject
                        {
                            ["id"] = "f-k",
                            ["recordType"] = "partner",
                            ["code"] = "keeps",
                            ["label"] = "Keeps",
                            ["kind"] = kind.Item1,
                            ["formula"] = formula,
                        };
                        if (kind.Item1 == "text")
                            made["length"] = 200;
                        else
                            (made["digits"], made["decimals"]) = (15, 2);
                        return made;
                    }

                    return
                    [
                        new Draft("keeps " + kind.Item2, draft => Put(draft, "fields", Made(kind.Item2))),
                        publish,
                        new Send("PATCH", $"/api/v1/records/partner/{partner}", """{"values":{"said":"again"}}"""),
                        new Draft("keeps by itself", draft => Put(draft, "fields", Made(null))),
                        publish,
                        new Get($"/api/v1/records/partner/{partner}"),
                    ];
                case 1:
                    var sql = Sql();
                    return
                    [
                        Asks(sql),
                        publish,
                        new Send("POST", "/api/v1/records/partner/try", """{"values":{"said":"x"}}"""),
                        new Send(
                            "PATCH",
                            $"/api/v1/records/partner/{partner}",
                            """{"values":{"said":"x"},"fillAgain":["/values/asked_q"]}"""
                        ),
                        new Get("/api/v1/setup/plan"),
                    ];
                case 2:
                    var (on, asking) = One(
                        ("f-said", Asking("credit_limit")),
                        ("f-other", Asking("customer.credit_limit")),
                        ("f-said", Asking("note")),
                        ("f-other", Asking("customer.name"))
                    );
                    return [new Draft($"grant when {asking}", draft => Put(
                                draft,
                                "grants",
                                new()
                                {
                                    ["id"] = "g-x",
                                    ["to"] = new JsonArray("role:order_desk"),
                                    ["on"] = new JsonArray(on),
                                    ["level"] = "read",
                                    ["when"] = asking,
                                }
                            )), new Get($"/setup/access/why?type={(on == "f-said" ? "partner" : "sales_order")}&field={on}&person=eero.lahdenmaa&record={(on == "f-said" ? partner : order)}&of=draft")];
                case 3:
                    var offers = Asking(One("credit_limit", "note", "inner_note"));
                    return [new Draft($"offers {offers}", draft => Put(
                                draft,
                                "fields",
                                new()
                                {
                                    ["id"] = "f-o",
                                    ["recordType"] = "sales_order",
                                    ["code"] = "offered",
                                    ["label"] = "Offered",
                                    ["kind"] = "link",
                                    ["target"] = "partner",
                                    ["offers"] = offers,
                                }
                            )), new Fill("/setup/fields/f-o", "#field", "Try", ("Record", order)), publish, new Fill($"/records/sales_order/{order}", "#record", "Pick&field=f-o&text=P-0")];
                case 4:
                    var lost = One("guards", "grants");
                    return
                    [
                        new Draft($"without {lost}", draft => draft[lost] = new JsonArray()),
                        publish,
                        new Get($"/api/v1/records/partner/{partner}"),
                        new Get($"/api/v1/records/sales_order/{order}"),
                    ];
                case 5:
                    var length = random.Next(4, 14);
                    return [new Draft($"length {length}", draft =>
                        {
                            foreach (
                                var field in draft["fields"]!
                                    .AsArray()
                                    .Where(field => field!["id"]!.GetValue<string>() is "f-inner" or "f-told")
                            )
                                field!["length"] = length;
                        }), new Get("/api/v1/setup/plan"), publish, new Get("/setup/draft")];
                default:
                    return
                    [
                        new Draft("retired", draft => Set(draft, "f-told", "retired", true)),
                        publish,
                        new Draft("typed and back", draft =>
                        {
                            Set(draft, "f-told", "retired", false);
                            Set(draft, "f-told", "formula", null);
                        }),
                        publish,
                        new Get($"/api/v1/records/partner/{partner}"),
                    ];
            }

        var entered = One(("customer", partner), ("other", partner), ("fitting", partner));
        JsonObject Values(params (string Code, JsonNode? Value)[] values) =>
            new() { ["values"] = new JsonObject(values.Select(one => KeyValuePair.Create(one.Code, one.Value))) };
        JsonObject Lines(int many) =>
            new()
            {
                ["lines"] = new JsonArray([
                    .. Enumerable.Range(0, many).Select(_ => new JsonObject { ["item"] = Number(Id("item")), ["quantity"] = 1 }),
                ]),
            };
        var body = Values((entered.Item1, Number(entered.Item2)), ("wanted", random.Next(200_000)));
        var guess = One("inner_note", "note", "told", "credit_limit");
        return random.Next(8) switch
        {
            0 => [new Send("POST", "/api/v1/records/sales_order/try", body.ToJsonString())],
            1 =>
            [
                new Send("PATCH", $"/api/v1/records/sales_order/{order}", body.ToJsonString()),
                new Get($"/api/v1/records/sales_order/{order}"),
                new Get($"/records/sales_order/{order}"),
            ],
            2 => [new Send("POST", "/api/v1/records/sales_order/try", new JsonObject { ["lines"] = Lines(9) }.ToJsonString())],
            3 =>
            [
                new Send(
                    "POST",
                    "/api/v1/records/sales_order",
                    new JsonObject { ["values"] = body["values"]!.DeepClone(), ["lines"] = Lines(1) }.ToJsonString()
                ),
                new Get("/api/v1/records/sales_order?order=-number&take=3"),
            ],
            4 =>
            [
                new Fill(
                    "/records/sales_order/new",
                    "#record",
                    One("Try", "Draw"),
                    (entered.Item1, entered.Item2),
                    ("lines.order", "n1"),
                    ("lines.n1.item", item),
                    ("parts", "lines")
                ),
            ],
            5 =>
            [
                new Get($"/records/sales_order/new?with={entered.Item1}~{entered.Item2}"),
                new Get($"/records/delivery/new?from=sales_order/{order}"),
                new Send("POST", $"/api/v1/records/sales_order/{order}/next/delivery", "{}"),
                new Get("/api/v1/records/delivery?order=-number&take=2"),
            ],
            6 =>
            [
                new Send(
                    "POST",
                    "/api/v1/formulas/try",
                    new JsonObject
                    {
                        ["text"] = $"customer.{One("payment_terms", "name", "country", "currency")}",
                        ["recordType"] = "sales_order",
                        ["values"] = new JsonObject { ["customer"] = Number(partner) },
                    }.ToJsonString()
                ),
            ],
            _ =>
            [
                new Send(
                    "PATCH",
                    $"/api/v1/records/partner/{partner}",
                    Values((guess, One($"inner {partner}", $"note of {partner}", "20000", "x"))).ToJsonString()
                ),
                new Send("PATCH", $"/api/v1/records/sales_order/{order}", Values(("status", "cancelled")).ToJsonString()),
                new Send("DELETE", $"/api/v1/records/partner/{partner}", ""),
            ],
        };
    }

    private static JsonNode Number(string id) => long.Parse(id, CultureInfo.InvariantCulture);

    private static void Set(JsonObject draft, string id, string property, JsonNode? value)
    {
        foreach (var field in draft["fields"]!.AsArray().Where(field => field!["id"]!.GetValue<string>() == id))
            field![property] = value?.DeepClone();
    }

    private static Draft Asks(string sql) => new($"query {sql}", draft =>
        {
            Put(
                draft,
                "queries",
                new()
                {
                    ["id"] = "q-x",
                    ["label"] = "Asked",
                    ["sql"] = sql,
                }
            );
            Put(
                draft,
                "fields",
                new()
                {
                    ["id"] = "f-q",
                    ["recordType"] = "partner",
                    ["code"] = "asked_q",
                    ["label"] = "Asked",
                    ["kind"] = "text",
                    ["length"] = 2000,
                    ["query"] = new JsonObject
                    {
                        ["id"] = "q-x",
                        ["when"] = "change",
                        ["with"] = new JsonObject(),
                    },
                }
            );
        });

    private Draft Change()
    {
        var (id, field) = ($"f-x{random.Next(3)}", One(Guarded));
        var type =
            field.Contains("customer", StringComparison.Ordinal)
            || field.StartsWith("their", StringComparison.Ordinal)
            || field is "brought" or "other.name"
                ? "sales_order"
                : "partner";
        JsonObject Field(string kind) =>
            new()
            {
                ["id"] = id,
                ["recordType"] = type,
                ["code"] = id.Replace("f-", "asked_", StringComparison.Ordinal),
                ["label"] = "Asked",
                ["kind"] = kind,
            };
        var kind = field.Contains("limit", StringComparison.Ordinal) || field == "cost" ? "decimal" : "text";
        var made = Field(kind);
        if (kind == "text")
            made["length"] = 400;
        else
            (made["digits"], made["decimals"]) = (15, 2);
        var asking = Asking(field);
        switch (random.Next(12))
        {
            case 0:
                made["formula"] = field;
                break;
            case 1:
                made["formula"] = field;
                made["live"] = true;
                break;
            case 2:
                break;
            case 3:
                made["requiredWhen"] = asking;
                break;
            case 4:
                made["shownWhen"] = asking;
                break;
            case 5:
                (made["check"], made["checkMessage"]) = (asking, "no");
                break;
            case 6:
                (made["kind"], made["target"], made["offers"]) = (
                    "link",
                    "partner",
                    Asking(One("credit_limit", "note", "inner_note", "name"))
                );
                made.Remove("length");
                made.Remove("digits");
                made.Remove("decimals");
                break;
            case 7:
                made["fills"] = "chosen";
                made["formula"] = field;
                break;
            case 8:
                var level = One("read", "write");
                return new($"grant when {asking}", draft => Put(
                        draft,
                        "grants",
                        new()
                        {
                            ["id"] = "g-x",
                            ["to"] = new JsonArray("role:order_desk"),
                            ["on"] = new JsonArray(type == "partner" ? "f-said" : "f-other"),
                            ["level"] = level,
                            ["when"] = asking,
                        }
                    ));
            case 9:
                return new($"layer when {asking}", draft => Put(
                        draft,
                        "layers",
                        new()
                        {
                            ["id"] = "l-x",
                            ["label"] = "Asked",
                            ["comment"] = "For a test",
                            ["audience"] = "role:order_desk",
                            ["operations"] = new JsonArray(
                                new JsonObject
                                {
                                    ["op"] = "hide",
                                    ["part"] = type + ".number",
                                    ["when"] = asking,
                                }
                            ),
                        }
                    ));
            case 10:
                return Asks(Sql());
            default:
                var gone = One("guards", "grants", "fields", "removed", "retired", "layers");
                var which = random.Next(8);
                return new($"without {gone} {which}", draft =>
                {
                    if (gone == "removed")
                        Put(
                            draft,
                            "removed",
                            new()
                            {
                                ["id"] = "f-said",
                                ["label"] = "Said",
                                ["recordType"] = "partner",
                                ["part"] = "header",
                                ["code"] = "said",
                                ["columns"] = new JsonArray("said"),
                            }
                        );
                    else if (gone == "retired")
                        draft["fields"]![which]!["retired"] = draft["fields"]![which]!["retired"] is null;
                    else if (draft[gone] is JsonArray { Count: > 0 } all)
                        all.RemoveAt(which % all.Count);
                });
        }

        var what = $"{id} {made.ToJsonString()}";
        return new(what, draft => Put(draft, "fields", made));
    }

    private static void Put(JsonObject draft, string of, JsonObject element)
    {
        if (draft[of] is not JsonArray all)
            draft[of] = all = [];
        for (var at = all.Count - 1; at >= 0; at--)
            if (all[at]!["id"]?.GetValue<string>() == element["id"]!.GetValue<string>())
                all.RemoveAt(at);
        all.Add(element.DeepClone());
    }
}
