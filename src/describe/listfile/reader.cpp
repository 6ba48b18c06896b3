#include "describe/listfile/reader.h"

#include <re2/re2.h>

#include "base/file_stamp.h"
#include "base/files.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/names.h"
#include "describe/mirror.h"
#include "describe/tree_copy.h"

namespace coctilis::describe::listfile {

namespace {

// What the description names beside the tree ("../common/lists.cmake") is seen beside the copy as well, by a link: as
// long as nothing of the kiln has that name. One folder up only.
void link_neighbours(const std::string& tree, const std::string& copy) {
  static const RE2 up(R"(\.\./([A-Za-z0-9_][A-Za-z0-9_.+-]*))");
  const std::string around = std::filesystem::path(tree).parent_path().string();
  const std::string beside = std::filesystem::path(copy).parent_path().string();
  for (const auto& name : mirrored_files(copy)) {
    if (!name.ends_with("CMakeLists.txt") && !name.ends_with(".cmake")) continue;
    const std::string text = files::read(copy + "/" + name).value_or("");
    re2::StringPiece rest(text);
    std::string neighbour;
    while (RE2::FindAndConsume(&rest, up, &neighbour)) {
      const std::string there = around + "/" + neighbour;
      if (there == tree || !files::exists(there)) continue;
      std::error_code error;  // a name that is taken stays what it is
      std::filesystem::create_symlink(there, beside + "/" + neighbour, error);
    }
  }
}

}  // namespace

Result<model::Project> read(const std::string& file, const model::Survey& survey, locate::Locator& locator,
                            const std::string& work, const Services& services, const Limits& limits) {
  return guarded("reading CMakeLists.txt", [&] {
    const std::string copy = copy_of(work);
    // Whoever wants all done anew gets to know whether it is still so.
    if (locator.settings().rerun) forget_copy(work);
    if (!is_copy_needed(work)) {
      try {
        return Evaluator(locator, survey, work, limits).run(file);
      } catch (const NeedsCopy& needed) {
        use_copy(work, needed.why);
      }
    }
    if (auto mirrored = mirror(survey.tree, copy, services.made_by_step); !mirrored) throw Fault(mirrored.problem());
    link_neighbours(survey.tree, copy);
    model::Survey of_copy = survey;
    of_copy.tree = copy;
    const std::int64_t began = file_clock();
    Evaluator evaluator(locator, of_copy, work, limits);
    evaluator.in_copy = true;
    auto project = evaluator.run(copy + "/" + files::below(file, survey.tree));
    Given::note_since(copy, began);  // what reading has written there stays
    for (auto& read : project.read_files) {
      if (files::is_below(read, copy)) read = survey.tree + "/" + files::below(read, copy);
    }
    if (auto why = why_copy(work); !why.what.empty()) project.warnings.push_back(std::move(why));
    return project;
  });
}

Result<std::vector<std::string>> run_script(const std::string& file, const std::string& folder,
                                            const std::vector<std::string>& definitions,
                                            const std::vector<std::string>& arguments, const std::string& tree,
                                            const std::string& output_root) {
  return guarded("running a script", [&] {
    const model::Toolchain none;
    const model::Settings settings;
    locate::Locator locator(none, settings);
    model::Survey survey;
    survey.tree = tree;
    Evaluator evaluator(locator, survey, output_root);
    // The output folder is that of the kiln where all of it may be written to.
    evaluator.in_copy = files::is_below(tree, output_root);
    try {
      return evaluator.run_script(files::absolute(file, folder), folder, definitions, arguments);
    } catch (const NeedsCopy& needed) {
      // Who started the script is told in words.
      throw Fault({Exit::step,
                   needed.why.place,
                   needed.why.what + ", which " + std::string(outside_output_folder),
                   {},
                   {},
                   {}});
    }
  });
}

Reader reader() {
  Reader out;
  out.format = {"CMakeLists.txt", {{"CMakeLists.txt", 1}}, true, nullptr, {"cmake", "cmake3", "ctest", "cpack"}};
  out.format.names_in = names_in;
  out.use_copy = use_copy;
  out.read = [](const ReadRequest& request) {
    // Its own folder is its tree, also when it lies further down; what is beside it can be named.
    model::Survey own = request.survey;
    own.tree = std::filesystem::path(request.file).parent_path().string();
    return read(request.file, own, request.locator, request.work, request.services);
  };
  return out;
}

}  // namespace coctilis::describe::listfile
