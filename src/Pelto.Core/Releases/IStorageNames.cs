namespace Pelto.Core.Releases;

/// <summary>What things are called in the database, as SQL writes it: said by the floor that reaches the database.</summary>
public interface IStorageNames
{
    /// <summary>A quoted name.</summary>
    string Name(string name);

    /// <summary>A text, as SQL writes it.</summary>
    string Text(string text);

    /// <summary>The column that says where values come from that were filled and may be changed.</summary>
    string Origins { get; }

    /// <summary>The schema of the tables in which the database keeps what several links point to.</summary>
    string LinkedSchema { get; }

    /// <summary>A table, or an index, of what is added.</summary>
    string Added(string table);

    /// <summary>A table in which the database keeps what several links point to.</summary>
    string Linked(string table);

    /// <summary>The table in which the rows of a part stand, beside which what is added stands.</summary>
    string TableOf(Part part);

    /// <summary>The same as people who look at the database read it.</summary>
    string Called(Part part);

    /// <summary>The table in which a field is kept.</summary>
    string TableOf(Field field);

    /// <summary>The table that a link points to.</summary>
    string TargetOf(Field link);

    /// <summary>The first column of a field.</summary>
    string Column(Field field);

    /// <summary>All columns of a field.</summary>
    IEnumerable<string> Columns(Field field);

    /// <summary>The type of a column.</summary>
    string TypeOf(ColumnType type);

    /// <summary>What is written at a column, so that it is known again whose it is.</summary>
    string MarkOf(Field field);

    /// <summary>An index by which links find records.</summary>
    string IndexOf(AddFindIndex index);

    /// <summary>An index by which lists find and sort.</summary>
    string IndexOf(AddListIndex index);

    /// <summary>What an index is made over by which links find records.</summary>
    string FindsBy(AddFindIndex index);

    /// <summary>The table that holds what a list finds and sorts a field by.</summary>
    string ListedIn(Field field);

    /// <summary>What a list finds and sorts a field by, to the letter as lists write it.</summary>
    string ListedBy(Field field);

    /// <summary>The statements that make the table of a part of a user-defined record type, with its counters.</summary>
    string CreateTable(Part part);

    /// <summary>The statements that give a table of the host the columns of a field, if it has none yet.</summary>
    IEnumerable<string> AddColumns(Field field);
}
