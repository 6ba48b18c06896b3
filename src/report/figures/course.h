// What figures are drawn from: a run, as its record tells it (docs/run-record.md), so that they can be made of any run
// that is there, whatever made it.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

namespace coctilis::report {

struct Course {
  struct Bar {
    std::string kind;  // of the step: "compile", "link", ...
    std::string subject;
    std::string target;
    double began = 0;  // seconds since the build began
    double seconds = 0;
    bool critical = false;  // one of those that the end of the build waited for
    bool failed = false;
  };
  struct Target {
    std::string name;
    std::string kind;
    std::string folder;  // of its description, from the tree
    std::vector<std::string> uses;
    std::vector<std::string> libraries;  // of the system, by their files' names
    bool in_default = true;
  };
  struct Result {
    std::string path;  // from the kiln
    // Bytes of machine code, of data, of room for data that the file does not hold, of debugging information, of the
    // rest.
    double code = 0, data = 0, room = 0, debug = 0, rest = 0;
    [[nodiscard]] double in_file() const { return code + data + debug + rest; }
  };
  // One of several trees that were brought up in the run.
  struct Member {
    std::string name;
    std::vector<std::string> needs;  // of other members
    std::vector<Target> targets;     // without what they use
    double began = 0;                // seconds since the first was begun
    double seconds = 0;
    bool failed = false;
    bool begun = true;
  };
  // What compilations read beside their sources.
  struct Header {
    std::string path;
    double sources = 0;  // that read it
    double seconds = 0;
    double told = 0;  // of the sources, those whose compiler told how long it took
  };
  struct Language {
    std::string language;
    double files = 0, code = 0, comment = 0, blank = 0;
  };

  int schema = 0;  // of the record
  int number = 0;
  bool good = false;
  double seconds = 0;  // of the whole run
  double build_seconds = 0;
  double check_seconds = 0;
  std::vector<std::pair<std::string, double>> stages;  // what was done, in its order, and how long it took
  std::size_t warnings = 0;
  std::size_t checks = 0, checks_failed = 0;
  std::vector<Bar> bars;        // of the steps that ran
  std::vector<Header> headers;  // the dearest first
  std::vector<Target> targets;
  std::vector<Member> members;
  std::vector<Result> results;
  std::vector<Language> languages;
  std::vector<Language> folders;  // the same by folder, whose name stands in the place of the language's
};

// What a record says; what it lacks, or has in another form than it should, is taken for nothing.
[[nodiscard]] Course course_of(const nlohmann::ordered_json& record);

// What later runs are held against, in a record of its own form that course_of() reads, and that is read in no time.
[[nodiscard]] nlohmann::ordered_json short_record(const Course& course);

}  // namespace coctilis::report
