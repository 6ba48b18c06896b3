#include "smoke/excuses.h"

#include <re2/re2.h>
#include <unistd.h>

#include <vector>

#include "base/process.h"
#include "base/sandbox.h"

namespace coctilis::smoke {

namespace {
struct Excuse {
  const char* pattern;  // RE2, multi-line; catches what is meant, if anything is
  bool (*holds)(const std::string& caught);
  const char* reason;  // "{}" stands for what was caught
};

const std::vector<Excuse>& excuses() {
  static const std::vector<Excuse> table = {
      {R"((?i)(?:can ?not|could not|can't|unable to|failed to) (?:open|connect to)(?: the)?(?: X(?:11)?)?(?: server)? display\b|\bno display )",
       [](const std::string&) { return !has_display(); }, wants_display},
      {R"((?i)(?:can ?not|can't|must not|mustn't|should not|do not|don't|refus\w+ to) (?:be )?run\b[^\n]{0,30}\bas (?:the )?(?:root|superuser))",
       [](const std::string&) { return ::geteuid() == 0; }, "it says that it does not run for the superuser"},
      {R"((?m)^(?:\S*sh: (?:line )?\d+: |\S*sh: )([\w.+-]+): (?:command )?not found$)",
       [](const std::string& name) { return find_program(name).empty(); },
       "it needs the program '{}', which is not installed"},
      {R"(java\.awt\.HeadlessException|No X11 DISPLAY variable was set)",
       [](const std::string&) { return !has_display(); }, wants_display},
      {R"(java\.net\.(?:UnknownHost|Connect|Socket|NoRouteToHost|SocketTimeout)Exception)",
       [](const std::string&) { return !sandbox::allowed().network; },
       "it wants to reach the network, which commands of a tree do not get"},
  };
  return table;
}
}  // namespace

std::string excuse_in(const std::string& output) {
  for (const auto& excuse : excuses()) {
    RE2::Options options;
    options.set_encoding(RE2::Options::EncodingLatin1);  // foreign bytes are no text
    const RE2 pattern(excuse.pattern, options);
    std::string caught;
    const bool found = pattern.NumberOfCapturingGroups() > 0 ? RE2::PartialMatch(output, pattern, &caught)
                                                             : RE2::PartialMatch(output, pattern);
    if (!found || !excuse.holds(caught)) continue;
    std::string reason = excuse.reason;
    if (const auto at = reason.find("{}"); at != std::string::npos) reason.replace(at, 2, caught);
    return reason;
  }
  return {};
}

bool has_display() { return std::getenv("DISPLAY") != nullptr || std::getenv("WAYLAND_DISPLAY") != nullptr; }

}  // namespace coctilis::smoke
