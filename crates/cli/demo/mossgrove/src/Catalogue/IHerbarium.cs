using System.Collections.Generic;

namespace Mossgrove.Catalogue
{
    /// <summary>Where taxa are kept; the storage adapters implement it.</summary>
    public interface IHerbarium
    {
        IEnumerable<Taxon> All();

        Taxon Find(string name);
    }
}
