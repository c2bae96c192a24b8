namespace Pelto.Web.Api;

/// <summary>The programming interface, under <c>/api/v1</c>.</summary>
internal static class Interface
{
    public const string Root = "/api/v1";

    public static void MapInterface(this WebApplication app)
    {
        var api = app.MapGroup(Root).RequireAuthorization(Policies.Interface).AddEndpointFilter(new KnownParameters());
        api.MapGet("record-types", RecordTypesInterface.All);
        api.MapGet("record-types/{type}", RecordTypesInterface.One).AddEndpointFilter(new AddressedType());
        api.MapGet("openapi.json", (CurrentRequest request) =>
            Results.Json(OpenApi.For(request.Catalogue, request.Viewer), contentType: "application/openapi+json;version=3.1")
        );
        api.MapRecords();
        api.MapSetUp();
        api.MapPost("formulas/try", FormulasInterface.TryAsync);
        api.MapGet("formulas/functions", FormulasInterface.Functions);
        app.Map(Root + "/{**rest}", static (string? rest) =>
            Problems.NotFound($"There is nothing at {Root}/{rest}. {Root}/openapi.json describes what there is.")
        );
    }
}
