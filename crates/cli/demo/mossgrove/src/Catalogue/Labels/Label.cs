namespace Mossgrove.Catalogue.Labels
{
    public class Label
    {
        public Label(string text, LabelSize size)
        {
            Text = text;
            Size = size;
        }

        public string Text { get; }

        public LabelSize Size { get; }
    }

    public enum LabelSize
    {
        Small,
        Large
    }
}
