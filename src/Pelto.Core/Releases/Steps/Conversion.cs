namespace Pelto.Core.Releases;

/// <summary>Has every change of a column written down from now on, while its values are carried to another.</summary>
public sealed record TrackColumn(Field From, Field To) : PlanStep
{
    /// <inheritdoc/>
    public override string Description => $"Records changes of {From.Label} while its values are converted.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Table(From)?.Tracked.Contains(From.Columns[0].Name) == true;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [
            $"CREATE OR REPLACE TRIGGER {names.Name(TriggerOf(From))} AFTER INSERT OR UPDATE OF {string.Join(", ", names.Columns(From))} "
                + $"ON {names.TableOf(From)} FOR EACH ROW EXECUTE FUNCTION pelto.note_conversion({names.Text(From.Columns[0].Name)});",
        ];

    /// <summary>What the names of triggers begin with that write changes of a column down.</summary>
    public const string Prefix = "track_";

    /// <summary>The name of the trigger that writes changes of a field's column down.</summary>
    internal static string TriggerOf(Field from) => Prefix + from.Columns[0].Name;
}

/// <summary>
/// Turns the values of a field into another kind, from one column to another, a thousand rows at a time while people work.
/// </summary>
public sealed record ConvertValues(Field From, Field To) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description =>
        $"Converts the values of {From.Label} from {From.Kind.Label.ToLowerInvariant()} to {To.Kind.Label.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => false;

    // Done by the program, a batch at a time.
    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) => [];
}

/// <summary>Carries over what was still written under the earlier release, and ends the writing down.</summary>
public sealed record FinishConversion(Field From, Field To) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Description => $"Converts what was written to {From.Label} in the meantime.";

    // Also where the writing down has ended: what was written down before may be left, when a server died in between.
    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => false;

    /// <inheritdoc/>
    public override IEnumerable<string> Sql(IStorageNames names) =>
        [$"DROP TRIGGER IF EXISTS {names.Name(TrackColumn.TriggerOf(From))} ON {names.TableOf(From)};"];
}
