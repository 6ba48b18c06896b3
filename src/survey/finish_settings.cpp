#include "survey/finish_settings.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/archive.h"
#include "base/files.h"
#include "base/text.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {

namespace {

using model::Finish;

class FinishReader : TomlReader {
 public:
  using TomlReader::TomlReader;

  void finish(const toml::table& t, model::Settings& settings) const {
    Finish out;
    out.place = place(t);
    std::vector<std::string> kinds;
    std::vector<std::string> keys;
    const auto kind = [&](Finish::Kind which, const char* key, auto&& take) {
      return std::pair<std::string, Handler>(key, [&out, &kinds, which, key, take](const toml::node& n) {
        out.kind = which;
        kinds.emplace_back(key);
        take(n);
      });
    };
    const auto key = [&](const char* name, auto&& take) {
      return std::pair<std::string, Handler>(name, [&keys, name, take](const toml::node& n) {
        keys.emplace_back(name);
        take(n);
      });
    };
    section(t, "finish",
            {kind(Finish::Kind::strip, "strip", [&](auto& n) { out.from = {string(n, "strip")}; }),
             kind(Finish::Kind::bind, "bind", [&](auto& n) { out.from = string_or_strings(n, "bind"); }),
             kind(Finish::Kind::copy, "copy", [&](auto& n) { out.from = string_or_strings(n, "copy"); }),
             kind(Finish::Kind::archive, "archive", [&](auto& n) { out.to = finished(n, "archive"); }),
             kind(Finish::Kind::run, "run", [&](auto& n) { out.command = strings(n, "run"); }),
             key("to", [&](auto& n) { out.to = finished(n, "to"); }),
             key("debug", [&](auto& n) { out.debug = finished(n, "debug"); }),
             key("into", [&](auto& n) { out.into = string(n, "into"); }),
             key("section", [&](auto& n) { out.section = section_name(n); }),
             key("from", [&](auto& n) { out.from = string_or_strings(n, "from"); }),
             key("folder", [&](auto& n) { out.folder = finished(n, "folder"); }),
             key("inputs", [&](auto& n) { out.from = string_or_strings(n, "inputs"); }),
             key("outputs",
                 [&](auto& n) {
                   for (const auto& path : string_or_strings(n, "outputs"))
                     out.outputs.push_back(below(n, "outputs", path));
                 }),
             {"name", [&](auto& n) { out.name = string(n, "name"); }}});
    if (kinds.size() != 1)
      wrong(t, "a [[finish]] has one of strip, bind, copy, archive and run",
            "write strip = \"firecurve\", say; several are several [[finish]]");
    refuse_foreign(t, kinds.front(), keys);
    require(t, out);
    if (out.name.empty()) out.name = usual_name(out);
    if (!RE2::FullMatch(out.name, "[A-Za-z0-9_+][A-Za-z0-9_+./ -]*"))
      wrong(t, "a [[finish]] cannot be called '" + text::printable_line(out.name) + "'",
            "give it a name of letters, digits, '-', '_', '+', '.', '/' and blanks");
    for (auto& other : settings.finishes) {
      if (other.name != out.name) continue;
      if (other.place.file == path())
        wrong(t, "there is a [[finish]] '" + out.name + "' already, at " + other.place.text(),
              "give it a name of its own: name = \"...\"");
      other = std::move(out);
      return;
    }
    settings.finishes.push_back(std::move(out));
  }

  void desktop(const toml::table& t, model::Settings& settings) const {
    model::DesktopEntry out;
    out.place = place(t);
    section(t, "desktop",
            {{"program", [&](auto& n) { out.program = string(n, "program"); }},
             {"title", [&](auto& n) { out.title = line(n, "title"); }},
             {"comment", [&](auto& n) { out.comment = line(n, "comment"); }},
             {"icon", [&](auto& n) { out.icon = icon(n); }},
             {"arguments",
              [&](auto& n) {
                out.arguments = string_or_strings(n, "arguments");
                for (const auto& word : out.arguments) {
                  if (word.find('\n') != std::string::npos)
                    wrong(n, "an argument of a desktop entry is one line", "take the line's end out");
                }
              }},
             {"folder", [&](auto& n) { out.folder = below(n, "folder", string(n, "folder")); }},
             {"categories",
              [&](auto& n) {
                out.categories = string_or_strings(n, "categories");
                for (const auto& category : out.categories) {
                  if (!RE2::FullMatch(category, "[A-Za-z0-9-]+"))
                    wrong(n, "'" + text::printable_line(category) + "' is no category",
                          "write categories = [\"Utility\"]: names of the desktop menu specification");
                }
              }},
             {"terminal", [&](auto& n) { out.terminal = boolean(n, "terminal"); }}});
    if (out.program.empty()) wrong(t, "a [[desktop]] needs program", "write program = \"firecurve\"");
    if (out.title.empty()) out.title = out.program;
    for (auto& other : settings.desktop_entries) {
      if (other.program != out.program) continue;
      if (other.place.file == path())
        wrong(t, "there is a [[desktop]] for '" + out.program + "' already, at " + other.place.text(),
              "a program has one; put its arguments together");
      other = std::move(out);
      return;
    }
    settings.desktop_entries.push_back(std::move(out));
  }

