#include "stage/stage.h"

#include <sys/stat.h>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/regex.h"

namespace coctilis::stage {

using model::InstallItem;

namespace {

class Installation {
 public:
  Installation(const model::Plan& plan, std::string prefix) : plan_(plan), prefix_(std::move(prefix)) {
    out_.prefix = prefix_;
  }

  model::Staged run() {
    files::make_folder(prefix_);
    for (const auto& item : plan_.install) {
      if (item.to.starts_with('/')) {
        out_.outside.push_back(item.to);
        continue;
      }
      const std::string to = files::absolute(item.to, prefix_);
      if (!files::is_below(to, prefix_))
        throw Fault({Exit::description,
                     item.place,
                     "the description installs to '" + text::printable_line(item.to) + "', outside the prefix",
                     {},
                     "give the option that names this folder a value below the prefix",
                     {}});
      switch (item.kind) {
        case InstallItem::Kind::file: file(item, to); break;
        case InstallItem::Kind::folder: folder(item, to); break;
        case InstallItem::Kind::link: link(item, to); break;
        case InstallItem::Kind::text: put(item.from, to, item.mode); break;
      }
      if (interrupted_by != 0) throw Fault({Exit::step, item.place, "interrupted", {}, "run it again", {}});
    }
    return std::move(out_);
  }

 private:
  void put(const std::string& content, const std::string& to, unsigned mode) {
    if (files::is_folder(to))
      throw Fault({Exit::kiln, {}, "'" + to + "' is a folder where a file is to be", {}, "move it away", {}});
    struct stat there {};
    const bool same = ::lstat(to.c_str(), &there) == 0 && S_ISREG(there.st_mode) &&
                      (there.st_mode & 07777U) == (mode == 0 ? 0644U : mode) && files::read(to) == content;
    if (!same) {
      files::write(to, content);
      files::set_mode(to, mode == 0 ? 0644 : mode);
    }
    note(to, !same);
  }

  void note(const std::string& to, bool written) {
    out_.files.push_back(files::below(to, prefix_));
    if (written) ++out_.written;
  }

  static unsigned mode_of(const std::string& path) {
    struct stat info {};
    return ::stat(path.c_str(), &info) == 0 ? info.st_mode & 0777U : 0644U;
  }

  void file(const InstallItem& item, const std::string& to) {
    if (files::is_folder(item.from)) {
      InstallItem whole = item;
      whole.mode = 0;
      folder(whole, to);
      return;
    }
    std::optional<std::string> content;
    if (item.relink) content = linked_anew(item);
    if (!content) content = files::read(item.from);
    if (!content) {
      if (item.optional) return;
      throw Fault({Exit::step,
                   item.place,
                   "'" + files::below(item.from, plan_.tree) + "' is to be installed, but is not there",
                   {},
                   "it may be made by a target that is not built by default: build that first",
                   {}});
    }
    put(*content, to, item.mode == 0 ? mode_of(item.from) : item.mode);
  }

  void link(const InstallItem& item, const std::string& to) {
    std::error_code error;
    const bool same = std::filesystem::read_symlink(to, error) == item.from;
    if (!same) {
      files::make_folder(std::filesystem::path(to).parent_path());
      std::filesystem::remove(to, error);
      std::filesystem::create_symlink(item.from, to, error);
      if (error)
        throw Fault({Exit::kiln, {}, "the link '" + to + "' cannot be made", error.message(), "check the folder", {}});
    }
    note(to, !same);
  }

