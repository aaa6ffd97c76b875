using System;
using System.Collections.Generic;
using Mossgrove.Guides;
using Mossgrove.Models;

namespace Mossgrove.Visits
{
    public class Tour
    {
        private readonly List<Ticket> tickets = new List<Ticket>();

        public Tour(Guide guide, DateTime day)
        {
            Guide = guide;
            Day = day;
        }

        public Guide Guide { get; }

        public DateTime Day { get; }

        public Ticket Sell(decimal amount)
        {
            var ticket = new Models.Ticket(Day, new TicketFee(Rounding.ToTen(amount), FeeKind.Adult));
            tickets.Add(ticket);
            return ticket;
        }

        public string Kind => "Mossgrove.Models.Ticket";
    }
}
