using System;
using System.IO;

namespace Brickyard
{
    /// <summary>Tells what the table of cones beside the program says.</summary>
    internal static class Program
    {
        private static int Main()
        {
            var table = Path.Combine(AppDomain.CurrentDomain.BaseDirectory, "data", "cones.txt");
            var words = File.ReadAllText(table).Split(' ');
            Console.WriteLine("{0}: cone {1} at {2} degrees", Clays.First(), words[0], words[1].Trim());
            return 0;
        }
    }
}
