using System;
using Mossgrove.Helpers;

namespace Mossgrove.Visits
{
    public class OpeningHours
    {
        public int From { get; set; } = 9;

        public int To { get; set; } = 18;

        public bool Covers(DateTime at)
        {
            int to = at.IsWeekend() ? To + 1 : To;
            return at.Hour >= From && at.Hour < to;
        }
    }
}
