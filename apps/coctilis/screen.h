// Everything that is printed goes through here: results on standard output, progress and complaints on standard error.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "engine/engine.h"
#include "model/run.h"

namespace coctilis::app {

enum class Tone { plain, name, good, bad, soft };

class Screen {
 public:
  // `plain` switches off colour and the live line, as an output that is no terminal does. Colour: as `colours_when`
  // says; automatic is on terminals, but where NO_COLOR is set.
  Screen(bool plain, bool quiet, int verbosity, bool json);

  // A line of results: "survey    26 files, ...".
  void line(const std::string& name, const std::string& text, Tone tone = Tone::name);
  // Further words under a line, indented to its text.
  void under(const std::string& text, Tone tone = Tone::soft);
  // Free text on standard output.
  void text(const std::string& text);
  // A result that must not be lost: among the results, and on standard error where those are not shown.
  void complaint(const std::string& name, const std::string& text, Tone tone = Tone::bad);
  // Progress and remarks, on standard error. What is bad is told to the quiet, too.
  void remark(const std::string& name, const std::string& text, Tone tone = Tone::soft);
  // Foreign output, made harmless; colours stay where they are shown.
  void foreign(const std::string& bytes);
  // A problem with its cause and remedy, on standard error.
  void problem(const Problem& problem);
  // What changes in place while something runs, one line or several; empty removes it.
  void live(const std::string& text);
  // How many lines `live` may have: 1 on a terminal that is small.
  [[nodiscard]] std::size_t live_lines() const;

  // Asks a question on the terminal; true for yes. Only where is_live().
  [[nodiscard]] bool confirm(const std::string& question);

  [[nodiscard]] bool is_live() const { return live_allowed_; }
  [[nodiscard]] bool colours() const { return colour_out_ || colour_err_; }
  [[nodiscard]] bool json() const { return json_; }
  [[nodiscard]] bool quiet() const { return quiet_; }
  [[nodiscard]] int verbosity() const { return verbosity_; }
  [[nodiscard]] std::size_t width() const { return width_; }

  enum class Colour { automatic, always, never };
  static Colour colours_when;  // of all screens that are made from then on
  // Where relative paths in messages count from, besides the working folder; of all screens.
  static std::string tree;

  // What kept results from being written to standard output, of all screens (errno); 0: nothing did.
  static int output_error;
  // Writes, and pushes out what is written, and takes note of errors; a reader that went away ends no run.
  static void put(FILE* to, const std::string& text);
  static void flush(FILE* to);

 private:
  [[nodiscard]] std::string toned(const std::string& text, Tone tone, bool colour) const;
  void measure();
  void print(FILE* to, const std::string& name, const std::string& text, Tone tone, bool colour);
  [[nodiscard]] std::string with_links(const std::string& line, FILE* to) const;
  bool colour_out_ = false;
  bool colour_err_ = false;
  bool links_out_ = false;
  bool links_err_ = false;
  bool live_allowed_ = false;
  bool quiet_ = false;
  bool json_ = false;
  int verbosity_ = 0;
  std::size_t width_ = 80;
  std::size_t height_ = 24;
  std::string shown_;
};

// Keeps the screen up to date while the engine runs.
class BuildProgress : public engine::Observer {
 public:
  BuildProgress(Screen& screen, const model::Plan& plan) : screen_(screen), plan_(plan) {}
  void step_ended(std::size_t step, const model::StepResult& result) override;
  void progress(const engine::Progress& progress) override;

 private:
  // A step keeps its line as long as it runs.
  void take_lanes(const engine::Progress& progress);

  Screen& screen_;
  const model::Plan& plan_;
  std::vector<std::optional<std::size_t>> lanes_;
};

}  // namespace coctilis::app
