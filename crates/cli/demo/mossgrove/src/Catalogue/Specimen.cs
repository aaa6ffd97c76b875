namespace Mossgrove.Catalogue
{
    /// <summary>One plant of a <see cref="Taxon"/> in a bed.</summary>
    public class Specimen
    {
        public Specimen(Taxon taxon, string bed)
        {
            Taxon = taxon;
            Bed = bed;
        }

        public Taxon Taxon { get; }

        public string Bed { get; }
    }
}
