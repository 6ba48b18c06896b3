// Works a project file out: what its variables come to, as if it were read for the system that this program runs on.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/result.h"
#include "describe/pro/syntax.h"

namespace coctilis::describe::pro {

using Values = std::vector<std::string>;

// What the evaluator asks of the outside.
struct Surroundings {
  std::string tree;                               // absolute
  std::string work;                               // absolute: stands for `tree` where results are meant
  std::map<std::string, Values> initial;          // variables that are set before the first line
  std::map<std::string, std::string> properties;  // $$[NAME]
  // The file of a feature that a library of the system brings along; empty when none does.
  std::function<std::string(const std::string& name)> installed_feature;
  std::function<bool(const std::string& module)> has_module;    // of the toolkit: "widgets"
  std::function<bool(const std::string& package)> has_package;  // a .pc module, perhaps with a version behind it
  // Whether the test project NAME, whose file is given, can be compiled and linked.
  std::function<bool(const std::string& name, const std::string& file)> compiles;
  // Runs a line of the shell in a folder; its output, and whether it ended well.
  std::function<std::pair<std::string, bool>(const std::string& line, const std::string& folder)> run;
  std::function<void(const Place&, const std::string& what)> warn;
  std::function<void(const std::string&)> say;  // message(...)
};

class Evaluator {
 public:
  // `depth`: how deep in other files' evaluation this one is.
  Evaluator(const Surroundings& surroundings, std::string file, int depth = 0);

  // Reads the file of the project with what goes before it. Throws Fault (Exit::description).
  void run();

  [[nodiscard]] const Values& values(const std::string& name) const;
  [[nodiscard]] std::string value(const std::string& name) const;      // joined by blanks
  [[nodiscard]] bool has_config(const std::string& name) const;        // CONFIG names it, or it is one of this system
  [[nodiscard]] const std::string& folder() const { return folder_; }  // of the project, in the tree
  [[nodiscard]] const std::string& work_folder() const { return work_folder_; }  // the same for results
  [[nodiscard]] const std::set<std::string>& files() const { return read_; }     // absolute
  // A text in which references to variables and functions stand; the rest of it stays.
  [[nodiscard]] std::string substituted(const std::string& text);
  // Where a variable was set first: for messages.
  [[nodiscard]] Place place_of(const std::string& name) const;
  // Path of the tree or of the folder for results, as values have it, made absolute: those that are not there and
  // would be written are meant below the folder for results.
  [[nodiscard]] std::string result_path(const std::string& path) const;
  [[nodiscard]] std::string source_path(const std::string& path) const;

 private:
  struct Function {
    const Node* node = nullptr;  // of one of `kept_`
  };
  enum class Flow { goes_on, next_round, leaves_loop, returns };
  struct Frame {
    std::map<std::string, Values> variables;
  };

  Flow run_nodes(const Nodes& nodes);
  Flow run_node(const Node& node);
  Flow run_loop(const Node& node);
  void assign(const Node& node);
  bool read_file(const std::string& path, bool must);
  bool holds(const std::vector<Test>& tests);
  bool holds(const std::string& text);
  bool call_test(const std::string& name, const std::string& arguments);
  std::optional<bool> built_in_test(const std::string& name, const std::vector<std::string>& raw,
                                    const std::vector<Values>& lists);
  std::optional<Values> built_in_value(const std::string& name, const std::vector<Values>& lists);
  Values call_value(const std::string& name, const std::string& arguments);
  Values call(const Function& function, const std::vector<Values>& arguments);
  Values expand(const std::string& text);
  Values* find(const std::string& name);
  Values& own(const std::string& name);
  void load_feature(const std::string& name);
  [[nodiscard]] Place place() const { return {files_.empty() ? file_ : files_.back(), line_, 0}; }
  [[noreturn]] void fail(const std::string& what, const std::string& remedy) const;
  [[nodiscard]] std::string here() const;  // the folder of the file that is being read
  // While one lives, something is worked out within something else. Throws Fault where that goes too deep.
  class Deeper {
   public:
    explicit Deeper(Evaluator& evaluator);
    ~Deeper() { --evaluator_.depth_; }
    Deeper(const Deeper&) = delete;
    Deeper& operator=(const Deeper&) = delete;

   private:
    Evaluator& evaluator_;
  };
  void count_step();
  void warn(const std::string& what);

  const Surroundings& out_;
  const std::string file_;
  std::string folder_;
  std::string work_folder_;
  std::vector<std::string> files_;  // that are being read, the innermost last
  int line_ = 0;
  std::vector<Frame> frames_;  // the first has what is global
  std::map<std::string, Function> tests_;
  std::map<std::string, Function> replacers_;
  std::vector<std::shared_ptr<const Nodes>> kept_;  // of all files that have been read
  std::set<std::string> read_;
  std::set<std::string> loaded_;
  std::set<std::string> warned_;  // places and words
  std::map<std::string, Place> first_set_;
  Values returned_;
  std::size_t steps_ = 0;
  std::size_t bytes_ = 0;
  int lists_ = 0;  // that a function made
  int depth_ = 0;
};

// Whether a version is at least another; numbers count as numbers.
[[nodiscard]] int compare_versions(const std::string& a, const std::string& b);

}  // namespace coctilis::describe::pro
