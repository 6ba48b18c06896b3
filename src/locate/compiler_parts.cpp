#include "locate/compiler_parts.h"

#include "base/lists.h"

namespace coctilis::locate {

model::Usage CompilerPart::usage() const {
  model::Usage out;
  if (option.empty()) return out;
  out.link_items.push_back(option);
  if (compiled_with) out.compile_options.push_back(option);
  return out;
}

CompilerPart look_for(Locator& locator, const KnownCompilerPart& part, const std::string& language,
                      const model::Question& asked) {
  Probe probe;
  probe.how = Probe::How::link;
  probe.language = language;
  probe.source = part.source;
  CompilerPart out;
  for (const auto& option : part.options) {
    out.option = option;
    out.compiled_with = lists::contains(part.compiled_with, option);
    const auto usage = out.usage();
    probe.link_options = usage.link_items;
    probe.compile_options = usage.compile_options;
    out.found = locator.ask(probe, asked).compiled;
    locator.conclude(out.found ? "TRUE" : "FALSE");
    if (out.found) return out;
  }
  return {};
}

}  // namespace coctilis::locate
