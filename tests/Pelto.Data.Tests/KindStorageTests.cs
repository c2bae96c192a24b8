using CsCheck;
using Npgsql;

namespace Pelto.Data.Tests;

/// <summary>
/// The core's rules against PostgreSQL, which we did not make: what a kind accepts, its CHECK accepts, and the other way round.
/// </summary>
public sealed class KindStorageTests(NarrowSite site) : IClassFixture<NarrowSite>
{
    [Fact(DisplayName = "ROUND gives what PostgreSQL's round(numeric, int) gives")]
    public async Task Rounding_agrees() =>
        await AgreeAsync(
            Gen.Select(Gen.Long[-999_999_999, 999_999_999], Gen.Int[-4, 5]),
            pair => (pair.Item1 / 10000m, pair.Item2),
            "SELECT round($1::numeric, $2::int)",
            (command, pair) => Add(command, pair.Item1, pair.Item2),
            pair => Numbers.Round(pair.Item1, pair.Item2)
        );

    [Fact(DisplayName = "A decimal is refused exactly when its CHECK refuses it")]
    public async Task Decimals_agree()
    {
        var kind = new DecimalKind(7, 2);
        await AgreeAsync(
            Gen.Long[-9_999_999_999, 9_999_999_999],
            digits => digits / 10000m,
            $"SELECT {Condition(kind, "$1::numeric")}",
            (command, number) => Add(command, number),
            number => kind.Refuse(Value.From(number)) is null
        );
    }

    [Fact(DisplayName = "A text is refused for its length exactly when its CHECK refuses it")]
    public async Task Texts_agree()
    {
        var kind = new TextKind(6);
        var characters = Gen.OneOf(
            Gen.Char['a', 'z'].Select(c => c.ToString()),
            Gen.Int[0x1F680, 0x1F6A0].Select(char.ConvertFromUtf32),
            Gen.Char['\u0391', '\u03c9'].Select(c => c.ToString())
        );
        await AgreeAsync(
            characters.Array[1, 10],
            string.Concat,
            $"SELECT {Condition(kind, "$1::text")}",
            (command, text) => Add(command, text),
            text => kind.Refuse(Value.From(text)) is null
        );
    }

    [Fact(DisplayName = "A choice is refused exactly when its CHECK refuses it")]
    public async Task Choices_agree()
    {
        var kind = new ChoiceKind([new("a", "A"), new("B_2", "B")]);
        await AgreeAsync(
            Gen.Int[0, 4],
            i => new[] { "a", "A", "B_2", "b_2", "c" }[i],
            $"SELECT {Condition(kind, "$1::text")}",
            (command, code) => Add(command, code),
            code => kind.Refuse(Value.From(code)) is null
        );
    }

    private static string Condition(FieldKind kind, string column) =>
        string.Join(" AND ", kind.Checks(_ => column).Select(check => check.Sql));

    private static void Add(NpgsqlCommand command, params object[] values)
    {
        foreach (var value in values)
            command.Parameters.Add(new() { Value = value });
    }

    private async Task AgreeAsync<T, TCase, TResult>(
        Gen<T> cases,
        Func<T, TCase> of,
        string sql,
        Action<NpgsqlCommand, TCase> bind,
        Func<TCase, TResult> ours
    )
    {
        await using var connection = await site.Source.OpenConnectionAsync();
        cases.Sample(
            generated =>
            {
                var one = of(generated);
                using var command = new NpgsqlCommand(sql, connection);
                bind(command, one);
                Assert.Equal((TResult)command.ExecuteScalar()!, ours(one));
            },
            iter: 400,
            threads: 1
        );
    }
}
