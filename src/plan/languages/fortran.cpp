// Fortran, by compilers of the family of gcc: each source is scanned for modules first, and compiled when those that it
// uses have been. What a compilation reads, modules among it, the system tells.
#include <algorithm>
#include <filesystem>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "locate/toolchain.h"
#include "plan/languages/fortran_modules.h"
#include "plan/languages/language.h"

namespace coctilis::plan {

namespace {

constexpr const char* name_of_language = "Fortran";

const model::Part* part_of(const model::Unit& unit) {
  const auto it = std::find_if(unit.parts.begin(), unit.parts.end(),
                               [](const auto& part) { return part.language == name_of_language; });
  return it == unit.parts.end() ? nullptr : &*it;
}

std::string own_folder(const Planning& planning, const model::Unit& unit) {
  return planning.project.binary_root + "/.objects/" + text::replace_all(unit.name, "/", "_") + "/modules";
}
std::string module_folder(const Planning& planning, const model::Unit& unit) {
  const auto* part = part_of(unit);
  return part == nullptr || part->settings.module_folder.empty() ? own_folder(planning, unit)
                                                                 : part->settings.module_folder;
}
// The file that tells the order of a unit's sources.
std::string order_file(const Planning& planning, const model::Unit& unit) {
  return own_folder(planning, unit) + ".order";
}

// The units whose modules `unit` may use: those that it needs, directly or not, nearest first.
std::vector<const model::Unit*> used_units(const Planning& planning, const model::Unit& unit) {
  std::vector<const model::Unit*> queue = {&unit};
  std::vector<const model::Unit*> out;
  std::set<const model::Unit*> seen = {&unit};
  for (std::size_t at = 0; at < queue.size(); ++at) {
    for (const auto& use : queue[at]->uses) {
      const auto it = planning.units.find(use.unit);
      if (it == planning.units.end() || !seen.insert(it->second).second) continue;
      queue.push_back(it->second);
      if (part_of(*it->second) != nullptr) out.push_back(it->second);
    }
  }
  return out;
}

class FortranSteps : public PartSteps {
 public:
  FortranSteps(Planning& planning, const model::Unit& unit, const model::Part& part)
      : planning_(planning),
        unit_(unit),
        part_(part),
        compiler_(planning.toolchain.compiler(name_of_language)),
        used_(used_units(planning, unit)) {
    if (!compiler_.present()) {
      const std::string package = locate::package_of_compiler(planning.toolchain, name_of_language);
      throw Fault({Exit::missing,
                   unit.place,
                   "'" + unit.name + "' has sources in Fortran, and the tool chain " + planning.toolchain.name +
                       " has no compiler for them",
                   {},
                   package.empty() ? "name one by FC" : "install " + package + ", or name a compiler by FC",
                   {}});
    }
    const auto& with = part.settings;
    options_ = with.first_options;
    const auto add = [&](const std::vector<std::string>& words) {
      options_.insert(options_.end(), words.begin(), words.end());
    };
    add(planning.variant.compile);
    if (with.position_independence != model::PositionIndependence::none)
      add({with.position_independence == model::PositionIndependence::program ? "-fPIE" : "-fPIC"});
    if (with.link_time_optimisation) add({"-flto"});
    if (with.warnings_are_errors && planning.settings.warnings_as_errors) add({"-Werror"});
    add(with.options);
    for (const auto& definition : with.definitions) definitions_.push_back("-D" + definition);
    for (const auto& folder : with.include_folders) folders_.push_back(folder.path);
  }

  std::vector<model::Step> of(const model::UnitSource& source, const std::string& object) override {
    const auto asks = [&](const char* option) {
      const auto in = [&](const auto& list) { return std::find(list.begin(), list.end(), option) != list.end(); };
      return in(options_) || in(source.options);
    };
    auto form = source.source_form != model::SourceForm::by_name ? source.source_form : part_.settings.source_form;
    if (form == model::SourceForm::by_name && asks("-ffree-form")) form = model::SourceForm::free;
    if (form == model::SourceForm::by_name && asks("-ffixed-form")) form = model::SourceForm::fixed;
    const auto preprocessing =
        source.preprocessing != model::Preprocessing::by_name ? source.preprocessing : part_.settings.preprocessing;
    // The words that settle how the source is read, where its name does not.
    std::vector<std::string> words;
    const bool fixed = is_fixed_form(source.path, form);
    const bool preprocessed = is_preprocessed(source.path, preprocessing) || asks("-cpp");
    if (form != model::SourceForm::by_name) words.emplace_back(fixed ? "-ffixed-form" : "-ffree-form");
    if (preprocessed)
      words.emplace_back("-cpp");
    else if (preprocessing == model::Preprocessing::no)
      words.emplace_back("-nocpp");
    objects_.push_back(object);
    std::vector<model::Step> out;
    out.push_back(scan_step(source, object, words, fixed, preprocessed));
    out.push_back(compile_step(source, object, words));
    return out;
  }

