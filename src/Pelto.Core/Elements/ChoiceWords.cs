namespace Pelto.Core.Elements;

/// <summary>What is changed of choices, in words.</summary>
internal static class ChoiceWords
{
    /// <summary>What differs.</summary>
    /// <param name="was">The choices as they were.</param>
    /// <param name="becomes">The choices as they become.</param>
    public static string Changes(IReadOnlyList<Choice> was, IReadOnlyList<Choice> becomes)
    {
        var said = new List<string>();
        Say("adds ", becomes.Where(choice => was.All(other => other.Code != choice.Code)));
        Say("takes away ", was.Where(choice => becomes.All(other => other.Code != choice.Code)));
        Say("renames ", becomes.Where(choice => Was(choice) is { } old && old.Label != choice.Label), choice =>
            $"{Was(choice)!.Label} to {choice.Label}"
        );
        Say("renames in other languages ", becomes.Where(choice => !SameTexts(Was(choice)?.Texts, choice.Texts)));
        Say("retires ", becomes.Where(choice => Was(choice) is { Retired: false } && choice.Retired));
        Say("offers again ", becomes.Where(choice => Was(choice) is { Retired: true } && !choice.Retired));
        Say("merges ", becomes.Where(choice => choice.MergedInto is not null && Was(choice)?.MergedInto != choice.MergedInto));
        Say("colours ", becomes.Where(choice => Was(choice) is { } old && old.Colour != choice.Colour));
        return said.Count == 0 ? "another order" : string.Join("; ", said);

        Choice? Was(Choice choice) => was.FirstOrDefault(other => other.Code == choice.Code);

        static bool SameTexts(IReadOnlyDictionary<string, string>? one, IReadOnlyDictionary<string, string>? other) =>
            SiteDefinition.Same(one is { Count: > 0 } ? one : null, other is { Count: > 0 } ? other : null);

        void Say(string what, IEnumerable<Choice> choices, Func<Choice, string>? called = null)
        {
            var labels = choices.Select(called ?? (choice => choice.Label)).ToList();
            if (labels.Count > 0)
                said.Add(what + string.Join(", ", labels.Take(6)) + (labels.Count > 6 ? Invariant($" and {labels.Count - 6} more") : ""));
        }
    }
}
