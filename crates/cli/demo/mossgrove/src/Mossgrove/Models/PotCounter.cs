namespace Mossgrove.Models
{
    internal class PotCounter
    {
        public int Count(int pots) => pots;
    }
}