  std::vector<model::Step> last() override {
    model::Step step;
    step.kind = model::StepKind::scan;
    step.teaches = true;
    step.target = unit_.name;
    step.subject = "the modules of " + unit_.name;
    step.place = unit_.place;
    const std::string order = order_file(planning_, unit_);
    step.outputs = {order};
    std::vector<std::string> words = {"order-modules", order, module_folder(planning_, unit_),
                                      part_.settings.module_folder.empty() ? "alone" : "shared"};
    for (const auto* unit : used_) {
      words.insert(words.end(), {"used", order_file(planning_, *unit)});
      step.inputs.push_back(order_file(planning_, *unit));
    }
    for (const auto& object : objects_) {
      words.insert(words.end(), {"source", object, scanned_file(object)});
      step.inputs.push_back(scanned_file(object));
    }
    step.actions.push_back({model::Action::How::builtin, std::move(words), unit_.work_folder, {}});
    std::vector<model::Step> out;
    out.push_back(std::move(step));
    return out;
  }

  [[nodiscard]] std::vector<std::string> shown_options() const override { return options_; }

 private:
  static std::string scanned_file(const std::string& object) { return object + ".modules"; }

  // The command to the point where it says what to do.
  [[nodiscard]] std::vector<std::string> beginning(const model::UnitSource& source,
                                                   const std::vector<std::string>& words) const {
    std::vector<std::string> argv = {compiler_.path};
    const auto add = [&](const std::vector<std::string>& list) { argv.insert(argv.end(), list.begin(), list.end()); };
    add(planning_.toolchain.options);
    add(definitions_);
    if (!source.quote_folder.empty()) add({"-I" + source.quote_folder});
    for (const auto& folder : folders_) add({"-I" + folder});
    add(options_);
    add(source.options);
    add(words);
    return argv;
  }

  model::Step scan_step(const model::UnitSource& source, const std::string& object,
                        const std::vector<std::string>& words, bool fixed, bool preprocessed) const {
    model::Step step = step_for(planning_, unit_, part_, source, scanned_file(object));
    step.kind = model::StepKind::scan;
    std::string text = source.path;
    if (preprocessed) {
      step.identity = compiler_.identity;
      step.tools = compiler_.programs;
      text = object + ".preprocessed";
      model::Action action;
      action.folder = unit_.work_folder;
      action.argv = beginning(source, words);
      action.argv.insert(action.argv.end(), {"-E", "-MD", "-MF", step.dependency_file, "-o", text, source.path});
      step.actions.push_back(std::move(action));
      step.byproducts.push_back(text);
    }
    std::vector<std::string> operation = {
        "find-modules", text, source.path, scanned_file(object), step.dependency_file, fixed ? "fixed" : "free"};
    operation.insert(operation.end(), folders_.begin(), folders_.end());
    step.actions.push_back({model::Action::How::builtin, std::move(operation), unit_.work_folder, {}});
    return step;
  }

  model::Step compile_step(const model::UnitSource& source, const std::string& object,
                           const std::vector<std::string>& words) const {
    model::Step step = step_for(planning_, unit_, part_, source, object);
    step.identity = compiler_.identity;
    step.tools = compiler_.programs;
    step.reads = model::Reads::opened;
    step.dependency_file.clear();
    step.after = {order_file(planning_, unit_)};
    step.actions.push_back(model::make_folder(module_folder(planning_, unit_), unit_.work_folder));
    model::Action action;
    action.folder = unit_.work_folder;
    action.argv = beginning(source, words);
    for (const auto* unit : used_) action.argv.push_back("-I" + module_folder(planning_, *unit));
    action.argv.insert(action.argv.end(), {"-J", module_folder(planning_, unit_), "-o", object, "-c", source.path});
    step.actions.push_back(std::move(action));
    return step;
  }

  Planning& planning_;
  const model::Unit& unit_;
  const model::Part& part_;
  const model::Compiler& compiler_;
  std::vector<const model::Unit*> used_;
  std::vector<std::string> definitions_;
  std::vector<std::string> folders_;
  std::vector<std::string> options_;
  std::vector<std::string> objects_;
};

}  // namespace

std::unique_ptr<PartSteps> fortran_steps(Planning& planning, const model::Unit& unit, const model::Part& part,
                                         std::size_t) {
  return std::make_unique<FortranSteps>(planning, unit, part);
}

// The libraries that every program with Fortran in it needs, when another language's compiler links it.
std::vector<std::string> fortran_link_words(const model::Toolchain&) { return {"-lgfortran", "-lm"}; }

}  // namespace coctilis::plan
