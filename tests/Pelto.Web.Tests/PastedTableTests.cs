using Pelto.Web.Components;

namespace Pelto.Web.Tests;

public sealed class PastedTableTests
{
    [Theory(DisplayName = "The examples of RFC 4180, section 2, are read as it says")]
    [
        InlineData("aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n", "aaa|bbb|ccc/zzz|yyy|xxx"),
        InlineData("aaa,bbb,ccc\r\nzzz,yyy,xxx", "aaa|bbb|ccc/zzz|yyy|xxx")
    ]
    [
        InlineData("\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx", "aaa|bbb|ccc/zzz|yyy|xxx"),
        InlineData("\"aaa\",\"b\r\nbb\",\"ccc\"\r\nzzz,yyy,xxx", "aaa|b\r\nbb|ccc/zzz|yyy|xxx"),
        InlineData("\"aaa\",\"b\"\"bb\",\"ccc\"\r\nx,y,z", "aaa|b\"bb|ccc/x|y|z")
    ]
    public void Rfc_4180(string text, string cells) => Assert.Equal(cells, Read(text));

    [Theory(DisplayName = "Cells of spreadsheets, apart by tabs or semicolons, quoted or not; a comma in a label parts nothing")]
    [
        InlineData("a\tb\nc\td", "a|b/c|d"),
        InlineData("a;b\nc;d", "a|b/c|d"),
        InlineData("Wire, galvanised\nChain", "Wire, galvanised/Chain"),
        InlineData("one\n\n two ", "one/ two "),
        InlineData("5\" pipe\nrope", "5\" pipe/rope"),
        InlineData("\"a\tb\"\tc", "a\tb|c"),
        InlineData("", "")
    ]
    public void Spreadsheets(string text, string cells) => Assert.Equal(cells, Read(text));

    [Theory(
        DisplayName = "A quotation mark that begins a cell and is not closed is found, "
            + "with its line; one for inches, or within quotes, is none"
    )]
    [
        InlineData("a;b\n\"c;d\ne;f", 2),
        InlineData("\"open", 1),
        InlineData("\"one\ntwo\"\nx\n\"open", 4),
        InlineData("a\t\"b\nc", 1),
        InlineData("5\" pipe\nrope", null),
        InlineData("\"a \"\"quoted\"\" word\"\nb", null),
        InlineData("\"a\";\"b\"", null),
        InlineData("", null)
    ]
    public void Unclosed(string text, int? line) => Assert.Equal(line, PastedTable.Unclosed(text));

    private static string Read(string text) => string.Join('/', PastedTable.Read(text).Select(row => string.Join('|', row)));
}
