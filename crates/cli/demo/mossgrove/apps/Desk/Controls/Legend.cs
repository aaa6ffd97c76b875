namespace Mossgrove.Desk.Controls
{
    public class Legend
    {
        public object Data { get; set; }
    }
}
