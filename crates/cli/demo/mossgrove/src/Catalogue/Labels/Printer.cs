using System;

namespace Mossgrove.Catalogue.Labels
{
    public class Printer
    {
        public static readonly Printer Default = new Printer();

        public void Print(Label label)
        {
            Console.WriteLine($"[{label.Size}] {label.Text}");
        }
    }
}
