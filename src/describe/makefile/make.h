// The language of makefiles: reads them, and works out from goals what is to be run (POSIX.1-2024, XCU make, with the
// extensions that makefiles in the wild depend on). Running recipes is left to the engine, except for makefiles that
// are made themselves.
//
// reading.cpp takes lines apart, rules.cpp takes rules in, expansion.cpp and functions.cpp work out references,
// search.cpp finds rules and files, graph.cpp goes from goals to recipes.
#pragma once

#include <array>
#include <bitset>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "base/result.h"
#include "describe/makefile/call.h"
#include "describe/makefile/variables.h"
#include "describe/makefile/words.h"
#include "model/project.h"

namespace coctilis::describe::makefile {

// How far a makefile may go before it is taken for one without end.
struct Limits {
  std::uint64_t expansions = 150'000'000;       // references worked out
  std::uint64_t memory_bytes = 1792ULL << 20U;  // resident memory of this program
};
// What is written down in one makefile, and what a text that is worked out may come to.
inline constexpr std::uint64_t most_file_bytes = 64ULL << 20U;
inline constexpr std::uint64_t most_text_bytes = 32ULL << 20U;

// A recipe as written; line ends that a backslash hides are still in its lines.
struct RecipeText {
  std::vector<std::string> lines;
  Place place;
};

struct Rule {
  std::vector<std::string> targets;
  std::vector<std::string> prerequisites;
  std::vector<std::string> order_only;
  std::string late;  // prerequisites to be expanded a second time, for each target
  std::shared_ptr<const RecipeText> recipe;
  bool double_colon = false;
  bool grouped = false;  // one run of the recipe makes all targets
  std::string stem;      // of a static pattern rule
  Place place;
};

struct PatternRule {
  std::vector<std::string> targets;  // each with one '%'
  // The targets' texts before and behind '%', unescaped.
  std::vector<std::pair<std::string, std::string>> divided;
  std::vector<std::string> prerequisites;
  // Of the prerequisites the same; those without '%' have no part behind it.
  std::vector<std::pair<std::string, std::optional<std::string>>> divided_prerequisites;
  std::vector<std::string> order_only;
  std::string late;
  std::shared_ptr<const RecipeText> recipe;
  bool terminal = false;
  bool built_in = false;
  Place place;
};

// All that is said of one target.
struct Entry {
  std::vector<std::shared_ptr<const Rule>> rules;
  std::vector<Assignment> assignments;
};

// What a target's prerequisites stand for.
struct Inputs {
  std::vector<std::string> files;
  std::vector<std::string> order;
  bool always = false;
};

// There is neither a file nor a rule for something that is needed.
class NothingMakes : public Fault {
 public:
  NothingMakes(std::string missing_, Problem problem) : Fault(std::move(problem)), missing(std::move(missing_)) {}
  std::string missing;
};

class Make {
 public:
  // `tree`: files are shown relative to it. Throws Fault for nothing.
  Make(Call call, std::string tree, const Limits& limits = {});

  // Runs what makefiles that are made themselves need (see Services); to be set before `read`.
  std::function<bool(const std::vector<model::Recipe>&,
                     const std::function<std::vector<model::RecipeLine>(const model::Recipe&)>&)>
      run_recipes;

  // Reads the makefiles, makes those that have rules, and reads again. Throws Fault (Exit::description) with the place
  // for what is not understood; Exit::step when making a makefile fails.
  void read();
  // The recipes that the goals need, in an order in which they can run; with no goals, the default ones. Throws Fault.
  [[nodiscard]] std::vector<model::Recipe> recipes(const std::vector<std::string>& goals);
  // The lines of a recipe that had to wait (Recipe::late), expanded now.
  [[nodiscard]] std::vector<model::RecipeLine> late_lines(const model::Recipe& recipe);
  [[nodiscard]] std::string default_goal() const;
  // True when a rule of the makefiles, not a pattern, makes `name`.
  [[nodiscard]] bool has_target(const std::string& name) const;
  // Names that rules make, but for patterns and special ones, in no particular order but the same each time.
  [[nodiscard]] std::vector<std::string> targets() const;
  [[nodiscard]] bool is_phony(const std::string& name) const { return phony_.contains(name); }
  [[nodiscard]] std::string value(const std::string& name);  // expanded
  // Every makefile that was read, absolute.
  [[nodiscard]] const std::vector<std::string>& files() const { return files_; }
  // Variables that the environment, the command line or "?=" may set: what makefiles take from outside.
  [[nodiscard]] std::vector<model::Option> options() const;
  [[nodiscard]] const std::vector<Problem>& warnings() const { return warnings_; }
  // Documents that others want and that cannot be made for want of a source: all else is made without them.
  [[nodiscard]] const std::vector<model::LeftOut>& left_out() const { return left_out_; }
  [[nodiscard]] const std::vector<std::string>& messages() const { return messages_; }
  [[nodiscard]] const Call& call() const { return call_; }

