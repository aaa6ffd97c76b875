using System.Collections.Generic;
using Mossgrove.Catalogue;
using Mossgrove.Storage.Sql.Rows;

namespace Mossgrove.Storage.Sql
{
    public class SqlHerbarium : IHerbarium
    {
        private readonly List<TaxonRow> rows = new List<TaxonRow>();

        public IEnumerable<Taxon> All()
        {
            foreach (TaxonRow row in rows)
            {
                yield return row.ToTaxon();
            }
        }

        public Taxon Find(string name) => rows.Find(row => row.Name == Paths.For(name)).ToTaxon();
    }
}
