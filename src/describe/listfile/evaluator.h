// Runs a description in the language of CMakeLists.txt and gathers what it declares. The commands themselves are in
// commands_*.cpp and modules_*.cpp, a file a family; each is a function of an Evaluator and an Invocation.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/confine.h"
#include "base/result.h"
#include "describe/listfile/declared.h"
#include "describe/listfile/language.h"
#include "describe/listfile/limits.h"
#include "describe/tree_copy.h"
#include "locate/locator.h"
#include "model/survey.h"

namespace coctilis::describe::listfile {

// The level of the language that is spoken here, as cmake_minimum_required compares it.
inline constexpr const char* language_level = "3.25.1";
inline constexpr int newest_policy = 142;

struct Word {
  std::string text;
  bool quoted = false;  // in quotes or brackets: never a keyword, never a variable's name
};

// A command with its arguments, all references replaced.
struct Invocation {
  std::string name;  // as written
  std::vector<Word> words;
  Place place;
  [[nodiscard]] std::size_t size() const { return words.size(); }
  [[nodiscard]] const std::string& operator[](std::size_t i) const { return words[i].text; }
  [[nodiscard]] std::vector<std::string> texts(std::size_t from = 0) const;
};

// Arguments sorted by keywords: flags, keywords with one value, keywords with many; the rest is `rest`.
struct Keywords {
  std::set<std::string> flags;
  std::map<std::string, std::string> one;
  std::map<std::string, std::vector<std::string>> many;
  std::vector<std::string> rest;
  [[nodiscard]] bool has(const std::string& key) const {
    return flags.contains(key) || one.contains(key) || many.contains(key);
  }
  [[nodiscard]] std::string get(const std::string& key) const {
    const auto it = one.find(key);
    return it == one.end() ? std::string{} : it->second;
  }
  [[nodiscard]] std::vector<std::string> list(const std::string& key) const {
    const auto it = many.find(key);
    return it == many.end() ? std::vector<std::string>{} : it->second;
  }
};
// "[FORM] [UTC]" from word `at` on: the form of strftime(3), and whether universal time is meant.
[[nodiscard]] std::pair<std::string, bool> time_form(const std::vector<std::string>& words, std::size_t at);
[[nodiscard]] Keywords keywords(const std::vector<std::string>& words, const std::vector<std::string>& flags,
                                const std::vector<std::string>& one, const std::vector<std::string>& many);

// Text without its generator expressions: nested ones go whole.
[[nodiscard]] std::string strip_expressions(const std::string& text);

using CommandTable = std::unordered_map<std::string, Command>;

struct CacheEntry {
  std::string value;
  std::string
      type;  // BOOL, STRING, PATH, FILEPATH, INTERNAL, STATIC; empty: set by the user before the description did
  std::string help;
  std::map<std::string, std::string> properties;  // STRINGS, ADVANCED and others that the description gives it
  bool from_user = false;
  bool declared = false;  // the description declares it, so the user may set it
  std::string initial;
  Place place;
};

// Variables of a folder or of a function call; what is not here is looked for in the parent.
struct Scope {
  std::unordered_map<std::string, std::optional<std::string>> variables;  // nothing: unset here
  Scope* parent = nullptr;
};

// A call that waits for the end of its folder. Its words are worked out then.
struct Deferred {
  std::string id;
  std::string command;
  std::vector<Argument> arguments;
  std::string file;  // where it stands
  Place place;
  bool cancelled = false;
};

struct Directory {
  std::string source;
  std::string binary;
  Directory* parent = nullptr;
  std::unique_ptr<Scope> scope;
  std::map<std::string, Values> properties;
  std::vector<std::size_t> targets;
  std::vector<std::size_t> tests;
  bool in_default = true;
  std::vector<Deferred> deferred;
};

struct Function {
  std::string name;
  bool macro = false;
  std::vector<std::string> parameters;
  const Body* body = nullptr;
  std::shared_ptr<const File> file;  // keeps `body` alive
};

enum class Flow { next, leave_loop, next_round, leave_function };

// The kiln of an output folder.
[[nodiscard]] std::string kiln_of(const std::string& work);

class Evaluator {
 public:
  // `binary_root` is the only folder that is written to. All must outlive the evaluator.
  Evaluator(locate::Locator& locator, const model::Survey& survey, std::string binary_root, const Limits& limits = {});

  // Runs the description at `file` (absolute) to its end. Throws Fault.
  model::Project run(const std::string& file);