 private:
  friend class Functions;
  // ---- reading
  struct Line {
    std::string text;  // continuation lines joined as for anything but recipes
    std::string raw;   // as it stands, for recipes and definitions
    int number = 0;
  };
  void read_file(const std::string& path, const std::string& name);
  void read_text(const std::string& text, const std::string& path, int first_line);
  [[nodiscard]] std::string recipe_line(const std::vector<std::string_view>& lines, std::size_t& i) const;
  [[nodiscard]] std::optional<std::string> definition_body(const std::vector<std::string_view>& lines,
                                                           std::size_t& i) const;
  bool definition(const std::string& plain, const std::vector<std::string_view>& lines, std::size_t& i,
                  const Place& place, bool active);
  void check_stray_line(const std::string& plain, const Place& place) const;
  bool conditional(const std::string& line, const Place& place, std::vector<int>& states);
  void statement(const Line& line, const Place& place);
  void assign(const Assignment& assignment, const Place& place);
  void assign_into(Variables& into, const Assignment& assignment, Origin origin, const Scope* scope,
                   const Place& place);
  void rule_line(const std::string& text, const Place& place, bool indented);
  void add_rule(const std::string& targets, std::string rest, bool double_colon, bool grouped,
                const std::string* recipe, const Place& place);
  void special_target(const Rule& rule);
  void end_rule();
  void include(const std::string& names, bool optional, const Place& place);
  void vpath(const std::string& words);
  void export_names(const std::string& words, bool yes);
  void finish_reading();
  void forget_what_was_found();  // which files are there, and what is to be made
  void read_all();
  bool remake_makefiles();
  void start_variables();
  void suffix_rules();

  // ---- expansion
  std::string expand(std::string_view text, const Place& place);
  void expand_into(std::string& out, std::string_view text, const Place& place);
  void reference(std::string& out, std::string_view inside, const Place& place);
  void put_value(std::string& out, const std::string& name, const Place& place);
  const Variable* find(const std::string& name) const;
  bool automatic(std::string& out, const std::string& name) const;
  bool function(std::string& out, std::string_view inside, const Place& place);
  std::string run_shell(const std::string& command, const Place& place);
  [[nodiscard]] std::map<std::string, std::string> environment(const Scope* scope, const Place& place);
  [[nodiscard]] Problem problem_of(const Place& place, const std::string& what, const std::string& remedy,
                                   const std::string& cause) const;
  [[noreturn]] void fail(const Place& place, const std::string& what, const std::string& remedy = {},
                         const std::string& cause = {}) const;
  void warn(const Place& place, const std::string& what);
  void count_work(const Place& place);
  // Throws when a text of that size, which has just grown by `more`, is more than any makefile needs, or the memory
  // runs out.
  void count_text(std::size_t bytes, std::size_t more, const Place& place);
  void check_memory(const Place& place);
  [[nodiscard]] Place place_of(const std::string& path, int line) const;
  [[nodiscard]] std::string shown(const std::string& path) const;

