#include "describe/makefile/reader.h"

#include <re2/re2.h>

#include <algorithm>
#include <iterator>

#include "base/confine.h"
#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/libraries.h"
#include "describe/mirror.h"

namespace coctilis::describe::makefile {

namespace {

// Keeps the makefile for recipes that have to wait.
class Late : public model::LateRecipes {
 public:
  explicit Late(std::shared_ptr<Make> make) : make_(std::move(make)) {}
  std::vector<model::RecipeLine> lines(const model::Recipe& recipe) override { return make_->late_lines(recipe); }

 private:
  std::shared_ptr<Make> make_;
};

// Without what an outer make hands on: it is not meant for this tree.
std::map<std::string, std::string> environment_for_tree() {
  auto out = own_environment();
  std::erase_if(out, [](const auto& entry) {
    const std::string& name = entry.first;
    return name == "MAKEFLAGS" || name == "MFLAGS" || name == "MAKELEVEL" || name == "MAKEFILES" ||
           name.starts_with("COCTILIS_");
  });
  return out;
}

// What makefiles take from outside.
void set_from_outside(Call& call, const locate::Locator& locator) {
  const auto& chain = locator.toolchain();
  const auto& settings = locator.settings();
  // Only a choice of the user, or another machine, overrides what the makefile says.
  const bool chosen = !settings.toolchain.empty() || chain.foreign;
  const auto give = [&](const std::string& name, const std::string& value) {
    if (!value.empty() && !settings.options.contains(name)) call.assignments.push_back(name + "=" + value);
  };
  if (chosen) {
    for (const auto& driver : model::driver_names) give(driver.variable, chain.compiler(driver.language).path);
    give("AR", chain.archiver);
    give("RANLIB", chain.archive_indexer);
  }
  for (const auto& [name, value] : settings.options) {
    // Options of a configure script, and the listfiles' name for the prefix, are no variables.
    const bool variable =
        name.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789_.") == std::string::npos;
    if (variable && name != "CMAKE_INSTALL_PREFIX") call.assignments.push_back(name + "=" + value);
  }
  const auto variant = settings.variants.find(settings.variant);
  if (variant == settings.variants.end()) return;
  std::string options = variant->second.debug() ? "-g -O0" : "";
  for (const auto& option : variant->second.compile) options += (options.empty() ? "" : " ") + option;
  if (!options.empty()) {
    call.environment.try_emplace("CFLAGS", options);
    call.environment.try_emplace("CXXFLAGS", options);
  }
  if (!variant->second.link.empty()) call.environment.try_emplace("LDFLAGS", text::join(variant->second.link, " "));
}

// Whether what a makefile lacks lies one folder up, where it is no file that it has itself.
bool is_meant_above(const Problem& problem, const Call& call, const std::string& work) {
  static const RE2 lacks(R"(nothing makes '([^']+)')");
  std::string name;
  const std::string above = std::filesystem::path(call.folder).parent_path().string();
  return call.makefiles.size() == 1 && files::is_below(above, work) && RE2::PartialMatch(problem.what, lacks, &name) &&
         !name.starts_with('/') && files::is_file(above + "/" + name) && !files::exists(call.folder + "/" + name);
}

// Whether a make that is told no makefile takes this one.
bool is_found_by_name(const Call& call) {
  for (const char* name : {"GNUmakefile", "makefile", "Makefile"}) {
    if (files::exists(call.folder + "/" + name)) return call.makefiles.front() == name;
  }
  return false;
}

}  // namespace

Result<model::Project> read_in_mirror(const std::string& file, const ReadRequest& request,
                                      const std::map<std::string, std::string>& environment) {
  const auto& survey = request.survey;
  const auto& locator = request.locator;
  const auto& work = request.work;
  return guarded("reading a makefile", [&] {
    Call call;
    const std::string path = files::absolute(file, work);
    call.folder = std::filesystem::path(path).parent_path().string();
    call.makefiles = {std::filesystem::path(path).filename().string()};
    call.environment = environment_for_tree();
    call.writable = confinement_of(work, std::filesystem::path(work).parent_path().string()).writable;
    for (const auto& [name, value] : environment) call.environment[name] = value;
    call.output_root = work;
    call.program = environment.contains("COCTILIS_MAKE") ? environment.at("COCTILIS_MAKE") + "/bin/make" : "make";
    set_from_outside(call, locator);
    auto make = std::make_shared<Make>(call, work);
    make->run_recipes = request.services.run_recipes;
    std::vector<model::Recipe> recipes;
    try {
      make->read();
      recipes = make->recipes({});
    } catch (const Fault& fault) {
      // One that lies in a folder for its system, and is meant to be used in the folder above.
      if (!is_meant_above(fault.problem(), call, work)) throw;
      const std::string folder = std::filesystem::path(call.folder).parent_path().string();
      call.makefiles = {files::below(path, folder)};
      call.folder = folder;
      make = std::make_shared<Make>(call, work);
      make->run_recipes = request.services.run_recipes;
      make->read();
      recipes = make->recipes({});
    }
    model::Project project;
    project.name = std::filesystem::path(survey.tree).filename().string();
    project.tree = survey.tree;
    project.binary_root = work;
    project.by_recipes = true;
    for (const auto& language : survey.languages) {
      if (language.language == "C" || language.language == "C++") project.languages.push_back(language.language);
    }
    project.recipes = std::move(recipes);
    const std::size_t in_default = project.recipes.size();
    // What else can be asked for, as far as it can be worked out.
    for (const auto& name : make->targets()) {
      try {
        for (auto& recipe : make->recipes({name})) project.recipes.push_back(std::move(recipe));
      } catch (const Fault&) {
        // It is told when it is asked for by name.
      }
    }
    for (std::size_t i = 0; i < project.recipes.size(); ++i) {
      project.recipes[i].key = i;
      project.recipes[i].in_default = i < in_default;
    }
    std::vector<std::string> start = {call.program};
    if (!is_found_by_name(call)) start.insert(start.end(), {"-f", call.makefiles.front()});
    if (make->has_target("install")) {
      project.install_folder = call.folder;
      if (start.size() > 1) project.install_makefile = call.makefiles.front();
    }
    for (const char* name : {"check", "test", "tests"}) {
      if (!project.recipe_tests.empty() || !make->has_target(name)) continue;
      model::TestCase test;
      test.name = name;
      test.command = start;
      test.command.emplace_back(name);
      test.command.insert(test.command.end(), call.assignments.begin(), call.assignments.end());
      test.folder = call.folder;
      test.limit_seconds = 1800;
      project.recipe_tests.push_back(std::move(test));
    }
    for (const auto& warning : make->warnings()) project.warnings.push_back(warning);
    for (const auto& document : make->left_out()) project.left_out.push_back(document);
    project.messages = make->messages();
    for (const auto& read : make->files())
      project.read_files.push_back(files::is_below(read, work) ? survey.tree + "/" + files::below(read, work) : read);
    project.options = make->options();
    project.late = std::make_shared<Late>(make);
    return project;
  });
}

Result<model::Project> read(const ReadRequest& request) {
  const std::string& tree = request.survey.tree;
  if (auto mirrored = mirror(tree, request.work, request.services.made_by_step); !mirrored) return mirrored.problem();
  auto project = read_in_mirror(files::below(request.file, tree), request, request.locator.environment());
  if (project) {
    std::vector<model::Recipe> by_default;
    std::copy_if(project->recipes.begin(), project->recipes.end(), std::back_inserter(by_default),
                 [](const auto& recipe) { return recipe.in_default; });
    keep_libraries(by_default, request.work, request.locator);
  }
  return project;
}

Reader reader() {
  Reader out;
  // In the order in which they are looked for (POSIX.1-2024, XCU make, "-f"); then those that are written by hand for
  // systems like this one, beside those for others.
  out.format = {"Makefile",
                {{"GNUmakefile", 5},
                 {"makefile", 6},
                 {"Makefile", 7},
                 {"Makefile.linux", 10},
                 {"makefile.linux", 10},
                 {"Makefile.unix", 11},
                 {"makefile.unix", 11},
                 {"Makefile.posix", 12},
                 {"Makefile.gnu", 13},
                 {"Makefile.gcc", 14},
                 {"makefile.gcc", 14}},
                true,
                [](const std::string& path) {
                  const std::string name = text::lower(path.substr(path.rfind('/') + 1));
                  return name.ends_with(".mk") || name.starts_with("makefile") || name.starts_with("gnumakefile");
                },
                {"make", "gmake", "bmake", "pmake"}};
  out.runs_recipes = true;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::makefile