  // Runs the file as a script of its own, in the folder `folder`: with `definitions` set (NAME=VALUE), and no targets.
  // Gives what it says. Throws Fault.
  std::vector<std::string> run_script(const std::string& file, const std::string& folder,
                                      const std::vector<std::string>& definitions,
                                      const std::vector<std::string>& arguments);

  // ---- variables -------------------------------------------------------------------------------------------------
  [[nodiscard]] const std::string* find(const std::string& name) const;  // scopes, then cache; nullptr: not set
  [[nodiscard]] std::string value(const std::string& name) const;        // "" when not set
  [[nodiscard]] bool on(const std::string& name) const;                  // set and true for conditions
  void set(const std::string& name, std::string value) { scope_->variables[name] = std::move(value); }
  // Puts `text` behind the list in a variable; the new value is the current scope's.
  void append_element(const std::string& name, const std::string& text);
  void unset(const std::string& name) { scope_->variables[name] = std::nullopt; }
  void set_in_parent(const std::string& name, std::optional<std::string> value);
  // Declares a cache entry; a value that the user gave or that is there already stays, unless `force`.
  void set_cache(const std::string& name, const std::string& value, const std::string& type, const std::string& help,
                 bool force, const Place& place);
  std::map<std::string, CacheEntry> cache;
  std::map<std::string, std::optional<std::string>> environment;  // changes made by set(ENV{...})
  [[nodiscard]] std::string environment_value(const std::string& name, bool* set = nullptr) const;
  [[nodiscard]] std::vector<std::string> variable_names() const;

  // ---- words -----------------------------------------------------------------------------------------------------
  // Replaces references and escapes in text as in a quoted argument.
  [[nodiscard]] std::string expand(const std::string& text, const Place& place, bool at_references = false);
  // The words of a call whose arguments stand at `at`.
  [[nodiscard]] std::vector<Word> expand_arguments(const std::vector<Argument>& arguments, const Place& at);

  // ---- running ---------------------------------------------------------------------------------------------------
  // The values of a loop's variables, round by round, and the round that runs.
  struct Loop {
    const std::vector<std::string>& variables;
    const std::vector<std::vector<std::string>>& rounds;
    std::size_t round = 0;
  };
  Flow run_body(const Body& body, const std::string& file, const Loop* loop = nullptr);
  void run_file(const std::string& path, const Invocation& from);  // in the current scope
  void run_text(const std::string& text, const std::string& path);
  void run_subfolder(const std::string& source, const std::string& binary, bool in_default, const Invocation& from);
  void call(const Invocation& invocation);                           // by name; functions of the description first
  void call(const std::string& name, const Invocation& invocation);  // `name` in small letters
  [[nodiscard]] bool is_command(const std::string& name) const;
  void define(Function function);
  // Calls that come after the one that runs now, in the same body and in the further rounds of its loop, as they would
  // be made if nothing changed on the way; `visit` gets the name in small letters and returns false to end it. Ends
  // quietly where the words cannot be worked out.
  void for_upcoming(const std::function<bool(const std::string&, const Invocation&)>& visit);
  // The words of the call that runs now as they are written, without those that stand for the first `leave_out` words.
  // Where macros give values, they are in them.
  [[nodiscard]] std::vector<Argument> written_arguments(const Invocation& i, std::size_t leave_out);
  // Both fail when the limits are passed: a command is run, names of a folder are looked at.
  void count_work(const Place& place);
  // Throws when a text of that size, which has just grown by `more`, is more than any description needs, or the memory
  // runs out.
  void count_text(std::uint64_t bytes, std::uint64_t more, const Place& place);
  void check_memory(const Place& place);
  void count_names(std::size_t names, const Place& place);
  void set_flow(Flow flow) { flow_ = flow; }
  [[nodiscard]] bool condition(const std::vector<Word>& words, const Place& place);
  std::unique_ptr<Scope> push_scope();
  void pop_scope(std::unique_ptr<Scope> scope);

  // ---- failures and remarks --------------------------------------------------------------------------------------
  [[noreturn]] void fail(const Place& place, const std::string& what, const std::string& remedy = {},
                         const std::string& cause = {}) const;
  [[noreturn]] void fail(const Invocation& i, const std::string& what, const std::string& remedy = {}) const {
    fail(i.place, what, remedy);
  }
  // Fails once all is read: what else is wrong is told with it.
  void fail_in_the_end(const Place& place, const std::string& what, const std::string& remedy = {});
  [[noreturn]] void not_understood(const Invocation& i, const std::string& construct) const;
  void need(const Invocation& i, std::size_t words, const std::string& usage) const;  // fails with fewer
  void warn(const Place& place, const std::string& what, const std::string& remedy = {});
  // Something required is missing: goes on, to find all, and keeps what a fatal message says from hiding it.
  void keep(model::Finding finding) { locator.keep(std::move(finding)); }

