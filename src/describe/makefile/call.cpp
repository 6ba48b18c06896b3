#include "describe/makefile/call.h"

#include <functional>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::makefile {

namespace {

struct LongOption {
  const char* name;
  char letter;  // what it stands for; 0: nothing here depends on it
  bool value;   // takes one
};
constexpr LongOption long_options[] = {
    {"always-make", 'B', false},
    {"directory", 'C', true},
    {"environment-overrides", 'e', false},
    {"eval", 'E', true},
    {"file", 'f', true},
    {"makefile", 'f', true},
    {"ignore-errors", 'i', false},
    {"include-dir", 'I', true},
    {"jobs", 'j', false},
    {"keep-going", 'k', false},
    {"load-average", 0, false},
    {"max-load", 0, false},
    {"just-print", 'n', false},
    {"dry-run", 'n', false},
    {"recon", 'n', false},
    {"no-builtin-rules", 'r', false},
    {"no-builtin-variables", 'R', false},
    {"no-keep-going", 'S', false},
    {"stop", 'S', false},
    {"no-print-directory", 'W', false},
    {"print-directory", 'w', false},
    {"output-sync", 0, false},
    {"question", 'q', false},
    {"quiet", 's', false},
    {"silent", 's', false},
    {"touch", 't', false},
    {"trace", 0, false},
    {"version", 'v', false},
    {"warn-undefined-variables", 0, false},
    {"no-silent", 0, false},
    {"shuffle", 0, false},
    {"debug", 0, false},
};

bool is_assignment(const std::string& word) {
  const auto equals = word.find('=');
  return equals != std::string::npos && equals > 0 && word[0] != '-';
}

class Parser {
 public:
  explicit Parser(Call& call) : call_(call) {}

  // Letters that need no value.
  bool flag(char letter) {
    switch (letter) {
      case 'B': call_.all = true; return true;
      case 'e': call_.environment_wins = true; return true;
      case 'i': call_.ignore_errors = true; return true;
      case 'k': call_.keep_going = true; return true;
      case 'n': call_.dry = true; return true;
      case 'q': call_.question = true; return true;
      case 'r': call_.no_rules = true; return true;
      case 'R': call_.no_rules = call_.no_variables = true; return true;
      case 's': call_.silent = true; return true;
      case 'S': call_.keep_going = false; return true;
      case 't': call_.touch = true; return true;
      case 'v': call_.version = true; return true;
      case 'w': call_.print_folder = true; return true;
      case 'W': call_.print_folder = false; return true;
      case 'b':
      case 'm':
      case 'd':
      case 'p':
      case 'L':
      case 'O':
      case 'h': return true;
      default: return false;
    }
  }
  bool with_value(char letter, const std::string& value) {
    switch (letter) {
      case 'C': call_.folder = files::absolute(value, call_.folder); return true;
      case 'f': call_.makefiles.push_back(value); return true;
      case 'I': call_.include_folders.push_back(value); return true;
      case 'E': call_.texts.push_back(value); return true;
      case 'o': return true;
      default: return false;
    }
  }

