namespace Mossgrove.Desk.Controls
{
    public class ClimateDial
    {
        public int Largest { get; set; }

        public void Show(double value)
        {
        }
    }
}
