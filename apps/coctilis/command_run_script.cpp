// What this program calls itself for: steps of a plan that run a script in the description's language, and members of
// a tree that are brought up beside each other. People need not.
#include <cstdio>
#include <cstdlib>

#include "base/confine.h"
#include "base/file_operations.h"
#include "base/files.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "base/watched_run.h"
#include "commands.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/reader.h"
#include "describe/script/reader.h"
#include "pipeline/member_process.h"
#include "smoke/exchange.h"
#include "smoke/screen.h"

namespace coctilis::app {

void add_run_script(CLI::App& app, Common& common) {
  struct Words {
    std::string tree;
    std::string output;
    std::vector<std::string> words;
  };
  auto* command = app.add_subcommand("run-script", "Runs a script of a description (steps of a plan use this)");
  command->group("");
  auto words = std::make_shared<Words>();
  command->add_option("--tree", words->tree)->required();
  command->add_option("--output", words->output)->required();
  command->add_option("WORDS", words->words);
  command->callback([&common, words] {
    common.chosen = [words] {
      Screen screen(true, false, 0, false);
      const auto call = describe::listfile::script_call(words->words);
      if (!call) {
        screen.problem({Exit::usage, {}, "this is no call of a script", {}, "write -DNAME=VALUE ... -P FILE", {}});
        return static_cast<int>(Exit::usage);
      }
      const auto said = describe::listfile::run_script(call->file, files::absolute("."), call->definitions,
                                                       call->arguments, words->tree, words->output);
      if (!said) {
        screen.problem(said.problem());
        // The script's own failure, or one of understanding it.
        const bool understood = said.problem().what.find("is not understood yet") == std::string::npos;
        return understood ? 1 : static_cast<int>(Exit::description);
      }
      for (const auto& line : *said) std::printf("%s\n", text::printable(line).c_str());
      return 0;
    };
  });
}

void add_bring_up_member(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("bring-up-member", "Brings up one member of a tree (a run of the whole uses this)");
  command->group("");
  auto file = std::make_shared<std::string>();
  command->add_option("FILE", *file)->required();
  command->callback([&common, file] { common.chosen = [file] { return pipeline::bring_up_member(*file); }; });
}

void add_run_operation(CLI::App& app, Common& common) {
  struct Words {
    std::string output;
    std::vector<std::string> words;
  };
  auto* command = app.add_subcommand("run-operation", "Does a small operation on files (steps of a plan use this)");
  command->group("");
  auto words = std::make_shared<Words>();
  command->add_option("--output", words->output)->required();
  command->add_option("WORDS", words->words);
  command->callback([&common, words] {
    common.chosen = [words] {
      std::string output;
      const int code = files::run_operation(words->words, files::absolute("."), words->output, output);
      std::fwrite(output.data(), 1, output.size(), code == 0 ? stdout : stderr);
      return code;
    };
  });
}

void add_run_watched(CLI::App& app, Common& common) {
  struct Words {
    describe::script::ScriptRun run;
  };
  auto* command =
      app.add_subcommand("run-watched", "Runs a tree's own script and watches it (steps of a plan use this)");
  command->group("");
  auto words = std::make_shared<Words>();
  command->add_option("--tree", words->run.tree)->required();
  command->add_option("--work", words->run.work)->required();
  command->add_option("--folder", words->run.folder)->required();
  command->add_option("--state", words->run.state)->required();
  command->add_option("--notes", words->run.notes)->required();
  command->add_option("WORDS", words->run.argv);
  command->callback([&common, words] {
    common.chosen = [words] {
      const char* count = std::getenv("COCTILIS_MAKE_COUNT");
      words->run.count = count == nullptr ? "" : count;
      ::unsetenv("COCTILIS_MAKE_COUNT");  // what makes of the script do is seen here already
      return describe::script::run_script(words->run);
    };
  });
}

namespace {

// A command that prints the answer to its words.
void add_answering(CLI::App& app, Common& common, const char* name, const char* what,
                   std::optional<std::string> (*answer)(const std::vector<std::string>& words)) {
  auto* command = app.add_subcommand(name, what);
  command->group("");
  auto words = std::make_shared<std::vector<std::string>>();
  command->add_option("WORDS", *words)->required();
  command->callback([&common, words, answer] {
    common.chosen = [words, answer] {
      const auto text = answer(*words);
      if (!text) return static_cast<int>(Exit::usage);
      std::fwrite(text->data(), 1, text->size(), stdout);
      return 0;
    };
  });
}

}  // namespace

void add_ask_service(CLI::App& app, Common& common) {
  add_answering(app, common, "ask-service", "Asks a service for a page or a word (checks use this)",
                smoke::reply_to_words);
}

void add_look_at_screen(CLI::App& app, Common& common) {
  add_answering(app, common, "look-at-screen", "Looks at the windows on a display (checks use this)",
                smoke::screen_report_to_words);
}

void add_run_confined(CLI::App& app, Common& common) {
  struct Words {
    std::vector<std::string> writable;
    sandbox::Allowed allowed;
    std::string limits;
    std::string in_place_of;
    std::string copy;
    std::string kiln;
    std::vector<std::string> words;
  };
  auto* command = app.add_subcommand("run-confined", "Runs a program that may write below some folders only");
  command->group("");
  auto words = std::make_shared<Words>();
  command->add_option("--write", words->writable)->required()->allow_extra_args(false);
  command->add_flag("--network", words->allowed.network);
  command->add_option("--device", words->allowed.devices)->allow_extra_args(false);
  command->add_option("--limits", words->limits);
  command->add_option("--in-place-of", words->in_place_of);  // the tree, in whose place the copy is seen
  command->add_option("--copy", words->copy);
  command->add_option("--kiln", words->kiln);
  command->add_option("WORDS", words->words);
  command->callback([&common, words] {
    common.chosen = [words] {
      if (!words->in_place_of.empty() && !put_in_place_of(words->in_place_of, words->copy, words->kiln)) {
        std::fputs("this system lets no program see a copy in place of the tree\n", stderr);
        return 126;
      }
      words->allowed.limits = sandbox::limits_of_word(words->limits);
      sandbox::allow(words->allowed);
      run_confined(words->words, words->writable);
      return 126;
    };
  });
}

}  // namespace coctilis::app
