using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>One change of placement, anchored to lasting ids.</summary>
public sealed record LayerOperation
{
    /// <summary>Puts a part on the screen, after its anchor.</summary>
    public const string Put = "put";

    /// <summary>Moves a part that stands there; one that is hidden stays so.</summary>
    public const string Move = "move";

    /// <summary>Takes a part off the screen.</summary>
    public const string Hide = "hide";

    /// <summary>Shows a part that an earlier layer hides.</summary>
    public const string Show = "show";

    /// <summary>Calls a part something else here.</summary>
    public const string Relabel = "relabel";

    /// <summary>Makes a field or a column wider or narrower.</summary>
    public const string Resize = "resize";

    /// <summary>Keeps a field from being typed in here; with <see cref="Off"/>, allows what an earlier layer keeps from it.</summary>
    public const string Lock = "lock";

    /// <summary>Asks for a field here; with <see cref="Off"/>, no more than its definition does.</summary>
    public const string Require = "require";

    /// <summary>Says after which field Tab comes here; with <see cref="Off"/>, that Tab passes by.</summary>
    public const string Tab = "tab";

    /// <summary>
    /// For a column of a list: its rows begin in the order of this one, after those that the same layer names before; in place of what
    /// earlier layers say. With <see cref="Off"/>, downwards.
    /// </summary>
    public const string Sort = "sort";

    /// <summary>Folds a section, which people unfold; with <see cref="Off"/>, leaves it unfolded.</summary>
    public const string Fold = "fold";

    /// <summary>For a screen or a list as a whole: people may arrange it for themselves; with <see cref="Off"/>, they may not.</summary>
    public const string Own = "own";

    /// <summary>Lets a part begin a row of its section; with <see cref="Off"/>, lets it follow on.</summary>
    public const string Row = "row";

    /// <summary>What is done: see <c>OperationKinds</c>.</summary>
    public string Op { get; init; } = "";

    /// <summary>The id of the part: of a field, a section, a page, a list of what points here, or of a part that a layer made.</summary>
    public string Part { get; init; } = "";

    /// <summary>For put, move and tab: the id of the part that it comes after, or of the section or page in which it comes first.</summary>
    public string? After { get; init; }

    /// <summary>For put and resize: columns of twelve; for put, what its kind proposes when not given.</summary>
    public int? Width { get; init; }

    /// <summary>For relabel, and for put with <see cref="New"/>: what people read.</summary>
    public string? Label { get; init; }

    /// <summary>The same in other languages, by their code of two letters.</summary>
    public IReadOnlyDictionary<string, string>? Texts { get; init; }

    /// <summary>For lock, require, tab, fold, own and row: takes back rather than sets. For sort: downwards.</summary>
    public bool Off { get; init; }

    /// <summary>For operations that choose among a few: what is chosen.</summary>
    public string? Value { get; init; }

    /// <summary>Only then: <c>adding</c> or <c>changing</c> a record; null for both.</summary>
    public string? On { get; init; }

    /// <summary>Only while this condition holds for the record: a formula over its header.</summary>
    public string? When { get; init; }

    /// <summary>For put: what is made, when the part is none that there is already.</summary>
    public NewPart? New { get; init; }

    /// <summary>For put with <see cref="New"/>: the code of the record type on whose screen it is made.</summary>
    public string? Screen { get; init; }

    /// <summary>The condition as somebody wrote it, where it says when a part is shown and is kept as when it is hidden.</summary>
    [JsonIgnore]
    public string? Written => Op == Hide && When is ['N', 'O', 'T', '(', .. var inner, ')'] ? inner : When;

    /// <summary>True for what is said of a list.</summary>
    [JsonIgnore]
    public bool IsOfList => Part.StartsWith(PartNames.List, StringComparison.Ordinal);

    /// <summary>What it decides about its part: of two operations with the same, only the later one counts.</summary>
    [JsonIgnore]
    public string Aspect => Op is Put or Move or Hide or Show ? Put : Op;

    /// <summary>True for what says in one word where a part stands, without a condition.</summary>
    [JsonIgnore]
    public bool IsStanding => Op is Put or Hide && New is null && On is null && When is null;
}