  // ---- folders ---------------------------------------------------------------------------------------------------
  [[nodiscard]] Directory& directory() { return *directory_; }
  [[nodiscard]] Directory* directory_of(const std::string& path);  // by source or binary folder
  [[nodiscard]] std::string source_path(
      const std::string& path) const;  // absolute; relative counts from the source folder
  [[nodiscard]] std::string binary_path(const std::string& path) const;
  [[nodiscard]] std::string shown(const std::string& path) const;  // relative to the tree where it lies in it
  // Where a file is written that the description writes to `path`. What it would write into the source tree goes to a
  // folder of the output folder that stands before the tree wherever files are looked for. Fails for other places.
  [[nodiscard]] std::string writable(const std::string& path, const Place& place);
  // A rule of the description makes a file in the source tree. Where its commands name the file, they can be told
  // another place; where they do not, only a copy of the whole tree will do. Throws NeedsCopy.
  void rule_makes(const std::string& path, const Rule& rule, const Place& place);
  // A program that the description ran while it is read, or that a rule of it runs, was kept from writing into the
  // tree. Throws NeedsCopy; does nothing in a copy.
  void kept_from_writing(const std::string& what, const Place& place) const;
  bool in_copy = false;                            // the tree is a copy in the kiln, which may be written to
  bool script = false;                             // a script is run, and others may look for what it writes
  [[nodiscard]] const Confinement& confinement();  // of programs that are run
  // A place in a description file that is read: `shown` with what it gave last, as most calls stand in one file.
  [[nodiscard]] Place shown_place(const std::string& file, int line, int column = 0);

  // ---- declarations ----------------------------------------------------------------------------------------------
  [[nodiscard]] Target* target(const std::string& name);  // through aliases
  [[nodiscard]] Target& need_target(const std::string& name, const Invocation& i);
  Target& add_target(const std::string& name, model::TargetKind kind, const Invocation& i);
  // What stands before and behind the name of its file, by the variables as they are now.
  void name_result(Target& target) const;
  [[nodiscard]] Value word(const std::string& text, const Invocation& i) const;
  static void append(Values& values, Value value);  // joins what a semicolon split within $<...>
  void append_all(Values& values, const std::vector<std::string>& texts, const Invocation& i) const;
  [[nodiscard]] static std::string joined(const Values& values);
  [[nodiscard]] std::optional<std::string> target_property(const Target& target, const std::string& property) const;
  // What is said of a source by its path; nothing when nothing is.
  [[nodiscard]] std::optional<std::string> source_property(const std::string& path, const std::string& property) const;
  [[nodiscard]] std::vector<std::string> enabled_languages() const;  // "C", "CXX", "ASM"
  void enable_language(const std::string& language, const Invocation& i);
  [[nodiscard]] bool policy_is_new(int number) const;
  // The options that probes and compilations of a language get from variables: CMAKE_<LANG>_FLAGS and that of the
  // configuration.
  [[nodiscard]] std::string language_flags(const std::string& language) const;
  [[nodiscard]] std::string configuration() const;

  locate::Locator& locator;
  const model::Survey& survey;
  Declared project;
  const std::string tree;
  const std::string binary_root;
  std::map<std::string, Values> global_properties;
  std::map<std::string, model::Finding> searched_in_vain;  // by the variable that says so
  std::vector<model::Finding> own_projects;                // of ExternalProject_Add
  std::set<std::string> included_once;                     // include_guard(GLOBAL)
  std::vector<std::map<int, bool>> policy_stack{1};
  std::string policy_level;
  std::unordered_map<std::string, std::shared_ptr<const Function>> functions;
  std::size_t functions_defined = 0;    // so far, those that are defined anew as well
  std::vector<std::string> list_files;  // the chain of files being read, innermost last
  std::set<std::string> read_files;
  std::vector<std::unique_ptr<Directory>> directories;
  int script_depth = 0;  // scripts that run scripts

 private:
  void stop_for_errors() const;
  std::vector<Problem> errors_;  // of fail_in_the_end
  void finish_directory();
  void begin_project(const File& file);
  void finish();
  void expand_reference(const std::string& text, std::size_t& at, std::string& out, const Place& place);
  void run_call(const Call& written, const Invocation& invocation);
  void run_block(const Node& node, const std::string& file);
  void run_loop(const Node& node, const std::string& file);
  void run_while(const Node& node, const std::string& file, const Place& place);
  void call_function(const Function& function, const Invocation& invocation);
  void set_compiler_variables(const std::string& language);
  [[nodiscard]] std::optional<std::string> place_of_library(const Target& target) const;
  void enable_assembler(const Invocation& i);
  void start_variables();

