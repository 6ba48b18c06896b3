// Evaluates meson.build files and collects what they declare.
#pragma once

#include <re2/re2.h>

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/process.h"
#include "describe/meson_build/objects.h"
#include "describe/meson_build/syntax.h"
#include "describe/read_request.h"
#include "model/project.h"

namespace coctilis::describe::meson_build {

// What a function or method is called with.
struct Arguments {
  std::string name;  // of the function or method
  std::vector<Value> positional;
  std::vector<std::pair<std::string, Value>> named;
  Place place;
  [[nodiscard]] const Value* find(const std::string& key) const;
};

// An option that a project declares.
struct DeclaredOption {
  Value value;
  std::vector<std::string> choices;  // what it can be, or what can be in it; empty: anything of its kind
  std::optional<std::int64_t> least, most;
};

// Variables, options and settings of one project or subproject.
struct ProjectScope {
  std::string name, version, license = "unknown";
  std::string folder, result_folder;  // absolute
  std::string at_folder;              // absolute: of the file that is being read
  std::map<std::string, Value> variables;
  std::map<std::string, DeclaredOption> options;
  std::vector<std::pair<std::string, std::string>> defaults;  // of options of its own, as project(...) gives them
  std::map<std::string, std::string> built_in;                // its own values of options that every project has
  std::map<std::string, std::vector<std::string>> arguments, link_arguments;  // by language
  std::vector<std::string> languages;
  bool begun = false;
  bool is_subproject = false;
  // By which options of a subproject are named: "NAME:OPTION".
  [[nodiscard]] std::string key() const { return folder.substr(folder.rfind('/') + 1); }
};

class Evaluator {
 public:
  Evaluator(const ReadRequest& request, model::Project& project, const model::Variant& variant);

  // Reads the tree's description and all below it. Throws Fault (Exit::description).
  void run();
  // What was declared, as facts.
  [[nodiscard]] model::Build lowered();

  // ---- for functions and methods
  using Function = Value (*)(Evaluator& e, Arguments& a);
  using Method = Value (*)(Evaluator& e, const std::shared_ptr<Object>& self, Arguments& a);

  [[noreturn]] void fail(const Arguments& a, const std::string& what, const std::string& remedy = {}) const;
  // The same for what this program does not know yet.
  [[noreturn]] void unknown(const Arguments& a, const std::string& what) const;
  void warn(const Place& place, const std::string& what);
  // Warns of named arguments that are none of `known`: they are not followed.
  void check_names(const Arguments& a, const std::set<std::string>& known);

  [[nodiscard]] std::string text(const Arguments& a, std::size_t index) const;  // a text, or a failure
  [[nodiscard]] std::string text_or(const Arguments& a, const std::string& key, const std::string& other = {}) const;
  [[nodiscard]] bool truth_or(const Arguments& a, const std::string& key, bool other) const;
  [[nodiscard]] std::int64_t number_or(const Arguments& a, const std::string& key, std::int64_t other) const;
  [[nodiscard]] std::vector<Value> list(const Arguments& a, const std::string& key) const;
  [[nodiscard]] std::vector<std::string> texts(const Arguments& a, const std::string& key) const;
  [[nodiscard]] std::vector<std::string> texts(const std::vector<Value>& values, const Arguments& a) const;
  // Whether something is asked for with `required`, a truth or a feature; a feature that is off makes `off`.
  struct Wanted {
    bool required = true;
    bool off = false;
  };
  [[nodiscard]] Wanted wanted(const Arguments& a) const;

