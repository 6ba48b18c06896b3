#include "engine/documents.h"

#include <re2/re2.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "base/text.h"

namespace coctilis::engine {

namespace {

bool is_document(const std::string& path) {
  static const std::set<std::string> endings = {".html", ".htm", ".info", ".pdf", ".ps",   ".dvi",
                                                ".man",  ".chm", ".epub", ".rtf", ".texi", ".docbook"};
  std::string name = std::filesystem::path(path).filename().string();
  if (name.ends_with(".gz")) name.resize(name.size() - 3);
  const auto dot = name.rfind('.');
  if (dot == std::string::npos || dot == 0) return false;
  const std::string ending = name.substr(dot);
  // A section of the manual: ".1", ".3pm".
  if (ending.size() > 1 && ending[1] >= '1' && ending[1] <= '8' && name.find(".so.") == std::string::npos &&
      (ending.size() == 2 || std::isalpha(static_cast<unsigned char>(ending[2])) != 0))
    return true;
  return endings.contains(ending);
}

}  // namespace

bool makes_documents(const model::Step& step) {
  return !step.outputs.empty() && std::all_of(step.outputs.begin(), step.outputs.end(), is_document);
}

std::string missing_tool(const model::StepResult& result) {
  std::string tool;
  if (result.end.find("could not be started: No such file") != std::string::npos) {
    const auto words = text::shell_words(result.command);
    return words.empty() ? std::string{} : words.front();
  }
  if (result.end != "exit code 127") return {};
  static const RE2 said(
      R"((?m)(?:(?:^|[: ])([A-Za-z0-9_.+-]+): (?:command )?not found|^WARNING: [`']([A-Za-z0-9_.+-]+)' is missing on your system))");
  std::string other;
  if (!RE2::PartialMatch(result.output, said, &tool, &other)) return {};
  return tool.empty() ? other : tool;
}

}  // namespace coctilis::engine
