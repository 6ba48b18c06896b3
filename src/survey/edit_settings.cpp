#include "survey/edit_settings.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {

namespace {

class EditReader : TomlReader {
 public:
  using TomlReader::TomlReader;

  void read(const toml::table& t, model::Settings& settings) const {
    model::Edit out;
    out.place = place(t);
    bool replaced = false;
    section(t, "edit",
            {{"file", [&](auto& n) { out.file = string(n, "file"); }},
             {"pattern", [&](auto& n) { out.pattern = string(n, "pattern"); }},
             {"replacement", [&](auto& n) {
                out.replacement = string(n, "replacement");
                replaced = true;
              }}});
    if (out.file.empty() || out.pattern.empty() || !replaced)
      wrong(t, "an [[edit]] needs file, pattern and replacement",
            "write file = \"conf/yard.h\", pattern = \"PORT [0-9]+\", replacement = \"PORT 8080\"");
    const std::string plain = std::filesystem::path(out.file).lexically_normal().string();
    if (out.file.starts_with('/') || plain == ".." || plain.starts_with("../"))
      wrong(t, "the file of an [[edit]] is one of the tree", "name it as it is called from the tree's top");
    out.file = plain;
    const RE2 pattern("(?m)" + out.pattern, RE2::Quiet);
    if (!pattern.ok())
      wrong(t, "'" + text::printable_line(out.pattern) + "' is no regular expression: " + pattern.error(),
            "write it as RE2 takes it; in single quotes TOML leaves backslashes alone");
    std::string error;
    if (!pattern.CheckRewriteString(out.replacement, &error))
      wrong(t, "the replacement '" + text::printable_line(out.replacement) + "' does not go with the pattern: " + error,
            "\\1 stands for the first group of the pattern, \\\\ for a backslash");
    settings.edits.push_back(std::move(out));
  }
};

}  // namespace

void read_edit(const std::string& path, const toml::table& table, model::Settings& settings) {
  EditReader(path).read(table, settings);
}

}  // namespace coctilis::survey
