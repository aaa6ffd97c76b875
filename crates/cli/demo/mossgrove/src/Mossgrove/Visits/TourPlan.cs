using System.Collections.Generic;

namespace Mossgrove.Visits
{
    public class TourPlan
    {
        public OpeningHours Hours { get; } = new OpeningHours();

        public IList<Tour> Tours { get; } = new List<Tour>();
    }
}
