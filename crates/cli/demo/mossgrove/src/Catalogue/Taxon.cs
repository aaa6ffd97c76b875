using System.Collections.Generic;
using Mossgrove.Catalogue.Labels;

namespace Mossgrove.Catalogue
{
    /// <summary>A kind of plant, as the herbarium names it.</summary>
    public class Taxon
    {
        private readonly List<Specimen> specimens = new List<Specimen>();

        public Taxon(string name, Rank rank)
        {
            Name = name;
            Rank = rank;
        }

        public string Name { get; }

        public Rank Rank { get; }

        public IReadOnlyList<Specimen> Specimens => specimens;

        public bool IsSpecies => Rank == Rank.Species;

        public Specimen Plant(string bed)
        {
            var specimen = new Specimen(this, bed);
            specimens.Add(specimen);
            return specimen;
        }

        public Label Label() => new Label(Name, LabelSize.Small);
    }
}
