#include "describe/perl_module/reader.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/embedded.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/configure/reader.h"
#include "describe/makefile/reader.h"
#include "describe/mirror.h"
#include "survey/survey.h"

namespace coctilis::describe::perl_module {

namespace {

// The names of scripts, the first that is there counts.
constexpr const char* script_names[] = {"Makefile.PL", "Build.PL"};
// Beside the mirror's own files; nobody's tree has such names.
constexpr const char* starter_name = "makefile-pl.sh";
constexpr const char* modules_folder = ".makefile-pl";
constexpr std::uint64_t most_bytes = 4U << 20U;
constexpr std::size_t most_entries = 20000;

bool is_compiled(const std::string& name) { return name.ends_with(".xs") || name.ends_with(".c"); }

// Whether anything in the tree is compiled: without it a module is no business of this program.
bool has_compiled_part(const std::string& folder) {
  std::error_code error;
  std::size_t seen = 0;
  for (auto it = std::filesystem::recursive_directory_iterator(folder, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    if (++seen > most_entries) return false;
    const std::string name = it->path().filename().string();
    if (it->is_directory(error) && (name.starts_with('.') || name == "t" || survey::is_kiln(it->path().string())))
      it.disable_recursion_pending();
    else if (is_compiled(name) && (name.ends_with(".xs") || it.depth() == 0))
      return true;
  }
  return false;
}

bool is_module(const std::string& path) {
  const std::string name = std::filesystem::path(path).filename().string();
  if (std::find(std::begin(script_names), std::end(script_names), name) == std::end(script_names)) return false;
  const std::string content = files::read_beginning(path, most_bytes);
  static constexpr const char* words[] = {"WriteMakefile", "WriteAll", "Module::", "ExtUtils::MakeMaker"};
  return std::any_of(std::begin(words), std::end(words),
                     [&](const char* word) { return content.find(word) != std::string::npos; }) &&
         has_compiled_part(path.substr(0, path.rfind('/')));
}

class Module {
 public:
  explicit Module(const ReadRequest& request)
      : request_(request),
        name_(files::below(request.file, request.survey.tree)),
        script_(std::filesystem::path(name_).filename().string()),
        folder_(name_.substr(0, name_.size() - script_.size())) {}

  model::Project read() {
    find_language();
    if (auto mirrored = mirror(request_.survey.tree, request_.work, request_.services.made_by_step); !mirrored)
      throw Fault(mirrored.problem());
    const std::string work = request_.work + "/" + folder_;
    const std::string modules = work + modules_folder;
    for (const char* name : {"/ExtUtils/MakeMaker.pm", "/Module/Build.pm", "/Module/Build/Tiny.pm"}) {
      files::make_folder(std::filesystem::path(modules + name).parent_path());
      // Whichever is loaded, it is all in one file.
      files::write_if_different(modules + name, name == std::string_view("/ExtUtils/MakeMaker.pm")
                                                    ? std::string(write_makefile())
                                                    : "require ExtUtils::MakeMaker; 1;\n");
    }
    files::write_if_different(work + starter_name, "#!/bin/sh\n# from " + inputs() +
                                                       "\nrm -f Makefile Makefile.tests\nexec '" + perl_ + "' " +
                                                       script_ + " \"$@\"\n");
    auto environment = request_.locator.environment();
    const auto before = environment.find("PERL5LIB");
    environment["PERL5LIB"] = modules + ":." + (before == environment.end() ? "" : ":" + before->second);
    environment["PERL_MM_USE_DEFAULT"] = "1";
    environment["PERL_USE_UNSAFE_INC"] = "1";
    request_.locator.set_environment(environment);
    auto ran = configure::run_script(folder_ + starter_name, request_);
    const std::string output =
        files::read(std::filesystem::path(request_.work).parent_path().string() + "/configure.log").value_or("");
    keep_modules(output);
    if (!ran) fail(ran.problem(), output);
    if (!files::is_file(work + "Makefile"))
      throw Fault({Exit::description,
                   {name_, 0, 0},
                   "it ends without a word on how the module is built",
                   text::printable_line(text::clip(std::string(text::trim(output)), 300)),
                   "it may not support this system: see what it says",
                   {}});
    auto project = makefile::read_in_mirror(folder_ + "Makefile", request_, environment);
    if (!project) throw Fault(project.problem());
    project->name = std::filesystem::path(request_.survey.tree).filename().string();
    project->read_files.push_back(request_.file);
    for (auto& warning : ran->warnings) project->warnings.push_back(std::move(warning));
    add_tests(*project, work);
    return std::move(*project);
  }

 private:
  // The interpreter, which also compiles against its own headers.
  void find_language() {
    model::Requirement want;
    want.kind = model::RequirementKind::program;
    want.name = "perl";
    want.required_by = name_;
    want.place = {name_, 0, 0};
    const auto finding = request_.locator.program(want, {"perl"}, {});
    request_.locator.keep(finding);
    if (!finding.found) throw Fault({Exit::missing, {name_, 0, 0}, "the module needs perl", {}, {}, {}});
    perl_ = finding.where;
  }

  static std::string_view write_makefile() {
    for (const auto& file : embedded::data_tables) {
      if (file.path == "makefile_pl/WriteMakefile.pm") return file.content;
    }
    return {};
  }

  // All of the tree that the script may look at: which files there are, and what stands in those that are not compiled.
  [[nodiscard]] std::string inputs() const {
    const std::string tree = request_.survey.tree + "/" + folder_;
    std::vector<std::string> paths;
    std::error_code error;
    observe::entries(tree);
    for (auto it = std::filesystem::recursive_directory_iterator(tree, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      const std::string name = it->path().filename().string();
      if (!it->is_directory(error)) {
        paths.push_back(it->path().string());
      } else if (name == ".git" || survey::is_kiln(it->path().string())) {
        it.disable_recursion_pending();
      } else {
        observe::entries(it->path().string());
      }
    }
    std::sort(paths.begin(), paths.end());
    std::string all(write_makefile());
    if (const auto hash = hash_file(perl_)) all += hash->text();
    for (const auto& path : paths) {
      all += "\n" + path;
      if (is_compiled(path) || path.ends_with(".h") || path.ends_with(".t")) continue;
      const auto hash = hash_file(path);
      all += " " + (hash ? hash->text() : "");
    }
    return hash_bytes(all).text();
  }

  // What it asked for that is no library: other modules.
  void keep_modules(const std::string& output) {
    for (const auto& check : configure::checks_in(output)) {
      if (!check.name.starts_with("module ")) continue;
      model::Finding finding;
      finding.requirement.kind = model::RequirementKind::package;
      finding.requirement.name = check.name.substr(7);
      finding.requirement.required = false;
      finding.requirement.required_by = name_;
      finding.requirement.place = {name_, 0, 0};
      finding.how = "module of Perl";
      finding.found = check.answer == "yes";
      if (!finding.found) {
        finding.reason = check.answer == "no" ? "it is in none of the folders of modules" : check.answer;
        const std::string package = package_of_module(finding.requirement.name);
        if (request_.locator.packages().available(package)) finding.package = package;
        lacking_ += (lacking_.empty() ? "" : ", ") + finding.requirement.name +
                    (finding.package.empty() ? "" : " (package " + finding.package + ")");
      }
      request_.locator.keep(std::move(finding));
    }
  }

  [[noreturn]] void fail(Problem problem, const std::string& output) {
    model::Finding finding;
    finding.requirement.required_by = name_;
    finding.requirement.place = {name_, 0, 0};
    finding.how = "module of Perl";
    std::string header;
    static const RE2 no_header(R"((?m)^error: (perl\.h) is not there)");
    if (const std::string module = module_not_found_in(output); !module.empty()) {
      finding.requirement.kind = model::RequirementKind::package;
      finding.requirement.name = module;
      finding.reason = script_ + " loads it, and it is in none of the folders of modules";
      const std::string package = package_of_module(module);
      if (request_.locator.packages().available(package)) finding.package = package;
    } else if (RE2::PartialMatch(output, no_header, &header)) {
      finding.requirement.kind = model::RequirementKind::header;
      finding.requirement.name = header;
      finding.reason = "the headers of the language are not there";
      finding.package = "libperl-dev";
    } else {
      problem.place = {name_, 0, 0};
      throw Fault(problem);
    }
    const std::string what = finding.requirement.name;
    request_.locator.keep(std::move(finding));
    throw Fault({Exit::missing, {name_, 0, 0}, "the module needs what is not there: " + what, {}, {}, {}});
  }

  // What a test's first line wants of the interpreter that can only be said where it is started.
  static std::vector<std::string> switches_of(const std::string& path) {
    static const RE2 first(R"(^#!.*\bperl\S*\s+(-[A-Za-z].*))");
    std::vector<std::string> out;
    std::string words;
    const std::string content = files::read_beginning(path, 4096);
    if (!RE2::PartialMatch(content.substr(0, content.find('\n')), first, &words)) return out;
    for (const auto& word : text::words(words)) {
      if (!word.starts_with('-')) continue;
      for (const char letter : {'T', 't', 'w'}) {
        if (word.find(letter) != std::string::npos) out.push_back(std::string("-") + letter);
      }
    }
    return out;
  }

  void add_tests(model::Project& project, const std::string& work) const {
    project.recipe_tests.clear();
    for (const auto& line : text::split(files::read(work + "Makefile.tests").value_or(""), '\n')) {
      if (line.empty() || !files::is_below(files::absolute(line, work), request_.work)) continue;
      model::TestCase test;
      test.name = line;
      test.command = {perl_};
      for (auto& word : switches_of(work + line)) test.command.push_back(std::move(word));
      for (const auto& word : {std::string("-Iblib/lib"), std::string("-Iblib/arch"), line})
        test.command.push_back(word);
      test.folder = work;
      test.folder.pop_back();
      test.environment["PERL_DL_NONLAZY"] = "1";
      test.environment["PERL_USE_UNSAFE_INC"] = "1";
      test.environment["PERL5LIB"] = std::nullopt;
      test.limit_seconds = 600;
      test.test_lines = true;
      test.place = {folder_ + line, 0, 0};
      if (!lacking_.empty()) test.not_followed = "it may need what is not there: " + lacking_;
      project.recipe_tests.push_back(std::move(test));
    }
  }

  const ReadRequest& request_;
  const std::string name_;    // of the script, from the tree
  const std::string script_;  // without its folder
  const std::string folder_;  // of it, from the tree, with the slash; empty at the top
  std::string perl_;
  std::string lacking_;  // modules that it asked for in vain
};

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading Makefile.PL", [&] { return Module(request).read(); });
}

}  // namespace

std::string package_of_module(const std::string& module) {
  return "lib" + text::lower(text::replace_all(module, "::", "-")) + "-perl";
}

std::string module_not_found_in(const std::string& output) {
  static const RE2 form(R"((?m)^Can't locate ([A-Za-z_][\w/]*)\.pm in @INC)");
  std::string path;
  return RE2::PartialMatch(output, form, &path) ? text::replace_all(path, "/", "::") : std::string{};
}

Reader reader() {
  Reader out;
  out.format = {script_names[0], {{script_names[0], 3}, {script_names[1], 3}}, true, is_module, {}};
  out.format.counts = is_module;
  // A Makefile.PL beside a Build.PL says the same to more readers.
  out.format.among = [](const std::string& path) { return path.ends_with(script_names[0]) ? 0 : 1; };
  out.runs_recipes = true;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::perl_module