  Scope root_;
  Scope* scope_ = &root_;
  Directory* directory_ = nullptr;
  Flow flow_ = Flow::next;
  int reference_depth_ = 0;
  std::uint64_t text_since_ = 0;  // bytes of large texts since the memory was looked at
  const std::map<std::string, std::string>* macro_arguments_ = nullptr;
  std::vector<std::pair<std::string, Place>> stack_;
  struct Standing {
    const Body* body = nullptr;
    std::size_t at = 0;
    const std::string* file = nullptr;
    const Loop* loop = nullptr;  // of a loop's own body
  };
  Standing standing_;
  Limits limits_;
  std::uint64_t work_done_ = 0;
  std::uint64_t names_seen_ = 0;
  std::optional<Confinement> confinement_;
  std::pair<std::string, std::string> last_shown_;  // a file, and how it is shown
  std::vector<std::shared_ptr<const File>> files_;  // every file read: functions point into them
};

// All commands of the language, built in and from modules, by small letters.
[[nodiscard]] const CommandTable& command_table();

// A module that include(NAME) knows: sets variables or does nothing; its commands are always in the table.
using Module = void (*)(Evaluator&, const Invocation&);
[[nodiscard]] Module built_in_module(const std::string& name);

// Families of commands; each adds its own to the table.
void add_variable_commands(CommandTable& table);
void add_list_commands(CommandTable& table);
void add_string_commands(CommandTable& table);
void add_file_commands(CommandTable& table);
void add_flow_commands(CommandTable& table);
void add_target_commands(CommandTable& table);
void add_requirement_commands(CommandTable& table);
void add_property_commands(CommandTable& table);
void add_find_commands(CommandTable& table);
void add_package_commands(CommandTable& table);
void add_pc_module_commands(CommandTable& table);
void add_external_commands(CommandTable& table);
void add_probe_commands(CommandTable& table);
void add_trial_commands(CommandTable& table);
void add_install_commands(CommandTable& table);
void add_process_commands(CommandTable& table);
void add_module_commands(CommandTable& table);
void add_content_commands(CommandTable& table);
void add_generator_commands(CommandTable& table);
void add_swig_commands(CommandTable& table);
void add_fortran_commands(CommandTable& table);
void add_gettext_commands(CommandTable& table);
void add_older_commands(CommandTable& table);

// Shared between families.
// Replaces ${NAME}, @NAME@ and the #cmakedefine lines of a file to be configured.
[[nodiscard]] std::string configure_text(Evaluator& e, const std::string& text, bool at_only, bool escape_quotes,
                                         const Place& place);
// string(JSON ...).
void string_json(Evaluator& e, const Invocation& i);
// What a rule may have besides what it makes, from what, and how.
struct RuleExtras {
  bool expand_lists = false;  // words that generator expressions make are split at semicolons
  std::vector<std::string> byproducts;
  std::string dependency_file;
};
// A rule, as add_custom_command(OUTPUT ... COMMAND ... DEPENDS ...) declares it; `from` says where and by which
// command.
void add_rule(Evaluator& e, const Invocation& from, const std::vector<std::string>& outputs,
              const std::vector<std::string>& command, const std::vector<std::string>& depends,
              const std::string& folder, const RuleExtras& extras = {});
// Adds what generators write for the target by its properties AUTOMOC, AUTOUIC and AUTORCC.
void add_automatic_sources(Evaluator& e, Target& target);
// Turns gathered properties into requirements; called once all folders are read.
void finish_targets(Evaluator& e);
// The projects of their own that the description would load and build: requirements, or left out where nothing needs
// them.
void finish_own_projects(Evaluator& e);
// A call of the description's tool with a script: "-DNAME=VALUE ... -P FILE arguments...", as words without the tool.
struct ScriptCall {
  std::vector<std::string> definitions;
  std::string file;
  std::vector<std::string> arguments;
};
// Nothing when the words are no such call.
[[nodiscard]] std::optional<ScriptCall> script_call(const std::vector<std::string>& words);
// Does the small operations of the tool that commands name (describe/listfile/tool.h) while the description is read;
// false when the words are none.
bool run_description_tool(Evaluator& e, const std::vector<std::string>& words, const std::string& folder,
                          const Invocation& i, std::string& output, int& status);

}  // namespace coctilis::describe::listfile
