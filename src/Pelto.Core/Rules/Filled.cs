using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Core.Rules;

/// <summary>Who or what fills a field: people, a formula, a query, or the document before.</summary>
public static class Filled
{
    extension(Field it)
    {
        /// <summary>True when something fills it.</summary>
        public bool IsFilled => it.Formula is not null || it.CarriedFrom.Count > 0 || it.Asking is { When: not QueryWhen.Offer };

        /// <summary>When what fills it does so.</summary>
        public FillMode Mode => it.Formula is null && it.IsFilled ? FillMode.Chosen : it.Content.Fills;

        /// <summary>True when something fills it and people may change it all the same.</summary>
        public bool IsChangeable => it.IsFilled && it.Mode != FillMode.Always && !it.Content.Locked;

        /// <summary>True when a formula alone says what it holds.</summary>
        public bool IsComputed => it.Formula is not null && it.Mode == FillMode.Always;

        /// <summary>True when people type it, rather than a formula, a numbering, a link or the ERP filling it.</summary>
        public bool IsTyped => (!it.IsFilled || it.IsChangeable) && it.Numbering is null && !it.IsMaintained && !it.IsThroughLink;

        /// <summary>The formula that fills it, or those that a query's parameters are.</summary>
        public IEnumerable<Formula> Formulas => it.Formula is { } formula ? [formula] : it.Asking?.Arguments ?? [];

        /// <summary>
        /// All that it is filled from, of this record and of others; of a query, what its parameters are calculated from.
        /// </summary>
        public IEnumerable<Field> Inputs => it.Formulas.SelectMany(formula => formula.Reads.Concat(formula.RelatedFields));

        /// <summary>
        /// True when it is stored and the clock changes what fills it, by itself or by what it is calculated from:
        /// then it is filled again each night.
        /// </summary>
        public bool GrowsOld =>
            it is { IsAdded: true, IsStored: true, Formula: not null } && it.Mode != FillMode.Chosen && ChangesByItself(it, []);

        /// <summary>
        /// True where what it is calculated from stands on the same record: a formula reads it there, and nothing reads it of others,
        /// as queries do and ways through links.
        /// </summary>
        /// <param name="input">One of what it is calculated from.</param>
        public bool ReadsHere(Field input) =>
            (input.Part == it.Part || input.Part == it.Part.RecordType.Header)
            && (
                it.IsThroughLink
                    ? it.Path[0] == input
                    : it.Formulas.Any(formula => formula.Reads.Contains(input)) && !IsReadElsewhere(it, input)
            );

        /// <summary>
        /// True for a number of which lists in groups give the total: not a share, nor what one says of it,
        /// nor what is divided or averaged.
        /// </summary>
        public bool IsTotalled =>
            !it.Part.IsLines && it.Kind.IsSummable && !it.Content.NoTotals && !it.Source.Content.NoTotals && it.Formula?.IsRatio != true;
    }

    private static bool ChangesByItself(Field field, HashSet<Field> known) =>
        known.Add(field)
        && field.Mode != FillMode.Chosen
        && field.Formula is { } formula
        && (formula.IsVolatile || field.Inputs.Any(input => ChangesByItself(input, known)));

    private static bool IsReadElsewhere(Field field, Field input) =>
        field.Formulas.Any(formula => formula.RelatedFields.Contains(input))
        || field.Asking?.Reads.Contains(input) == true
        || field.CarriedFrom.Any(carried => carried.From == input)
        || field.Definition?.HeldFrom.Contains(input.Id) == true;
}
