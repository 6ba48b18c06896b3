// Files as a build.xml chooses them, and the texts that its tasks work out of files and of the clock.
#pragma once

#include <ctime>
#include <string>
#include <utility>
#include <vector>

namespace coctilis::describe::java {

// Files of a folder by patterns with ** and *; no includes: all.
struct FileChoice {
  std::string folder;  // absolute
  std::vector<std::string> includes;
  std::vector<std::string> excludes;
  std::vector<std::string> files;  // absolute: these and no others; then the rest counts for nothing
};

// Whether a path (from the folder) is one of these by the patterns.
[[nodiscard]] bool takes(const FileChoice& choice, const std::string& below);
// Those that are there, absolute, with their paths from the folder (of files that are named: their names). Nothing
// outside of `tree` is looked into but the system's own archives of classes.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> files_of(const FileChoice& choice,
                                                                        const std::string& tree);

// "a/**, b.java c/" as patterns: with commas or blanks between; what ends with a slash is all below.
[[nodiscard]] std::vector<std::string> patterns_of(const std::string& text);

// NAME=VALUE or NAME: VALUE of each line, comments with # and !, lines that go on behind a backslash
// (java.util.Properties, "load"); in order.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> read_properties(const std::string& text);

// A day by a pattern of letters: "yyyy-MM-dd HH:mm" (java.text.SimpleDateFormat; letters that are not numbers of the
// date stand for themselves).
[[nodiscard]] std::string shown_by(const std::string& pattern, const std::tm& day);

}  // namespace coctilis::describe::java
