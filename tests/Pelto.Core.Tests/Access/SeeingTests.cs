using CsCheck;
using Pelto.Core.Access;
using Pelto.Core.Layouts;
using Pelto.Core.Releases;

namespace Pelto.Core.Tests.Access;

/// <summary>What is said of who sees a field, held against who then does.</summary>
public sealed class SeeingTests
{
    /// <summary>Holds every sentence about every field of orders against what the resolver then gives people on a record.</summary>
    /// <param name="catalogue">The catalogue.</param>
    /// <param name="whole">An order, whole.</param>
    /// <param name="people">The people.</param>
    internal static void Hold(Catalogue catalogue, RecordState whole, IReadOnlyList<Viewer> people)
    {
        foreach (var field in whole.Type.Parts.SelectMany(part => part.Fields))
        {
            var said = SeeingWords.For(field, catalogue);
            bool Says(string text) => said.Contains(text, StringComparison.Ordinal);
            foreach (var person in people)
            {
                var access = RecordAccess.To(whole, person);
                if (!access.MayRead)
                    continue;
                var effective = person.AccessAt(whole.Type);
                var mine = catalogue.Guarding.On(field).Where(effective.IsOf).ToList();
                foreach (var line in field.Part.IsLines ? whole.Lines[0].Select(line => line.Key) : Enumerable.Repeat<string?>(null, 1))
                {
                    // Whoever does not see it finds why among what is said.
                    var level = access.LevelAt(field, line);
                    var isGuarded = !person.IsAdministrator && catalogue.Guarding.GuardOf(field) is not null && Says("It is guarded");
                    var isWithheld =
                        mine.Exists(bound => bound.Grant.Does == Grant.Withhold && bound.Level < AccessLevel.Read)
                        && Says("It is withheld from some");
                    var isBehind =
                        effective.BehindOf(field).Any(input => !effective.ReadBehind(field, input).IsSure)
                        && Says("Who may not see what it reads");
                    if (level < AccessLevel.Read)
                        Assert.True(
                            !Says("Everyone who sees") && (isGuarded || isWithheld || isBehind),
                            $"{person.Name} at {field}: {said}"
                        );
                    if (level >= AccessLevel.Read && Says("It is guarded") && !person.IsAdministrator)
                        Assert.Contains(mine, bound => bound.Grant.Does != Grant.Withhold);
                    if (Says("; who may change them fills it") && access.MayChange)
                        Assert.Equal(AccessLevel.Write, level);
                }
            }

            HoldScreens(field, catalogue, said);
        }
    }

    // Of each audience's own layer, and of nobody's.
    private static void HoldScreens(Field field, Catalogue catalogue, string said)
    {
        foreach (var mode in Enum.GetValues<RecordMode>())
        {
            // What is said of this mode alone, or of both.
            var ending = mode == RecordMode.Adding ? ", where a record is new" : ", where a record is on file";
            var sentences = said.Split(". ")
                .Select(one => one.TrimEnd('.'))
                .Where(one =>
                    one.EndsWith(ending, StringComparison.Ordinal) || !one.Contains(", where a record is", StringComparison.Ordinal)
                )
                .ToList();
            foreach (var role in catalogue.Host.Roles)
            {
                var places = field
                    .Part.RecordType.Screens.AtMost(new(Guid.NewGuid(), role.Label, [role.Code]), mode)
                    .Layout.Places.Where(place => place.Field == field)
                    .ToList();
                string? Said(string begins) => sentences.Find(one => one.StartsWith(begins, StringComparison.Ordinal));
                bool IsNamed(string? sentence) => sentence?.Contains($"role {role.Label}", StringComparison.Ordinal) == true;
                var stands =
                    Said("It is on no screen") is null
                    && (Said("It is on the screen of") is { } only ? IsNamed(only) : !IsNamed(Said("It is not on the screen of")));
                Assert.Equal(stands, places.Count > 0);
                if (stands)
                    Assert.Equal(
                        Said("On the screen it is locked") is { } locked
                            && (!locked.Contains(" for ", StringComparison.Ordinal) || IsNamed(locked)),
                        places.TrueForAll(place => place.IsLocked)
                    );
            }
        }
    }

    [Fact(DisplayName = "On whose screen a field is said to stand, and for whom it is locked, is so, on generated layers")]
    public void Layers_do_what_is_said()
    {
        string[] audiences = ["everyone", "role:desk", "role:guest", "role:administrator"];
        string[] parts = ["order.note", "order.total", "order.lines.quantity", "f-copies"];
        string[] operations = [LayerOperation.Hide, LayerOperation.Lock, LayerOperation.Show, LayerOperation.Put];
        string?[] modes = [null, null, "adding", "changing"];
        var operation =
            from op in Gen.Int[0, 3]
            from part in Gen.Int[0, 3]
            from mode in Gen.Int[0, 3]
            select new LayerOperation
            {
                Op = operations[op],
                Part = parts[part],
                On = modes[mode],
                After = operations[op] == LayerOperation.Put ? "order.customer" : null,
            };
        Gen.Select(Gen.Int[0, 3].Select(at => audiences[at]), operation.Array[1, 4])
            .Array[0, 4]
            .Sample(
                made =>
                {
                    var layers = made.Select(
                            (one, at) =>
                                new Layer
                                {
                                    Id = $"a-{at}",
                                    Label = $"Layer {at}",
                                    Comment = "x",
                                    Audience = one.Item1,
                                    Operations = one.Item2,
                                }
                        )
                        .DistinctBy(layer => layer.Audience);
                    var catalogue = Catalogue.Build(1, Sample.Host, new SiteDefinition { Fields = [Sample.Copies], Layers = [.. layers] });
                    Hold(catalogue, Sample.Order(catalogue.Find("order")!), [Sample.Administrator, Sample.Desk, Sample.Guest]);
                },
                iter: 1500,
                threads: 1
            );
    }

    [Fact(
        DisplayName = "A field that reads another record is never said to be for everyone; "
            + "one that reads its own is, unless that is kept from somebody"
    )]
    public void What_is_behind_counts()
    {
        string Said(FieldDefinition field, params Guard[] guards)
        {
            var catalogue = Catalogue.Build(1, Sample.Host, new SiteDefinition { Fields = [field], Guards = guards });
            return SeeingWords.For(catalogue.FindField(field.Id)!, catalogue);
        }

        var own = Sample.Copies with { Kind = "decimal", Formula = "total * 2" };
        Assert.Equal("Everyone who sees orders sees it.", Said(own));
        Assert.Equal("Who may not see what it reads does not see it either.", Said(own, new Guard { On = "order.total" }));
        Assert.Equal(
            "Who may not see what it reads does not see it either.",
            Said(own with { Kind = "text", Length = 60, Formula = "customer.name" })
        );
        Assert.Equal("Everyone who sees orders sees it; who may change them fills it.", Said(Sample.Copies));
        Assert.Equal(
            "It is guarded: besides administrators, those see it to whom a grant gives it.",
            Said(Sample.Copies, new Guard { On = Sample.Copies.Id })
        );
    }
}
