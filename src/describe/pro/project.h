// What project files come to as facts: a unit for each program and library, rules for what generators write.
#pragma once

#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "describe/pro/evaluator.h"
#include "describe/toolkit.h"
#include "locate/locator.h"
#include "model/build.h"
#include "model/project.h"

namespace coctilis::describe::pro {

// One project file that makes something, and which of the others come before it.
struct Part {
  std::unique_ptr<Evaluator> values;
  std::vector<std::size_t> after;  // parts
};

class Lowering {
 public:
  // `project`: gets warnings, findings are kept by the locator. All must outlive it.
  Lowering(const std::vector<Part>& parts, const Toolkit* toolkit, locate::Locator& locator, model::Project& project,
           const model::Variant& variant, std::string tree, std::string work);
  ~Lowering();
  Lowering(const Lowering&) = delete;
  Lowering& operator=(const Lowering&) = delete;
  [[nodiscard]] model::Build run();

 private:
  // What one part makes.
  struct Made {
    const Evaluator* values = nullptr;
    std::size_t index = 0;
    model::Unit unit;
    std::string generated;  // absolute: the folder for what generators write
    bool makes_something = true;
    bool is_static = false;
    std::vector<std::string> sources;          // absolute, in order
    std::set<std::string> written;             // files that are filled in
    std::set<std::string> rules;               // outputs that have one
    std::set<std::string> included;            // names of generated files that sources include
    std::vector<std::string> include_folders;  // absolute
    std::vector<std::string> definitions;
    std::set<std::size_t> uses;                  // parts that it links
    std::vector<model::LinkItem> archive_items;  // of an archive: what its users link as well
  };
  void plan_results(Made& made);
  void lower(Made& made);
  void add_sources(Made& made);
  void add_settings(Made& made);
  void add_substitutes(Made& made);
  void add_bus_sources(Made& made);
  void add_generated(Made& made);
  void add_extra_compilers(Made& made);
  void add_extra_targets(Made& made);
  void add_links(Made& made);
  void finish_links(Made& made);
  void add_install(Made& made);
  void add_test(Made& made);
  void meta_objects(Made& made, const std::string& input, const std::string& output, bool compiled);
  void rule(Made& made, const std::string& output, std::vector<std::string> command,
            const std::vector<std::string>& inputs);
  [[nodiscard]] model::Rule rule_for(const Made& made, std::vector<std::string> outputs, model::Action action,
                                     std::vector<std::string> inputs, const Place& place) const;
  [[nodiscard]] model::Rule shell_rule(const Made& made, const std::string& output, const std::string& commands,
                                       const std::vector<std::string>& inputs, const Place& place) const;
  void add_compiled(Made& made, const std::string& path);
  [[nodiscard]] std::string filled(const Made& made, const std::string& text) const;
  void warn(const Made& made, const std::string& variable, const std::string& what);

  const std::vector<Part>& parts_;
  const Toolkit* toolkit_;
  locate::Locator& locator_;
  model::Project& project_;
  const model::Variant& variant_;
  const std::string tree_;
  const std::string work_;
  std::vector<std::unique_ptr<Made>> made_;
  std::map<std::string, std::size_t> by_file_;  // result or name for linkers -> part
  std::set<std::string> names_;
  std::set<std::string> installed_;
  model::Build build_;
};

// The values that are set before a project's first line.
[[nodiscard]] std::map<std::string, Values> initial_values(const Toolkit& toolkit, const model::Toolchain& toolchain,
                                                           const model::Variant& variant);

}  // namespace coctilis::describe::pro
