namespace Pelto.Data;

/// <summary>The catalogues that were built or asked for last, by what they were built of: a few, so that memory stays as it is.</summary>
/// <param name="most">How many.</param>
internal sealed class CatalogueCache(int most)
{
    private readonly LinkedList<(int Release, string Text, Catalogue Catalogue)> cached = [];
    private readonly Lock reading = new();

    /// <summary>One that is kept, or null.</summary>
    /// <param name="release">Its number.</param>
    /// <param name="text">What else it was built of.</param>
    public Catalogue? Find(int release, string text = "")
    {
        lock (reading)
        {
            for (var at = cached.First; at is not null; at = at.Next)
            {
                if (at.Value.Release != release || at.Value.Text != text)
                    continue;
                cached.Remove(at);
                cached.AddFirst(at);
                return at.Value.Catalogue;
            }

            return null;
        }
    }

    /// <summary>Keeps one, and forgets that which was asked for longest ago.</summary>
    public Catalogue Keep(Catalogue catalogue, string text = "")
    {
        lock (reading)
        {
            cached.AddFirst((catalogue.Release, text, catalogue));
            if (cached.Count > most)
                cached.RemoveLast();
        }

        return catalogue;
    }
}
