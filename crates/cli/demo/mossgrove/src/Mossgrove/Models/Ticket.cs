using System;
using Mossgrove.Helpers;

namespace Mossgrove.Models
{
    /// <summary>Sold at the gate; its price is a <see cref="TicketFee"/>.</summary>
    public class Ticket
    {
        public Ticket(DateTime day, TicketFee fee)
        {
            Day = day;
            Fee = fee;
        }

        public DateTime Day { get; }

        public TicketFee Fee { get; }

        public bool OnWeekend => Day.IsWeekend();
    }

    /// <summary>What a ticket costs.</summary>
    public class TicketFee
    {
        public TicketFee(decimal amount, FeeKind kind)
        {
            Amount = amount;
            Kind = kind;
        }

        public decimal Amount { get; }

        public FeeKind Kind { get; }
    }

    // Who pays which fee.
    public enum FeeKind
    {
        Adult,
        Child,
        Member
    }
}
