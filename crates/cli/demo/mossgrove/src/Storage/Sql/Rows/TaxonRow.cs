using Mossgrove.Catalogue;

namespace Mossgrove.Storage.Sql.Rows
{
    public class TaxonRow
    {
        public string Name { get; set; }

        public Taxon ToTaxon() => new Taxon(Name, Rank.Species);
    }
}
