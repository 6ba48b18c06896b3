// What the air of a drying shed does to a green brick.
#pragma once

struct Shed {
  double warmth = 24;    // degrees Celsius
  double humidity = 60;  // percent
};

// Days until a brick that is `moisture` percent water is down to `leather` percent.
double days(const Shed& shed, double moisture, double leather);
