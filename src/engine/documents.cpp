#include "engine/documents.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/text.h"
#include "model/documents.h"

namespace coctilis::engine {

bool makes_documents(const model::Step& step) {
  return !step.outputs.empty() && std::all_of(step.outputs.begin(), step.outputs.end(), model::is_document);
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
