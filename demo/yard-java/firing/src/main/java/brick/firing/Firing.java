package brick.firing;

import brick.clay.Clay;
import brick.glaze.Glaze;
import java.util.Locale;

/** What a tile of 240 mm comes to at a cone. */
public final class Firing {
  private Firing() {}

  public static void main(String[] words) throws Exception {
    final double temperature = words.length > 0 ? Double.parseDouble(words[0]) : 1222;
    final Clay clay = new Clay("red earthenware", 18);
    System.out.println(Glaze.on(clay));
    System.out.printf(Locale.ROOT, "240 mm come to %.1f mm at %.0f degrees%n", clay.shrunk(240, temperature), temperature);
  }
}
