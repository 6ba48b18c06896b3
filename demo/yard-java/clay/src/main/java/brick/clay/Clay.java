package brick.clay;

/** A clay, by the water that it takes up and how it shrinks in the kiln. */
public final class Clay {
  private final String name;
  private final double water;

  public Clay(String name, double water) {
    this.name = name;
    this.water = water;
  }

  public String name() {
    return name;
  }

  /** What is left of a length, fired to `temperature` degrees. */
  public double shrunk(double length, double temperature) {
    return length * (1 - water / 300 - Math.max(0, temperature - 900) / 10000);
  }
}
