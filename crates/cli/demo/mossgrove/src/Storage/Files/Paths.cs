namespace Mossgrove.Storage
{
    internal static class Paths
    {
        public static string For(string name) => name.Replace(' ', '-');
    }
}
