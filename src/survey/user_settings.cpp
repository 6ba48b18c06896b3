#include "survey/user_settings.h"

#include <algorithm>
#include <cstdlib>

#include "base/files.h"
#include "base/text.h"
#include "base/toml.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {

namespace {

class UserReader : TomlReader {
 public:
  using TomlReader::TomlReader;

  void read(const toml::table& root, UserSettings& out) const {
    const auto key = [&](const char* name, auto&& take) {
      return std::pair<std::string, Handler>(name, [this, &out, name, take](const toml::node& node) {
        out.places[name] = place(node);
        take(node);
      });
    };
    section(root, "",
            {key("jobs", [&](auto& n) { out.jobs = static_cast<unsigned>(integer(n, "jobs", 1, 4096)); }),
             key("load",
                 [&](auto& n) {
                   out.load = number(n, "load");
                   if (!(out.load > 0)) wrong(n, "'load' is more than 0", "write load = 4.0");
                 }),
             key("colour",
                 [&](auto& n) {
                   out.colour = string(n, "colour");
                   if (out.colour != "always" && out.colour != "never" && out.colour != "auto")
                     wrong(n, "'colour' is always, never or auto", "write colour = \"auto\"");
                 }),
             key("toolchain", [&](auto& n) { out.toolchain = string(n, "toolchain"); }),
             key("with",
                 [&](auto& n) {
                   for (const auto& prefix : strings(n, "with")) out.with.push_back(folder(n, prefix));
                 }),
             key("kits",
                 [&](auto& n) {
                   for_each_text(n, "kits", [&](const std::string& name, const std::string& value, const auto& node) {
                     out.kits[name] = folder(node, value);
                     out.places["kits." + name] = place(node);
                   });
                 }),
             key("mirrors", [&](auto& n) {
               for_each_text(n, "mirrors", [&](const std::string& of, const std::string& at, const auto& node) {
                 if (of.empty() || at.empty())
                   wrong(node, "a mirror is the beginning of an address, and what stands in its place",
                         "write [mirrors]  \"https://brickyard.example/\" = \"/srv/copies/\"");
                 out.mirrors.push_back({of, at});
                 out.places["mirrors." + of] = place(node);
               });
               std::stable_sort(out.mirrors.begin(), out.mirrors.end(),
                                [](const auto& a, const auto& b) { return a.of.size() > b.of.size(); });
             })});
  }

 private:
  // A folder that is there, counted from the file's own.
  [[nodiscard]] std::string folder(const toml::node& node, const std::string& value) const {
    std::string out =
        files::absolute(with_environment(node, value), std::filesystem::path(path()).parent_path().string());
    if (!files::is_folder(out))
      wrong(node, "the prefix '" + text::printable_line(value) + "' is no folder", "check the path");
    return out;
  }
  template <class F>
  void for_each_text(const toml::node& node, const std::string& name, F&& f) const {
    for (const auto& [key, value] : table(node, name)) {
      const std::string word(key.str());
      f(word, string(value, word), value);
    }
  }
};

}  // namespace

std::string user_settings_path() {
  for (const auto& [name, below] : {std::pair{"XDG_CONFIG_HOME", ""}, {"HOME", "/.config"}}) {
    const char* folder = std::getenv(name);
    // "All paths set in these environment variables must be absolute."
    if (folder != nullptr && *folder == '/') return std::string(folder) + below + "/coctilis/config.toml";
  }
  return {};
}

Result<UserSettings> read_user_settings(const std::string& path) {
  return guarded("the user's settings", [&] {
    UserSettings out;
    out.path = path;
    if (path.empty() || !files::is_file(path)) return out;
    const auto table = read_toml(path);
    UserReader(path).read(table, out);
    return out;
  });
}

}  // namespace coctilis::survey
