#include "pipeline/kept_options.h"

#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::pipeline {

namespace {

using nlohmann::json;
using Options = std::map<std::string, std::string>;

Options read_options(const std::string& path) {
  Options out;
  const json kept = json::parse(files::read(path).value_or("{}"), nullptr, false);
  if (!kept.is_object()) return out;
  for (const auto& [name, value] : kept.items()) {
    if (value.is_string()) out[name] = value.get<std::string>();
  }
  return out;
}

}  // namespace

Result<bool> take_kept_options(model::Run& run) {
  return guarded("keeping the options", [&] {
    const std::string path = run.kiln + "/" + kept_options_name;
    const Options before = run.options.only_these ? Options{} : read_options(path);
    Options now = before;
    for (const auto& name : run.options.unsets) {
      if (now.erase(name) > 0) continue;
      std::vector<std::string> names;
      for (const auto& [kept, value] : before) names.push_back(kept);
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
      run.options_in_force.push_back({name, value, !given.contains(name)});
      run.options.sets.push_back(name + "=" + value);
      run.settings.options[name] = value;
      run.settings.option_places.erase(name);
    }
    if (now.empty() && !files::is_file(path)) return true;
    files::write_if_different(path, json(now).dump(1, ' ', false, json::error_handler_t::replace) + "\n");
    return true;
  });
}

}  // namespace coctilis::pipeline
