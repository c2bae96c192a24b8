namespace Pelto.Data.Database;

/// <summary>SQL of our own: made, run and read in one way, over whatever it goes.</summary>
internal static class Commands
{
    extension(NpgsqlDataSource source)
    {
        /// <summary>A statement over a connection of its own.</summary>
        /// <param name="sql">The statement, with <c>$1</c> and so on for values.</param>
        /// <param name="values">Values, null among them where their type is plain, or parameters.</param>
        public NpgsqlCommand Command(string sql, params ReadOnlySpan<object?> values) => With(source.CreateCommand(sql), values);
    }

    extension(NpgsqlConnection connection)
    {
        /// <summary>A statement over an open connection.</summary>
        /// <param name="sql">The statement.</param>
        /// <param name="values">Values, or parameters.</param>
        public NpgsqlCommand Command(string sql, params ReadOnlySpan<object?> values) => With(new(sql, connection), values);
    }

    extension(NpgsqlTransaction transaction)
    {
        /// <summary>A statement within a transaction.</summary>
        /// <param name="sql">The statement.</param>
        /// <param name="values">Values, or parameters.</param>
        public NpgsqlCommand Command(string sql, params ReadOnlySpan<object?> values) =>
            With(new(sql, transaction.Connection, transaction), values);
    }

    extension(NpgsqlCommand command)
    {
        /// <summary>The same for work that takes long.</summary>
        /// <param name="seconds">How long it may take; 0 for as long as it takes.</param>
        public NpgsqlCommand Unhurried(int seconds = 0)
        {
            command.CommandTimeout = seconds;
            return command;
        }

        /// <summary>Runs it once, and says how many rows it changed.</summary>
        public async Task<int> RunAsync(CancellationToken cancel)
        {
            await using (command)
                return await command.ExecuteNonQueryAsync(cancel);
        }

        /// <summary>Runs it once, and gives the first value of the first row; the default where there is none, or it is null.</summary>
        /// <exception cref="InvalidCastException">The value is of another type.</exception>
        public async Task<T?> ValueAsync<T>(CancellationToken cancel)
        {
            await using (command)
            {
                return await command.ExecuteScalarAsync(cancel) switch
                {
                    null or DBNull => default,
                    T value => value,
                    var other => throw new InvalidCastException($"A {typeof(T).Name} was asked for, and a {other.GetType().Name} came."),
                };
            }
        }

        /// <summary>Runs it once, and gives all rows.</summary>
        public async Task<List<T>> ListAsync<T>(Func<NpgsqlDataReader, T> row, CancellationToken cancel)
        {
            var rows = new List<T>();
            await using (command)
            await using (var reader = await command.ExecuteReaderAsync(cancel))
                while (await reader.ReadAsync(cancel))
                    rows.Add(row(reader));
            return rows;
        }
    }

    private static NpgsqlCommand With(NpgsqlCommand command, ReadOnlySpan<object?> values)
    {
        foreach (var value in values)
            command.Parameters.Add(value as NpgsqlParameter ?? new() { Value = value ?? DBNull.Value });
        return command;
    }
}
