using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Json.Schema;
using Pelto.Data.Queries;

namespace Pelto.Web.Api;

/// <summary>Definitions: what is live, the draft, its plan, and publishing.</summary>
internal static class SetUpInterface
{
    private static readonly Lazy<string> SchemaText = new(static () =>
    {
        using var reader = new StreamReader(typeof(SiteDefinition).Assembly.GetManifestResourceStream("site.schema.json")!);
        return reader.ReadToEnd();
    });

    private static readonly Lazy<JsonSchema> Schema = new(static () => JsonSchema.FromText(SchemaText.Value));

    public static void MapSetUp(this RouteGroupBuilder api)
    {
        var setUp = api.MapGroup("setup")
            .RequireAuthorization(policy =>
                policy
                    .AddAuthenticationSchemes(BearerTokens.Scheme)
                    .RequireAuthenticatedUser()
                    .RequireAssertion(static context =>
                        context.Resource is HttpContext http && SignedIn.In(http) is { } who && AdminWork.InDraft.Any(who.Viewer.May)
                    )
            );
        setUp.MapGet("definition", (CurrentRequest request) => Document(request, request.Catalogue.Site));
        setUp.MapGet("schema", () => Results.Text(SchemaText.Value, "application/schema+json", Encoding.UTF8));
        setUp.MapGet("draft", ReadDraftAsync);
        setUp.MapPut("draft", PutDraftAsync);
        setUp.MapGet("plan", PlanAsync);
        setUp.MapPost("publish", PublishAsync);
    }

    private static async Task<IResult> ReadDraftAsync(HttpContext context, CurrentRequest request, Drafts drafts, CancellationToken cancel)
    {
        var draft = await drafts.ReadAsync(cancel);
        context.Response.Headers.ETag = $"\"{draft.Tag}\"";
        return Document(request, draft.Site);
    }

    private static async Task<IResult> PutDraftAsync(
        HttpContext context,
        CurrentRequest request,
        Drafts drafts,
        QueryRunner queries,
        CancellationToken cancel
    )
    {
        SiteDefinition site;
        try
        {
            using var json = await Bodies.DocumentAsync(context, cancel);
            var beyond = Bodies.NumbersBeyond(json.RootElement).ToList();
            if (beyond.Count > 0)
                return Problems.For(StatusCodes.Status400BadRequest, "The document holds numbers that cannot be kept.", beyond);
            var wrong = Schema.Value.Evaluate(json.RootElement, new EvaluationOptions { OutputFormat = OutputFormat.List });
            if (!wrong.IsValid)
            {
                var errors = (wrong.Details ?? [])
                    .Where(detail => detail.Errors is not null)
                    .Select(detail => (detail.InstanceLocation.ToString(), string.Join(" ", detail.Errors!.Values)))
                    .ToList();
                return Problems.For(
                    StatusCodes.Status422UnprocessableEntity,
                    "The document does not keep to the schema at setup/schema.",
                    errors
                );
            }

            site = WithIds(JsonSerializer.Deserialize<SiteDefinition>(json.RootElement, SiteDefinition.Json)!);
        }
        catch (JsonException wrong) when (wrong.Path is { Length: > 1 } path)
        {
            return Problems.For(
                StatusCodes.Status400BadRequest,
                "The document holds a value that cannot be kept.",
                [(Bodies.PointerOf(path), "This is beyond what can be kept here, or written in another form.")]
            );
        }
        catch (Exception wrong)
            when (wrong is JsonException or InvalidOperationException or OverflowException or FormatException or ArgumentException)
        {
            return Problems.For(StatusCodes.Status400BadRequest, $"The body is not JSON that can be read: {wrong.Message}");
        }

        try
        {
            (site, _) = await queries.AnalyseAsync(site, request.Catalogue, cancel);
            var draft = await drafts.ChangeAsync(
                whole => request.Views.Merged(whole, site),
                "Sent a whole definition through the programming interface",
                request.Viewer,
                RecordsInterface.Wanted(context),
                cancel
            );
            context.Response.Headers.ETag = $"\"{draft.Tag}\"";
            return Document(request, draft.Site);
        }
        catch (DraftChangedException changed)
        {
            return Problems.For(StatusCodes.Status412PreconditionFailed, changed.Message);
        }
    }

    private static async Task<IResult> PlanAsync(CurrentRequest request, ReleasePlans plans, CancellationToken cancel)
    {
        var (draft, _, plan) = await plans.PlanAsync(request.Viewer, cancel);
        return Results.Json(
            new
            {
                version = draft.Version,
                empty = plan.IsEmpty,
                holdsMore = plan.HoldsMore,
                publishable = plan.IsPublishable,
                changes = plan.Changes.Select(change => new
                {
                    element = change.Element,
                    recordType = change.RecordType.Code,
                    sentence = change.Sentence,
                    effect = change.Effect,
                }),
                problems = plan.Problems.Select(Described),
                steps = plan.Before.Concat(plan.After).Select(step => step.Description),
                jobs = plan.Jobs.Select(job => job.Says),
                sql = ReleasePlans.SqlOf(plan.Before.Concat(plan.After)),
            }
        );
    }

    private static async Task<IResult> PublishAsync(
        HttpContext context,
        CurrentRequest request,
        Publisher publisher,
        PublishingQueue queue,
        Proposals proposals,
        CancellationToken cancel
    )
    {
        string? comment;
        try
        {
            comment =
                (await Bodies.NodeAsync(context, cancel) as JsonObject)?["comment"] is JsonValue sent
                && sent.TryGetValue<string>(out var text)
                    ? text
                    : null;
        }
        catch (Exception wrong) when (wrong is JsonException or InvalidOperationException)
        {
            return Problems.For(StatusCodes.Status400BadRequest, "The body is not JSON that can be read.");
        }

        try
        {
            // Not cancelled when the caller hangs up: what began is carried through.
            if (
                await proposals.TakesTwoAsync(cancel)
                && await proposals.FindAsync(cancel) is var asked
                && (asked is null || asked.PersonId == request.Viewer.Id)
            )
            {
                await publisher.ProposeAsync(comment, request.Viewer, cancel: cancel);
                return Results.Json(
                    new { said = "Publishing takes two people here: another has to publish now." },
                    statusCode: StatusCodes.Status202Accepted
                );
            }

            var id = await publisher.StartAsync(comment, request.Viewer, cancel: cancel);
            var row = await queue.RunAsync(id, CancellationToken.None);
            return row.State == PublishingState.Done
                ? Results.Json(new { release = row.Release, said = row.Saying })
                : Problems.For(StatusCodes.Status409Conflict, row.Saying);
        }
        catch (PublishRefusedException refused)
        {
            var body = new Dictionary<string, object?> { ["problems"] = refused.Problems.Select(Described).ToArray() };
            return Results.Problem(refused.Message, statusCode: StatusCodes.Status422UnprocessableEntity, extensions: body);
        }
    }

    private static SiteDefinition WithIds(SiteDefinition site) =>
        site with
        {
            Fields = [.. site.Fields.Select(field => field.Id.Length == 0 ? field with { Id = FieldDefinition.NewId() } : field)],
            Layers = [.. site.Layers.Select(layer => layer.Label.Length == 0 ? layer with { Label = "Site" } : layer)],
        };

    private static object Described(Core.Catalog.Problem problem) =>
        new
        {
            element = problem.Element,
            property = problem.Property,
            sentence = problem.Sentence,
        };

    // Whoever has part of the work reads that part.
    private static IResult Document(CurrentRequest request, SiteDefinition site) =>
        Results.Text(request.Views.VisibleTo(site).ToJson(), "application/json", Encoding.UTF8);
}
