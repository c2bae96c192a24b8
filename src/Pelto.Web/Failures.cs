using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.Extensions;
using Pelto.Data.Database;
using Pelto.Web.Api;

namespace Pelto.Web;

/// <summary>What people are told when something failed: a sentence, in the form that they asked in.</summary>
internal static class Failures
{
    public static async Task AnswerAsync(HttpContext context)
    {
        var error = context.Features.Get<IExceptionHandlerFeature>()!.Error;
        if (error is ConfirmationRequiredException && !context.Request.Path.StartsWithSegments("/api"))
        {
            // Where the form has no input for it: shown on a page of its own, and then back to where it was asked.
            var from =
                context.Request.GetTypedHeaders().Referer is { } referer && referer.Host == context.Request.Host.Host
                    ? referer.PathAndQuery
                    : "/";
            context.Response.Redirect($"/account/confirm?returnUrl={Uri.EscapeDataString(from)}");
            return;
        }

        var (status, sentence) = Told(error);
        context.Response.StatusCode = status;
        if (context.Request.Path.StartsWithSegments("/api"))
        {
            await Problems.For(status, sentence).ExecuteAsync(context);
            return;
        }

        await WriteAsync(context, sentence, context.RequestAborted);
    }

    /// <summary>
    /// True for what is somebody's own mistake, or refused: that is told to them, and is no failure to be put down, with which anybody
    /// could fill the log.
    /// </summary>
    public static bool IsTheirs(Exception error) => Told(error).Status < StatusCodes.Status500InternalServerError;

    private static (int Status, string Sentence) Told(Exception error) =>
        error switch
        {
            Data.SigningIn.TooBusyException busy => (StatusCodes.Status503ServiceUnavailable, busy.Message),
            AccessRefusedException refused => (StatusCodes.Status403Forbidden, refused.Message),
            BadHttpRequestException { StatusCode: StatusCodes.Status413PayloadTooLarge } => (
                StatusCodes.Status413PayloadTooLarge,
                "This is more than can be taken at once. Shorten it and try again."
            ),
            BadHttpRequestException bad => (bad.StatusCode, "This request cannot be read."),
            _ when DatabaseErrors.IsUnreadable(error) => (
                StatusCodes.Status400BadRequest,
                "This holds a character or a number that is not valid. Nothing was saved."
            ),
            _ when DatabaseErrors.IsFull(error) => (
                StatusCodes.Status507InsufficientStorage,
                "The disk of the database is full, and nothing was saved. "
                    + "Please tell whoever runs Pelto; once there is room, it works again by itself."
            ),
            _ when DatabaseErrors.IsDown(error) => (
                StatusCodes.Status503ServiceUnavailable,
                "The database cannot be reached just now, and most likely nothing was saved. Please try again in a moment."
            ),
            _ => (
                StatusCodes.Status500InternalServerError,
                "Something went wrong here, and nothing was saved. It has been logged for the administrator."
            ),
        };

    /// <summary>A page with nothing but the sentence, which scripts find too.</summary>
    public static Task WriteAsync(HttpContext context, string sentence, CancellationToken cancel)
    {
        context.Response.ContentType = "text/html; charset=utf-8";
        var back = System.Net.WebUtility.HtmlEncode(context.Request.GetEncodedPathAndQuery());
        return context.Response.WriteAsync(
            $"""
            <!doctype html><html lang="en"><head><meta charset="utf-8"><title>Pelto</title><link rel="stylesheet" href="/css/tokens.css"></head>
            <body><main class="alone"><h1>This did not work</h1><p data-failure>{System.Net.WebUtility.HtmlEncode(
                sentence
            )}</p><p><a href="{(context.Request.Method == "GET" ? back : "/")}">Try again</a></p></main></body></html>
            """,
            cancel
        );
    }
}
