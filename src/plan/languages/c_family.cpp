// C, C++ and assembler with the preprocessor, by compilers of the family of gcc and clang.
#include <algorithm>
#include <filesystem>

#include "base/text.h"
#include "plan/languages/language.h"
#include "plan/search_paths.h"
#include "survey/languages.h"

namespace coctilis::plan {

namespace {

using model::IncludeFolder;

// "-std=gnu++17". The newest standards have names of their own with compilers that are older than they.
std::string standard_option(const std::string& language, const model::Standard& standard) {
  const bool c = language == "C";
  std::string year = standard.year;
  if (c && year == "23") year = "2x";
  if (!c && year == "26") year = "2c";
  if (!c && year == "23") year = "2b";
  return std::string("-std=") + (standard.extensions ? "gnu" : "c") + (c ? "" : "++") + year;
}

class CFamily : public PartSteps {
 public:
  CFamily(Planning& planning, const model::Unit& unit, const model::Part& part, std::size_t sources)
      : planning_(planning),
        unit_(unit),
        part_(part),
        compiler_(planning.toolchain.compiler(part.language == "Assembler" ? "C" : part.language)) {
    for (const auto& definition : part.settings.definitions) definitions_.push_back("-D" + definition);
    add_folders();
    add_options();
    // Compiling headers ahead pays from a few sources on.
    if (!part.settings.first_headers.empty() && sources > 2)
      ahead_header_ = planning.project.binary_root + "/.objects/" + text::replace_all(unit.name, "/", "_") + "/ahead." +
                      (part.language == "C" ? "h" : "hpp");
  }

  std::vector<model::Step> first() override {
    std::vector<model::Step> out;
    if (!ahead_header_.empty()) out.push_back(ahead_step());
    return out;
  }

  std::vector<model::Step> of(const model::UnitSource& source, const std::string& object) override {
    model::Step step = step_for(planning_, unit_, part_, source, object);
    if (!ahead_header_.empty()) step.inputs.push_back(ahead_header_ + ".gch");
    std::vector<std::string> first;
    if (!ahead_header_.empty()) {
      first = {"-include", ahead_header_};
    } else {
      for (const auto& header : part_.settings.first_headers) first.insert(first.end(), {"-include", header});
    }
    // -x only where the file's name does not tell the language.
    if (survey::compiled_language(source.path) != part_.language && part_.language != "Assembler")
      first.insert(first.end(), {"-x", part_.language == "C" ? "c" : "c++"});
    finish(step, source, first);
    return {std::move(step)};
  }

  [[nodiscard]] std::vector<std::string> shown_options() const override { return options_; }

 private:
  void add_folders() {
    const auto& built_in = compiler_.include_folders;
    for (const auto& folder : part_.settings.include_folders) {
      // Built-in folders named again would change the order in which system headers find each other.
      const bool own = folder.kind == IncludeFolder::Kind::plain || folder.kind == IncludeFolder::Kind::system;
      if (own && std::find(built_in.begin(), built_in.end(), folder.path) != built_in.end()) continue;
      switch (folder.kind) {
        case IncludeFolder::Kind::before:
        case IncludeFolder::Kind::plain: folders_.push_back("-I" + folder.path); break;
        case IncludeFolder::Kind::system: folders_.insert(folders_.end(), {"-isystem", folder.path}); break;
        case IncludeFolder::Kind::after: folders_.insert(folders_.end(), {"-idirafter", folder.path}); break;
      }
    }
  }

  void add_options() {
    const auto& with = part_.settings;
    options_ = with.first_options;
    options_.insert(options_.end(), planning_.variant.compile.begin(), planning_.variant.compile.end());
    if (with.standard) options_.push_back(standard_option(part_.language, *with.standard));
    if (with.position_independence != model::PositionIndependence::none)
      options_.emplace_back(with.position_independence == model::PositionIndependence::program ? "-fPIE" : "-fPIC");
    if (!with.visibility.empty()) options_.push_back("-fvisibility=" + with.visibility);
    if (with.inlines_hidden) options_.emplace_back("-fvisibility-inlines-hidden");
    if (with.link_time_optimisation) options_.emplace_back("-flto");
    if (with.warnings_are_errors) options_.emplace_back("-Werror");
    options_.insert(options_.end(), with.options.begin(), with.options.end());
    if (!planning_.settings.warnings_as_errors &&
        std::find(options_.begin(), options_.end(), "-Werror") != options_.end()) {
      options_.emplace_back("-Wno-error");
      note_once(planning_,
                "the description treats warnings as errors; here they stay warnings (to have it otherwise: [tree] "
                "warnings-as-errors = true in coctilis.toml)");
    }
  }

  // The command, with `words` behind all options. `form`: what the file is to be taken for; empty: what its name says.
  void finish(model::Step& step, const model::UnitSource& source, const std::vector<std::string>& words,
              const std::string& form = {}) const {
    step.identity = compiler_.identity;
    step.tools = compiler_.programs;
    model::Action action;
    action.folder = unit_.work_folder;
    auto& argv = action.argv;
    argv = {compiler_.path};
    const auto add = [&](const std::vector<std::string>& list) { argv.insert(argv.end(), list.begin(), list.end()); };
    add(planning_.toolchain.options);
    add(definitions_);
    if (!source.quote_folder.empty()) add({"-iquote", source.quote_folder});
    add(folders_);
    add(options_);
    add(source.options);
    add(words);
    add({"-MD", "-MF", step.dependency_file, "-o", step.outputs.front()});
    if (!form.empty()) add({"-x", form});
    if (planning_.settings.header_times && compiler_.family == "clang" && form.empty()) {
      // Written beside the object, by its name.
      add({"-ftime-trace"});
      step.time_report = std::filesystem::path(step.outputs.front()).replace_extension(".json").string();
    }
    add({"-c", source.path});
    step.search = planning_.plan.search_number(search_path_of(argv, action.folder, compiler_.include_folders));
    step.actions.push_back(std::move(action));
  }

  // Compiles the headers that all sources of a language include first, once. Compilers take the result in place of the
  // header of that name.
  model::Step ahead_step() const {
    std::string content;
    for (const auto& name : part_.settings.first_headers)
      content += name.starts_with('/') ? "#include \"" + name + "\"\n" : "#include <" + name + ">\n";
    planning_.plan.files.push_back({ahead_header_, content, false});
    model::UnitSource header;
    header.path = ahead_header_;
    header.place = unit_.place;
    model::Step step = step_for(planning_, unit_, part_, header, ahead_header_ + ".gch");
    step.subject = "the first headers of " + unit_.name;
    finish(step, header, {}, part_.language == "C" ? "c-header" : "c++-header");
    return step;
  }

  Planning& planning_;
  const model::Unit& unit_;
  const model::Part& part_;
  const model::Compiler& compiler_;
  std::vector<std::string> definitions_;
  std::vector<std::string> folders_;
  std::vector<std::string> options_;
  std::string ahead_header_;  // the file that includes all first headers; empty: each is included by itself
};

}  // namespace

std::unique_ptr<PartSteps> c_family_steps(Planning& planning, const model::Unit& unit, const model::Part& part,
                                          std::size_t sources) {
  return std::make_unique<CFamily>(planning, unit, part, sources);
}

}  // namespace coctilis::plan
