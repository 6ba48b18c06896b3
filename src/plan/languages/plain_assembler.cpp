// Assembler without the C preprocessor, by an assembler that the description names.
#include <filesystem>

#include "base/text.h"
#include "plan/languages/language.h"

namespace coctilis::plan {

namespace {

class PlainAssembler : public PartSteps {
 public:
  PlainAssembler(Planning& planning, const model::Unit& unit, const model::Part& part)
      : planning_(planning), unit_(unit), part_(part), command_(planning.build.compilers.at(part.language)) {}

  std::vector<model::Step> of(const model::UnitSource& source, const std::string& object) override {
    model::Step step = step_for(planning_, unit_, part_, source, object);
    step.identity = command_.front();
    step.tools = {command_.front()};
    model::Action action;
    action.folder = unit_.work_folder;
    auto& argv = action.argv;
    argv = command_;
    for (const auto& definition : part_.settings.definitions) argv.push_back("-D" + definition);
    // This assembler puts folder and name together as they are.
    for (const auto& folder : part_.settings.include_folders) {
      if (folder.kind == model::IncludeFolder::Kind::before || folder.kind == model::IncludeFolder::Kind::plain)
        argv.push_back("-I" + folder.path + "/");
    }
    argv.insert(argv.end(), part_.settings.first_options.begin(), part_.settings.first_options.end());
    // Another that is taken for it only tells what it reads when it is asked for nothing else.
    const bool tells_apart = std::filesystem::path(argv.front()).filename() == "yasm";
    model::Action tell = action;
    if (!tells_apart) argv.insert(argv.end(), {"-MD", step.dependency_file});
    argv.insert(argv.end(), {"-o", object, source.path});
    step.actions.push_back(action);
    if (tells_apart) {
      tell.argv.insert(tell.argv.end(), {"-M", "-o", object, source.path});
      tell.argv = {text::shell_join(tell.argv) + " >" + text::shell_quote(step.dependency_file)};
      tell.how = model::Action::How::shell;
      step.actions.push_back(std::move(tell));
    }
    return {std::move(step)};
  }

  [[nodiscard]] std::vector<std::string> shown_options() const override { return part_.settings.first_options; }

 private:
  Planning& planning_;
  const model::Unit& unit_;
  const model::Part& part_;
  const std::vector<std::string>& command_;
};

}  // namespace

std::unique_ptr<PartSteps> plain_assembler_steps(Planning& planning, const model::Unit& unit, const model::Part& part,
                                                 std::size_t) {
  return std::make_unique<PlainAssembler>(planning, unit, part);
}

}  // namespace coctilis::plan
