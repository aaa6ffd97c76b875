using System;
using Mossgrove.Storage.Files;

namespace Mossgrove.Web
{
    public static class Program
    {
        public static void Main()
        {
            var herbarium = new FileHerbarium();
            foreach (var taxon in herbarium.All())
            {
                Console.WriteLine(taxon.Name);
            }
        }
    }
}
