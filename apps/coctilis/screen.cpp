#include "screen.h"

#include <fmt/format.h>
#include <re2/re2.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "report/formats/uri.h"

namespace coctilis::app {

namespace {
constexpr std::size_t name_width = 10;

// Breaks text at blanks so that it fits behind the names.
std::vector<std::string> wrap(const std::string& input, std::size_t width) {
  std::vector<std::string> out;
  for (const auto& paragraph : text::split(input, '\n')) {
    if (text::columns(paragraph) <= width) {  // tables keep their blanks
      out.push_back(paragraph);
      continue;
    }
    std::string line;
    for (const auto& word : text::split(paragraph, ' ')) {
      if (!line.empty() && text::columns(line) + 1 + text::columns(word) > width) {
        out.push_back(line);
        line.clear();
      }
      line += (line.empty() ? "" : " ") + word;
    }
    out.push_back(line);
  }
  return out;
}
}  // namespace

int Screen::output_error = 0;
Screen::Colour Screen::colours_when = Screen::Colour::automatic;
std::string Screen::tree;

void Screen::put(FILE* to, const std::string& text) {
  errno = 0;
  const bool good = ::fwrite(text.data(), 1, text.size(), to) == text.size();
  if (!good && to == stdout && output_error == 0) output_error = errno;
}

void Screen::flush(FILE* to) {
  errno = 0;
  if (::fflush(to) != 0 && to == stdout && output_error == 0) output_error = errno;
}

Screen::Screen(bool plain, bool quiet, int verbosity, bool json) : quiet_(quiet), json_(json), verbosity_(verbosity) {
  const char* no_colour = std::getenv("NO_COLOR");
  const char* terminal = std::getenv("TERM");
  const bool able = terminal != nullptr && std::string(terminal) != "dumb";
  const auto shows = [&](int fd) {
    if (plain || colours_when == Colour::never) return false;
    if (colours_when == Colour::always) return true;
    return able && (no_colour == nullptr || *no_colour == '\0') && ::isatty(fd) == 1;
  };
  colour_out_ = shows(STDOUT_FILENO);
  colour_err_ = shows(STDERR_FILENO);
  // Terminals that show links in text (OSC 8) take them in; others pass over them, but for old ones and the console.
  const auto takes_links = [&](int fd) {
    static const std::set<std::string> none = {"linux", "vt100", "vt102", "vt220", "ansi", "cons25", "screen"};
    return !plain && able && ::isatty(fd) == 1 && !none.contains(terminal) && colours_when != Colour::never;
  };
  links_out_ = takes_links(STDOUT_FILENO);
  links_err_ = takes_links(STDERR_FILENO);
  live_allowed_ = !plain && able && ::isatty(STDERR_FILENO) == 1 && !quiet && !json;
  measure();
}

void Screen::measure() {
  winsize size{};
  if (::ioctl(STDERR_FILENO, TIOCGWINSZ, &size) != 0) return;
  if (size.ws_col >= 40) width_ = std::min<std::size_t>(size.ws_col, 120);
  if (size.ws_row > 0) height_ = size.ws_row;
}

std::size_t Screen::live_lines() const {
  constexpr std::size_t most = 12;
  return height_ < 10 ? 1 : std::min(most, height_ / 2);
}

std::string Screen::toned(const std::string& text, Tone tone, bool colour) const {
  if (!colour) return text;
  switch (tone) {
    case Tone::plain: return text;
    case Tone::name: return "\x1b[1;38;5;130m" + text + "\x1b[0m";
    case Tone::good: return "\x1b[1;38;5;64m" + text + "\x1b[0m";
    case Tone::bad: return "\x1b[1;38;5;160m" + text + "\x1b[0m";
    case Tone::soft: return "\x1b[38;5;243m" + text + "\x1b[0m";
  }
  return text;
}

namespace {
// A file as a link (RFC 8089); empty when there is none of that name.
std::string link_to(const std::string& path, const std::string& tree) {
  std::string whole = files::absolute(path);
  if (!files::exists(whole) && !tree.empty()) whole = files::absolute(path, tree);
  if (!files::exists(whole)) return {};
  char host[256] = {};
  if (::gethostname(host, sizeof host - 1) != 0) return {};
  return std::string("file://") + host + report::uri_path(whole);
}
}  // namespace

// What names a file that is there leads to it: paths with folders, and those with a line behind them.
std::string Screen::with_links(const std::string& line, FILE* to) const {
  if (to == stdout ? !links_out_ : !links_err_) return line;
  static const RE2 path(
      R"((^|[\s('"]|\x1b\[[0-9;]*m)((?:[A-Za-z0-9._+~@-]*/[A-Za-z0-9._+~@/-]*[A-Za-z0-9_+-])|(?:[A-Za-z0-9._+~@-]+):[0-9]))");
  std::string out;
  re2::StringPiece rest(line);
  re2::StringPiece found[3];
  while (path.Match(rest, 0, rest.size(), RE2::UNANCHORED, found, 3)) {
    std::string name(found[2]);
    if (name.find('/') == std::string::npos) name = name.substr(0, name.find(':'));
    const auto at = static_cast<std::size_t>(found[2].data() - rest.data());
    out.append(rest.data(), at);
    const std::string target = link_to(name, tree);
    out += target.empty() ? name : "\x1b]8;;" + target + "\x1b\\" + name + "\x1b]8;;\x1b\\";
    rest.remove_prefix(at + name.size());
  }
  return out + std::string(rest);
}

