namespace Pelto.Core.Access;

/// <summary>The guards and grants of a catalogue.</summary>
public static class GuardingOfType
{
    extension(RecordType type)
    {
        /// <summary>The guards and grants that it is under.</summary>
        public Guarding Guarding
        {
            get => type.Bound<Guarding>()!;
            internal set => type.Bind(value);
        }
    }

    extension(Catalogue catalogue)
    {
        /// <summary>All guards and grants.</summary>
        public Guarding Guarding
        {
            get => catalogue.Bound<Guarding>()!;
            internal set => catalogue.Bind(value);
        }
    }
}
