// complete: what may stand at a place of a command line, for the shells' completion: complete PLACE coctilis WORD ...
// Commands and options are those of the command line itself; names of the tree at hand are those that its newest run
// has left in the kiln (record/names.h).
#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "describe/readers.h"
#include "record/names.h"
#include "survey/around.h"
#include "survey/survey.h"

namespace coctilis::app {

namespace {

struct Asked {
  std::size_t place = 0;
  std::vector<std::string> words;
};

class Completion {
 public:
  Completion(const CLI::App& app, const Asked& asked) : app_(app) {
    words_ = asked.words;
    words_.resize(std::max(words_.size(), asked.place + 1));
    current_ = words_[asked.place];
    words_.resize(asked.place);
  }

  std::vector<std::string> candidates() {
    if (words_.size() <= 1) return begins(commands(true));
    const auto* command = command_named(words_[1]);
    if (command == nullptr) return {};
    if (const auto* option = waiting_option(*command)) return begins(values_of(*option));
    if (current_.starts_with("-")) return begins(options(*command));
    return begins(operands(words_[1]));
  }

 private:
  [[nodiscard]] std::vector<std::string> commands(bool with_options) const {
    std::vector<std::string> out;
    for (const auto* command : app_.get_subcommands([](const CLI::App*) { return true; })) {
      if (!command->get_group().empty()) out.push_back(command->get_name());
    }
    if (with_options) out.insert(out.end(), {"--help", "--version"});
    return out;
  }

  [[nodiscard]] const CLI::App* command_named(const std::string& name) const {
    for (const auto* command : app_.get_subcommands([](const CLI::App*) { return true; })) {
      if (command->get_name() == name && !command->get_group().empty()) return command;
    }
    return nullptr;
  }

  static std::vector<std::string> options(const CLI::App& command) {
    std::vector<std::string> out;
    for (const auto* option : command.get_options()) {
      if (option->get_group().empty()) continue;
      for (const auto& name : option->get_lnames()) out.push_back("--" + name);
    }
    return out;
  }

  // The option before the place, when what stands there is its value.
  [[nodiscard]] const CLI::Option* waiting_option(const CLI::App& command) const {
    const std::string& before = words_.back();
    if (words_.size() < 3 || !before.starts_with("-")) return nullptr;
    const auto* option = command.get_option_no_throw(before);
    return option != nullptr && option->get_items_expected_max() > 0 ? option : nullptr;
  }

  std::vector<std::string> values_of(const CLI::Option& option) {
    const std::string name = option.get_name(false, true);
    const auto is = [&](const char* one) { return name.find(std::string("--") + one) != std::string::npos; };
    if (is("colour")) return {"always", "never", "auto"};
    if (is("format")) return {"svg", "png", "pdf"};
    if (is("toolchain")) return {"gcc", "clang"};
    if (is("variant")) {
      std::vector<std::string> out = {"release", "debug", "sanitized", "coverage"};
      for (auto& one : names("variant")) out.push_back(std::move(one));
      return out;
    }
    if (is("run")) return names("run");
    if (is("set")) {
      auto out = names("option");
      for (auto& one : out) one += "=";
      return out;
    }
    if (is("unset")) return names("option");
    return {};
  }

  std::vector<std::string> operands(const std::string& command) {
    if (command == "build") return names("target");
    if (command == "smoke") return names("check");
    if (command == "why") {
      auto out = names("target");
      for (const char* kind : {"option", "check", "library", "source"}) {
        for (auto& one : names(kind)) out.push_back(std::move(one));
      }
      out.emplace_back("failure");
      return out;
    }
    return {};
  }

  // The tree that is meant: a folder among the words, else the one around.
  std::vector<std::string> names(const std::string& kind) {
    std::string tree;
    std::string kiln;
    for (std::size_t i = 2; i < words_.size(); ++i) {
      if (words_[i] == "--kiln" && i + 1 < words_.size()) kiln = words_[i + 1];
      if (!words_[i].starts_with("-") && tree.empty() && files::is_folder(words_[i]) && words_[i - 1] != "--kiln")
        tree = files::absolute(words_[i]);
    }
    if (tree.empty()) tree = survey::tree_around(files::absolute("."), describe::description_formats());
    return record::names_in(survey::kiln_root(tree, kiln), kind);
  }

  [[nodiscard]] std::vector<std::string> begins(std::vector<std::string> all) const {
    std::erase_if(all, [&](const auto& one) { return !one.starts_with(current_); });
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    return all;
  }

  const CLI::App& app_;
  std::vector<std::string> words_;
  std::string current_;
};

}  // namespace

void add_complete(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("complete", "What may stand at a place of a command line (shells use this)");
  command->group("");
  command->prefix_command();
  auto asked = std::make_shared<Asked>();
  command->callback([&app, &common, command, asked] {
    common.chosen = [&app, command, asked] {
      const auto words = command->remaining();
      if (words.empty()) return 0;
      asked->place = std::strtoul(words.front().c_str(), nullptr, 10);
      asked->words.assign(words.begin() + 1, words.end());
      if (asked->place > 10000) return 0;
      for (const auto& one : Completion(app, *asked).candidates()) {
        // A name with a line end in it cannot be told to a shell.
        if (text::printable_line(one) == one) Screen::put(stdout, one + "\n");
      }
      return 0;
    };
  });
}

}  // namespace coctilis::app
