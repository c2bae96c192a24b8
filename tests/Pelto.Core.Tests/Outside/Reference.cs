using System.Diagnostics;
using System.Text.Json;

namespace Pelto.Core.Tests.Outside;

/// <summary>Asks libraries of the npm registry, by way of <c>reference.mjs</c>.</summary>
internal static class Reference
{
    public static IReadOnlyList<JsonElement> Ask(IEnumerable<(string Ask, string Text)> questions)
    {
        var script = Path.Combine(Root(), "tests", "Pelto.Core.Tests", "Outside", "reference.mjs");
        using var node = Process.Start(
            new ProcessStartInfo("node", [script])
            {
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                UseShellExecute = false,
            }
        )!;
        node.StandardInput.Write(JsonSerializer.Serialize(questions.Select(question => new[] { question.Ask, question.Text })));
        node.StandardInput.Close();
        var answers = node.StandardOutput.ReadToEnd();
        node.WaitForExit();
        return [.. JsonDocument.Parse(answers).RootElement.EnumerateArray()];
    }

    public static string Root()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Pelto.slnx")))
            folder = folder.Parent!;
        return folder.FullName;
    }
}
