using System;

namespace Mossgrove.Glasshouse
{
    public delegate void Measured(Zone zone, Sensor.Reading reading);

    public class Sensor
    {
        public event Measured Measured;

        public void Measure(Zone zone)
        {
            Measured?.Invoke(zone, new Reading { Value = zone.Humidity, At = DateTime.Now });
        }

        public struct Reading
        {
            public double Value;
            public DateTime At;
        }
    }
}
