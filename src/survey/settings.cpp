#include "survey/settings.h"

#include <fmt/format.h>
#include <re2/re2.h>

#include <cmath>
#include <functional>

#include "base/archive.h"
#include "base/files.h"
#include "base/text.h"
#include "base/toml.h"
#include "survey/check_settings.h"
#include "survey/edit_settings.h"
#include "survey/finish_settings.h"
#include "survey/language_settings.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {

namespace {

class Reader : TomlReader {
 public:
  Reader(std::string path, model::Settings& settings) : TomlReader(std::move(path)), settings_(settings) {}

  void read(const toml::table& root) {
    section(
        root, "",
        {{"tree", [&](auto& n) { tree(table(n, "tree")); }},
         {"sandbox", [&](auto& n) { sandbox(table(n, "sandbox")); }},
         {"toolchain", [&](auto& n) { toolchain(table(n, "toolchain")); }},
         {"options", [&](auto& n) { options(table(n, "options")); }},
         {"need", [&](auto& n) { each(n, "need", [&](auto& t) { need(t); }); }},
         {"source", [&](auto& n) { each(n, "source", [&](auto& t) { source(t); }); }},
         {"variant", [&](auto& n) { variants(table(n, "variant")); }},
         {"target", [&](auto& n) { each(n, "target", [&](auto& t) { target(t); }); }},
         {"edit", [&](auto& n) { each(n, "edit", [&](auto& t) { read_edit(path(), t, settings_); }); }},
         {"language",
          [&](auto& n) {
            for (const auto& [key, node] : table(n, "language"))
              read_language(path(), std::string(key.str()), node, settings_);
          }},
         {"finish", [&](auto& n) { each(n, "finish", [&](auto& t) { read_finish(path(), t, settings_); }); }},
         {"desktop", [&](auto& n) { each(n, "desktop", [&](auto& t) { read_desktop_entry(path(), t, settings_); }); }},
         {"smoke", [&](auto& n) { each(n, "smoke", [&](auto& t) { read_smoke_check(path(), t, settings_); }); }},
         {"service", [&](auto& n) { each(n, "service", [&](auto& t) { read_service(path(), t, settings_); }); }}});
  }

 private:
  void sandbox(const toml::table& t) {
    section(t, "sandbox",
            {{"network",
              [&](auto& n) {
                settings_.network = boolean(n, "network");
                settings_.network_place = place(n);
              }},
             {"devices",
              [&](auto& n) {
                settings_.devices = strings(n, "devices");
                settings_.devices_place = place(n);
                for (const auto& device : settings_.devices) {
                  if (!device.starts_with("/dev/") || files::absolute(device) != device || device.size() > 200)
                    wrong(n, "'" + text::printable_line(device) + "' is no device", "write paths below /dev");
                }
              }},
             {"processes",
              [&](auto& n) {
                settings_.limits.processes = static_cast<std::uint64_t>(integer(n, "processes", 16, 4194304));
                settings_.limit_places["processes"] = place(n);
              }},
             {"memory",
              [&](auto& n) {
                settings_.limits.memory = amount(n, "memory");
                settings_.limit_places["memory"] = place(n);
              }},
             {"file-size",
              [&](auto& n) {
                settings_.limits.file_size = amount(n, "file-size");
                settings_.limit_places["file-size"] = place(n);
              }},
             {"time", [&](auto& n) {
                settings_.limits.seconds = static_cast<std::uint64_t>(std::ceil(duration(n, "time")));
                settings_.limit_places["time"] = place(n);
              }}});
  }

