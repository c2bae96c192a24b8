using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Data.Queries;

namespace Pelto.Web.Pages;

/// <summary>One saved query: its text, what it is asked with, what it gives and reads, and a try on a real record.</summary>
public sealed class QueryModel(CurrentRequest request, Drafts drafts, Catalogues catalogues, QueryRunner runner, FieldEffects effects)
    : PageModel
{
    private SiteDefinition site = SiteDefinition.Nothing;
    private string queryId = "";

    /// <summary>What stands in the inputs.</summary>
    public QueryInput Input { get; private set; } = new();

    /// <summary>The query that the inputs make, with what the database found out of it.</summary>
    public QueryDefinition Query { get; private set; } = new();

    /// <summary>True for one that is not in the draft yet.</summary>
    public bool IsNew { get; private set; }

    /// <summary>True when the draft says something else of it than what is live.</summary>
    public bool IsInDraft { get; private set; }

    /// <summary>What is wrong.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The fields that it reads.</summary>
    public IReadOnlyList<Field> Reads { get; private set; } = [];

    /// <summary>The same in words, as far as whoever asks is shown it.</summary>
    public string ReadsInWords => request.Views.InWords(Reads);

    /// <summary>The fields that it fills.</summary>
    public IReadOnlyList<FieldDefinition> Fills { get; private set; } = [];

    /// <summary>Parts from whose records its parameters can be taken.</summary>
    public IReadOnlyList<(string Value, string Label)> Parts { get; private set; } = [];

    /// <summary>What became of it when it was tried; null before that.</summary>
    public QueryTried? Tried { get; private set; }

    /// <summary>What to tell on arrival.</summary>
    public string? Message { get; private set; }

    /// <summary>Who changed what, newest first.</summary>
    public IReadOnlyList<HistoryEntry> History { get; private set; } = [];

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    /// <summary>What queries can read: each view with its columns.</summary>
    public IEnumerable<(string View, string Columns)> Views() =>
        from part in request.Catalogue.RecordTypes.Where(request.Views.Sees).SelectMany(type => type.Parts)
        from view in part.Fields.Where(field => QueryBinder.IsReadable(field) && request.Views.Sees(field)).GroupBy(QueryViews.For)
        select (
            view.Key == part.Table ? view.Key : $"\"{view.Key}\"",
            string.Join(", ", new[] { "id" }.Concat(part.IsLines ? ["parent", "position"] : []).Concat(view.Select(field => field.Code)))
        );

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(string id, bool saved)
    {
        await LoadAsync(id);
        if (!IsNew && site.FindQuery(queryId) is null)
            return NotFound();
        Input = site.FindQuery(queryId) is { } known ? QueryInput.From(known, QueryRunner.KindsTold(known, request.Catalogue)) : new();
        if (Fills is [{ Query: { } use } first, ..])
        {
            Input.Where = $"{first.RecordType}/{first.Part}";
            Input.With = new(use.With);
        }

        Message = saved ? "It is in the draft." : null;
        await LookAsync(isAsked: false);
        if (!IsNew)
            History = await effects.HistoryAsync(queryId, request.Views);
        return Page();
    }

    /// <summary>Runs on every pause in typing: what the database says of the text. Nothing is asked of the data.</summary>
    public async Task<IActionResult> OnPostLookAsync(string id, [FromForm] QueryInput input)
    {
        await LoadAsync(id);
        Input = input;
        await LookAsync(isAsked: false);
        return Partial("Setup/_QueryLooked", this);
    }

    /// <summary>
    /// The names that can stand where somebody is typing in a formula: of the rows that are read, or of the record that it is tried on.
    /// </summary>
    public async Task<IActionResult> OnPostNamesAsync(
        string id,
        [FromForm] QueryInput input,
        [FromForm] string? text,
        [FromForm] int at,
        [FromForm] string? of
    )
    {
        await LoadAsync(id);
        if (PartAt(of?.StartsWith("With", StringComparison.Ordinal) == true ? input.Where : input.Rows) is not { } part)
            return NamesFound.None;
        return NamesFound.Answer(Completions.For(text ?? "", at, part, isShown: request.Views.Sees));
    }

    /// <summary>Asks it once, with parameters from a real record.</summary>
    public async Task<IActionResult> OnPostTryAsync(
        string id,
        [FromForm] QueryInput input,
        [FromServices] QueryTrying trying,
        CancellationToken cancel
    )
    {
        await LoadAsync(id);
        Input = input;
        await LookAsync(isAsked: true);
        if (Problems.All(problem => problem.Property == "label"))
            await TryAsync(trying, cancel);
        return Partial("Setup/_QueryTried", this);
    }

    /// <summary>Puts it in the draft.</summary>
    public async Task<IActionResult> OnPostAsync(string id, [FromForm] QueryInput input, [FromForm] string? then)
    {
        await LoadAsync(id);
        Input = input;
        await LookAsync(isAsked: true);
        if (Problems.Count > 0)
        {
            if (!IsNew)
                History = await effects.HistoryAsync(queryId, request.Views);
            return Page();
        }

        await drafts.ChangeAsync(now => now.With(Query), (IsNew ? "Added the query " : "Changed the query ") + Query.Label, request.Viewer);
        return Redirect(then == "review" ? "/setup/draft" : $"/setup/queries/{queryId}?saved=true");
    }

    /// <summary>Takes it out; only one that fills nothing.</summary>
    public async Task<IActionResult> OnPostDeleteAsync(string id)
    {
        await LoadAsync(id);
        if (Fills.Count == 0)
            await drafts.ChangeAsync(
                now => now with { Queries = [.. now.Queries.Where(query => query.Id != queryId)] },
                "Deleted the query " + site.FindQuery(queryId)?.Label,
                request.Viewer
            );
        return Redirect("/setup/queries");
    }

    private Part? PartAt(string where) =>
        where.Split('/', 2) is [var type, var code] && request.Views.SeesType(type) ? request.Catalogue.Find(type)?.FindPart(code) : null;

    private bool IsLink(string name) =>
        request.Catalogue.RecordTypes.SelectMany(type => type.Parts).Any(part => part.Find(name) is { Target: not null });

    private async Task LoadAsync(string id)
    {
        site = (await drafts.ReadAsync()).Site;
        IsNew = id == "new";
        queryId = IsNew ? QueryDefinition.NewId() : id;
        IsInDraft = !IsNew && !SiteDefinition.Same(site.FindQuery(id), request.Catalogue.Site.FindQuery(id));
        Fills = [.. site.Fields.Where(field => field.Query?.Id == queryId && !field.Retired)];
        Parts =
        [
            .. request
                .Catalogue.RecordTypes.Where(request.Views.Sees)
                .SelectMany(type => type.Parts)
                .Select(part =>
                    (
                        $"{part.RecordType.Code}/{part.Code}",
                        part.IsLines ? $"{part.RecordType.Label}, {part.Plural.ToLowerInvariant()}" : part.RecordType.Label
                    )
                ),
        ];
    }

    private async Task LookAsync(bool isAsked)
    {
        var found = new List<QueryProblem>();
        Query = Input.ToQuery(queryId, IsLink);
        var isBegun = Query.Sql.Length > 0 || (Query.Built is { } built && (built.RecordType.Length > 0 || isAsked));
        if (isBegun)
            Query = await runner.InspectAsync(Query, request.Catalogue, found, HttpContext.RequestAborted, request.Views.Sees);
        Reads = QueryBinder.FieldsRead(Query, request.Catalogue.RecordTypes);
        var said = found.Select(problem => new Problem(queryId, problem.Property, problem.Sentence)).ToList();

        // What the database said goes first; the rest is what the definition itself is held to.
        var others = catalogues
            .Build(site.With(Query))
            .Problems.Where(problem =>
                problem.Element == queryId && (problem.Property != "sql" || (said.Count == 0 && Query.Sql.Length > 0))
            );
        said.AddRange(others.Where(problem => isAsked || problem.Property != "label" || Query.Label.Length > 0));
        if (isAsked && Input.IsSql && Query.Sql.Length == 0)
            said.Add(new(queryId, "sql", "Write a SELECT."));
        Problems = said;
    }

    private async Task TryAsync(QueryTrying trying, CancellationToken cancel)
    {
        // A query reads past what records say: so only those try it who may read all of it.
        if (Reads.FirstOrDefault(read => request.Viewer.SureAt(read) < AccessLevel.Read) is { } closed)
        {
            // By its code somebody may have guessed it; by its label they would know it.
            var what = request.Views.Sees(closed)
                ? $"{closed.Label} of all {closed.Part.Plural.ToLowerInvariant()}, which this query reads"
                : "all that this query reads";
            Tried = new(null, [], new([], [], false, 0, null, $"You may not read {what}. It can be kept, but not tried by you."));
            return;
        }

        Tried = await trying.TryAsync(Query, PartAt(Input.Where), Input, request.Viewer, cancel);
    }
}