void Screen::print(FILE* to, const std::string& name, const std::string& text, Tone tone, bool colour) {
  const std::string kept = shown_;
  live("");
  const auto lines = wrap(text::printable(text), width_ - name_width);
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const std::string head = i == 0 ? name : "";
    put(to, toned(head, tone, colour) + std::string(name_width - std::min(name_width, text::columns(head)), ' ') +
                (tone == Tone::soft ? toned(with_links(lines[i], to), tone, colour) : with_links(lines[i], to)) + "\n");
  }
  if (!kept.empty()) live(kept);
}

void Screen::line(const std::string& name, const std::string& text, Tone tone) {
  if (json_ || quiet_) return;
  print(stdout, name, text, tone, colour_out_);
  flush(stdout);
}

void Screen::under(const std::string& text, Tone tone) {
  if (json_ || quiet_) return;
  print(stdout, "", text, tone, colour_out_);
}

void Screen::complaint(const std::string& name, const std::string& text, Tone tone) {
  const bool aside = json_ || quiet_;
  print(aside ? stderr : stdout, name, text, tone, aside ? colour_err_ : colour_out_);
  flush(aside ? stderr : stdout);
}

void Screen::text(const std::string& text) {
  live("");
  put(stdout, text);
  flush(stdout);
}

void Screen::remark(const std::string& name, const std::string& text, Tone tone) {
  if (quiet_ && tone != Tone::bad) return;
  flush(stdout);
  print(stderr, name, text, tone, colour_err_);
}

void Screen::foreign(const std::string& bytes) {
  flush(stdout);
  const std::string kept = shown_;
  live("");
  std::string out = text::printable(bytes, colour_err_ ? text::Colour::keep : text::Colour::strip);
  if (!out.empty() && !out.ends_with('\n')) out += '\n';
  if (links_err_) {
    auto lines = text::split(out, '\n');
    for (auto& line : lines) line = with_links(line, stderr);
    out = text::join(lines, "\n");
  }
  put(stderr, out);
  if (!kept.empty()) live(kept);
}

void Screen::problem(const Problem& problem) {
  flush(stdout);
  live("");
  const std::string where = problem.place.file.empty() || problem.place.line == 0 ? "" : problem.place.text() + ": ";
  print(stderr, "error", where + problem.what, Tone::bad, colour_err_);
  if (!problem.cause.empty()) print(stderr, "cause", problem.cause, Tone::name, colour_err_);
  if (!problem.remedy.empty()) print(stderr, "fix", problem.remedy, Tone::good, colour_err_);
  for (const auto& step : problem.trail) print(stderr, "", step, Tone::soft, colour_err_);
}

bool Screen::confirm(const std::string& question) {
  live("");
  flush(stdout);
  put(stderr, toned("asks", Tone::name, colour_err_) + std::string(name_width - 4, ' ') + question + " [y/n] ");
  flush(stderr);
  char answer[64] = {};
  return ::fgets(answer, sizeof answer, stdin) != nullptr && (answer[0] == 'y' || answer[0] == 'Y');
}