  [[nodiscard]] ProjectScope& scope() const { return *scope_; }
  [[nodiscard]] const std::string& source_folder() const { return scope_->at_folder; }
  [[nodiscard]] std::string result_folder() const;  // that goes with it
  [[nodiscard]] std::string result_folder_of(const std::string& source_folder) const;
  [[nodiscard]] std::string source_path(const std::string& path) const;
  // A path among the results, for something that is written. Throws Fault where it leads out.
  [[nodiscard]] std::string result_path(const std::string& name, const Arguments& a) const;
  [[nodiscard]] std::string shown_path(const std::string& path) const;
  [[nodiscard]] Value option(const std::string& name, const Arguments& a) const;
  [[nodiscard]] std::string built_in(const std::string& name) const;
  // A place for installing, without the prefix when it lies below it; `fallback` is an option, "libdir".
  [[nodiscard]] std::string install_folder(const Arguments& a, const std::string& key,
                                           const std::string& fallback) const;
  [[nodiscard]] std::string below_prefix(const std::string& path) const;
  [[nodiscard]] Value call(const std::string& name, Arguments& a);
  void read_file(const std::string& path);
  void assign(const std::string& name, Value value) { scope_->variables[name] = std::move(value); }
  // Fails when the description has taken more steps than any does that has an end.
  void count(const Place& place, std::uint64_t steps = 1);
  // A copy of a dependency and of all that it needs, each once, as `change` makes it of what it is given.
  [[nodiscard]] std::shared_ptr<Dependency> copied(const Dependency& of, const Arguments& a,
                                                   const std::function<void(Dependency&)>& change);
  // A subproject that lies in the tree; one that is not there has no scope.
  std::shared_ptr<SubprojectObject> subproject(const std::string& name, bool required, const Arguments& a,
                                               const std::vector<std::string>& default_options);
  // Declares the options of a subproject or the tree in a file.
  void read_options(const std::string& file);
  std::shared_ptr<Program> find_program(const std::vector<Value>& names, Wanted wanted, const Arguments& a);
  std::shared_ptr<Dependency> find_dependency(const std::vector<std::string>& names, const Arguments& a);
  // While it is set, what commands are made for are documents: programs that are not there are not missed.
  bool for_documents = false;
  std::set<std::string> documents_left_out;  // absolute: files that nothing makes
  std::vector<std::shared_ptr<Program>> missing_programs;
  // Runs a command, as one whose answer counts for what is kept.
  [[nodiscard]] Ended run_command(const std::vector<std::string>& command, const std::string& folder,
                                  const std::map<std::string, std::string>& environment, const Arguments& a);
  // The words of a command of a rule, with the files that they stand for put among `inputs`. `whole`: the first is the
  // program.
  [[nodiscard]] std::vector<std::string> command_words(const std::vector<Value>& values, const Arguments& a,
                                                       std::vector<std::string>& inputs, bool whole = true);
  [[nodiscard]] std::vector<std::string> paths_of(const std::vector<Value>& values, const Arguments& a);
  [[nodiscard]] std::map<std::string, std::string> environment_of(const Value* value, const Arguments& a);
  // A rule with one command; its folders are made before.
  model::Rule& add_rule(std::vector<std::string> outputs, std::vector<std::string> command,
                        std::vector<std::string> inputs, const Arguments& a, bool capture = false,
                        const std::string& input = {});
  // A unit that stands for what `rule` needs, and may have commands: they run whenever it is asked for.
  void add_command_unit(const std::string& unit, bool by_default, model::Rule rule, const Arguments& a);
  // One that stands for files: of rules that are there, or what `always` makes each time.
  std::shared_ptr<CustomTarget> add_custom(const std::string& name, std::vector<std::string> outputs, bool by_default,
                                           const Arguments& a, model::Rule always = {});
  // `mode`: 0 for that of the call's 'install_mode', or of the file itself.
  void install_file(const std::string& from, const std::string& to, unsigned mode, const Arguments& a);
  // The permission bits of 'install_mode' ("rwxr-xr-x"); 0: it says none.
  [[nodiscard]] unsigned mode_of(const Arguments& a) const;
  // The path of a program that makes something, as a finding; empty when it is missing.
  std::string tool(const std::string& name, const Arguments& a);
  [[nodiscard]] std::string unit_name(const std::string& name);
  [[nodiscard]] std::string standard_of(const std::string& language) const;
  // "-O2 -g" and the like, of the variant that is built.
  [[nodiscard]] std::vector<std::string> variant_options() const;

  const ReadRequest& request;
  locate::Locator& locator;
  model::Project& project;
  const model::Variant& variant;
  const std::string tree, work;

  model::Build build;
  std::vector<std::shared_ptr<Target>> targets;
  std::map<std::string, std::shared_ptr<Program>> own_programs;  // that the tree says to be taken for a name
  std::map<std::string, std::shared_ptr<Dependency>> own_dependencies;
  std::map<std::string, std::shared_ptr<SubprojectObject>> subprojects;
  std::map<std::string, std::vector<std::string>> global_arguments, global_link_arguments;
  std::map<std::string, std::string> provided;         // dependency -> subproject, by files beside subprojects
  std::map<std::string, std::string> provided_name;    // dependency -> variable of that subproject
  std::map<std::string, std::string> for_subprojects;  // options that the tree sets for them: "NAME:OPTION"
  std::set<std::string> options_heeded;                // of those that the user sets: whatever has one of the name
  std::shared_ptr<ProjectScope> top;
  // After so many steps a description is taken for one without end.
  std::uint64_t most_steps = 10'000'000;

