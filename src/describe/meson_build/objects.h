// The kinds of objects that meson.build files work with.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "describe/meson_build/value.h"
#include "model/build.h"
#include "model/requirement.h"

namespace coctilis::describe::meson_build {

struct Target;
struct CustomTarget;
struct Dependency;

// A value that makes whatever it is given to nothing.
struct Disabler : Object {
  [[nodiscard]] const char* kind() const override { return "a disabler"; }
};

// The object by the name `meson`, by which a description asks about its own run.
struct Surroundings : Object {
  [[nodiscard]] const char* kind() const override { return "'meson'"; }
};

struct Feature : Object {
  enum class State { enabled, automatic, disabled };
  State state = State::automatic;
  std::string name;
  Feature(State state_, std::string name_) : state(state_), name(std::move(name_)) {}
  [[nodiscard]] const char* kind() const override { return "a feature"; }
};

struct Machine : Object {
  std::string system = "linux";
  std::string processor;  // "x86_64", "aarch64": what others call the family
  std::string byte_order = "little";
  [[nodiscard]] const char* kind() const override { return "a machine"; }
};

struct CompilerObject : Object {
  std::string language;  // "C", "C++", "Fortran"
  [[nodiscard]] const char* kind() const override { return "a compiler"; }
};

struct File : Object {
  std::string path;  // absolute
  explicit File(std::string path_) : path(std::move(path_)) {}
  [[nodiscard]] const char* kind() const override { return "a file"; }
};

struct IncludeFolders : Object {
  std::vector<std::string> folders;  // absolute: of the sources, each with that among the results
  bool system = false;
  [[nodiscard]] const char* kind() const override { return "include folders"; }
};

struct Program : Object {
  std::string name;
  bool found = false;
  std::vector<std::string> command;  // what starts it; absolute
  std::shared_ptr<Target> target;    // when the tree builds it
  std::string version;
  // Of one that is required and not there: what was looked for, whether anything is made by it, and whether anything
  // but documents is.
  std::optional<model::Finding> missing;
  bool used = false;
  bool needed = false;
  [[nodiscard]] const char* kind() const override { return "a program"; }
};

// An interpreter of Python with what extension modules for it need.
struct PythonProgram : Program {
  std::string version_short;                // "3.11"
  std::string suffix;                       // of extension modules, ".cpython-311-x86_64-linux-gnu.so"
  std::string packages, platform_packages;  // where modules are installed, from the prefix
  std::map<std::string, std::string> paths;
  std::map<std::string, std::string> variables;
  [[nodiscard]] const char* kind() const override { return "a Python installation"; }
};

// Something that has sources, flags and libraries for its users; from outside or of the tree.
struct Dependency : Object {
  std::string name;
  bool found = false;
  std::string version;
  const char* by = "library";  // "pkgconfig", "library", "internal", "system": as its type_name() tells
  std::string module_file;     // its .pc file, absolute; empty: it has none
  model::Usage usage;          // of one from outside
  std::map<std::string, std::string> variables;
  // Of one that the description declares.
  std::vector<std::shared_ptr<IncludeFolders>> include;
  std::vector<std::string> compile_arguments;
  std::vector<std::string> link_arguments;
  std::vector<Value> link_with, link_whole;  // targets
  std::vector<Value> sources;                // files and what makes them, for whoever uses it
  std::vector<std::shared_ptr<Dependency>> needs;
  int depth = 0;  // of dependencies in dependencies
  [[nodiscard]] const char* kind() const override { return "a dependency"; }
};

// Something that is compiled.
struct Target : Object {
  std::string name;
  model::TargetKind what = model::TargetKind::program;
  std::string unit;           // its name among the units
  std::string folder;         // absolute: where it is declared
  std::string result_folder;  // absolute
  model::UnitResult result;
  std::vector<Value> sources;  // texts are paths from `folder`
  std::vector<Value> objects;
  std::vector<std::shared_ptr<IncludeFolders>> include;
  bool implicit_include = true;
  std::map<std::string, std::vector<std::string>> arguments;  // by language
  std::vector<std::string> link_arguments;
  std::vector<std::string> link_depends;     // absolute
  std::vector<Value> link_with, link_whole;  // targets
  std::vector<std::shared_ptr<Dependency>> needs;
  std::string visibility;
  std::string standards[3];  // of C, C++, Fortran: "gnu11"; empty: none
  bool independent = false;  // of its position
  bool program_independent = false;
  bool warnings_are_errors = false;
  int warning_level = 1;
  bool exports_symbols = false;
  bool by_default = true;
  bool installed = false;
  std::string installed_in;  // from the prefix, or absolute
  unsigned install_mode = 0;
  std::vector<std::string> run_path;        // once it is installed
  std::vector<std::string> build_run_path;  // until then
  std::vector<std::string> first_headers;
  std::string start_with_language;  // `link_language`
  // Of its (sub)project, as they were when it was declared: by language.
  std::map<std::string, std::vector<std::string>> project_arguments, project_link_arguments;
  std::vector<std::string> first_options, first_link_options;
  std::shared_ptr<Target> other;  // of two libraries with one name the other one
  int depth = 0;                  // of targets that are linked into targets
  Place place;
  [[nodiscard]] const char* kind() const override { return "a target"; }
};

// Objects of another target.
struct ExtractedObjects : Object {
  std::shared_ptr<Target> of;
  bool all = true;
  bool with_extracted = false;
  std::vector<std::string> sources;  // absolute, when it is not all
  [[nodiscard]] const char* kind() const override { return "objects of a target"; }
};

// Files that commands make while the tree is built.
struct CustomTarget : Object {
  std::string name;
  std::string folder;                // absolute: among the results
  std::vector<std::string> outputs;  // absolute
  [[nodiscard]] const char* kind() const override { return "a custom target"; }
};

// One of the files of a custom target.
struct CustomOutput : Object {
  std::shared_ptr<CustomTarget> of;
  std::string path;  // absolute
  [[nodiscard]] const char* kind() const override { return "a file of a custom target"; }
};

struct RunTarget : Object {
  std::string name;
  [[nodiscard]] const char* kind() const override { return "a target that is run"; }
};

struct ConfigurationData : Object {
  std::vector<std::pair<std::string, Value>> values;
  std::map<std::string, std::string> descriptions;
  [[nodiscard]] const char* kind() const override { return "configuration data"; }
  void set(const std::string& name, Value value);
};

struct EnvironmentObject : Object {
  std::map<std::string, std::string> values;
  std::vector<std::string> unset;
  [[nodiscard]] const char* kind() const override { return "an environment"; }
};

struct RunResult : Object {
  bool compiled = true;
  int code = 0;
  std::string output, errors;
  [[nodiscard]] const char* kind() const override { return "the result of a run"; }
};

struct Generator : Object {
  Value program;
  std::vector<std::string> outputs, arguments;
  std::string dependency_file;
  bool capture = false;
  std::vector<Value> depends;
  [[nodiscard]] const char* kind() const override { return "a generator"; }
};

struct SourceSet : Object {
  struct Rule {
    std::vector<Value> when;     // names of configuration data, or dependencies
    std::vector<Value> if_true;  // sources and dependencies
    std::vector<Value> if_false;
    std::vector<std::shared_ptr<SourceSet>> sets;
  };
  std::vector<Rule> rules;
  [[nodiscard]] const char* kind() const override { return "a source set"; }
};

struct SourceChoice : Object {
  std::vector<Value> sources, dependencies;
  [[nodiscard]] const char* kind() const override { return "a choice of sources"; }
};

struct Module : Object {
  std::string name;
  bool found = true;
  [[nodiscard]] const char* kind() const override { return "a module"; }
};

// One (sub)project as those that use it see it.
struct ProjectScope;
struct SubprojectObject : Object {
  std::shared_ptr<ProjectScope> scope;  // null: it is not there
  [[nodiscard]] const char* kind() const override { return "a subproject"; }
};

}  // namespace coctilis::describe::meson_build
