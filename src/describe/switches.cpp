#include "describe/switches.h"

#include <set>

#include "base/text.h"

namespace coctilis::describe {

bool declare_switch(const std::string& name, const std::string& help, const model::Settings& settings,
                    model::Project& project) {
  static const std::set<std::string> off = {"off", "false", "0", "no"};
  const auto it = settings.options.find(name);
  const bool on = it == settings.options.end() || !off.contains(text::lower(it->second));
  model::Option option;
  option.name = name;
  option.type = "switch";
  option.value = on ? "on" : "off";
  option.initial = "on";
  option.help = help;
  project.options.push_back(std::move(option));
  return on;
}

bool tests_wanted(const model::Settings& settings, model::Project& project) {
  return declare_switch("tests", "whether tests are built and run", settings, project);
}

}  // namespace coctilis::describe
