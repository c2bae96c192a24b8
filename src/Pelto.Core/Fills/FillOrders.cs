namespace Pelto.Core.Fills;

/// <summary>The order in which fields are filled, so that each comes after what it reads.</summary>
public static class FillOrders
{
    /// <summary>
    /// Fields of any record types, in an order in which each comes after those of them that it is calculated from, directly or over others.
    /// </summary>
    public static IReadOnlyList<Field> Across(IEnumerable<Field> fields)
    {
        var (wanted, order, done) = (fields.ToHashSet(), new List<Field>(), new HashSet<Field>());
        foreach (var field in wanted)
            Visit(field);
        return order;

        void Visit(Field field)
        {
            if (!done.Add(field))
                return;
            foreach (var read in field.Formulas.SelectMany(formula => formula.Reads.Concat(formula.RelatedFields)))
                Visit(read);
            if (wanted.Contains(field))
                order.Add(field);
        }
    }

    /// <summary>Sorts the filled fields of a record type; those that close a circle are left out and reported with the path.</summary>
    public static IReadOnlyList<Field> For(RecordType type, List<Problem> problems)
    {
        var order = new List<Field>();
        var done = new HashSet<Field>();
        var path = new List<Field>();
        foreach (var field in type.Parts.SelectMany(part => part.Fields))
            Visit(field);
        return order;

        void Visit(Field field)
        {
            if (!field.IsFilled || done.Contains(field))
                return;
            var again = path.IndexOf(field);
            if (again >= 0)
            {
                var circle = string.Join(" reads ", path.Skip(again).Append(field).Select(step => step.Label));
                problems.Add(new(field.Definition?.Id ?? field.Id, "formula", $"These fields depend on each other in a circle: {circle}."));
                return;
            }

            path.Add(field);
            foreach (var read in field.Inputs)
                Visit(read);
            path.RemoveAt(path.Count - 1);
            if (done.Add(field) && field.Part.RecordType == type)
                order.Add(field);
        }
    }
}
