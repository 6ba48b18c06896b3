// What a figure is made of: a few shapes on a sheet, in inks that mean something, so that the page of a report and
// files of every form show the same.
#pragma once

#include <string>
#include <vector>

namespace coctilis::report {

enum class Ink { text, soft, line, first, second, third, good, bad };
enum class Anchor { start, middle, end };

struct Shape {
  enum class Kind { box, line, text, way };
  Kind kind = Kind::box;
  Ink ink = Ink::text;
  // Of a box: where it is and how large. Of a line: both ends. Of a text: where it stands on its line.
  double x = 0, y = 0, width = 0, height = 0;
  bool hollow = false;  // a box of which only the edge is drawn
  bool dashed = false;  // of a line or a way
  bool faint = false;
  bool strong = false;  // of a text
  Anchor anchor = Anchor::start;
  std::string text;                 // of a text; of others: what they stand for, for who points at them
  std::vector<double> points = {};  // of a way: x and y in turn
};

struct Drawing {
  double width = 0, height = 0;  // in pixels of a screen (1/96 inch)
  std::vector<Shape> shapes;

  void box(Ink ink, double x, double y, double w, double h, std::string tells = {});
  void frame(Ink ink, double x, double y, double w, double h, std::string tells = {});
  void line(Ink ink, double x1, double y1, double x2, double y2, bool dashed = false);
  void way(Ink ink, std::vector<double> points, std::string tells = {}, bool dashed = false);
  void write(Ink ink, double x, double y, std::string text, Anchor anchor = Anchor::start, bool strong = false);
};

// Pixels of a letter's size, of all texts; and about how wide a text is then.
inline constexpr double letter_size = 11;
[[nodiscard]] double width_of(const std::string& text);
// The text, or its beginning and end where it is wider than so many pixels.
[[nodiscard]] std::string fitted(const std::string& text, double width);

// Round numbers from 0 to `most`, about five of them, for an axis; {0} when there is nothing to show.
[[nodiscard]] std::vector<double> marks_up_to(double most);

struct Figure {
  std::string name;  // of its files
  std::string title;
  std::string sentence;  // what there is to see
  Drawing drawing;
  std::string data;  // the numbers behind it (RFC 4180)
};

// As an element of a page, whose style says what colour an ink has (class "ink-text", ...).
[[nodiscard]] std::string as_element(const Figure& figure);

// A value of a table in RFC 4180's form.
[[nodiscard]] std::string csv(const std::string& value);

}  // namespace coctilis::report
