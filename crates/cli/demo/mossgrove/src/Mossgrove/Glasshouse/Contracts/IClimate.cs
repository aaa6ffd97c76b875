namespace Mossgrove.Glasshouse.Contracts
{
    public interface IClimate
    {
        double Humidity { get; }

        void Open();
    }
}
