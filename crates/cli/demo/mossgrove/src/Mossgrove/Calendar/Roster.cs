using System;
using System.Collections.Generic;
using Mossgrove.Shop;

namespace Mossgrove.Calendar
{
    public class Roster
    {
        private readonly Dictionary<DateTime, Sale> sales = new Dictionary<DateTime, Sale>();

        public bool Busy(DateTime day) => sales.ContainsKey(day);
    }
}
