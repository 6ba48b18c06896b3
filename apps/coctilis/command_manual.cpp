// write-manual FOLDER: a manual page a command (coctilis-COMMAND.1), from what the command line itself says of each, so
// that pages and --help cannot differ. The build of Coctilis calls it.
#include <ctime>

#include "base/files.h"
#include "base/text.h"
#include "base/version.h"
#include "commands.h"

namespace coctilis::app {

namespace {

// As text of a page (man(7)): what would be a request or an escape is none.
std::string plain(const std::string& text) {
  std::string out = text::replace_all(text::replace_all(text, "\\", "\\e"), "-", "\\-");
  if (out.starts_with(".") || out.starts_with("'")) out.insert(0, "\\&");
  return text::replace_all(out, "\n", "\n.br\n");
}

std::string page_of(const CLI::App& command, const std::string& codes) {
  const std::string name = command.get_name();
  std::string capital = name;
  std::transform(capital.begin(), capital.end(), capital.begin(), [](unsigned char c) { return std::toupper(c); });
  std::string out = ".\\\" made from the program's own command line\n.TH COCTILIS\\-" + capital +
                    " 1 \"\" \"Coctilis " + std::string(version) + "\" \"User Commands\"\n.SH NAME\ncoctilis\\-" +
                    name + " \\- " + plain(command.get_description()) + "\n.SH SYNOPSIS\n.B coctilis " + name +
                    "\n.RI [ OPTION ...]\n";
  std::string operands;
  std::string options;
  for (const auto* option : command.get_options()) {
    if (option->get_group().empty()) continue;
    if (option->get_positional()) {
      const bool many = option->get_expected_max() > 1;
      out += ".RI [ " + option->get_name() + (many ? " ...]\n" : " ]\n");
      operands += ".TP\n.I " + option->get_name() + "\n" + plain(option->get_description()) + "\n";
      continue;
    }
    std::string names;
    for (const auto& letter : option->get_snames()) names += (names.empty() ? "" : ", ") + std::string("\\-") + letter;
    for (const auto& word : option->get_lnames()) names += (names.empty() ? "" : ", ") + ("\\-\\-" + plain(word));
    const bool takes = option->get_items_expected_max() > 0;
    options +=
        ".TP\n" +
        (takes ? ".BI \"" + names + " \" " + plain(option->get_type_name().empty() ? "VALUE" : option->get_type_name())
               : ".B " + names) +
        "\n" + plain(option->get_description()) + "\n";
  }
  if (!operands.empty()) out += ".SH OPERANDS\n" + operands;
  out += ".SH OPTIONS\n" + options + ".SH EXIT STATUS\n" + plain(codes) +
         "\n.SH SEE ALSO\n.BR coctilis (1),\n.BR coctilis.toml (5)\n";
  return out;
}

// The tables of docs/coctilis-toml.md as a page of their own: headings, rows and paragraphs are all that it has.
std::string page_of_settings(const std::string& markdown) {
  std::string out =
      ".\\\" made from docs/coctilis\\-toml.md\n.TH COCTILIS.TOML 5 \"\" \"Coctilis " + std::string(version) +
      "\" \"File Formats\"\n.SH NAME\ncoctilis.toml \\- what the description of a tree cannot say\n.SH DESCRIPTION\n";
  const auto inline_text = [](std::string text) {
    std::string shown;
    bool code = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (text[i] == '`') {
        code = !code;
        shown += code ? "\\fB" : "\\fR";
      } else if (text[i] == '\\' && i + 1 < text.size() && text[i + 1] == '|') {
        continue;
      } else if (text[i] == '\\') {
        shown += "\\e";
      } else if (text[i] == '-') {
        shown += "\\-";
      } else {
        shown += text[i];
      }
    }
    if (shown.starts_with(".") || shown.starts_with("'")) shown.insert(0, "\\&");
    return shown;
  };
  bool example = false;
  const auto lines = text::split(markdown, '\n');
  for (std::size_t at = 0; at < lines.size(); ++at) {
    const std::string& line = lines[at];
    // The heads of a table's columns.
    if (at + 1 < lines.size() && lines[at + 1].starts_with("|---")) continue;
    if (line.starts_with("```")) {
      example = !example;
      out += example ? ".PP\n.nf\n" : ".fi\n.PP\n";
    } else if (example) {
      out += plain(line) + "\n";
    } else if (line.starts_with("# ") || line.starts_with("|---") || line.starts_with("![")) {
      continue;
    } else if (line.starts_with("#")) {
      out += ".SH " + plain(line.substr(line.find(' ') + 1)) + "\n";
    } else if (line.starts_with("|")) {
      std::vector<std::string> cells;
      std::string cell;
      for (std::size_t i = 1; i < line.size(); ++i) {
        if (line[i] == '|' && line[i - 1] != '\\') {
          cells.emplace_back(text::trim(cell));
          cell.clear();
        } else {
          cell += line[i];
        }
      }
      if (cells.size() < 2) continue;
      const std::string meaning = cells.back();
      cells.pop_back();
      std::erase(cells, "");
      out += ".TP\n" + inline_text(text::join(cells, ", ")) + "\n" + inline_text(meaning) + "\n";
    } else {
      out += line.empty() ? ".PP\n" : inline_text(line) + "\n";
    }
  }
  return out;
}

}  // namespace

void add_manual(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("write-manual", "Writes the manual pages (the build of Coctilis uses this)");
  command->group("");
  struct Places {
    std::string folder;
    std::string settings;
  };
  auto places = std::make_shared<Places>();
  command->add_option("FOLDER", places->folder)->required();
  command->add_option("SETTINGS", places->settings, "docs/coctilis-toml.md")->required();
  command->callback([&app, &common, places] {
    common.chosen = [&app, places] {
      for (const auto* one : app.get_subcommands([](const CLI::App*) { return true; })) {
        if (!one->get_group().empty())
          files::write(places->folder + "/coctilis-" + one->get_name() + ".1", page_of(*one, app.get_footer()));
      }
      const auto settings = files::read(places->settings);
      if (!settings) throw Fault({Exit::usage, {}, "'" + places->settings + "' cannot be read", {}, "name it", {}});
      files::write(places->folder + "/coctilis.toml.5", page_of_settings(*settings));
      return 0;
    };
  });
}

}  // namespace coctilis::app