void Screen::live(const std::string& text) {
  if (!live_allowed_ || text == shown_) return;
  std::string out;
  if (!shown_.empty()) {
    // From the end of the last line to the beginning of the first.
    const auto above = std::count(shown_.begin(), shown_.end(), '\n');
    out += "\r" + (above > 0 ? "\x1b[" + std::to_string(above) + "A" : "") + "\x1b[J";
  }
  if (!text.empty()) {
    measure();
    bool first = true;
    for (const auto& whole : text::split(text, '\n')) {
      const std::string clipped = text::clip(whole, width_ - 1);
      const std::string name = clipped.substr(0, std::min(name_width, clipped.size()));
      out += (first ? "" : "\n") + toned(name, first ? Tone::name : Tone::soft, true) + clipped.substr(name.size());
      first = false;
    }
  }
  put(stderr, out);
  flush(stderr);
  shown_ = text;
}

void BuildProgress::step_ended(std::size_t index, const model::StepResult& result) {
  const auto& step = plan_.steps[index];
  if (result.state == model::StepState::failed) {
    // It is done again with a copy of the tree, which is told then.
    if (result.refused && !step.by_time) return;
    screen_.remark("failed", fmt::format("{} {}: {}", model::name_of(step.kind), step.subject, result.end), Tone::bad);
    return;
  }
  if (screen_.verbosity() > 0) {
    screen_.remark(model::name_of(step.kind),
                   fmt::format("{} ({}; {})", step.subject, text::duration(result.seconds), result.reason), Tone::soft);
    if (screen_.verbosity() > 1) {
      for (const auto& action : step.actions) screen_.remark("", action.text());
    }
  }
  // Warnings are counted at the end; what custom commands say is kept in the log.
  if (!result.output.empty() && (screen_.verbosity() > 0)) screen_.foreign(result.output);
}

void BuildProgress::take_lanes(const engine::Progress& progress) {
  for (auto& lane : lanes_) {
    const auto runs = [&](const auto& one) { return lane && one.first == *lane; };
    if (std::none_of(progress.running.begin(), progress.running.end(), runs)) lane.reset();
  }
  for (const auto& [step, age] : progress.running) {
    if (std::find(lanes_.begin(), lanes_.end(), std::optional(step)) != lanes_.end()) continue;
    const auto free = std::find(lanes_.begin(), lanes_.end(), std::nullopt);
    if (free != lanes_.end())
      *free = step;
    else
      lanes_.emplace_back(step);
  }
}

void BuildProgress::progress(const engine::Progress& progress) {
  // A script does not tell how much there is to do.
  std::string text = progress.open ? fmt::format("build     {} so far", text::count(progress.done, "step"))
                                   : fmt::format("build     {} of {}", progress.done, progress.total);
  if (progress.seconds_left >= 1) text += ", about " + text::duration(progress.seconds_left) + " left";
  take_lanes(progress);
  // A lane for each job; what has no room is counted.
  const std::size_t room = screen_.live_lines() - 1;
  const std::size_t shown = lanes_.size() <= room ? lanes_.size() : room - std::min<std::size_t>(room, 1);
  std::size_t more = 0;
  for (std::size_t lane = 0; lane < lanes_.size(); ++lane) {
    if (lane >= shown) {
      more += lanes_[lane] ? 1 : 0;
      continue;
    }
    text += fmt::format("\n{:>8}  ", lane + 1);
    if (!lanes_[lane]) continue;
    const auto& step = plan_.steps[*lanes_[lane]];
    const auto at = std::find_if(progress.running.begin(), progress.running.end(),
                                 [&](const auto& one) { return one.first == *lanes_[lane]; });
    const double age = at->second;
    text +=
        fmt::format("{} {}  {}", model::name_of(step.kind), text::printable_line(step.subject), text::duration(age));
    const auto index = static_cast<std::size_t>(at - progress.running.begin());
    const double before = index < progress.last_time.size() ? progress.last_time[index] : -1;
    if (before >= 0 && age > 2 * before + 1) text += ", " + text::duration(before) + " the last time";
  }
  if (more > 0 && room > 0) text += fmt::format("\n          and {} more", more);
  screen_.live(text);
}

}  // namespace coctilis::app
