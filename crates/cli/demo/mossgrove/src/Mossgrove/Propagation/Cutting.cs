using Mossgrove.Models;

namespace Mossgrove.Nursery
{
    public class Cutting
    {
        public Batch Batch { get; set; }
    }
}
