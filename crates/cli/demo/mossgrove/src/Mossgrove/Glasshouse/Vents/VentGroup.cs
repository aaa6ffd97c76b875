using System.Collections.Generic;

namespace Mossgrove.Glasshouse.Vents
{
    public class VentGroup : List<VentMotor>
    {
        public Zone Zone { get; set; }
    }
}