  // The result linked with the run path for its installed place; nothing when that is what it has.
  std::optional<std::string> linked_anew(const InstallItem& item) const {
    const auto* target = plan_.target(item.target);
    if (target == nullptr || target->run_path == item.run_path) return std::nullopt;
    for (const auto index : target->steps) {
      const auto& step = plan_.steps[index];
      if (step.kind != model::StepKind::link || step.outputs.empty() || step.outputs.front() != item.from) continue;
      for (const auto& action : step.actions) {
        if (action.how != model::Action::How::process) continue;
        const auto at = std::find(action.argv.begin(), action.argv.end(), item.from);
        if (at == action.argv.begin() || at == action.argv.end() || *(at - 1) != "-o") continue;
        const files::ScratchFolder scratch("stage");
        const std::string made = scratch.path().string() + "/" + std::filesystem::path(item.from).filename().string();
        Command command;
        command.folder = action.folder;
        command.limit_seconds = 600;
        command.writable = {scratch.path().string()};
        for (const auto& [name, value] : action.environment) command.environment[name] = value;
        const std::string old = "-Wl,-rpath," + text::join(target->run_path, ":");
        for (const auto& word : action.argv) {
          if (word == item.from)
            command.argv.push_back(made);
          else if (target->run_path.empty() || word != old)
            command.argv.push_back(word);
        }
        if (!item.run_path.empty()) command.argv.push_back("-Wl,-rpath," + text::join(item.run_path, ":"));
        const Ended ended = coctilis::run(command);
        if (!ended.good())
          throw Fault({Exit::step,
                       item.place,
                       "linking '" + item.target + "' for its installed place failed: " + ended.text(),
                       text::printable(ended.output),
                       {},
                       {}});
        return files::read(made);
      }
    }
    return std::nullopt;
  }

  void folder(const InstallItem& item, const std::string& to) {
    if (item.from.empty()) {
      files::make_folder(to);
      return;
    }
    if (!files::is_folder(item.from)) {
      if (item.optional) return;
      // The language makes an empty folder of it.
      files::make_folder(to);
      return;
    }
    // By the rules of the language; one that cannot be read matches nothing.
    std::vector<std::unique_ptr<describe::listfile::Regex>> regexes;
    for (const auto& pattern : item.patterns)
      regexes.push_back(pattern.regex ? describe::listfile::readable_regex(pattern.text) : nullptr);
    const auto matches = [&](std::size_t i, const std::string& path, const std::string& name) {
      const auto& pattern = item.patterns[i];
      if (pattern.regex) return regexes[i] && regexes[i]->matches(path);
      return files::matches(pattern.text, name) || path.ends_with("/" + pattern.text);
    };
    const auto taken = [&](const std::string& path, unsigned& mode) {
      bool keep = !item.only_matching;
      const std::string name = std::filesystem::path(path).filename().string();
      for (std::size_t i = 0; i < item.patterns.size(); ++i) {
        const auto& pattern = item.patterns[i];
        if (!matches(i, path, name)) continue;
        if (pattern.exclude) return false;
        keep = true;
        if (pattern.mode != 0) mode = pattern.mode;
      }
      return keep;
    };
    std::error_code error;
    for (auto it = std::filesystem::recursive_directory_iterator(item.from, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      const std::string path = it->path().string();
      unsigned mode = item.mode != 0 ? item.mode : item.keep_mode ? mode_of(path) : 0644U;
      const bool is_folder = it->is_directory(error) && !it->is_symlink(error);
      if (is_folder) {
        // A folder is left out whole only when a pattern says so.
        bool excluded = false;
        for (std::size_t i = 0; i < item.patterns.size() && !excluded; ++i)
          excluded = item.patterns[i].exclude && matches(i, path, it->path().filename().string());
        if (excluded)
          it.disable_recursion_pending();
        else if (!item.only_matching)
          files::make_folder(to + "/" + files::below(path, item.from));
        continue;
      }
      if (!taken(path, mode)) continue;
      const std::string place = to + "/" + files::below(path, item.from);
      if (it->is_symlink(error) && !std::filesystem::exists(it->path(), error)) continue;
      const auto content = files::read(path);
      if (content) put(*content, place, mode);
    }
  }

  const model::Plan& plan_;
  const std::string prefix_;
  model::Staged out_;
};

}  // namespace

Result<model::Staged> install(const model::Plan& plan, const std::string& prefix) {
  return guarded("installing", [&] { return Installation(plan, prefix).run(); });
}

}  // namespace coctilis::stage
