namespace Mossgrove.Models
{
    public partial class Batch
    {
        private readonly PotCounter counter = new PotCounter();

        public int Count() => counter.Count(Pots);
    }
}
