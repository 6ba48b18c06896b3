#include "describe/python_module/reader.h"

#include <re2/re2.h>

#include <filesystem>

#include "base/files.h"
#include "base/text.h"
#include "describe/script_modules.h"

namespace coctilis::describe::python_module {

namespace {

constexpr const char* script_name = "setup.py";
constexpr std::uint64_t most_bytes = 4U << 20U;
constexpr int cannot_be_said = 77;  // exit code of data/setup_py/try_modules.py

// Whether it speaks of anything that is compiled: without it a module is no business of this program.
bool is_extension(const std::string& path) {
  if (!path.ends_with(std::string("/") + script_name)) return false;
  const std::string content = files::read_beginning(path, most_bytes);
  static const RE2 calls(R"(\bsetup\s*\()");
  static const RE2 compiles(R"(\bext_modules\b|\bcffi_modules\b|Extension\s*\(|\bcythonize\s*\()");
  return RE2::PartialMatch(content, calls) && RE2::PartialMatch(content, compiles);
}

class Module {
 public:
  explicit Module(const ReadRequest& request)
      : request_(request),
        name_(files::below(request.file, request.survey.tree)),
        folder_(name_.substr(0, name_.size() - std::string_view(script_name).size())) {}

  model::Project read() {
    DescribingScript script;
    script.name = name_;
    script.interpreter = python_ = script_interpreter("python3", name_, request_);
    modules_ = put_script_modules("setup_py", request_.work);
    users_folders_ = users_variable("PYTHONPATH");
    script.environment = {{"PYTHONPATH", modules_ + (users_folders_.empty() ? "" : ":" + users_folders_)},
                          {"PYTHONDONTWRITEBYTECODE", "1"},
                          // Else the language puts yet others in the place of ours.
                          {"SETUPTOOLS_USE_DISTUTILS", "stdlib"}};
    script.makefile = "Makefile.setup";
    script.said = [this](const std::string& output) { keep_modules(output); };
    script.failed = [this](const Problem& problem, const std::string& output) { fail(problem, output); };
    auto project = read_by_script(script, request_);
    add_tests(project, request_.work + "/" + folder_);
    return project;
  }

 private:
  [[nodiscard]] model::Finding finding_of(const std::string& module, bool found, const std::string& reason) const {
    return module_finding(module, name_, "module of Python", found, reason, package_of_module(module), request_);
  }

  void keep_modules(const std::string& output) {
    for (const auto& asked : asked_modules(output))
      request_.locator.keep(finding_of(asked.name, asked.answer == "yes", "it is in none of the folders of modules"));
  }

  [[noreturn]] void fail(Problem problem, const std::string& output) {
    static const RE2 lacking(R"((?m)^error: (Python\.h|cython3|swig) is not there)");
    std::string what;
    if (RE2::PartialMatch(output, lacking, &what)) {
      const bool is_header = what == "Python.h";
      model::Finding finding;
      finding.requirement = {is_header ? model::RequirementKind::header : model::RequirementKind::program,
                             what,
                             {},
                             true,
                             name_,
                             {name_, 0, 0},
                             {}};
      finding.reason = is_header ? "the headers of the language are not there" : "sources are made by it";
      finding.package = is_header ? "libpython3-dev" : what;
      lacks(std::move(finding), name_, request_);
    }
    if (const std::string module = module_not_found_in(output); !module.empty())
      lacks(finding_of(module, false, "setup.py loads it, and it is in none of the folders of modules"), name_,
            request_);
    problem.place = {name_, 0, 0};
    throw Fault(problem);
  }

  // Lines of what the script wrote: "load<tab>MODULE" or "test<tab>NAME".
  void add_tests(model::Project& project, const std::string& work) const {
    project.recipe_tests.clear();
    for (const auto& line : text::split(files::read(work + "Makefile.setup.tests").value_or(""), '\n')) {
      const auto tab = line.find('\t');
      if (tab == std::string::npos) continue;
      const std::string what = line.substr(0, tab);
      model::TestCase test;
      test.name = what + " " + line.substr(tab + 1);
      test.command = {python_, modules_ + "/try_modules.py", what, line.substr(tab + 1)};
      test.folder = work.substr(0, work.size() - 1);
      test.environment["PYTHONPATH"] = users_folders_.empty() ? std::nullopt : std::optional(users_folders_);
      test.environment["PYTHONDONTWRITEBYTECODE"] = "1";
      test.limit_seconds = 600;
      test.skip_code = cannot_be_said;
      test.place = {name_, 0, 0};
      project.recipe_tests.push_back(std::move(test));
    }
  }

  const ReadRequest& request_;
  const std::string name_;    // of the script, from the tree
  const std::string folder_;  // of it, from the tree, with the slash; empty at the top
  std::string python_;
  std::string modules_;        // the folder of ours
  std::string users_folders_;  // of modules: PYTHONPATH
};

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading what a setup.py says", [&] { return Module(request).read(); });
}

}  // namespace

std::string package_of_module(const std::string& module) {
  return "python3-" + text::lower(text::replace_all(module, "_", "-"));
}

std::string module_not_found_in(const std::string& output) {
  static const RE2 form(R"((?m)^ModuleNotFoundError: No module named '(\w+))");
  std::string name;
  return RE2::PartialMatch(output, form, &name) ? name : std::string{};
}

Reader reader() {
  Reader out;
  // One beside a configure script is a part of it: the script comes first by its name.
  out.format = {script_name, {{script_name, 4}}, true, is_extension, {}};
  out.format.counts = is_extension;
  out.runs_recipes = true;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::python_module
