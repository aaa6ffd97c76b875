using System.Collections.Generic;
using Mossgrove.Glasshouse.Contracts;
using Mossgrove.Glasshouse.Vents;
using Mossgrove.Propagation;

namespace Mossgrove.Glasshouse
{
    public class Zone : IClimate
    {
        private readonly List<VentMotor> vents = new List<VentMotor>();

        public Zone(string name)
        {
            Name = name;
        }

        public string Name { get; }

        public ClimateMode ClimateMode { get; set; } = ClimateMode.Auto;

        public bool Automatic => ClimateMode == ClimateMode.Auto;

        public double Humidity { get; set; }

        public Sowing Sowing { get; set; }

        public void Open()
        {
            foreach (VentMotor vent in vents)
            {
                vent.Turn(90);
            }
        }
    }

    public enum ClimateMode
    {
        Auto,
        Manual
    }
}
