using System.Text.Encodings.Web;
using Pelto.Core.Records;

namespace Pelto.Web.Pages;

/// <summary>The list of a record type.</summary>
public sealed class ListModel(
    CurrentRequest request,
    RecordLists lists,
    RecordDeleter deleter,
    TargetFinder finder,
    OfferTokens tokens,
    Entries entries
) : PageModel
{
    private const int Rows = 50;

    /// <summary>The record type.</summary>
    public RecordType Type { get; private set; } = default!;

    /// <summary>The list as this person gets it.</summary>
    public Resolved Shown { get; private set; } = default!;

    /// <summary>The id of the list, in operations of layers.</summary>
    public string ListId => new ListOf(Type).Id;

    /// <summary>True when people may arrange it for themselves.</summary>
    public bool MayArrange =>
        !IsInside
        && request.Viewer.May(AdminWork.ArrangeOwn)
        && PersonalArrangement.MayArrange(Type.Screens.LayersOf(request.Viewer), ListId);

    /// <summary>The places of the columns that this person sees.</summary>
    public IReadOnlyList<LayoutPlace> Places { get; private set; } = [];

    /// <summary>The columns that this person sees.</summary>
    public IReadOnlyList<Field> Columns { get; private set; } = [];

    /// <summary>The rows.</summary>
    public new ListPage Page { get; private set; } = default!;

    /// <summary>Words to find.</summary>
    public string? Search { get; private set; }

    /// <summary>The sort order asked for, or null for the usual one.</summary>
    public string? Order { get; private set; }

    /// <summary>What rows are held to.</summary>
    public IReadOnlyList<Filter> Filters { get; private set; } = [];

    /// <summary>What the list is grouped by; empty for the records themselves.</summary>
    public IReadOnlyList<GroupKey> Keys { get; private set; } = [];

    /// <summary>The groups, when it is grouped.</summary>
    public ListGroups? Groups { get; private set; }

    /// <summary>What it can be grouped by.</summary>
    public IEnumerable<GroupKey> Groupable =>
        Type
            .ListColumns.Concat(Type.Header.Fields)
            .Distinct()
            .Where(groupable => groupable != Type.Identifier && MayGroup(groupable))
            .SelectMany(groupable => GroupKey.StepsOf(groupable).Select(step => new GroupKey(groupable, step)));

    /// <summary>What one can look for, and what is about to be added.</summary>
    public FilterInput Adding { get; private set; } = default!;

    /// <summary>True when this person may create records.</summary>
    public bool MayCreate { get; private set; }

    /// <summary>What was deleted just now, and what brings it back.</summary>
    public (string Title, string Undo)? Deleted { get; private set; }

    /// <summary>How many entries from outside wait for somebody to decide; null where none can come.</summary>
    public long? Waiting { get; private set; }

    /// <summary>True when the list is shown within a form, for one of its records to be chosen.</summary>
    public bool IsInside { get; private set; }

    /// <summary>For a list from which one is chosen: the sealed link that is being filled.</summary>
    public string? Offer { get; private set; }

    /// <summary>True when a deleted record could not be brought back.</summary>
    public bool Lost { get; private set; }

    /// <summary>What the address says and was left out, in words: more is seen than was asked for.</summary>
    public IReadOnlyList<string> Unread { get; private set; } = [];

    /// <summary>The conventions of the person who looks.</summary>
    public Locale Locale => request.Locale;

    private readonly Dictionary<Filter, string> targets = [];
    private IReadOnlyList<SortKey> keys = [];

    /// <summary>A filter in words.</summary>
    public string Words(Filter filter) => filter.InWords(Locale, targets.GetValueOrDefault(filter));

    /// <summary>Shows the list, or the rows after a cursor.</summary>
    public async Task<IActionResult> OnGetAsync(
        string type,
        string? search,
        string? order,
        string? after,
        string? deleted,
        string? undo,
        bool lost,
        string? inside,
        string? offer,
        [FromQuery] FilterInput adding,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found)
            return NotFound();
        Type = found;
        Shown = found.Screens.ListFor(request.Viewer);
        Places = ListOrder.Visible(Shown, request.Viewer);
        Columns = [.. Places.Select(place => place.Field)];
        MayCreate = request.Viewer.MayCreate(found);
        (Search, Lost, IsInside) = (search, lost, inside is not null);
        if (MayCreate && !IsInside && found.PublicForm is not null)
            Waiting = await entries.CountWaitingAsync(found, request.Viewer, cancel);
        var offered = tokens.Read(offer, request.Catalogue, request.Viewer) is { } link && link.Field.Target == found ? link : null;
        if (offered is not null)
            Offer = offer;
        if (deleted is not null && Guid.TryParse(undo, out _))
            Deleted = (deleted, undo);
        var address = ListAddress.Read(found, Request.Query, request.Viewer);
        keys = address.Order ?? ListOrder.For(found, Shown, request.Viewer);
        if (address.Order is not null)
            Order = order;
        (Filters, Keys, Unread) = (address.Filters, IsInside ? [] : address.Keys, address.Unread);
        Adding = adding.For(found, request.Viewer);
        if (
            Adding.IsAsked
            && Adding.Read(Adding.IsOfTarget ? await finder.FindAsync(Adding.Field, Adding.Value!.Trim()) : null) is { } added
        )
        {
            Filters = [.. Filters, added];
            return Redirect(Link(Order, null));
        }

        foreach (var linked in Filters.Where(one => one.Value.Targets.Count > 0))
        foreach (var target in (await lists.TargetsAsync(linked.Field.Target!, [.. linked.Value.Targets], request.Viewer, cancel)).Values)
            targets[linked] = target.Text;
        try
        {
            if (Keys.Count > 0)
                Groups = await lists.GroupAsync(
                    new(found, [], 0, Search: search) { Filters = Filters },
                    Keys,
                    ListGroups.Totals(Columns, request.Viewer),
                    request.Viewer,
                    cancel
                );
            else
                Page = await lists.ReadAsync(
                    new(found, keys, Rows, after, search)
                    {
                        Shown = Columns,
                        Filters = Filters,
                        Offer = offered,
                    },
                    request.Viewer,
                    cancel
                );
        }
        catch (FormatException)
        {
            return Redirect($"/records/{type}");
        }

        return after is null ? base.Page() : Partial("Records/_RowsPage", this);
    }

    /// <summary>The rest of a filter's inputs, once somebody chose what to look in.</summary>
    public IActionResult OnGetFilter(string type, [FromQuery] FilterInput adding) =>
        request.Find(type) is { } found ? Partial("Records/_Filter", adding.For(found, request.Viewer)) : NotFound();

    /// <summary>Brings a deleted record back.</summary>
    public async Task<IActionResult> OnPostRestoreAsync(string type, Guid undo, CancellationToken cancel)
    {
        if (request.Find(type) is not { } found)
            return NotFound();
        return await deleter.RestoreAsync(request.Catalogue, found, undo, request.Viewer, cancel) is { } id
            ? Redirect($"/records/{type}/{id}")
            : Redirect($"/records/{type}?lost=true");
    }

    /// <summary>The records of a group, as a list.</summary>
    public string LinkTo(ListGroup group) =>
        Link(null, null, Filters.Concat(Keys.Zip(group.Values, (key, value) => key.FilterFor(value))), []);

    /// <summary>The records themselves again.</summary>
    public string LinkWithout(GroupKey key) => Link(Order, null, keys: Keys.Where(other => other != key));

    /// <summary>What the records of a group have in common, key by key, as people read it.</summary>
    public IEnumerable<string> Common(ListGroup group) => Keys.Zip(group.Values.Zip(group.Labels), (key, of) => of.First.IsEmpty ? "empty"
            : key.Field.Kind.IsOneLink ? of.Second ?? "not yours to see"
            : key.Format(of.First, Locale));

    /// <summary>A total as people read it.</summary>
    public string Total(Field field, Value total) =>
        total.IsError ? total.Reason
        : total.IsEmpty ? ""
        : total.DataType == DataType.Money && field.Kind.DataType != DataType.Money
            ? $"{field.Kind.Format(Value.From(total.Amount), Locale)} {total.Unit}"
        : field.Kind.Format(total, Locale);

    private bool MayGroup(Field field) => request.Viewer.MayFind(field);

    /// <summary>Null when the list is not sorted by this column, else whether downwards.</summary>
    public bool? SortOf(Field column) => keys.Count > 0 && keys[0].Field == column ? keys[0].Descending : null;

    /// <summary>False for what has no order, and for links to what this person may not see.</summary>
    public bool MaySort(Field column) => column.Kind.IsOrdered && request.Viewer.MayFind(column);

    /// <summary>Where a click on a heading leads.</summary>
    public string LinkFor(Field column) => Link(SortOf(column) == false ? "-" + column.Code : column.Code, null);

    /// <summary>The list without one of its filters.</summary>
    public string LinkWithout(Filter filter) => Link(Order, null, Filters.Where(other => other != filter));

    /// <summary>The list with nothing left out.</summary>
    public string LinkToAll => $"/records/{Type.Code}{(IsInside ? $"?inside=yes&offer={UrlEncoder.Default.Encode(Offer ?? "")}" : "")}";

    /// <summary>Where the same list is as a file.</summary>
    public string LinkToExport =>
        Link(Order, null).Replace($"/records/{Type.Code}", $"/records/{Type.Code}/export.csv", StringComparison.Ordinal);

    /// <summary>Where the next rows are.</summary>
    public string LinkForMore => Link(Order, Page.Next);

    /// <summary>A row as the record that a link would point to.</summary>
    public Target TargetOf(ListRow row) =>
        new(
            row.Id,
            Type.Identifier.Kind.Format(row[Type.Identifier].Value),
            Type.Name.Kind.IsOneLink ? "" : Type.Name.Kind.Format(row[Type.Name].Value)
        );

    /// <summary>A value as it stands in a row.</summary>
    public FieldView Cell(ListRow row, Field column) => FieldView.InRow(row, column, request.Locale);

    private string Link(string? order, string? after, IEnumerable<Filter>? filters = null, IEnumerable<GroupKey>? keys = null)
    {
        var query = new[] { ("search", Search), ("order", order), ("after", after), ("inside", IsInside ? "yes" : null), ("offer", Offer) }
            .Concat((filters ?? Filters).Select(filter => ("filter", (string?)filter.Write())))
            .Concat((keys ?? Keys).Select(key => ("group", (string?)key.Write())))
            .Where(pair => !string.IsNullOrEmpty(pair.Item2))
            .Select(pair => $"{pair.Item1}={UrlEncoder.Default.Encode(pair.Item2!)}");
        return $"/records/{Type.Code}?{string.Join('&', query)}";
    }
}
