using Mossgrove.Calendar;

namespace Mossgrove.Guides
{
    public class Guide
    {
        public string Name { get; set; }

        public Roster Roster { get; } = new Roster();
    }
}
