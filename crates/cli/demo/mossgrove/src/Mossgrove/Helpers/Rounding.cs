// Planted: no namespace.
public static class Rounding
{
    public static decimal ToTen(decimal amount) => decimal.Round(amount, 1);
}
