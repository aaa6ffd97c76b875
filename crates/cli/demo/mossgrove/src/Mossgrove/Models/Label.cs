namespace Mossgrove.Models
{
    /// <summary>A label on a shop article; the garden's plant labels are <see cref="Catalogue.Labels.Label"/>.</summary>
    public class Label
    {
        public string Text { get; set; }

        public decimal Price { get; set; }
    }
}
