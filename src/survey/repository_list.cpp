#include "survey/repository_list.h"

#include <yaml-cpp/yaml.h>

#include <algorithm>
#include <filesystem>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::survey {

namespace {

// No list that people keep is longer.
constexpr std::size_t most_bytes = 1U << 20U;

class ListReader {
 public:
  ListReader(std::string file, model::Settings& settings) : file_(std::move(file)), settings_(settings) {}

  void read(const std::string& content) {
    if (content.size() > most_bytes) wrong({}, "the list is longer than " + text::size(most_bytes), "divide it");
    try {
      const YAML::Node root = YAML::Load(content);
      if (!root.IsMap() || !root["repositories"]) return;  // a list of something else
      const auto list = root["repositories"];
      if (!list.IsMap())
        wrong(list, "'repositories' has to be a map of folders", "write NAME: {type: git, url: ..., version: ...}");
      for (const auto& entry : list) repository(entry.first, entry.second);
    } catch (const YAML::Exception& error) {
      throw Fault({Exit::description,
                   {file_, std::max(0, error.mark.line + 1), 0},
                   "this list of repositories is no YAML: " + text::printable_line(error.msg),
                   {},
                   "mend the line",
                   {}});
    }
  }

 private:
  [[noreturn]] void wrong(const YAML::Node& node, const std::string& what, const std::string& remedy) const {
    throw Fault({Exit::description,
                 {file_, node.IsDefined() ? std::max(0, node.Mark().line + 1) : 0, 0},
                 what,
                 {},
                 remedy,
                 {}});
  }

  static std::string text_of(const YAML::Node& node) { return node && node.IsScalar() ? node.Scalar() : std::string{}; }

  void repository(const YAML::Node& key, const YAML::Node& value) {
    const std::string name = text_of(key);
    const std::string shown = "the repository '" + text::printable_line(name) + "'";
    if (name.empty() || !value.IsMap())
      wrong(key, shown + " has no entry that can be read", "write type, url and version");
    const std::string type = text_of(value["type"]);
    if (type != "git")
      wrong(key, shown + " is of the type '" + text::printable_line(type) + "', and only git is brought in",
            "bring it in by hand, and take it off the list");
    model::Source source;
    source.url = text_of(value["url"]);
    source.revision = text_of(value["version"]);
    source.folder = name;
    source.place = {file_, key.Mark().line + 1, 0};
    source.name = std::filesystem::path(name).filename().string();
    if (source.url.empty() || source.revision.empty())
      wrong(key, shown + " has no " + (source.url.empty() ? "url" : "version"),
            "add it: without a version nobody gets the same twice");
    const bool known = std::any_of(settings_.sources.begin(), settings_.sources.end(), [&](const auto& other) {
      return other.name == source.name || other.folder == source.folder;
    });
    if (!known) settings_.sources.push_back(std::move(source));
  }

  const std::string file_;
  model::Settings& settings_;
};

}  // namespace

Result<bool> read_repository_lists(const std::string& tree, model::Settings& settings) {
  return guarded("lists of repositories", [&] {
    for (const auto& name : files::names_in(tree)) {
      if (!name.ends_with(".repos") || !files::is_file(tree + "/" + name)) continue;
      if (const auto content = files::read(tree + "/" + name)) ListReader(name, settings).read(*content);
    }
    return true;
  });
}

}  // namespace coctilis::survey
