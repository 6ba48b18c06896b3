#include "stage/starters.h"

#include <algorithm>
#include <map>

#include "base/files.h"
#include "base/loader.h"
#include "base/starter_script.h"
#include "base/text.h"

namespace coctilis::stage {

namespace {

std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }
std::string name_of(const std::string& path) { return std::filesystem::path(path).filename().string(); }

class Starters {
 public:
  explicit Starters(model::Staged& staged) : staged_(staged) {
    for (const auto& file : staged.files) folders_.emplace(name_of(file), folder_of(staged.prefix + "/" + file));
  }

  bool run() {
    std::vector<std::string> moved;
    for (const auto& file : staged_.files) {
      const std::string path = staged_.prefix + "/" + file;
      if (files::is_link(path) || !files::lies_below(path, staged_.prefix) || !files::is_program(path)) continue;
      if (name_of(path).find(".so") != std::string::npos) continue;
      const auto folders = folders_to_name(path);
      if (folders.empty()) continue;
      const std::string to = staged_.prefix + "/libexec/" + name_of(path);
      if (to == path || !files::lies_below(to, staged_.prefix) || is_another(to, path)) continue;
      start_from(path, to, folders);
      staged_.starters.push_back(file);
      moved.push_back("libexec/" + name_of(path));
    }
    for (auto& file : moved) {
      if (std::find(staged_.files.begin(), staged_.files.end(), file) == staged_.files.end())
        staged_.files.push_back(std::move(file));
    }
    return true;
  }

 private:
  // The folders of libraries that were installed with it and that it does not find.
  [[nodiscard]] std::vector<std::string> folders_to_name(const std::string& program) const {
    std::vector<std::string> out;
    for (std::size_t before = 0;; before = out.size()) {
      const LoadResult result = resolve_libraries(program, {}, out);
      if (!result.is_elf) return {};
      for (const auto& [library, user] : result.missing) {
        const auto it = folders_.find(library);
        if (it != folders_.end() && std::find(out.begin(), out.end(), it->second) == out.end())
          out.push_back(it->second);
      }
      if (out.size() == before) return out;
    }
  }

  // Something else than the program that an earlier run has put there.
  [[nodiscard]] bool is_another(const std::string& to, const std::string& path) const {
    if (!files::exists(to) && !files::is_link(to)) return false;
    const bool installed =
        std::find(staged_.files.begin(), staged_.files.end(), files::below(to, staged_.prefix)) != staged_.files.end();
    const auto there = read_elf(to);
    const auto here = read_elf(path);
    return files::is_link(to) || installed || !there || !here || there->needed != here->needed;
  }

  static void start_from(const std::string& path, const std::string& to, const std::vector<std::string>& folders) {
    files::make_folder(folder_of(to));
    std::error_code error;
    std::filesystem::rename(path, to, error);
    if (error)
      throw Fault(
          {Exit::kiln, {path, 0, 0}, "the program cannot be moved to " + to, error.message(), "check the folder", {}});
    std::vector<std::string> named;
    for (const auto& folder : folders) named.push_back(from_script(files::relative(folder, folder_of(path))));
    files::write(
        path, starter_script("the program with the shared libraries that were installed with it",
                             {from_script(files::relative(to, folder_of(path)))},
                             {"LD_LIBRARY_PATH=" + text::join(named, ":") + "${LD_LIBRARY_PATH:+:$LD_LIBRARY_PATH}"}));
    files::set_mode(path, 0755);
  }

  model::Staged& staged_;
  std::map<std::string, std::string> folders_;  // of what was installed, by name
};

}  // namespace

Result<bool> add_starters(model::Staged& staged) {
  return guarded("installing", [&] { return Starters(staged).run(); });
}

}  // namespace coctilis::stage
