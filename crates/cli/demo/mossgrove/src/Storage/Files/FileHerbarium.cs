using System.Collections.Generic;
using System.Linq;
using Mossgrove.Catalogue;

namespace Mossgrove.Storage.Files
{
    public class FileHerbarium : IHerbarium
    {
        private readonly Dictionary<string, Taxon> taxa = new Dictionary<string, Taxon>();

        public IEnumerable<Taxon> All() => taxa.Values.OrderBy(taxon => taxon.Name);

        public Taxon Find(string name) => taxa[Paths.For(name)];

        public string Journal(Models.Batch batch) => $"{batch.Taxon.Name}: {batch.Count()}";
    }
}
