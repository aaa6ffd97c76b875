using Mossgrove.Members;
using Mossgrove.Models;

namespace Mossgrove.Shop
{
    public class Sale
    {
        public Member Buyer { get; set; }

        public Label Label { get; set; }

        public decimal Total => Rounding.ToTen(Label.Price);
    }
}