  // ---- files and rules
  [[nodiscard]] std::string absolute(const std::string& name) const;
  [[nodiscard]] bool may_write(const std::string& path) const;
  // What lies in a folder; `folder` is relative to that of the call, or absolute, without '/' behind it.
  struct Listing {
    std::vector<std::string> names;                             // sorted
    std::unordered_map<std::string_view, unsigned char> kinds;  // of dirent, by name
    std::vector<std::uint16_t> ends;                            // what names end with (end_of), each once
  };
  const Listing& listing(std::string_view folder);
  [[nodiscard]] bool exists(const std::string& name);
  [[nodiscard]] std::int64_t modified(const std::string& name);  // nanoseconds; -1: not there
  [[nodiscard]] std::string search_path(const std::string& name);
  // The file that -lNAME among prerequisites stands for.
  [[nodiscard]] std::string search_library(const std::string& name);
  [[nodiscard]] std::vector<std::string> matching(const std::string& pattern);
  struct Found {
    const PatternRule* rule = nullptr;
    std::string stem;
    std::vector<std::string> also;  // what else one run of the recipe makes
    std::vector<std::string> prerequisites;
    std::vector<std::string> order_only;
  };
  // A pattern rule that fits a target.
  struct Candidate {
    const PatternRule* rule;
    std::size_t which;
    std::string_view stem;  // a part of the target
    bool in_folder;
    bool anything;
    bool first_missing = false;  // of its prerequisites
  };
  std::vector<Candidate> candidates_for(const std::string& target, const std::set<const PatternRule*>& used);
  [[nodiscard]] bool may_be_made(std::string_view name) const;
  [[nodiscard]] bool can_be_there(const std::string& name);
  bool falls_at_first(const std::string& target, Candidate& candidate, bool chained, std::string& needed);
  Found filled_in(const std::string& target, const Candidate& candidate);
  bool implicit(const std::string& target, Found& found, int depth, std::set<const PatternRule*>& used);
  [[nodiscard]] bool ought_to_exist(const std::string& name) const;
  void mention(const std::string& name) {
    mentioned_.insert(name);
    named_ends_.set(end_of(name));
  }

  // ---- graph
  struct Node {
    explicit Node(const std::string& key) : name(key) {}
    const std::string& name;  // the key under which it is kept
    std::string found_at;     // where a search found it; empty: its name is its path
    const Rule* rule = nullptr;
    std::shared_ptr<const RecipeText> recipe;
    std::vector<std::shared_ptr<const Rule>> double_colon;  // each with its own recipe, where there is more than one
    std::string stem;
    std::vector<std::string> prerequisites;  // names
    std::vector<std::string> order_only;
    std::vector<Node*> needed;  // the nodes of both
    std::vector<Node*> needed_first;
    std::vector<std::string> also;  // further targets of the same run
    std::shared_ptr<Scope> scope;
    std::optional<Inputs> inputs;  // what who needs it needs
    Place place;                   // of its rule, or of what wants it
    bool phony = false;
    bool made = false;  // something makes it, or it is a name for others
    bool runs_always = false;
    bool left_out = false;   // a document that cannot be made
    bool evaluates = false;  // its recipe, or one that runs before it, changes what the makefile says
    int state = 0;           // 1 being worked out, 2 done
    // As commands see it.
    [[nodiscard]] const std::string& path() const { return found_at.empty() ? name : found_at; }
  };
  Node& resolve(const std::string& name, const std::string& wanted_by, const Place& place,
                const std::shared_ptr<const Scope>& scope);
  void add_specific(Scope& scope, const std::string& name, const Place& place);
  std::vector<std::string> expand_late(const std::string& text, Node& node, const Place& place,
                                       std::vector<std::string>& order_only);
  void emit(Node& node, std::vector<model::Recipe>& out);
  void unset_command(std::string_view line, const Place& place);
  struct RecipePart {
    const RecipeText* recipe;
    std::vector<std::string> paths;
  };
  std::vector<RecipePart> parts_of(const Node& node, bool at_once, bool& by_time);
  void add_lines(const std::string& written, const Place& place, bool errors_ignored,
                 std::vector<model::RecipeLine>& out);
  std::vector<model::RecipeLine> lines_of(Node& node, bool& late, bool at_once);
  void add_inputs(const Node& node, const std::vector<std::string>& members, model::Recipe& recipe);
  // Those of a node's members in the archive that it is, then its own.
  std::vector<model::RecipeLine> all_lines(Node& node, bool& late, bool at_once);
  [[nodiscard]] const std::vector<std::string>& members_of(const std::string& archive) const;
  void leave_out(Node& node, const Problem& why);
  // Gives up what is being worked out above `node`.
  void back_to(const Node& node);
  // A file that nothing makes may be made all the same by what is run for the prerequisites before it.
  [[nodiscard]] static bool may_come(const std::string& name, const Node& node, const std::vector<Node*>& more);
  [[nodiscard]] bool is_told_by_earlier_run(const std::string& name, const std::string& prerequisite) const;
  Node& expected(const std::string& name, const Node& node, const std::vector<Node*>& more, const Place& place);
  const Inputs& inputs_behind(Node& node);
  bool run_now(const std::string& name, const Place& place);
  [[nodiscard]] model::Environment environment_of(const Node& node);
  [[nodiscard]] std::vector<std::string> shell_words();

