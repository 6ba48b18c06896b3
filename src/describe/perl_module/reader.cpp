#include "describe/perl_module/reader.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/script_modules.h"
#include "survey/survey.h"

namespace coctilis::describe::perl_module {

namespace {

// The names of scripts, the first that is there counts.
constexpr const char* script_names[] = {"Makefile.PL", "Build.PL"};
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
    DescribingScript script;
    script.name = name_;
    script.interpreter = perl_ = script_interpreter("perl", name_, request_);
    users_folders_ = users_variable("PERL5LIB");
    script.environment = {{"PERL5LIB", put_script_modules("makefile_pl", request_.work) + ":." +
                                           (users_folders_.empty() ? "" : ":" + users_folders_)},
                          {"PERL_MM_USE_DEFAULT", "1"},
                          {"PERL_USE_UNSAFE_INC", "1"}};
    script.makefile = "Makefile";
    script.said = [this](const std::string& output) { keep_modules(output); };
    script.failed = [this](const Problem& problem, const std::string& output) { fail(problem, output); };
    auto project = read_by_script(script, request_);
    add_tests(project, request_.work + "/" + folder_);
    return project;
  }

 private:
  // A module that it asked for.
  [[nodiscard]] model::Finding finding_of(const std::string& module, bool found, const std::string& reason) const {
    return module_finding(module, name_, "module of Perl", found, reason, package_of_module(module), request_);
  }

  // What it asked for that is no library: other modules.
  void keep_modules(const std::string& output) {
    for (const auto& asked : asked_modules(output)) {
      auto finding = finding_of(asked.name, asked.answer == "yes",
                                asked.answer == "no" ? "it is in none of the folders of modules" : asked.answer);
      if (!finding.found)
        lacking_ += (lacking_.empty() ? "" : ", ") + finding.requirement.name +
                    (finding.package.empty() ? "" : " (package " + finding.package + ")");
      request_.locator.keep(std::move(finding));
    }
  }

  [[noreturn]] void fail(Problem problem, const std::string& output) {
    if (const std::string module = module_not_found_in(output); !module.empty())
      lacks(finding_of(module, false, script_ + " loads it, and it is in none of the folders of modules"), name_,
            request_);
    if (output.find("error: perl.h is not there") == std::string::npos) {
      problem.place = {name_, 0, 0};
      throw Fault(problem);
    }
    model::Finding finding;
    finding.requirement = {model::RequirementKind::header, "perl.h", {}, true, name_, {name_, 0, 0}, {}};
    finding.reason = "the headers of the language are not there";
    finding.package = "libperl-dev";
    lacks(std::move(finding), name_, request_);
  }

  // What a test's first line wants of the interpreter that can only be said where it is started (perlrun(1), "-T").
  static std::vector<std::string> switches_of(const std::string& path) {
    static const RE2 first(R"(^#!.*\bperl\S*((?:\s+-\w+)*))");
    static const RE2 cluster("-[TtwWU]+");
    std::vector<std::string> out;
    std::string words;
    const std::string content = files::read_beginning(path, 4096);
    if (!RE2::PartialMatch(content.substr(0, content.find('\n')), first, &words)) return out;
    for (auto& word : text::words(words)) {
      if (RE2::FullMatch(word, cluster)) out.push_back(std::move(word));
    }
    return out;
  }

  // Lines of what the script's folder has, and those below: "folder<tab>test". What was made lies at the top.
  void add_tests(model::Project& project, const std::string& work) const {
    project.recipe_tests.clear();
    for (const auto& line : text::split(files::read(work + "Makefile.tests").value_or(""), '\n')) {
      const auto tab = line.find('\t');
      if (tab == std::string::npos) continue;
      const std::string folder = files::absolute(line.substr(0, tab), work);
      const std::string test_file = files::absolute(line.substr(tab + 1), folder);
      const std::string top = work.substr(0, work.size() - 1);
      if (!files::is_below(folder, top) || !files::is_below(test_file, top)) continue;
      model::TestCase test;
      test.name = files::below(test_file, top);
      test.command = {perl_};
      for (auto& word : switches_of(test_file)) test.command.push_back(std::move(word));
      for (const char* made : {"/blib/lib", "/blib/arch"})
        test.command.push_back("-I" + files::relative(top + made, folder));
      test.command.push_back(files::relative(test_file, folder));
      test.folder = folder;
      test.environment["PERL_DL_NONLAZY"] = "1";
      test.environment["PERL_USE_UNSAFE_INC"] = "1";
      test.environment["PERL5LIB"] = users_folders_.empty() ? std::nullopt : std::optional(users_folders_);
      test.limit_seconds = 600;
      test.test_lines = true;
      test.place = {folder_ + test.name, 0, 0};
      if (!lacking_.empty()) test.not_followed = "it may need what is not there: " + lacking_;
      project.recipe_tests.push_back(std::move(test));
    }
  }

  const ReadRequest& request_;
  const std::string name_;    // of the script, from the tree
  const std::string script_;  // without its folder
  const std::string folder_;  // of it, from the tree, with the slash; empty at the top
  std::string perl_;
  std::string users_folders_;  // of modules: PERL5LIB
  std::string lacking_;        // modules that it asked for in vain
};

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading what a module of Perl says", [&] { return Module(request).read(); });
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
