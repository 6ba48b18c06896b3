using System.IO;

namespace Brickyard
{
    /// <summary>Clays, as the list in the assembly tells of them.</summary>
    public static class Clays
    {
        public static string First()
        {
            using (var list = new StreamReader(typeof(Clays).Assembly.GetManifestResourceStream("clays")))
            {
                return list.ReadLine();
            }
        }
    }
}
