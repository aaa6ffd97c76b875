using Mossgrove.Desk.Controls;
using Mossgrove.Glasshouse;
using Mossgrove.Glasshouse.Vents;

namespace Mossgrove.Desk
{
    public partial class ClimateView
    {
        private readonly ClimateDial dial = new ClimateDial();

        public ClimateView(Zone zone)
        {
            Title = zone.Name;
            dial.Show(zone.Humidity);
            new VentMotor().Turn(45);
        }

        public string Title { get; }
    }
}
