#include "pipeline/kept_options.h"

#include <map>
#include <set>

#include "base/files.h"
#include "base/kept_value.h"
#include "base/text.h"

namespace coctilis::pipeline {

namespace {
using Options = std::map<std::string, std::string>;
}  // namespace

Result<bool> take_kept_options(model::Run& run) {
  return guarded("keeping the options", [&] {
    const std::string path = run.kiln + "/" + kept_options_name;
    const auto kept = run.options.only_these ? std::nullopt : kept_value<Options>(path);
    // To go on without them would be to build something else.
    if (!kept && !run.options.only_these && files::exists(path))
      throw Fault({Exit::kiln,
                   {path, 0, 0},
                   "the options that this kiln keeps cannot be read",
                   "the file was damaged, or written by another version",
                   "take it away, and give what --set gave once more",
                   {}});
    const Options before = kept.value_or(Options{});
    Options now = before;
    for (const auto& name : run.options.unsets) {
      if (now.erase(name) > 0) continue;
      std::vector<std::string> names;
      for (const auto& [option, value] : before) names.push_back(option);
      throw Fault({Exit::usage,
                   {},
                   "no value for '" + text::printable_line(name) + "' is kept in this kiln",
                   "",
                   names.empty() ? "none was given by --set" : "there are values for " + text::join(names, ", "),
                   {}});
    }
    std::set<std::string> given;
    for (const auto& set : run.options.sets) {
      const auto equals = set.find('=');
      now[set.substr(0, equals)] = set.substr(equals + 1);
      given.insert(set.substr(0, equals));
    }
    run.options_in_force.clear();
    run.options.sets.clear();
    for (const auto& [name, value] : now) {
      const auto it = before.find(name);
      run.options_in_force.push_back({name, value, !given.contains(name),
                                      it == before.end() ? std::nullopt : std::optional<std::string>(it->second)});
      run.options.sets.push_back(name + "=" + value);
      run.settings.options[name] = value;
      run.settings.option_places.erase(name);
    }
    if (now.empty() && !files::is_file(path)) return true;
    keep_value(path, now);
    return true;
  });
}

void give_back_options(const model::Run& run) {
  Options now;
  for (const auto& option : run.options_in_force) {
    if (option.before) now[option.name] = *option.before;
  }
  keep_value(run.kiln + "/" + kept_options_name, now);
}

}  // namespace coctilis::pipeline
