namespace Pelto.Core.Formulas;

/// <summary>A node of a formula as written, before names are looked up.</summary>
internal abstract record Syntax(Span Span);

internal sealed record LiteralSyntax(Value Value, Span Span) : Syntax(Span);

/// <summary>A field code, or a path of codes: <c>quantity</c>, <c>lines.amount</c>.</summary>
internal sealed record PathSyntax(IReadOnlyList<Token> Names, Span Span) : Syntax(Span);

internal sealed record NegateSyntax(Syntax Operand, Span Span) : Syntax(Span);

/// <summary>Hundredths: <c>12.5%</c>.</summary>
internal sealed record PercentSyntax(Syntax Operand, Span Span) : Syntax(Span);

internal sealed record BinarySyntax(string Operator, Syntax Left, Syntax Right, Span Span) : Syntax(Span);

internal sealed record CallSyntax(Token Name, IReadOnlyList<Syntax> Arguments, Span Span) : Syntax(Span);

/// <summary>
/// Reads tokens into a tree by precedence, the loosest first: comparison, &amp;, + and -, * and /, ^, %, the sign (OpenFormula 5.5). So
/// -2^2 is 4, as the standard has it. An equals sign at the very start, as spreadsheets write it, says nothing.
/// </summary>
internal sealed class Parser
{
    // Deeper nesting than any person writes; keeps hostile text from exhausting the stack.
    private const int DeepestNesting = 60;

    private readonly List<Token> tokens;
    private readonly List<FormulaProblem> problems;
    private int at;
    private int depth;

    private Parser(List<Token> tokens, List<FormulaProblem> problems) => (this.tokens, this.problems) = (tokens, problems);

    private Token Current => tokens[at];

    public static Syntax Parse(string text, List<FormulaProblem> problems)
    {
        var parser = new Parser(Tokens.Read(text, problems), problems);
        if (parser.Current.Type == TokenType.End)
        {
            problems.Add(new(new(0, 0), "The formula is empty."));
            return new LiteralSyntax(Value.Empty, new(0, 0));
        }

        if (parser.Current is { Type: TokenType.Operator, Text: "=" })
            parser.at++;
        var tree = parser.Comparison();
        if (parser.Current.Type != TokenType.End && problems.Count == 0)
            problems.Add(new(parser.Current.Span, $"“{parser.Current.Text}” is not expected here; an operator or the end is."));
        return tree;
    }

    private Syntax Comparison() => LeftToRight(Joined, "=", "<>", "<", "<=", ">", ">=");

    private Syntax Joined() => LeftToRight(Sum, "&");

    private Syntax Sum() => LeftToRight(Product, "+", "-");

    private Syntax Product() => LeftToRight(Power, "*", "/");

    private Syntax Power() => LeftToRight(Percent, "^");

    private Syntax Percent()
    {
        var operand = Sign();
        while (Current is { Type: TokenType.Operator, Text: "%" } sign)
        {
            at++;
            operand = new PercentSyntax(operand, Span.Over(operand.Span, sign.Span));
        }

        return operand;
    }

    private Syntax LeftToRight(Func<Syntax> operand, params ReadOnlySpan<string> operators)
    {
        var left = operand();
        while (Current.Type == TokenType.Operator && operators.Contains(Current.Text))
        {
            var sign = tokens[at++];
            var right = operand();
            left = new BinarySyntax(sign.Text, left, right, Span.Over(left.Span, right.Span));
        }

        return left;
    }

    private Syntax Sign()
    {
        if (Current is not { Type: TokenType.Operator, Text: "-" or "+" } sign)
            return Primary();
        if (++depth > DeepestNesting)
            return TooDeep();
        at++;
        var operand = Sign();
        depth--;
        return sign.Text == "+" ? operand : new NegateSyntax(operand, Span.Over(sign.Span, operand.Span));
    }

    private Syntax Primary()
    {
        var token = Current;
        switch (token.Type)
        {
            case TokenType.Number:
                at++;
                return new LiteralSyntax(Value.From(Tokens.NumberOf(token, problems)), token.Span);
            case TokenType.Text:
                at++;
                return new LiteralSyntax(Value.From(token.Text), token.Span);
            case TokenType.Name:
                at++;
                return Current.Type == TokenType.Open ? Call(token) : Path(token);
            case TokenType.Open:
                if (++depth > DeepestNesting)
                    return TooDeep();
                at++;
                var inner = Comparison();
                var close = Close(token);
                depth--;
                return inner with { Span = Span.Over(token.Span, close) };
            default:
                if (problems.Count == 0)
                    problems.Add(
                        new(
                            token.Span,
                            token.Type == TokenType.End ? "Something is missing at the end." : $"A value is missing before “{token.Text}”."
                        )
                    );
                at = tokens.Count - 1;
                return new LiteralSyntax(Value.Empty, token.Span);
        }
    }

    private Syntax TooDeep()
    {
        problems.Add(new(Current.Span, "The formula is nested too deeply."));
        at = tokens.Count - 1;
        return new LiteralSyntax(Value.Empty, Current.Span);
    }

    private PathSyntax Path(Token first)
    {
        var names = new List<Token> { first };
        while (Current.Type == TokenType.Dot)
        {
            at++;
            if (Current.Type != TokenType.Name)
            {
                problems.Add(new(Current.Span, "A field code is missing after the point."));
                break;
            }

            names.Add(tokens[at++]);
        }

        return new(names, Span.Over(first.Span, names[^1].Span));
    }

    private Syntax Call(Token name)
    {
        if (++depth > DeepestNesting)
            return TooDeep();
        var open = tokens[at++];
        var arguments = new List<Syntax>();
        if (Current.Type != TokenType.Close)
        {
            arguments.Add(Comparison());
            while (Current.Type == TokenType.Separator)
            {
                at++;
                arguments.Add(Comparison());
            }
        }

        var end = Close(open);
        depth--;
        return new CallSyntax(name, arguments, Span.Over(name.Span, end));
    }

    private Span Close(Token open)
    {
        if (Current.Type == TokenType.Close)
            return tokens[at++].Span;
        if (problems.Count == 0)
            problems.Add(new(open.Span, "This bracket is not closed."));
        return tokens[at > 0 ? at - 1 : 0].Span;
    }
}
