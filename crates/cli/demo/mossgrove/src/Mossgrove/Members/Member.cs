using System.Collections.Generic;
using Mossgrove.Models;
using Mossgrove.Visits;

namespace Mossgrove.Members
{
    public class Member
    {
        public string Name { get; set; }

        public List<Tour> Booked { get; } = new List<Tour>();

        public TicketFee Fee => new TicketFee(0m, FeeKind.Member);
    }
}
