using Pelto.Core.Formulas;

namespace Pelto.Data.Records;

/// <summary>What the clock says, as records need it.</summary>
internal static class RecordClock
{
    extension(TimeProvider clock)
    {
        /// <summary>The day where the server stands, for defaults and numbers.</summary>
        public DateOnly Today => DateOnly.FromDateTime(clock.GetLocalNow().DateTime);

        /// <summary>The moment and the day, for formulas.</summary>
        public Clock Now => new(clock.GetUtcNow().UtcDateTime, clock.Today);
    }
}
