// What came out of running the plan, of the checks, and of the doctor's look at a failure.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::model {

enum class StepState { up_to_date, done, unchanged, failed, not_run, left_out };
[[nodiscard]] constexpr const char* name_of(StepState state) {
  switch (state) {
    case StepState::up_to_date: return "up to date";
    case StepState::done: return "done";
    case StepState::unchanged: return "unchanged";
    case StepState::failed: return "failed";
    case StepState::not_run: return "not run";
    case StepState::left_out: return "left out";
  }
  return "";
}

// A command that failed where the description says that this does not matter.
struct IgnoredFailure {
  std::string end;
  std::string command;
};

struct StepResult {
  StepState state = StepState::not_run;
  std::string
      reason;       // why it ran, or why it did not; of one that is left out: the program that it lacks, if that is it
  std::string end;  // how its command ended, when it failed
  std::string command;   // the command that failed
  std::string output;    // what its commands printed, as they printed it
  bool refused = false;  // what they printed tells that they were kept from writing outside of the kiln
  std::vector<IgnoredFailure> ignored;
  double started = 0;  // seconds since the build began
  double seconds = 0;
  double cpu_seconds = 0;
  long peak_kilobytes = 0;
};

// A compiler's message.
struct Diagnostic {
  std::string severity;  // "error", "warning"
  std::string option;    // the option that switches it, such as "-Wunused-variable"; may be empty
  Place place;
  std::string message;
  std::size_t step = 0;
};

// What the doctor says of a failure.
struct Diagnosis {
  std::string failure;  // key of the entry in the doctor's table
  std::string cause;
  std::string remedy;
  std::vector<std::string> evidence = {};  // of a check: what shows it
};

// What a header, or another file that compilations read beside their source, costs over all that ran.
struct HeaderCost {
  std::string path;         // absolute
  std::size_t sources = 0;  // compilations that read it
  double seconds = 0;       // by itself, without what it includes
  // Of the compilations whose compilers told how long it took. The others' time was shared out among all that they
  // read, by bytes.
  std::size_t told = 0;
};

struct Outcome {
  std::vector<StepResult> steps;  // parallel to Plan::steps
  std::size_t ran = 0;
  std::size_t up_to_date = 0;
  std::size_t failed = 0;
  std::size_t not_run = 0;
  std::size_t left_out = 0;           // documents that could not be made
  std::size_t ignored = 0;            // commands that failed where the description says that this does not matter
  std::vector<std::string> notes;     // what a user should know of how it was built
  std::vector<std::size_t> failures;  // step indices in order of failing
  std::vector<Diagnostic> warnings;
  std::vector<Diagnosis> diagnoses;
  std::vector<HeaderCost> headers;  // the dearest ones, dearest first
  int interrupted_by = 0;           // signal number
  double seconds = 0;
  double compile_seconds = 0;  // sum over steps
  [[nodiscard]] bool good() const { return failed == 0 && not_run == 0 && interrupted_by == 0; }
};

// What was installed into a prefix.
struct Staged {
  std::string prefix;
  std::vector<std::string> files;     // from the prefix, in the order of the description
  std::size_t written = 0;            // how many of them were not there, or differed
  std::vector<std::string> outside;   // places outside of the prefix, left alone
  std::vector<std::string> starters;  // programs that a script starts, which says where their libraries are
};

enum class CheckKind { loads, starts, library, smoke, service, declared };
[[nodiscard]] constexpr const char* name_of(CheckKind kind) {
  switch (kind) {
    case CheckKind::loads: return "loads";
    case CheckKind::starts: return "starts";
    case CheckKind::library: return "library";
    case CheckKind::smoke: return "smoke";
    case CheckKind::service: return "service";
    case CheckKind::declared: return "declared";
  }
  return "";
}
enum class Verdict { passed, failed, skipped };
[[nodiscard]] constexpr const char* name_of(Verdict verdict) {
  switch (verdict) {
    case Verdict::passed: return "passed";
    case Verdict::failed: return "failed";
    case Verdict::skipped: return "skipped";
  }
  return "";
}

// A number that a check has read.
struct CheckNumber {
  std::string name;
  std::string text;                 // as it was written there
  std::string recorded;             // in the reference; empty: there is none
  std::string before;               // of the last run in which the check passed; empty: there was none
  bool agrees = true;               // with the reference, as closely as it has to
  std::vector<double> good_values;  // of the runs before in which the check passed, oldest first
};

struct Check {
  CheckKind kind = CheckKind::loads;
  std::string name;
  Verdict verdict = Verdict::passed;
  std::string reason;
  std::string command;
  std::string output;
  double seconds = 0;
  Place place;
  // Of one that failed: what was found out about it.
  std::string cause;
  std::string remedy;
  std::vector<std::string> evidence;
  // Of one that passed: lines of its output that look like errors, and are not said to be benign.
  std::vector<std::string> error_lines;
  std::vector<CheckNumber> numbers;
  std::string picture;  // of a window: PNG
};

}  // namespace coctilis::model
