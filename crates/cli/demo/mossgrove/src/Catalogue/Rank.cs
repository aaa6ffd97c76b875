namespace Mossgrove.Catalogue
{
    public enum Rank
    {
        Family,
        Genus,
        Species
    }
}
