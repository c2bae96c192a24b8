namespace Pelto.Core.Binding;

/// <summary>Binds what a host says of documents to its record types and fields, and says what does not fit.</summary>
internal sealed class DocumentBinder(HostDescription host, IReadOnlyList<RecordType> types, List<Problem> problems)
{
    public void Bind()
    {
        foreach (var type in types.Where(type => type.Description.Document is not null))
            type.Document = DocumentOf(type, type.Description.Document!);
        foreach (var type in types)
        {
            type.Follows = [.. type.Description.Follows.Select(follow => FollowOf(type, follow)).OfType<Follow>()];
            if (type.Description.Stock is { } moves && host.Stock is { } stock)
                type.StockMoves = MovesOf(type, moves, stock);
        }

        foreach (var type in types)
            type.Next = [.. types.SelectMany(other => other.Follows).Where(follow => follow.Source == type)];
    }

    private Document? DocumentOf(RecordType type, DocumentDescription description)
    {
        if (Find(type.Header, description.Status) is not { } status)
            return null;
        if (
            status.Kind is { IsOneChoice: true, Choices: { } choice }
            && new[] { description.Open, description.Closed, description.Cancelled }.All(code => choice.Find(code) is not null)
        )
            return new(status, description);
        Refuse(type, $"{description.Status} is not a choice between {description.Open}, {description.Closed} and {description.Cancelled}.");
        return null;
    }

    private Follow? FollowOf(RecordType type, FollowDescription description)
    {
        var before = problems.Count;
        if (types.FirstOrDefault(other => other.Code == description.RecordType) is not { } source)
        {
            Refuse(type, $"There is no record type “{description.RecordType}” to follow.");
            return null;
        }

        if (type.Document is null || source.Document is null)
            Refuse(type, $"{type.Label} and {source.Label} follow each other, so both need a status.");
        var (to, from) = (type.Header, source.Header);
        FollowLines? lines = null;
        if (description.Lines is { } described)
        {
            if (type.FindPart(described.To) is not { } toLines || source.FindPart(described.From) is not { } fromLines)
            {
                Refuse(type, $"There are no lines “{described.To}” to follow lines “{described.From}” of {source.Label}.");
                return null;
            }

            (to, from) = (toLines, fromLines);
            if (Find(to, described.Reference) is { } reference)
            {
                if (reference.Kind.Name != FieldKinds.Integer)
                    Refuse(type, $"{described.Reference} must be an integer: it holds the id of a line.");
                reference.LineOf = from;
                lines = new(from, to, reference, Pairs(to, from, described.Copies));
            }
        }

        var link = Find(type.Header, description.Link);
        if (link is not null && link.Target != source)
            Refuse(type, $"{description.Link} does not point to {source.Plural.ToLowerInvariant()}.");
        var copies = Pairs(type.Header, source.Header, description.Copies);
        var sets = description
            .Sets.Select(pair => (Field: Find(type.Header, pair.Key), pair.Value))
            .Where(pair => pair.Field is not null)
            .Select(pair => (pair.Field!, pair.Field!.Kind.Parse(pair.Value).Value))
            .ToList();
        var (measure, upTo, sum) = (
            Find(to, description.Measure.Field),
            Find(from, description.Measure.UpTo),
            Find(from, description.Measure.Sum)
        );
        return problems.Count > before
            ? null
            : new()
            {
                Description = description,
                Source = source,
                Next = type,
                Link = link!,
                Copies = copies,
                Sets = sets,
                Lines = lines,
                Measure = measure!,
                UpTo = upTo!,
                Sum = sum!,
            };
    }

    private StockMoves? MovesOf(RecordType type, StockMoveDescription moves, StockDescription stock)
    {
        var before = problems.Count;
        RecordType? Named(string code) => types.FirstOrDefault(other => other.Code == code);
        if (
            type.FindPart(moves.Lines) is not { } lines
            || Named(stock.Item)?.FindPart(stock.Places) is not { } places
            || Named(stock.Lot) is not { } lots
            || Named(stock.Move) is not { } move
        )
        {
            Refuse(type, "It moves stock, but the host does not say where stock is kept.");
            return null;
        }

        var (item, lot, quantity, warehouse, date) = (
            Find(lines, moves.Item),
            Find(lines, moves.Lot),
            Find(lines, moves.Quantity),
            Find(type.Header, moves.Warehouse),
            Find(type.Header, moves.Date)
        );
        var (placeWarehouse, onHand, lotOnHand) = (
            Find(places, stock.Warehouse),
            Find(places, stock.OnHand),
            Find(lots.Header, stock.LotOnHand)
        );
        foreach (var code in new[] { "item", "warehouse", "lot", "moved_on", "quantity", "document" })
            Find(move.Header, code);
        return problems.Count > before
            ? null
            : new(moves.Direction == "out", lines, item!, lot, quantity!, warehouse!, date!)
            {
                Places = places,
                PlaceWarehouse = placeWarehouse!,
                OnHand = onHand!,
                LotOnHand = lotOnHand!,
                Move = move,
                MayGoBelow = stock.BelowZero,
            };
    }

    private List<(Field To, Field From)> Pairs(Part to, Part from, IReadOnlyDictionary<string, string> codes) =>
        [
            .. codes
                .Select(pair => (To: Find(to, pair.Key), From: Find(from, pair.Value)))
                .Where(pair => pair.To is not null && pair.From is not null)
                .Select(pair => (pair.To!, pair.From!)),
        ];

    private Field? Find(Part part, string code)
    {
        if (part.Find(code) is { } field)
            return field;
        Refuse(part.RecordType, $"{part.Label} has no field “{code}”.");
        return null;
    }

    private void Refuse(RecordType type, string sentence) => problems.Add(new(type.Code, "document", sentence));
}
