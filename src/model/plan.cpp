#include "model/plan.h"

#include <map>
#include <string_view>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::model {

namespace {

// What this program does itself, in plain words: the operation's name and what each operand is.
std::string operation_text(const std::vector<std::string>& argv) {
  static const std::map<std::string_view, const char*> words = {{"copy_if_different", "copy"},
                                                                {"copy_directory", "copy"},
                                                                {"copy_directory_if_different", "copy"},
                                                                {"make_directory", "make folder"},
                                                                {"rm", "remove"},
                                                                {"remove", "remove"},
                                                                {"remove_directory", "remove"},
                                                                {"rename", "move"},
                                                                {"touch", "date"},
                                                                {"touch_nocreate", "date"},
                                                                {"finish-copy", "copy"},
                                                                {"finish-join", "join"},
                                                                {"finish-pack", "pack"},
                                                                {"finish-unpack", "unpack"},
                                                                {"pack-classes", "pack"},
                                                                {"write-starter", "write"},
                                                                {"begin-sources", "copy with its usings"}};
  if (argv.size() == 3 && (argv[0] == "create_symlink" || argv[0] == "create_hardlink"))
    return "link " + text::shell_quote(argv[2]) + " -> " + text::shell_quote(argv[1]);
  const auto it = words.find(argv.front());
  std::string out = it == words.end() ? argv.front() : it->second;
  for (std::size_t i = 1; i < argv.size(); ++i) {
    if (argv.front() == "rm" && argv[i].starts_with('-')) continue;
    out += " " + text::shell_quote(argv[i]);
  }
  return out;
}

}  // namespace

std::string Action::text() const {
  if (argv.empty()) return {};
  if (how == How::shell) return argv[0];
  return how == How::builtin ? operation_text(argv) : text::shell_join(argv);
}

bool Plan::lies_among_results(const std::string& path) const {
  return files::lies_below(path, work) || (!kiln.empty() && files::lies_below(path, finished()));
}

Action make_folder(const std::string& path, const std::string& where) {
  return {Action::How::builtin, {"make_directory", path}, where, {}};
}

std::string Plan::short_path(const std::string& path) const {
  if (!work.empty() && files::is_below(path, work) && path != work) return files::below(path, work);
  return files::below(files::below(path, kiln), tree);
}

}  // namespace coctilis::model
