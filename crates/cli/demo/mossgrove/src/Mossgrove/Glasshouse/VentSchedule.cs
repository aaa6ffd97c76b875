using System;
using Mossgrove.Helpers;
using Mossgrove.Visits;

namespace Mossgrove.Glasshouse
{
    /// <summary>Vents stay shut while visitors are in the house.</summary>
    public class VentSchedule
    {
        private readonly OpeningHours hours;

        public VentSchedule(OpeningHours hours)
        {
            this.hours = Guard.NotNull(hours, nameof(hours));
        }

        public bool MayOpen(DateTime at) => !hours.Covers(at) || at.IsWeekend();
    }
}
