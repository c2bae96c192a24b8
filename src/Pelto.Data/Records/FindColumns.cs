using Pelto.Core.Releases;

namespace Pelto.Data.Records;

/// <summary>
/// What stands beside number and name where one chooses, as far as the viewer may see it, and how records are found by it.
/// </summary>
internal sealed class FindColumns
{
    private readonly RecordType type;
    private readonly List<Field> host;
    private readonly List<List<Field>> added;
    private readonly List<Field> choices;

    /// <summary>Those of a link; number and name alone for none, and for people outside.</summary>
    public FindColumns(RecordType type, Field? link, Viewer viewer)
    {
        this.type = type;
        Shown =
            link is null || viewer.Form is not null
                ? []
                : [.. link.Finds.Where(field => viewer.ReadsWhereRead(field) && viewer.MayFind(field))];

        // The indexes hold the columns of the whole link: who may not see one of them finds by number and name.
        var found = link is null || Shown.Count < link.Finds.Count ? [] : Shown.Where(field => field.IsFoundBy).ToList();
        host = [.. found.Where(field => !field.IsAdded)];
        added = [.. found.Where(field => field.IsAdded).GroupBy(field => field.Table, (_, group) => group.ToList())];
        choices = [.. Shown.Where(field => field.Kind.IsOneChoice)];
    }

    /// <summary>What stands beside number and name.</summary>
    public IReadOnlyList<Field> Shown { get; }

    /// <summary>True when the row of what is added is required.</summary>
    public bool NeedsAdded => added.Count > 0 || Shown.Any(column => column.IsAdded);

    /// <summary>What joins that row to <c>h</c>.</summary>
    public string Join => $" LEFT JOIN {Sql.AddedTable(type.Header)} a ON a.id = h.id";

    /// <summary>The columns of what stands there, each field's following one another; a link as what people call its target.</summary>
    public string Names =>
        string.Concat(
            Shown.Select(column =>
                ", "
                + (
                    column.Target is { } target
                        ? $"(SELECT t.{RecordLists.NameColumn(target)} FROM {Sql.Base(target.Header)} t "
                            + $"WHERE t.id = {column.ColumnNames(Prefix(column))("")})"
                        : string.Join(", ", Columns.Quoted(column, Prefix(column)))
                )
            )
        );

    /// <summary>Reads what <see cref="Names"/> selected, as people read it; what is empty is left out.</summary>
    public IReadOnlyList<string> Read(NpgsqlDataReader reader, int at, Locale locale)
    {
        var said = new List<string>();
        foreach (var field in Shown)
        {
            var text =
                field.Target is null ? field.Kind.Format(Columns.Read(reader, ref at, field), locale)
                : reader.IsDBNull(at++) ? ""
                : reader.GetString(at - 1);
            if (text.Length > 0)
                said.Add(text);
        }

        return said;
    }

    /// <summary>
    /// The ways in which a record holds all words: each word in the host's columns, or in those of a table that were added. Each way is
    /// served by an index for each side.
    /// </summary>
    /// <param name="words">What was typed.</param>
    /// <param name="like">Makes a parameter that a text which holds a word is like.</param>
    /// <param name="codes">Makes a parameter of codes.</param>
    public IEnumerable<string> Ways(IReadOnlyList<string> words, Func<string, string> like, Func<string[], string> codes)
    {
        var patterns = words.Select(like).ToList();
        var alternatives = words.Select(word => Alternatives(word, codes)).ToList();

        // A word that means a choice too, such as a country, leaves it to the others to lead to the records.
        if (alternatives.TrueForAll(alternative => alternative.Length > 0))
            alternatives = [.. alternatives.Select(_ => "")];
        string On(int side, int at) =>
            side == 0 ? $"({Whole()} LIKE {patterns[at]}{alternatives[at]})" : Beside(added[side - 1], patterns[at]);

        // With more words, or more tables, there would be too many ways; further words only narrow down.
        var sides = added.Count + 1;
        var deciding = Math.Min(
            words.Count,
            sides == 1 ? words.Count
                : sides < 4 ? 3
                : 2
        );
        var rest = string.Concat(
            Enumerable
                .Range(deciding, words.Count - deciding)
                .Select(at => $" AND ({string.Join(" OR ", Enumerable.Range(0, sides).Select(side => On(side, at)))})")
        );
        IEnumerable<string> ways = [""];
        for (var word = 0; word < deciding; word++)
        {
            var at = word;
            ways = ways.SelectMany(way => Enumerable.Range(0, sides).Select(side => $"{way}{(at > 0 ? " AND " : "")}{On(side, at)}"));
        }

        return ways.Select(way => way + rest);
    }

    // That one of them is filled follows from the rest; only by it the database knows that a record without a row there does not count, and
    // begins at the index.
    private static string Beside(List<Field> columns, string pattern) =>
        $"({AddedText(columns, "a.")} LIKE {pattern} AND "
        + $"({string.Join(" OR ", columns.Select(field => $"{field.ColumnNames("a.")("")} IS NOT NULL"))}))";

    /// <summary>Number, name and the host's columns as one text, as the index has it.</summary>
    public string Whole() => HostText(type, host, "h.");

    /// <summary>The schema in which an index stands.</summary>
    public static string SchemaOf(AddFindIndex step) => step.Columns[0].IsAdded ? Sql.Added : Sql.SchemaOf(step.Target);

    /// <summary>What an index is made over.</summary>
    public static string TextOf(AddFindIndex step) =>
        step.Columns[0].IsAdded ? AddedText(step.Columns, "") : HostText(step.Target, step.Columns, "");

    /// <summary>True when a record's name is a text of its own.</summary>
    public static bool HasName(RecordType type) => !type.Name.Kind.IsOneLink && type.Name != type.Identifier;

    /// <summary>Number, name and more columns of the host's own table.</summary>
    public static string HostText(RecordType type, IEnumerable<Field> more, string of)
    {
        var parts = (HasName(type) ? [type.Name] : Array.Empty<Field>())
            .Concat(more)
            .Select(field => $" || ' ' || coalesce({field.ColumnNames(of)("")}, '')");
        return $"pelto.plain({of}{Sql.Column(type.Identifier)}{string.Concat(parts)})";
    }

    private static string AddedText(IEnumerable<Field> columns, string of) =>
        $"pelto.plain({string.Join(" || ", columns.Select(field => $"' ' || coalesce({field.ColumnNames(of)("")}, '')"))})";

    private string Alternatives(string word, Func<string[], string> codes) =>
        string.Concat(
            choices.Select(field =>
            {
                var meant = field
                    .Kind.Choices!.All.Where(choice => choice.Labels.Any(label => Means(label, word)))
                    .Select(choice => choice.Code)
                    .ToArray();
                return meant.Length == 0 ? "" : $" OR {field.ColumnNames(Prefix(field))("")} = ANY({codes(meant)})";
            })
        );

    private static bool Means(string label, string word) =>
        word.Length > 1
        && label
            .Split(' ')
            .Any(part =>
                System.Globalization.CultureInfo.InvariantCulture.CompareInfo.IsPrefix(
                    part,
                    word,
                    System.Globalization.CompareOptions.IgnoreCase | System.Globalization.CompareOptions.IgnoreNonSpace
                )
            );

    private static string Prefix(Field field) => field.IsAdded ? "a." : "h.";
}
