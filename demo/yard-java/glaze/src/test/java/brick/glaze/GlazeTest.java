package brick.glaze;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;

class GlazeTest {
  @Test
  void theListIsThatOfTheYard() throws Exception {
    var expected = Files.readString(Path.of("src/test/resources/first.txt")).trim();
    try (var list = Glaze.class.getResourceAsStream("/glazes.txt")) {
      assertTrue(new String(list.readAllBytes()).startsWith(expected));
    }
  }

  @Test
  void valuesAreFilledIn() throws Exception {
    try (var list = Glaze.class.getResourceAsStream("/glazes.txt")) {
      assertEquals(-1, new String(list.readAllBytes()).indexOf('$'));
    }
  }
}
