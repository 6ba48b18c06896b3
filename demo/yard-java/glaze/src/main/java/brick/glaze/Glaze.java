package brick.glaze;

import brick.clay.Clay;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;

/** Glazes, as the list in the archive tells of them. */
public final class Glaze {
  private Glaze() {}

  public static String on(Clay clay) throws IOException {
    try (var in = new BufferedReader(
        new InputStreamReader(Glaze.class.getResourceAsStream("/glazes.txt"), StandardCharsets.UTF_8))) {
      return in.readLine() + " on " + clay.name();
    }
  }
}