  void tree(const toml::table& t) {
    for (const auto& [key, value] : t) settings_.tree_places[std::string(key.str())] = place(value);
    section(
        t, "tree",
        {{"description", [&](auto& n) { settings_.description = string(n, "description"); }},
         {"components",
          [&](auto& n) {
            settings_.components = strings(n, "components");
            settings_.components_place = place(n);
          }},
         {"name",
          [&](auto& n) {
            settings_.package_name = string(n, "name");
            settings_.package_place = place(n);
          }},
         {"version", [&](auto& n) { settings_.package_version = string(n, "version"); }},
         {"needs",
          [&](auto& n) {
            settings_.package_needs = strings(n, "needs");
            settings_.package_place = place(n);
            for (const auto& need : settings_.package_needs) {
              if (!RE2::FullMatch(
                      need,
                      R"(\s*[^\s<>=!,]+\s*((>=|<=|>|<|=)\s*[0-9][^\s,]*(\s*,\s*(>=|<=|>|<|=)\s*[0-9][^\s,]*)*)?\s*)"))
                wrong(n, "'" + text::printable_line(need) + "' is no member's name with a version behind it",
                      "write needs = [\"clay\", \"glaze >= 2\"]");
            }
          }},
         {"choose",
          [&](auto& n) {
            settings_.choose = strings(n, "choose");
            settings_.choose_place = place(n);
          }},
         {"leave-out", [&](auto& n) { settings_.leave_out = strings(n, "leave-out"); }},
         {"arguments", [&](auto& n) { settings_.arguments = strings(n, "arguments"); }},
         {"header-times", [&](auto& n) { settings_.header_times = boolean(n, "header-times"); }},
         {"compile-commands", [&](auto& n) { settings_.links_database = boolean(n, "compile-commands"); }},
         {"warnings-as-errors", [&](auto& n) { settings_.warnings_as_errors = boolean(n, "warnings-as-errors"); }}});
  }
  void toolchain(const toml::table& t) {
    settings_.toolchain_place = place(t);
    section(t, "toolchain",
            {{"c++", [&](auto& n) { toolchain_wish(n, "c++"); }},
             {"c", [&](auto& n) { toolchain_wish(n, "c"); }},
             {"fortran", [&](auto& n) { toolchain_wish(n, "fortran"); }},
             {"java",
              [&](auto& n) {
                settings_.java = integer(n, "java", 1, 999);
                settings_.java_place = place(n);
              }},
             {"machine", [&](auto& n) { settings_.machine = string(n, "machine"); }},
             {"linker", [&](auto& n) { settings_.linker = string(n, "linker"); }},
             {"sysroot", [&](auto& n) {
                settings_.sysroot = files::absolute(with_environment(n, string(n, "sysroot")), folder());
                if (!files::is_folder(settings_.sysroot))
                  wrong(n, "the sysroot '" + settings_.sysroot + "' is no folder", "check the path");
              }}});
  }
  // A later file's wish for a language replaces that of an earlier one.
  void toolchain_wish(const toml::node& node, const std::string& key) {
    std::erase_if(settings_.toolchain, [&](const model::ToolchainWish& wish) { return wish.language == key; });
    settings_.toolchain.push_back({string(node, key), key, place(node)});
  }
  std::string folder() const { return std::filesystem::path(path()).parent_path().string(); }
  void options(const toml::table& t) {
    for (const auto& [key, node] : t) {
      const std::string name(key.str());
      settings_.options[name] = scalar(node, name);
      settings_.option_places[name] = place(node);
    }
  }
  // A need that an earlier file has too is changed value by value; where each was read stays known.
  void need(const toml::table& t) {
    model::Need read;
    std::vector<std::string> keys;
    const auto text = [&](const char* key, std::string model::Need::*member) {
      return std::pair<std::string, Handler>(key, [this, &read, key, member](const toml::node& n) {
        read.*member = with_environment(n, string(n, key));
        read.places[key] = place(n);
      });
    };
    const auto list = [&](const char* key, std::vector<std::string> model::Need::*member) {
      return std::pair<std::string, Handler>(key, [this, &read, key, member](const toml::node& n) {
        read.*member = n.is_string() ? std::vector<std::string>{string(n, key)} : strings(n, key);
        for (auto& entry : read.*member) entry = with_environment(n, entry);
        read.places[key] = place(n);
      });
    };
    read.place = place(t);
    section(
        t, "[need]",
        {text("library", &model::Need::library), text("program", &model::Need::program), text("kit", &model::Need::kit),
         text("file", &model::Need::file), text("version", &model::Need::constraint),
         text("prefix", &model::Need::prefix), text("form", &model::Need::form), text("source", &model::Need::source),
         list("files", &model::Need::files), list("goes-with", &model::Need::goes_with)});
    int kinds = 0;
    for (const auto* name : {&read.library, &read.program, &read.kit, &read.file}) kinds += name->empty() ? 0 : 1;
    if (kinds != 1)
      wrong(t, "a [[need]] names one thing: a library, a program, a kit or a file", "add library = \"...\"");
    if (!read.form.empty() && read.form != "static" && read.form != "shared")
      wrong(t, "'form' is \"static\" or \"shared\", not '" + read.form + "'", "or leave it out");
    const auto known = std::find_if(settings_.needs.begin(), settings_.needs.end(), [&](const model::Need& n) {
      return n.library == read.library && n.program == read.program && n.kit == read.kit && n.file == read.file;
    });
    if (known == settings_.needs.end() || known->place.file == path()) {
      settings_.needs.push_back(std::move(read));
      return;
    }
    for (const auto& [key, at] : read.places) known->places[key] = at;
    if (read.places.contains("version")) known->constraint = read.constraint;
    if (read.places.contains("prefix")) known->prefix = read.prefix;
    if (read.places.contains("form")) known->form = read.form;
    if (read.places.contains("source")) known->source = read.source;
    if (read.places.contains("files")) known->files = read.files;
    if (read.places.contains("goes-with")) known->goes_with = read.goes_with;
  }
  void source(const toml::table& t) {
    model::Source read;
    read.place = place(t);
    section(t, "[source]",
            {{"name", [&](auto& n) { read.name = string(n, "name"); }},
             {"options",
              [&](auto& n) {
                for (const auto& [key, value] : table(n, "options"))
                  read.options[std::string(key.str())] = scalar(value, std::string(key.str()));
              }},
             {"url", [&](auto& n) { read.url = with_environment(n, string(n, "url")); }},
             {"revision", [&](auto& n) { read.revision = string(n, "revision"); }},
             {"archive", [&](auto& n) { read.archive = with_environment(n, string(n, "archive")); }},
             {"beside", [&](auto& n) { read.beside = string(n, "beside"); }},
             {"folder", [&](auto& n) { read.folder = string(n, "folder"); }}});
    if (read.archive.empty() != read.beside.empty())
      wrong(t, "an archive is unpacked beside a program: archive and beside go together",
            "write archive = \"vendor/glazes.tar.gz\" and beside = \"firecurve\"");
    if (!read.archive.empty()) {
      if (!files::is_archive_name(read.archive))
        wrong(t, "'" + text::printable_line(read.archive) + "' is not the name of an archive",
              "let it end with .tar, .tar.gz, .tar.xz, .tar.bz2, .tar.zst or .zip");
      if (!read.url.empty()) wrong(t, "a [[source]] has an archive or an address", "make two of it");
      const std::string normal = std::filesystem::path(read.folder).lexically_normal().string();
      if (normal.starts_with('/') || normal == ".." || normal.starts_with("../"))
        wrong(t, "'folder' leads away from the program: " + text::printable_line(read.folder),
              "write a folder that counts from the program's own");
      if (read.name.empty()) read.name = std::filesystem::path(read.archive).filename().string();
    } else if (read.folder.empty()) {
      wrong(t, "a [[source]] needs a folder", "write folder = \"vendor/clay\"");
    }
    if (read.url.empty() != read.revision.empty())
      wrong(t, "a [[source]] needs url and revision, or neither when it comes with the tree",
            "without a revision nobody gets the same twice");
    if (read.name.empty()) read.name = std::filesystem::path(read.folder).filename().string();
    if (!RE2::FullMatch(read.name, "[A-Za-z0-9_+][A-Za-z0-9_.+-]*"))
      wrong(t, "a [[source]] needs a name of letters, digits, '-', '_', '+' and '.'", "write name = \"clay\"");
    for (auto& other : settings_.sources) {
      if (other.name != read.name) continue;
      if (other.place.file == path())
        wrong(t, "there is a [[source]] '" + read.name + "' already, at " + other.place.text(), "give it another name");
      other = std::move(read);
      return;
    }
    settings_.sources.push_back(std::move(read));
  }
  void variants(const toml::table& t) {
    for (const auto& [key, node] : t) {
      const std::string name(key.str());
      if (!RE2::FullMatch(name, "[a-z0-9][a-z0-9_.-]*"))
        wrong(node, "a variant cannot be called '" + name + "'", "use small letters, digits, '-', '_' and '.'");
      const auto& entry = table(node, "variant." + name);
      model::Variant variant =
          settings_.variants.contains(name) ? settings_.variants[name] : model::Variant{name, "release", {}, {}};
      section(entry, "variant." + name,
              {{"based-on",
                [&](auto& n) {
                  variant.base = string(n, "based-on");
                  if (variant.base != "debug" && variant.base != "release")
                    wrong(n, "a variant is based on debug or release", "write based-on = \"release\"");
                }},
               {"compile", [&](auto& n) { variant.compile = strings(n, "compile"); }},
               {"link", [&](auto& n) { variant.link = strings(n, "link"); }}});
      settings_.variants[name] = variant;
    }
  }
  Keys keys_of(model::SourceTarget::Part& part) const {
    return {{"sources", [&](auto& n) { part.sources = strings(n, "sources"); }},
            {"include", [&](auto& n) { part.include = strings(n, "include"); }},
            {"quote-include", [&](auto& n) { part.quote_include = strings(n, "quote-include"); }},
            {"define", [&](auto& n) { part.define = strings(n, "define"); }},
            {"options", [&](auto& n) { part.options = strings(n, "options"); }}};
  }
  void target(const toml::table& t) {
    using Kind = model::SourceTarget::Kind;
    model::SourceTarget read;
    read.place = place(t);
    model::SourceTarget::Part whole;
    Keys keys = keys_of(whole);
    const Keys own = {
        {"name", [&](auto& n) { read.name = string(n, "name"); }},
        {"kind",
         [&](auto& n) {
           const std::string kind = string(n, "kind");
           if (kind != "program" && kind != "library" && kind != "archive")
             wrong(n, "a target is a program, a library or an archive, not '" + text::printable_line(kind) + "'",
                   "write kind = \"program\"");
           read.kind = kind == "program" ? Kind::program : kind == "library" ? Kind::library : Kind::archive;
         }},
        {"use", [&](auto& n) { read.use = strings(n, "use"); }},
        {"libraries", [&](auto& n) { read.libraries = strings(n, "libraries"); }},
        {"default", [&](auto& n) { read.by_default = boolean(n, "default"); }},
        {"part", [&](auto& n) {
           each(n, "target.part", [&](auto& table) {
             model::SourceTarget::Part part;
             section(table, "target.part", keys_of(part));
             if (part.sources.empty()) wrong(table, "a [[target.part]] needs sources", "write sources = [\"a.c\"]");
             read.parts.push_back(std::move(part));
           });
         }}};
    keys.insert(keys.end(), own.begin(), own.end());
    section(t, "[target]", keys);
    if (!RE2::FullMatch(read.name, "[A-Za-z0-9_+][A-Za-z0-9_.+-]*"))
      wrong(t, "a [[target]] needs a name of letters, digits, '-', '_', '+' and '.'", "write name = \"clay\"");
    for (const auto& other : settings_.targets) {
      if (other.name == read.name)
        wrong(t, "there is a [[target]] '" + read.name + "' already, at " + other.place.text(), "give it another name");
    }
    if (!whole.sources.empty()) read.parts.insert(read.parts.begin(), std::move(whole));
    if (read.parts.empty()) wrong(t, "the [[target]] '" + read.name + "' has no sources", "write sources = [\"a.c\"]");
    settings_.targets.push_back(std::move(read));
  }
  model::Settings& settings_;
};

}  // namespace

