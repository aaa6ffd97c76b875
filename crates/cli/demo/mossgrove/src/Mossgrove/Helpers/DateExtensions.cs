using System;

namespace Mossgrove.Helpers
{
    public static class DateExtensions
    {
        public static bool IsWeekend(this DateTime day)
        {
            return day.DayOfWeek == DayOfWeek.Saturday || day.DayOfWeek == DayOfWeek.Sunday;
        }

        public static int Season(this DateTime day) => (day.Month % 12) / 3;
    }
}