  Call call_;
  const std::string tree_;
  const Limits limits_;
  std::uint64_t work_ = 0;
  std::uint64_t text_since_ = 0;  // bytes of large texts since the memory was looked at
  Variables variables_;
  const Scope* scope_ = nullptr;
  // Automatic variables of the recipe or prerequisites that are worked out.
  struct Automatic {
    const std::string* target = nullptr;
    const std::string* stem = nullptr;
    const std::vector<std::string>* prerequisites = nullptr;  // in order, with duplicates
    const std::vector<std::string>* order_only = nullptr;
    const std::string* member = nullptr;
    std::int64_t target_time = -1;
    bool used_newer = false;
  };
  mutable Automatic* automatic_ = nullptr;
  bool used_eval_ = false;  // a recipe has changed what the makefile says
  bool used_late_ = false;  // something was expanded whose value may change while steps run
  bool forbid_late_ = false;
  std::vector<const std::string*> arguments_;  // of $(call)
  std::unordered_set<std::string> expanding_;
  int depth_ = 0;
  int file_depth_ = 0;

  std::unordered_map<std::string, Entry> entries_;
  std::unordered_set<std::string> mentioned_;  // as prerequisites
  std::bitset<65536> named_ends_;              // what the names of both end with (end_of)
  std::vector<PatternRule> patterns_;
  // Which of them may fit a name, by its last letter; and those that fit whatever the last letter is.
  std::array<std::vector<std::size_t>, 256> patterns_by_end_;
  std::vector<std::size_t> patterns_of_any_end_;
  bool any_end_counts_ = false;  // one of those may fit names that a known suffix keeps from fitting just "%"
  std::vector<std::pair<std::string, Assignment>> pattern_assignments_;
  std::set<std::string> phony_;
  std::set<std::string> silent_;
  std::set<std::string> ignored_;
  bool all_silent_ = false;
  bool all_ignored_ = false;
  bool one_shell_ = false;
  bool posix_ = false;
  bool not_parallel_ = false;
  bool second_expansion_ = false;
  bool export_all_ = false;
  std::vector<std::string> suffixes_;
  std::string first_target_;
  std::shared_ptr<const RecipeText> last_resort_;  // .DEFAULT
  std::vector<std::pair<std::string, std::vector<std::string>>> vpaths_;
  char recipe_prefix_ = '\t';

  // The rule that recipe lines belong to.
  struct Pending {
    bool open = false;
    std::vector<std::shared_ptr<Rule>> rules;
    std::vector<std::size_t> patterns;  // indices into patterns_
    std::shared_ptr<RecipeText> recipe;
  } pending_;

  std::vector<std::string> files_;
  struct Included {
    std::string name;
    bool optional = false;
    bool there = false;
    Place place;
  };
  std::vector<Included> included_;
  std::unordered_map<std::string, std::unique_ptr<Node>> nodes_;
  std::map<std::string, std::vector<std::string>> members_;     // of archives: "lib(member)", as they were resolved
  std::map<std::string, std::set<std::string>> members_taken_;  // those that are in a recipe already
  std::unordered_map<std::string, std::int64_t> times_;
  struct TextHash {
    using is_transparent = void;
    std::size_t operator()(std::string_view text) const { return std::hash<std::string_view>{}(text); }
  };
  std::unordered_map<std::string, Listing, TextHash, std::equal_to<>> folders_;
  std::vector<const std::string*> chain_;  // targets being worked out
  std::vector<Problem> warnings_;
  std::vector<model::LeftOut> left_out_;
  std::vector<std::string> messages_;
  std::map<std::string, model::Option> options_;
  // Of targets without values of their own, once they are known.
  std::optional<model::Environment> environment_;
  std::optional<std::vector<std::string>> shell_;
  bool searches_ = false;   // there are folders to search (vpath, VPATH)
  bool for_shell_ = false;  // the environment of a $(shell) is worked out
  std::set<std::string> told_unset_;
};

// The rules and variables that every makefile starts with, as a makefile (POSIX.1-2024, XCU make, "Default Rules").
[[nodiscard]] const char* built_in_rules();

}  // namespace coctilis::describe::makefile
