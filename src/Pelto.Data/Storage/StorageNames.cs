using Pelto.Core.Releases;
using Pelto.Data.Records;

namespace Pelto.Data.Storage;

/// <summary>What steps call things in the database.</summary>
internal sealed class StorageNames : IStorageNames
{
    private StorageNames() { }

    /// <summary>The one there is.</summary>
    public static StorageNames Instance { get; } = new();

    /// <inheritdoc/>
    public string Origins => Sql.Origins;

    /// <inheritdoc/>
    public string LinkedSchema => Sql.Linked;

    /// <inheritdoc/>
    public string Name(string name) => Sql.Name(name);

    /// <inheritdoc/>
    public string Text(string text) => $"'{text.Replace("'", "''", StringComparison.Ordinal)}'";

    /// <inheritdoc/>
    public string Added(string table) => Sql.Table(Sql.Added, table);

    /// <inheritdoc/>
    public string Linked(string table) => Sql.Table(Sql.Linked, table);

    /// <inheritdoc/>
    public string TableOf(Part part) => Sql.Base(part);

    /// <inheritdoc/>
    public string Called(Part part) => $"{Sql.SchemaOf(part.RecordType)}.{part.Table}";

    /// <inheritdoc/>
    public string TableOf(Field field) => Sql.Of(field);

    /// <inheritdoc/>
    public string TargetOf(Field link) => Sql.Base(link.Target!.Header);

    /// <inheritdoc/>
    public string Column(Field field) => Sql.Column(field);

    /// <inheritdoc/>
    public IEnumerable<string> Columns(Field field) => Database.Columns.Quoted(field);

    /// <inheritdoc/>
    public string TypeOf(ColumnType type) => type.SqlType();

    /// <inheritdoc/>
    public string MarkOf(Field field) => FactsReader.CommentFor(field);

    /// <inheritdoc/>
    public string IndexOf(AddFindIndex index) => Sql.Table(FindColumns.SchemaOf(index), index.Name);

    /// <inheritdoc/>
    public string IndexOf(AddListIndex index) => Sql.Table(ListIndexSql.SchemaOf(index.Field), index.Name);

    /// <inheritdoc/>
    public string FindsBy(AddFindIndex index) => FindColumns.TextOf(index);

    /// <inheritdoc/>
    public string ListedIn(Field field) => ListIndexSql.Table(field);

    /// <inheritdoc/>
    public string ListedBy(Field field) => ListIndexSql.Over(field);

    /// <inheritdoc/>
    public string CreateTable(Part part) => BaseTables.Create(part);

    /// <inheritdoc/>
    public IEnumerable<string> AddColumns(Field field) => BaseTables.AddColumns(field);
}
