using System;
using Mossgrove.Catalogue;
using Mossgrove.Helpers;
using Mossgrove.Models;

namespace Mossgrove.Propagation
{
    public class Sowing
    {
        public Sowing(Taxon taxon, DateTime day)
        {
            Batch = new Batch { Taxon = taxon, Pots = 12 };
            Day = day;
        }

        public Batch Batch { get; }

        public DateTime Day { get; }

        public int Season => Day.Season();
    }
}
