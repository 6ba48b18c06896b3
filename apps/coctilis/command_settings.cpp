// settings: every value that has a say without being on the command line, and where it comes from.
#include <fmt/format.h>

#include <nlohmann/json.hpp>
#include <thread>

#include "base/files.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "commands.h"
#include "survey/settings.h"
#include "survey/survey.h"

namespace coctilis::app {

namespace {

struct Value {
  std::string name;
  std::string value;
  std::string from;
};

std::string shown(const Place& place, const std::string& tree) {
  return from_here(files::absolute(place.file, tree)) + (place.line > 0 ? ":" + std::to_string(place.line) : "");
}

std::vector<Value> all_values(const Common& common, const std::string& tree, const model::Settings& settings) {
  const auto& user = common.user;
  std::vector<Value> out;
  const auto users = [&](const char* key) {
    const auto it = user.places.find(key);
    return it == user.places.end() ? user.path : it->second.text();
  };
  const auto add = [&](const std::string& name, const std::string& value, const std::string& from) {
    out.push_back({name, value, from});
  };
  add("jobs", std::to_string(user.jobs != 0 ? user.jobs : std::max(1U, std::thread::hardware_concurrency())),
      user.jobs != 0 ? users("jobs") : "the processors of this machine");
  add("load", user.load > 0 ? fmt::format("{:g}", user.load) : "no limit", user.load > 0 ? users("load") : "default");
  const char* no_colour = std::getenv("NO_COLOR");
  const bool off = user.colour.empty() && no_colour != nullptr && *no_colour != '\0';
  add("colour",
      off                   ? "never"
      : user.colour.empty() ? "auto"
                            : user.colour,
      off                   ? "NO_COLOR"
      : user.colour.empty() ? "default"
                            : users("colour"));
  if (!settings.toolchain.empty()) {
    std::vector<std::string> wishes;
    for (const auto& wish : settings.toolchain) wishes.push_back(wish.text);
    add("toolchain", text::join(wishes, ", "), shown(settings.toolchain_place, tree));
  } else {
    add("toolchain", user.toolchain.empty() ? "the first that does" : user.toolchain,
        user.toolchain.empty() ? "default" : users("toolchain"));
  }
  add("variant", settings.variant, "default");
  for (const auto& prefix : user.with) add("with", prefix, users("with"));
  for (const auto& [name, prefix] : user.kits) add("kit " + name, prefix, users(("kits." + name).c_str()));
  for (const auto& mirror : user.mirrors)
    add("mirror of " + mirror.of, mirror.at, users(("mirrors." + mirror.of).c_str()));
  for (const auto& need : settings.needs) {
    const auto place = need.places.find("prefix");
    if (!need.prefix.empty())
      add("prefix", need.prefix, shown(place == need.places.end() ? need.place : place->second, tree));
  }
  add("kiln", from_here(survey::kiln_root(tree, common.run.kiln)), common.run.kiln.empty() ? "default" : "--kiln");
  for (const auto& [name, value] : settings.options) {
    const auto place = settings.option_places.find(name);
    add("option " + name, value, place == settings.option_places.end() ? "default" : shown(place->second, tree));
  }
  const auto of_tree = [&](const char* key, const std::string& value) {
    const auto place = settings.tree_places.find(key);
    add(key, value, place == settings.tree_places.end() ? "default" : shown(place->second, tree));
  };
  of_tree("description", settings.description.empty() ? "what the survey finds" : settings.description);
  of_tree("warnings-as-errors", settings.warnings_as_errors ? "yes" : "no");
  of_tree("compile-commands", settings.links_database ? "yes" : "no");
  of_tree("header-times", settings.header_times ? "yes" : "no");
  add("network", settings.network ? "asked for" : "none",
      settings.network_place.file.empty() ? "default" : shown(settings.network_place, tree));
  const auto limits = sandbox::in_force(settings.limits);
  const auto limit = [&](const char* key, const std::string& value) {
    const auto place = settings.limit_places.find(key);
    add(std::string("limit of ") + key, value,
        place == settings.limit_places.end() ? "default" : shown(place->second, tree));
  };
  limit("processes", text::grouped(limits.processes));
  limit("memory", text::size(limits.memory));
  limit("file-size", text::size(limits.file_size));
  limit("time", text::duration(static_cast<double>(limits.seconds)));
  return out;
}

int show_settings(Common& common) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  const std::string tree = tree_of(common);
  const auto settings = survey::settings_of(tree, common.run.config);
  if (!settings) throw Fault(settings.problem());
  const auto values = all_values(common, tree, *settings);
  if (common.json) {
    nlohmann::ordered_json out = {{"user_file", common.user.path}, {"values", nlohmann::ordered_json::array()}};
    for (const auto& one : values)
      out["values"].push_back({{"name", one.name}, {"value", one.value}, {"from", one.from}});
    screen.text(out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
    return 0;
  }
  std::size_t names = 0;
  std::size_t widest = 0;
  for (const auto& one : values) {
    names = std::max(names, text::columns(one.name));
    if (text::columns(one.value) <= 30) widest = std::max(widest, text::columns(one.value));
  }
  for (const auto& one : values) {
    const std::string value = text::printable_line(one.value);
    screen.text(text::printable_line(one.name) + std::string(names + 2 - text::columns(one.name), ' ') + value +
                std::string(text::columns(value) < widest ? widest + 2 - text::columns(value) : 2, ' ') + "(" +
                text::printable_line(one.from) + ")\n");
  }
  screen.text(
      "\nyour file: " +
      (common.user.path.empty() ? std::string("neither XDG_CONFIG_HOME nor HOME names a folder") : common.user.path) +
      (files::is_file(common.user.path) ? "" : " (not there)") + "\n");
  return 0;
}

}  // namespace

void add_settings(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("settings", "Every value that holds without being asked for, and where it comes from");
  add_tree(*command, common);
  command->add_option("--config", common.run.config, "Another coctilis.toml, read after that of the tree")
      ->type_name("FILE");
  command->add_option("--kiln", common.run.kiln, "Output folder (default: TREE/kiln)")->type_name("DIR");
  add_output(*command, common);
  command->callback([&common] { common.chosen = [&common] { return show_settings(common); }; });
}

}  // namespace coctilis::app