 private:
  struct LeaveLoop {};
  struct NextRound {};

  void run_statements(const std::vector<Statement>& statements);
  void run_statement(const Statement& statement);
  void run_one(const Statement& statement);
  void declare_option(const Statement& statement);
  void loop(const Statement& statement);
  [[nodiscard]] Value evaluate(const Node& node);
  [[nodiscard]] Value operation(const Node& node);
  [[nodiscard]] Value call_node(const Node& node);
  [[nodiscard]] Value method_node(const Node& node);
  [[nodiscard]] Value index_node(const Node& node);
  [[nodiscard]] bool truth(const Value& value, const Node& node);
  [[nodiscard]] std::string formatted(const std::string& text, const Node& node);
  // One value behind another, or added to it.
  [[nodiscard]] Value sum(const Value& left, const Value& right, int line);
  void grow(std::size_t by, std::size_t to, std::size_t most, int line);
  [[nodiscard]] Place place_of(int line) const { return {file_, line, 0}; }
  Arguments arguments_of(const Node& node, std::size_t first);
  [[noreturn]] void fail_at(int line, const std::string& what) const;
  void look_for_provided(const std::string& folder);

  std::shared_ptr<ProjectScope> scope_;
  std::string file_;  // as it is shown
  std::uint64_t counted_ = 0;
  std::uint64_t text_bytes_ = 0;
  int open_files_ = 0;
  std::set<std::string> unit_names_;
  std::set<std::string> open_subprojects_;
  std::size_t next_folder_ = 0;
  std::set<std::string> files_read_;

 public:
  // A folder for what a generator makes, of its own.
  [[nodiscard]] std::string next_made_folder() { return work + "/.made/" + std::to_string(next_folder_++); }
};

// Leaves the file that is being read.
struct LeaveFile {};

// What a method is called on.
using Self = const std::shared_ptr<Object>&;
using FunctionTable = std::map<std::string, Evaluator::Function>;
using MethodTable = std::map<std::string, Evaluator::Method>;

[[nodiscard]] const FunctionTable& functions();
void add_basic_functions(FunctionTable& table);
void add_target_functions(FunctionTable& table);
void add_custom_functions(FunctionTable& table);
void add_outside_functions(FunctionTable& table);
void add_install_functions(FunctionTable& table);

// The method of an object; null when it has none of the name.
[[nodiscard]] Evaluator::Method method_of(const Object& of, const std::string& name);
// Methods by kinds of objects.
[[nodiscard]] const MethodTable& compiler_methods();
[[nodiscard]] const MethodTable& module_methods(const std::string& module);  // empty: the module is not known
[[nodiscard]] const MethodTable& python_methods();
[[nodiscard]] const MethodTable& source_set_methods();
// Methods of texts, lists, dictionaries, numbers and truths. Null value of `known`: there is none of the name.
[[nodiscard]] Value plain_method(Evaluator& e, const Value& self, Arguments& a, bool& known);

// Whether a version meets all constraints: ">=1.2", "!=2"; without a sign it has to be that one.
[[nodiscard]] bool version_holds(const std::string& version, const std::vector<std::string>& constraints);

// The last part of a path, and what comes before it.
[[nodiscard]] inline std::string base_name(const std::string& path) { return path.substr(path.rfind('/') + 1); }
[[nodiscard]] inline std::string folder_of(const std::string& path) { return path.substr(0, path.rfind('/')); }

// A variable of a .pc file, with those of `defines` set to something else; nothing when it has none of the name, or
// `file` is empty.
[[nodiscard]] std::optional<std::string> variable_of_module(const std::string& file, const std::string& name,
                                                            const std::map<std::string, std::string>& defines);

// Its folders of headers are those of others from now on.
void use_system_folders(Dependency& of);

// A text in which what `place` matches is replaced by what `value` gives for its first group. Throws TooLong.
[[nodiscard]] std::string with_places(const std::string& text, const RE2& place,
                                      const std::function<std::string(const std::string& group)>& value);

// Fills in a template: @NAME@ and lines "#mesondefine NAME" (format "meson"), or those of listfiles ("cmake",
// "cmake@"). `missing` gets names that nobody has a value for.
[[nodiscard]] std::string filled_in(const std::string& text, const ConfigurationData& data, const std::string& format,
                                    std::set<std::string>& missing);

}  // namespace coctilis::describe::meson_build
