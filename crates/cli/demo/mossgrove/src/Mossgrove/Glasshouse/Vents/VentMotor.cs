namespace Mossgrove.Glasshouse.Vents
{
    public class VentMotor
    {
        public int Angle { get; private set; }

        public void Turn(int angle)
        {
            Angle = angle;
        }
    }
}