Result<bool> read_settings(const std::string& path, model::Settings& settings) {
  return guarded("settings", [&] {
    Reader(path, settings).read(read_toml(path));
    return true;
  });
}

Result<model::Settings> settings_of(const std::string& tree, const std::string& config, const model::Settings& base) {
  model::Settings settings = base;
  settings.variants.try_emplace("debug", model::Variant{"debug", "debug", {}, {}});
  settings.variants.try_emplace("release", model::Variant{"release", "release", {}, {}});
  const std::vector<std::string> watched = {"-fsanitize=address,undefined", "-fno-omit-frame-pointer"};
  settings.variants.try_emplace("sanitized", model::Variant{"sanitized", "debug", watched, {watched.front()}});
  settings.variants.try_emplace("coverage", model::Variant{"coverage", "debug", {"--coverage"}, {"--coverage"}});
  std::vector<std::string> paths;
  if (!config.empty()) paths.push_back(config);
  for (const char* name : {"coctilis.toml", "coctilis.local.toml"}) {
    if (const std::string path = tree + "/" + name; !tree.empty() && files::is_file(path))
      paths.insert(config.empty() ? paths.end() : paths.end() - 1, path);
  }
  for (const auto& path : paths) {
    if (const auto read = read_settings(path, settings); !read) return read.problem();
  }
  const auto checked = guarded("settings", [&] {
    check_needs_of_checks(settings);
    return true;
  });
  if (!checked) return checked.problem();
  return settings;
}

}  // namespace coctilis::survey
