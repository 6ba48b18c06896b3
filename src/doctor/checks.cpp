// The table of what makes checks fail, in the order in which it is looked through: what is certain comes first.
#include "doctor/checks.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"
#include "locate/packages.h"

namespace coctilis::doctor {

std::optional<model::Diagnosis> diagnose_check(const CheckCase& c) {
  static constexpr CheckDiagnosis (*table[])(const CheckCase&) = {not_startable,     library_not_found,
                                                                  symbol_not_found,  port_taken,
                                                                  name_unknown,      connection_refused,
                                                                  no_display,        no_device,
                                                                  interface_down,    locale_unknown,
                                                                  limit_reached,     crash,
                                                                  variable_not_set,  hang,
                                                                  program_not_found, folder_not_there,
                                                                  file_not_found,    not_writable};
  for (const auto explain : table) {
    if (auto out = explain(c)) return out;
  }
  return std::nullopt;
}

std::string caught_in(const CheckCase& c, const char* pattern) {
  RE2::Options options;
  options.set_encoding(RE2::Options::EncodingLatin1);
  const RE2 read(pattern, options);
  std::vector<re2::StringPiece> groups(static_cast<std::size_t>(1 + read.NumberOfCapturingGroups()));
  if (!read.Match(c.output, 0, c.output.size(), RE2::UNANCHORED, groups.data(), static_cast<int>(groups.size())))
    return {};
  for (std::size_t i = 1; i < groups.size(); ++i) {
    if (!groups[i].empty()) return std::string(groups[i]);
  }
  return std::string(groups.front());
}

std::string line_with(const CheckCase& c, const std::string& text) {
  const auto at = c.output.find(text);
  if (at == std::string::npos) return {};
  const auto begin = at == 0                                             ? 0
                     : c.output.rfind('\n', at - 1) == std::string::npos ? 0
                                                                         : c.output.rfind('\n', at - 1) + 1;
  const auto end = std::min(c.output.find('\n', at), c.output.size());
  return text::clip(text::printable_line(c.output.substr(begin, end - begin)), 200);
}

std::string shown_file(const CheckCase& c, const std::string& path) {
  for (const auto& folder : {c.folder, c.plan.tree, c.plan.kiln}) {
    if (!folder.empty() && path != folder && files::is_below(path, folder))
      return text::printable_line(files::below(path, folder));
  }
  return text::printable_line(path);
}

std::string install_or(const std::string& package, const std::string& otherwise) {
  if (package.empty()) return otherwise;
  locate::Packages packages;
  const auto advice = locate::advice_for(package, packages);
  return advice.command.empty() ? advice.reason : "install it: " + advice.command;
}

}  // namespace coctilis::doctor
