#include "describe/listfile/lower/generated_files.h"

#include <algorithm>

#include "base/files.h"

namespace coctilis::describe::listfile::lower {

namespace {

void add(const GeneratedFile& file, const ExpressionContext& here, const Expressions& expressions,
         const std::string& binary_root, std::vector<model::WrittenFile>& own) {
  if (!file.condition.text.empty() && expressions.evaluate(file.condition.text, here) != "1") return;
  model::WrittenFile planned{files::absolute(expressions.evaluate(file.path.text, here), file.path.folder),
                             expressions.evaluate(file.content.text, here), file.executable};
  if (!files::is_below(planned.path, binary_root)) {
    throw Fault({Exit::description,
                 file.path.place,
                 "the description writes to '" + planned.path + "', outside its output folder",
                 "",
                 "only the output folder is written to",
                 {}});
  }
  const auto known =
      std::find_if(own.begin(), own.end(), [&](const auto& other) { return other.path == planned.path; });
  if (known == own.end()) {
    own.push_back(std::move(planned));
  } else if (known->content != planned.content) {
    throw Fault({Exit::description,
                 file.path.place,
                 "'" + files::below(planned.path, binary_root) + "' is to be made with two texts",
                 "the path is the same for both",
                 "tell them apart by an expression in OUTPUT",
                 {}});
  }
}

}  // namespace

void lower_generated_files(const Declared& project, const Expressions& expressions, model::Build& build) {
  for (const auto& file : project.generated_files) {
    ExpressionContext here;
    here.place = file.path.place;
    if (!file.target.empty()) {
      here.target = project.target(file.target);
      if (here.target == nullptr)
        throw Fault({Exit::description,
                     file.path.place,
                     "the file is to be made for '" + file.target + "', which is no target",
                     {},
                     "check the name",
                     {}});
    }
    // One for each language that the words tell apart.
    std::vector<std::string> languages = {""};
    for (const auto* text : {&file.path.text, &file.content.text, &file.condition.text}) {
      if (text->find("$<COMPILE_LANG") != std::string::npos) languages = project.languages;
    }
    std::vector<model::WrittenFile> own;
    for (const auto& language : languages) {
      here.language = language;
      add(file, here, expressions, project.binary_root, own);
    }
    build.files.insert(build.files.end(), own.begin(), own.end());
  }
}

}  // namespace coctilis::describe::listfile::lower