  Result<bool> words(const std::vector<std::string>& all) {
    bool options = true;
    for (std::size_t i = 0; i < all.size(); ++i) {
      const std::string& word = all[i];
      if (options && word == "--") {
        options = false;
      } else if (options && word.starts_with("--")) {
        const auto equals = word.find('=');
        const std::string name = word.substr(2, equals == std::string::npos ? equals : equals - 2);
        const LongOption* known = nullptr;
        for (const auto& option : long_options) {
          if (name == option.name) known = &option;
        }
        if (known == nullptr) return unknown(word);
        std::string value = equals == std::string::npos ? "" : word.substr(equals + 1);
        if (known->value && equals == std::string::npos) {
          if (i + 1 >= all.size()) return unknown(word);
          value = all[++i];
        }
        if (known->letter == 'j')
          jobs(value);
        else if (known->value)
          with_value(known->letter, value);
        else if (known->letter != 0)
          flag(known->letter);
      } else if (options && word.size() > 1 && word[0] == '-') {
        for (std::size_t k = 1; k < word.size(); ++k) {
          const char letter = word[k];
          if (letter == 'j' || letter == 'l') {
            std::size_t end = k + 1;
            while (end < word.size() && (std::isdigit(static_cast<unsigned char>(word[end])) != 0 || word[end] == '.'))
              ++end;
            std::string number = word.substr(k + 1, end - k - 1);
            if (number.empty() && end == word.size() && i + 1 < all.size() && !all[i + 1].empty() &&
                all[i + 1].find_first_not_of("0123456789.") == std::string::npos)
              number = all[++i];
            if (letter == 'j') jobs(number);
            k = end - 1;
          } else if (letter == 'C' || letter == 'f' || letter == 'I' || letter == 'E' || letter == 'o') {
            std::string value = word.substr(k + 1);
            if (value.empty()) {
              if (i + 1 >= all.size()) return unknown(word);
              value = all[++i];
            }
            with_value(letter, value);
            break;
          } else if (letter == 'O') {
            break;  // its value is attached
          } else if (!flag(letter)) {
            return unknown(word);
          }
        }
      } else if (is_assignment(word)) {
        call_.assignments.push_back(word);
        call_.own_variables.push_back(word.substr(0, word.find_first_of(":?+!=")));
      } else if (!word.empty() && word != "-") {
        call_.goals.push_back(word);
      }
    }
    return true;
  }

 private:
  void jobs(const std::string& number) {
    call_.jobs = number.empty() ? 0 : static_cast<unsigned>(std::max(1L, std::atol(number.c_str())));
  }
  static Problem unknown(const std::string& word) {
    return {Exit::usage,
            {},
            "the option '" + text::printable_line(word) + "' of make is not known, or lacks its value",
            {},
            "the options of POSIX make are understood, and the common ones besides",
            {}};
  }
  Call& call_;
};

}  // namespace

Result<Call> parse_call(const std::vector<std::string>& words, const std::map<std::string, std::string>& environment,
                        const std::string& folder) {
  Call call;
  call.folder = folder;
  call.environment = environment;
  Parser parser(call);
  if (const auto it = environment.find("MAKEFLAGS"); it != environment.end() && !it->second.empty()) {
    // Letters without a dash, or options as on a command line; assignments behind "--".
    auto handed = text::shell_words(it->second);
    if (!handed.empty() && handed[0][0] != '-' && handed[0].find('=') == std::string::npos) handed[0] = "-" + handed[0];
    std::erase_if(handed, [](const std::string& word) { return word.starts_with("--jobserver") || word == "-j"; });
    if (auto parsed = parser.words(handed); !parsed) return parsed.problem();
    call.goals.clear();
    call.own_variables.clear();
  }
  if (auto parsed = parser.words(words); !parsed) return parsed.problem();
  if (const auto it = environment.find("MAKELEVEL"); it != environment.end())
    call.level = std::atoi(it->second.c_str());
  return call;
}

std::string flags_text(const Call& call) {
  std::string letters;
  const auto add = [&](bool on, char letter) {
    if (on) letters += letter;
  };
  add(call.all, 'B');
  add(call.environment_wins, 'e');
  add(call.ignore_errors, 'i');
  add(call.keep_going, 'k');
  add(call.dry, 'n');
  add(call.no_rules && !call.no_variables, 'r');
  add(call.no_variables, 'R');
  add(call.silent, 's');
  add(call.touch, 't');
  std::string out = letters;
  for (const auto& folder : call.include_folders) out += " -I" + text::shell_quote(folder);
  if (!call.assignments.empty()) {
    out += out.empty() ? "-- " : " -- ";
    for (std::size_t i = 0; i < call.assignments.size(); ++i)
      out += (i > 0 ? " " : "") + text::shell_quote(call.assignments[i]);
  }
  return out;
}

}  // namespace coctilis::describe::makefile
