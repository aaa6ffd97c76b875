using Mossgrove.Catalogue.Labels;
using Mossgrove.Glasshouse;
using Plant = Mossgrove.Catalogue.Taxon;

namespace Mossgrove.Propagation
{
    public class Bench
    {
        public Zone Zone { get; set; }

        public void Label(Plant plant)
        {
            Printer.Default.Print(plant.Label());
        }

        public bool Warm => Zone.ClimateMode == ClimateMode.Auto;
    }
}
