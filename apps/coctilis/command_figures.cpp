// figures: the figures of a run, as files.
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "pipeline/in_kiln.h"
#include "record/record.h"
#include "report/figures/figures.h"
#include "report/figures/file_output.h"
#include "report/report.h"
#include "survey/survey.h"

namespace coctilis::app {

namespace {

struct FiguresWanted {
  int number = 0;
  std::vector<std::string> forms;
  std::string into;
};

struct NamedForm {
  const char* name;
  report::FigureForm form;
};
constexpr NamedForm forms[] = {
    {"svg", report::FigureForm::svg}, {"png", report::FigureForm::png}, {"pdf", report::FigureForm::pdf}};

int make_figures(Common& common, const FiguresWanted& words) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  const std::string root = survey::kiln_root(tree_of(common), common.run.kiln);
  const std::string record = record::newest_folder(root, words.number, common.run.variant);
  if (record.empty())
    throw Fault({Exit::usage,
                 {},
                 words.number > 0 ? "there is no record of run " + std::to_string(words.number) + " in '" + root + "'"
                                  : "there is no record in '" + root + "'",
                 {},
                 "'coctilis bringup' makes one",
                 {}});
  const std::string members = std::filesystem::path(record).parent_path().parent_path().string() + "/members";
  const auto material = record::material_of(record);
  if (!material)
    throw Fault({Exit::usage,
                 {},
                 "the record '" + record + "/run.json' cannot be read",
                 "it is not there, or damaged",
                 "name another run with --run, or make a new one: coctilis bringup",
                 {}});
  const std::string into = words.into.empty() ? record + "/figures" : files::absolute(words.into);
  const auto figures = report::figures_of(*material);
  nlohmann::ordered_json listed = nlohmann::ordered_json::array();
  const auto write_all = [&] {
    for (const auto& figure : figures) {
      const std::string base = into + "/" + figure.name;
      nlohmann::ordered_json files_of = nlohmann::ordered_json::array();
      const auto write = [&](const std::string& path, const std::string& content) {
        files::write(path, content);
        files_of.push_back(path);
      };
      write(base + ".csv", figure.data);
      for (const auto& one : forms) {
        if (std::find(words.forms.begin(), words.forms.end(), one.name) == words.forms.end()) continue;
        write(base + "." + one.name, report::drawn(figure.drawing, one.form));
      }
      listed.push_back(
          {{"name", figure.name}, {"title", figure.title}, {"sentence", figure.sentence}, {"files", files_of}});
    }
  };
  // A kiln may have come with the tree: whatever links lie in it, nothing is written outside of it. Where the user says
  // where, that is where.
  if (words.into.empty()) {
    model::Run run = start_run(common);
    run.tree = tree_of(common);
    if (!pipeline::in_kiln(run, write_all)) throw Fault(*run.problem);
  } else {
    write_all();
  }
  for (const auto& figure : figures) screen.line("figure", figure.name + ": " + figure.title + ". " + figure.sentence);
  if (common.json) {
    screen.text(listed.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n");
    return 0;
  }
  if (const int schema = material->run.schema; schema != report::record_schema)
    screen.line("note", "the record is of another version of this program (schema " + std::to_string(schema) +
                            ", here " + std::to_string(report::record_schema) +
                            "): figures may lack what it says in other words");
  if (figures.empty())
    screen.line("figures", "there is nothing to draw in this run: it built nothing" +
                               (files::is_folder(members) ? " itself; of a member: coctilis figures --kiln " +
                                                                text::shell_quote(from_here(members)) + "/NAME"
                                                          : std::string{}));
  else
    screen.line("figures", text::count(figures.size(), "figure") + " of run " + std::to_string(material->run.number) +
                               ", each with its numbers, in " + from_here(into));
  return 0;
}

}  // namespace

void add_figures(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("figures", "Draws the figures of a run into files, with the numbers behind them");
  add_tree(*command, common);
  auto words = std::make_shared<FiguresWanted>();
  command->add_option("--run", words->number, "The run, by its number (default: the newest)")
      ->type_name("N")
      ->check(CLI::PositiveNumber);
  command->add_option("--format", words->forms, "svg, png or pdf; several: svg,png (default: svg and png)")
      ->type_name("FORM")
      ->delimiter(',')
      ->check(CLI::IsMember({"svg", "png", "pdf"}));
  command->add_option("--into", words->into, "Folder for the files (default: figures/ beside the record)")
      ->type_name("DIR");
  command->add_option("--kiln", common.run.kiln, "Output folder (default: TREE/kiln)")->type_name("DIR");
  command->add_option("--variant", common.run.variant, "Only runs of this variant")->type_name("NAME");
  add_output(*command, common);
  command->callback([&common, words] {
    if (words->forms.empty()) words->forms = {"svg", "png"};
    common.chosen = [&common, words] { return make_figures(common, *words); };
  });
}

}  // namespace coctilis::app
