using System.Text;

namespace Pelto.Core.Formulas;

/// <summary>A formula would become longer SQL than the database is asked to read.</summary>
public sealed class FormulaTooLongException() : Exception("The formula is too long for the database.");

/// <summary>Names nothing in particular: for trying whether a formula can be written as SQL at all, before anybody relies on it.</summary>
/// <param name="expandsLive">True when live fields are written out.</param>
internal sealed class SqlProbe(bool expandsLive) : SqlNames
{
    public override bool ExpandsLive => expandsLive;

    /// <inheritdoc/>
    public override SqlRow Header { get; } = new Row();

    /// <inheritdoc/>
    public override SqlRow Line => Header;

    /// <summary>True when the formula by itself becomes no longer than the database is asked to read.</summary>
    public static bool Fits(Bound bound, Part? atHand) =>
        Fits(() =>
            new SqlEmitter(
                new SqlProbe(expandsLive: false),
                atHand is null ? null : new(new Value[atHand.RecordType.Header.Fields.Count], new Value[atHand.Fields.Count], [])
            ).Emit(bound)
        );

    /// <summary>The same for a field, with the live ones that it is calculated from.</summary>
    public static bool Fits(Field field) => Fits(() => SqlEmitter.EmitFitting(field, new SqlProbe(expandsLive: true)));

    /// <inheritdoc/>
    public override SqlNames At(Field field, SqlRow row) => this;

    /// <inheritdoc/>
    public override SqlRows RelatedRow(RecordType type, string id) => new Row();

    /// <inheritdoc/>
    public override SqlRows Lines(Part lines) => new Row();

    /// <inheritdoc/>
    public override SqlRows All(Part part) => new Row();

    /// <inheritdoc/>
    public override SqlRows Linking(Part part, Field link, string id) => new Row();

    /// <inheritdoc/>
    public override SqlRows Linked(RecordType type, string ids) => new Row();

    /// <inheritdoc/>
    public override string Of(Value value, ColumnType type) => "$10::numeric";

    private static bool Fits(Func<SqlPart> emit)
    {
        try
        {
            emit();
            return true;
        }
        catch (FormulaTooLongException)
        {
            return false;
        }
    }

    private sealed class Row : SqlRows
    {
        private readonly Dictionary<Field, SqlPart?> live = [];
        private readonly StringBuilder joined = new();

        public override string Id => "h.id";

        public override string From => $"schema.table_of_some_length t{joined} WHERE t.parent = h.id";

        public override IReadOnlyList<string> Order { get; } = ["t.position", "t.id"];

        public override string Column(Field field, string suffix) => $"h.\"{field.Code}{suffix}\"";

        public override SqlPart Live(Field field, Func<SqlPart> written)
        {
            if (live.TryGetValue(field, out var known))
                return known ?? throw new FormulaTooLongException();
            live[field] = null;
            var given = written();
            joined.Append(given.Text).Append(given.Unit).Append(given.Fails).Append(given.Lacks);
            var column = Column(field, "");
            var named = new SqlPart(
                column,
                given.Fails is null ? null : column,
                given.Lacks is null ? null : column,
                given.Unit is null ? null : column
            );
            live[field] = named;
            return named;
        }
    }
}
