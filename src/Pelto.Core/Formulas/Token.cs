using System.Text;

namespace Pelto.Core.Formulas;

/// <summary>A stretch of the formula's text.</summary>
/// <param name="From">Index of the first character.</param>
/// <param name="Length">Count of characters.</param>
public readonly record struct Span(int From, int Length)
{
    /// <summary>From the start of one to the end of another.</summary>
    public static Span Over(Span first, Span last) => new(first.From, last.From + last.Length - first.From);
}

/// <summary>Something wrong in a formula, at its place.</summary>
/// <param name="At">Where.</param>
/// <param name="Message">What, as a sentence for people.</param>
public sealed record FormulaProblem(Span At, string Message);

internal enum TokenType
{
    Number,
    Text,
    Name,
    Operator,
    Open,
    Close,
    Separator,
    Dot,
    End,
}

internal readonly record struct Token(TokenType Type, string Text, Span Span);

/// <summary>
/// Cuts a formula into tokens. OpenFormula 5.2 to 5.5: numbers with a point, texts in double quotes (doubled inside), names, operators. A
/// name behind a colon is a parameter, as host variables in the SQL standard.
/// </summary>
internal static class Tokens
{
    private static readonly string[] Operators = ["<=", ">=", "<>", "+", "-", "*", "/", "^", "&", "%", "=", "<", ">"];

    public static List<Token> Read(string text, List<FormulaProblem> problems)
    {
        var tokens = new List<Token>();
        var at = 0;
        while (at < text.Length)
        {
            if (char.IsWhiteSpace(text[at]))
                at++;
            else if (
                char.IsAsciiDigit(text[at]) || (text[at] == '.' && IsDigit(text, at + 1) && tokens is not [.., { Type: TokenType.Name }])
            )
                at = Add(TokenType.Number, NumberEnd(text, at));
            else if (text[at] == '"')
                at = AddText(text, at, tokens, problems);
            else if (char.IsLetter(text[at]) || text[at] == '_')
                at = Add(TokenType.Name, NameEnd(text, at));
            else if (text[at] == ':' && ParameterEnd(text, at + 1) is var end && end > at + 1 && !char.IsAsciiDigit(text[at + 1]))
                at = Add(TokenType.Name, end);
            else if (text[at] == '(')
                at = Add(TokenType.Open, at + 1);
            else if (text[at] == ')')
                at = Add(TokenType.Close, at + 1);
            else if (text[at] is ';' or ',')
                at = Add(TokenType.Separator, at + 1);
            else if (text[at] == '.')
                at = Add(TokenType.Dot, at + 1);
            else if (Operators.FirstOrDefault(op => text.AsSpan(at).StartsWith(op, StringComparison.Ordinal)) is { } found)
                at = Add(TokenType.Operator, at + found.Length);
            else
            {
                problems.Add(new(new(at, 1), $"“{text[at]}” has no meaning in a formula."));
                at++;
            }
        }

        tokens.Add(new(TokenType.End, "", new(text.Length, 0)));
        return tokens;

        int Add(TokenType type, int end)
        {
            tokens.Add(new(type, text[at..end], new(at, end - at)));
            return end;
        }
    }

    private static int NumberEnd(string text, int at)
    {
        at = DigitsEnd(text, at);
        if (at < text.Length && text[at] == '.' && IsDigit(text, at + 1))
            at = DigitsEnd(text, at + 1);
        if (at >= text.Length || text[at] is not ('e' or 'E'))
            return at;
        var exponent = at + 1 < text.Length && text[at + 1] is ('+' or '-') ? at + 2 : at + 1;
        return IsDigit(text, exponent) ? DigitsEnd(text, exponent) : at;
    }

    private static bool IsDigit(string text, int at) => at < text.Length && char.IsAsciiDigit(text[at]);

    private static int DigitsEnd(string text, int at)
    {
        while (IsDigit(text, at))
            at++;
        return at;
    }

    private static int NameEnd(string text, int at)
    {
        while (at < text.Length && (char.IsLetterOrDigit(text[at]) || text[at] == '_'))
            at++;
        return at;
    }

    // As queries in SQL read them, so that one name means the same in both.
    private static int ParameterEnd(string text, int at)
    {
        while (at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] == '_'))
            at++;
        return at;
    }

    private static int AddText(string text, int from, List<Token> tokens, List<FormulaProblem> problems)
    {
        var content = new StringBuilder();
        for (var at = from + 1; at < text.Length; at++)
        {
            if (text[at] != '"')
            {
                content.Append(text[at]);
            }
            else if (at + 1 < text.Length && text[at + 1] == '"')
            {
                content.Append('"');
                at++;
            }
            else
            {
                tokens.Add(new(TokenType.Text, content.ToString(), new(from, at + 1 - from)));
                return at + 1;
            }
        }

        problems.Add(new(new(from, text.Length - from), "This text is not closed; a double quote is missing."));
        tokens.Add(new(TokenType.Text, content.ToString(), new(from, text.Length - from)));
        return text.Length;
    }

    internal static decimal NumberOf(Token token, List<FormulaProblem> problems)
    {
        if (
            decimal.TryParse(
                token.Text,
                NumberStyles.AllowDecimalPoint | NumberStyles.AllowExponent,
                CultureInfo.InvariantCulture,
                out var number
            )
        )
            return number;
        problems.Add(new(token.Span, "This number is too large."));
        return 0;
    }
}