 private:
  // Which keys go with which.
  void refuse_foreign(const toml::table& t, const std::string& kind, const std::vector<std::string>& keys) const {
    static const std::map<std::string, std::vector<std::string>> table = {{"strip", {"to", "debug"}},
                                                                          {"bind", {"into", "section", "to"}},
                                                                          {"copy", {"to"}},
                                                                          {"archive", {"from", "folder"}},
                                                                          {"run", {"inputs", "outputs"}}};
    const auto& own = table.at(kind);
    for (const auto& key : keys) {
      if (std::find(own.begin(), own.end(), key) == own.end())
        wrong(t, "'" + key + "' does not go with " + kind, "with " + kind + " go name and " + text::join(own, ", "));
    }
  }

  void require(const toml::table& t, Finish& out) const {
    if (out.kind == Finish::Kind::run) {
      if (out.command.empty() || out.command.front().empty())
        wrong(t, "'run' names no program", "write run = [\"program\", \"argument\"]");
      if (out.outputs.empty())
        wrong(t, "a command that makes nothing is no step", "write outputs = [\"curves.bin\"]: what it makes");
      return;
    }
    if (out.from.empty() || std::any_of(out.from.begin(), out.from.end(), [](const auto& f) { return f.empty(); }))
      wrong(t, out.kind == Finish::Kind::archive ? "an archive needs from" : "it names no file",
            "name results of the tree, or files of it");
    if (out.kind == Finish::Kind::bind && out.into.empty())
      wrong(t, "bind needs into", "write into = \"firecurve\": the program that the parts are put into");
    if (out.kind == Finish::Kind::bind && !out.section.empty() && out.from.size() != 1)
      wrong(t, "a section holds one file", "write a [[finish]] for each");
    if (out.kind == Finish::Kind::archive && !files::is_archive_name(out.to))
      wrong(t, "'" + out.to + "' is not the name of an archive",
            "let it end with .tar, .tar.gz, .tar.xz, .tar.bz2, .tar.zst or .zip");
    const std::string& whose = out.kind == Finish::Kind::bind ? out.into : out.from.front();
    const bool names_one = out.kind == Finish::Kind::strip || out.kind == Finish::Kind::bind;
    if (names_one && out.to.empty()) out.to = std::filesystem::path(whose).filename().string();
    if (names_one && out.debug == out.to) wrong(t, "debug and to are the same file", "give debug a name of its own");
  }

  static std::string usual_name(const Finish& finish) {
    switch (finish.kind) {
      case Finish::Kind::strip: return "strip " + finish.from.front();
      case Finish::Kind::bind: return "bind " + finish.into;
      case Finish::Kind::copy: return "copy " + finish.from.front();
      case Finish::Kind::archive: return finish.to;
      case Finish::Kind::run: return "make " + finish.outputs.front();
    }
    return {};
  }

  // A path below the folder of what is finished.
  std::string finished(const toml::node& n, const std::string& key) const { return below(n, key, string(n, key)); }
  std::string below(const toml::node& n, const std::string& key, const std::string& path) const {
    std::string normal = std::filesystem::path(path).lexically_normal().string();
    while (normal.ends_with('/')) normal.pop_back();
    if (path.empty() || normal.empty() || normal.starts_with('/') || normal == "." || normal == ".." ||
        normal.starts_with("../") || text::printable_line(normal) != normal)
      wrong(n, "'" + key + "' is no path below the folder that it counts from: " + text::printable_line(path),
            "write a path without .. before it");
    return normal;
  }

  std::string section_name(const toml::node& n) const {
    std::string out = string(n, "section");
    if (!RE2::FullMatch(out, "[A-Za-z0-9_.]+"))
      wrong(n, "'" + text::printable_line(out) + "' is no name of a section", "write section = \".curves\"");
    return out;
  }
  std::string line(const toml::node& n, const std::string& key) const {
    std::string out = string(n, key);
    if (text::trim(out).empty() || text::printable_line(out) != out)
      wrong(n, "'" + key + "' is one line of printable text", "write " + key + " = \"Firing curves\"");
    return out;
  }
  std::string icon(const toml::node& n) const {
    std::string out = string(n, "icon");
    if (!out.ends_with(".png") && !out.ends_with(".svg"))
      wrong(n, "an icon is a PNG or an SVG file", "write icon = \"data/firecurve.png\"");
    return below(n, "icon", out);
  }
};

}  // namespace

void read_finish(const std::string& path, const toml::table& table, model::Settings& settings) {
  FinishReader(path).finish(table, settings);
}
void read_desktop_entry(const std::string& path, const toml::table& table, model::Settings& settings) {
  FinishReader(path).desktop(table, settings);
}

}  // namespace coctilis::survey
