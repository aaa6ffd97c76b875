using Mossgrove.Catalogue;

namespace Mossgrove.Models
{
    public partial class Batch
    {
        public Taxon Taxon { get; set; }

        public int Pots { get; set; }
    }
}
