using System.Security.Cryptography;
using System.Text;
using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Releases;

/// <summary>One thing to be done to storage. Each says itself in words, does one thing, knows whether it is done, and may be repeated.</summary>
public abstract record PlanStep
{
    /// <summary>What it does, for people.</summary>
    public abstract string Says { get; }

    /// <summary>True when the database is already as this step leaves it.</summary>
    public abstract bool IsDone(StorageFacts facts);

    /// <summary>True when it takes a moment however large the table is, so that it can be done together with others.</summary>
    public virtual bool IsInstant => true;
}

/// <summary>Makes the table that holds what is added to a part, beside the host's own table.</summary>
public sealed record CreateTable(Part Part) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Makes a table for what is added to {Part.Plural.ToLowerInvariant()}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Table(Part) is not null;
}

/// <summary>Gives a table one more column. Takes a lock for a moment; on a busy table it steps back and tries again.</summary>
public sealed record AddColumn(Field Field) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Adds a column for {Field.Label}. Records on file get no value.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.Column(Field) is not null;
}

/// <summary>Takes a rule off a column, because another takes its place.</summary>
public sealed record DropCheck(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override string Says => $"Takes the earlier rule off {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).All(check => check.Name != Name);
}

/// <summary>Puts a rule on a column for all that is written from now on; rows on file are looked at afterwards, without a lock.</summary>
public sealed record AddCheck(Field Field, ColumnCheck Check) : PlanStep
{
    /// <summary>The constraint's name. It holds a digest of the rule, so that a changed rule is another constraint and a repeated step is seen as done.</summary>
    public string Name => $"{Field.Code}_{Check.Name}_{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Check.Sql)))[..8]}";

    /// <inheritdoc/>
    public override string Says => $"Lets the database keep the {Check.Name} of {Field.Label}.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).Any(check => check.Name == Name);

    /// <summary>The rules that the database is to keep for an added field.</summary>
    public static IEnumerable<AddCheck> For(Field field) => field.Kind.Checks($"\"{field.Code}\"").Select(check => new AddCheck(field, check));
}

/// <summary>Looks whether the rows on file keep a rule, while people go on writing.</summary>
public sealed record ValidateCheck(Field Field, string Name) : PlanStep
{
    /// <inheritdoc/>
    public override bool IsInstant => false;

    /// <inheritdoc/>
    public override string Says => $"Looks through the records on file for values of {Field.Label} against the rule.";

    /// <inheritdoc/>
    public override bool IsDone(StorageFacts facts) => facts.ChecksOf(Field).Any(check => check.Name == Name && check.IsValidated);
}
