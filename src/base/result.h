// Errors as values: where a failure stands, what caused it and what mends it. Every stage hands its failures on as a
// Problem; only the command line turns one into text and an exit code.
#pragma once

#include <exception>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace coctilis {

// The documented exit codes of the program.
enum class Exit : int {
  done = 0,
  usage = 2,        // the command line or coctilis.toml is wrong
  missing = 3,      // required wants are missing
  description = 4,  // the description cannot be understood
  step = 5,         // a step failed
  check = 6,        // a smoke check failed
  kiln = 7,         // the kiln is in use or cannot be written
  defect = 70,      // a defect in Coctilis itself
};

// A position in a file: line and column count from 1, 0 means unknown.
struct Place {
  std::string file;
  int line = 0;
  int column = 0;
  // "file:line:column", leaving out what is unknown; empty without a file.
  [[nodiscard]] std::string text() const;
};

// A failure that a user can cause.
struct Problem {
  Exit exit = Exit::defect;
  Place place;
  std::string what;                // one sentence: what went wrong
  std::string cause;               // why, when it is known
  std::string remedy;              // what the user can do
  std::vector<std::string> trail;  // innermost first: how the failing place was reached
  bool not_understood = false;     // nothing is wrong with what was read: this program does not know it yet
};

// Carries a Problem through the inside of one stage. It never leaves a stage: `guarded` turns it into a Result.
class Fault : public std::exception {
 public:
  explicit Fault(Problem problem) : problem_(std::move(problem)) {}
  [[nodiscard]] const char* what() const noexcept override { return problem_.what.c_str(); }
  [[nodiscard]] const Problem& problem() const { return problem_; }

 private:
  Problem problem_;
};

// Either a value or the Problem that prevented it.
template <class T>
class [[nodiscard]] Result {
 public:
  Result(T value) : state_(std::move(value)) {}            // NOLINT: meant to convert
  Result(Problem problem) : state_(std::move(problem)) {}  // NOLINT: meant to convert
  [[nodiscard]] bool ok() const { return std::holds_alternative<T>(state_); }
  explicit operator bool() const { return ok(); }
  T& operator*() { return std::get<T>(state_); }
  const T& operator*() const { return std::get<T>(state_); }
  T* operator->() { return &std::get<T>(state_); }
  const T* operator->() const { return &std::get<T>(state_); }
  [[nodiscard]] const Problem& problem() const { return std::get<Problem>(state_); }

 private:
  std::variant<T, Problem> state_;
};

// The Problem that stands for an exception nobody expected: a defect of ours.
[[nodiscard]] Problem defect(const std::string& where, const char* what);

// Runs `body` (which returns T) and turns every exception into a Problem; `where` names the stage.
template <class F>
auto guarded(const std::string& where, F&& body) -> Result<decltype(body())> {
  try {
    return std::forward<F>(body)();
  } catch (const Fault& fault) {
    return fault.problem();
  } catch (const std::exception& error) {
    return defect(where, error.what());
  }
}

}  // namespace coctilis
