using System;
using Mossgrove.Glasshouse;

namespace Mossgrove.Desk
{
    public static class Program
    {
        public static void Main()
        {
            var view = new ClimateView(new Zone("fernery"));
            Console.WriteLine(view.Title);
        }
    }
}
