#include "base/file_operations.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <ctime>

#include "base/archive.h"
#include "base/confine.h"
#include "base/digest.h"
#include "base/files.h"
#include "base/text.h"

namespace coctilis::files {

namespace {

class Operation {
 public:
  Operation(const std::vector<std::string>& argv, const std::string& folder, const std::string& writable,
            std::string& output)
      : argv_(argv), folder_(folder), writable_(writable), output_(output) {
    for (std::size_t i = 1; i < argv.size(); ++i) {
      const auto& word = argv[i];
      const bool flag = word.size() > 1 && word[0] == '-' && word.find('/') == std::string::npos;
      if (flag && argv[0] != "echo" && argv[0] != "echo_append")
        flags_ += word;
      else
        words_.push_back(word);
    }
  }

  using Step = int (Operation::*)();
  static const std::map<std::string, Step>& table() {
    static const std::map<std::string, Step> operations = {{"copy", &Operation::copy},
                                                           {"copy_if_different", &Operation::copy},
                                                           {"copy_directory", &Operation::copy_folder},
                                                           {"copy_directory_if_different", &Operation::copy_folder},
                                                           {"make_directory", &Operation::make_folder},
                                                           {"touch", &Operation::touch},
                                                           {"touch_nocreate", &Operation::touch_existing},
                                                           {"rm", &Operation::remove},
                                                           {"remove", &Operation::remove},
                                                           {"remove_directory", &Operation::remove_all},
                                                           {"rename", &Operation::rename},
                                                           {"echo", &Operation::echo},
                                                           {"echo_append", &Operation::echo_append},
                                                           {"create_symlink", &Operation::link},
                                                           {"compare_files", &Operation::compare},
                                                           {"cat", &Operation::cat},
                                                           {"create_hardlink", &Operation::hard_link},
                                                           {"md5sum", &Operation::sums},
                                                           {"sha1sum", &Operation::sums},
                                                           {"sha224sum", &Operation::sums},
                                                           {"sha256sum", &Operation::sums},
                                                           {"sha384sum", &Operation::sums},
                                                           {"sha512sum", &Operation::sums},
                                                           {"sleep", &Operation::sleep},
                                                           {"tar", &Operation::tar},
                                                           {"refuse", &Operation::refuse},
                                                           {"true", &Operation::succeed},
                                                           {"false", &Operation::fail}};
    return operations;
  }

  int run() {
    const auto it = table().find(argv_[0]);
    return it == table().end() ? say("the operation '" + argv_[0] + "' is not understood yet")
                               : (this->*(it->second))();
  }

 private:
  int say(const std::string& what) {
    output_ += text::printable_line(what) + "\n";
    return 1;
  }
  [[nodiscard]] std::string path(std::size_t i) const { return files::absolute(words_[i], folder_); }
  bool may_write(const std::string& to) {
    if (files::lies_below(to, writable_)) return true;
    say("'" + to + "' " + std::string(outside_output_folder) + " and is not written");
    return false;
  }
  int copy_file(const std::string& from, const std::string& to) {
    if (!may_write(to)) return 1;
    const auto content = files::read(from);
    if (!content) return say("'" + from + "' " + files::why_not_read(from));
    files::write_if_different(to, *content);
    files::set_mode(to, static_cast<unsigned>(fs::status(from).permissions() | fs::perms::owner_write));
    return 0;
  }
  int copy() {
    if (words_.size() < 2) return say("copy needs a source and a destination");
    for (std::size_t i = 0; i + 1 < words_.size(); ++i) {
      std::string to = path(words_.size() - 1);
      if (files::is_folder(to)) to += "/" + fs::path(words_[i]).filename().string();
      if (copy_file(path(i), to) != 0) return 1;
    }
    return 0;
  }
  int copy_folder() {
    if (words_.size() < 2) return say("copy_directory needs a source and a destination");
    for (std::size_t i = 0; i + 1 < words_.size(); ++i) {
      const std::string from = path(i);
      const std::string to = path(words_.size() - 1);
      if (!files::is_folder(from)) return say("'" + from + "' is no folder");
      if (!may_write(to)) return 1;
      files::make_folder(to);
      std::error_code error;
      for (auto it = fs::recursive_directory_iterator(from, error); it != fs::recursive_directory_iterator();
           it.increment(error)) {
        const std::string below = files::relative(it->path().string(), from);
        if (!may_write(to + "/" + below)) return 1;
        if (it->is_directory())
          files::make_folder(to + "/" + below);
        else if (it->is_symlink())
          fs::copy_symlink(it->path(), to + "/" + below, error);
        else if (copy_file(it->path().string(), to + "/" + below) != 0)
          return 1;
      }
    }
    return 0;
  }
  int make_folder() {
    for (std::size_t i = 0; i < words_.size(); ++i) {
      if (files::is_folder(path(i))) continue;
      if (!may_write(path(i))) return 1;
      files::make_folder(path(i));
    }
    return 0;
  }
  int touch() {
    for (std::size_t i = 0; i < words_.size(); ++i) {
      std::error_code error;
      // A link stands for what it leads to here.
      const std::string to = files::is_link(path(i)) ? fs::weakly_canonical(path(i), error).string() : path(i);
      if (error || !may_write(to)) return error ? say("'" + path(i) + "': " + error.message()) : 1;
      if (!files::is_file(path(i)))
        files::write(path(i), "");
      else
        files::set_time(path(i), std::nullopt);
    }
    return 0;
  }
  int touch_existing() {
    std::erase_if(words_, [&](const auto& word) { return !files::is_file(files::absolute(word, folder_)); });
    return touch();
  }
  int remove() {
    const bool recurse = flags_.find('r') != std::string::npos || flags_.find('R') != std::string::npos;
    for (std::size_t i = 0; i < words_.size(); ++i) {
      std::error_code error;
      if (!fs::exists(fs::symlink_status(path(i), error))) continue;
      if (!may_write(path(i))) return 1;
      if (recurse)
        fs::remove_all(path(i), error);
      else
        fs::remove(path(i), error);
    }
    return 0;
  }
  int remove_all() {
    flags_ = "-r";
    return remove();
  }
  int rename() {
    if (words_.size() < 2) return say("rename needs two names");
    if (!may_write(path(0)) || !may_write(path(1))) return 1;
    std::error_code error;
    fs::rename(path(0), path(1), error);
    return error ? say("'" + path(0) + "' cannot be renamed: " + error.message()) : 0;
  }
  int echo_append() {
    output_ += text::join(words_, " ");
    return 0;
  }
  int echo() {
    output_ += text::join(words_, " ") + "\n";
    return 0;
  }
  int link() {
    if (words_.size() < 2) return say("create_symlink needs two names");
    if (!may_write(path(1))) return 1;
    std::error_code error;
    if (fs::read_symlink(path(1), error) == words_[0]) return 0;
    fs::remove(path(1), error);
    files::make_folder(fs::path(path(1)).parent_path());
    fs::create_symlink(words_[0], path(1), error);
    return error ? say("'" + path(1) + "' cannot be made: " + error.message()) : 0;
  }
  int compare() {
    if (words_.size() < 2) return say("compare_files needs two names");
    const auto a = files::read(path(0));
    const auto b = files::read(path(1));
    if (!a || !b) return say("'" + (a ? path(1) : path(0)) + "' is not there");
    return *a == *b ? 0 : say("files differ: " + path(0) + " and " + path(1));
  }
  int cat() {
    for (std::size_t i = 0; i < words_.size(); ++i) {
      const auto content = files::read(path(i));
      if (!content) return say("'" + path(i) + "' is not there");
      output_ += *content;
    }
    return 0;
  }
  int hard_link() {
    if (words_.size() < 2) return say("create_hardlink needs two names");
    if (!may_write(path(1))) return 1;
    std::error_code error;
    fs::remove(path(1), error);
    fs::create_hard_link(path(0), path(1), error);
    return error ? say("'" + path(1) + "' cannot be made: " + error.message()) : 0;
  }
  int sums() {
    const std::string algorithm = text::upper(argv_[0].substr(0, argv_[0].size() - 3));
    for (std::size_t i = 0; i < words_.size(); ++i) {
      const auto content = files::read(path(i));
      if (!content) return say("'" + path(i) + "' is not there");
      output_ += digest(algorithm, *content).value_or("") + "  " + words_[i] + "\n";
    }
    return 0;
  }
  int sleep() {
    double seconds = 0;
    for (const auto& word : words_) seconds += std::atof(word.c_str());
    ::usleep(static_cast<useconds_t>(std::min(seconds, 60.0) * 1e6));
    return 0;
  }
  // "tar cf FILE names..." packs, "tar xf FILE" unpacks here; z, j, J and --zstd choose the compression when packing.
  int tar() {
    if (words_.size() < 2) return say("tar needs what to do and a file");
    const std::string mode = words_[0];
    const std::string file = files::absolute(words_[1], folder_);
    std::string why;
    if (mode.find('x') != std::string::npos) {
      if (!may_write(folder_)) return 1;
      return unpack_into(file, folder_, why) ? 0 : say(why);
    }
    if (mode.find('c') == std::string::npos) return say("tar '" + mode + "' is not understood yet");
    if (!may_write(file)) return 1;
    const std::string packing = mode.find('z') != std::string::npos          ? "gzip"
                                : mode.find('j') != std::string::npos        ? "bzip2"
                                : mode.find('J') != std::string::npos        ? "xz"
                                : flags_.find("--zstd") != std::string::npos ? "zstd"
                                                                             : "";
    std::vector<std::string> names(words_.begin() + 2, words_.end());
    return pack(file, folder_, names, packing, flags_.find("--format=zip") != std::string::npos, why) ? 0 : say(why);
  }
  // Stands for a command that the plan could not take over.
  int refuse() { return say(text::join(words_, " ")); }
  int succeed() { return 0; }  // NOLINT: one of a table of operations
  int fail() { return 1; }     // NOLINT

  const std::vector<std::string>& argv_;
  const std::string& folder_;
  const std::string& writable_;
  std::string& output_;
  std::string flags_;
  std::vector<std::string> words_;
};

}  // namespace

bool is_operation(const std::string& name) { return Operation::table().contains(name); }

int run_operation(const std::vector<std::string>& argv, const std::string& folder, const std::string& writable,
                  std::string& output) {
  if (argv.empty()) return 1;
  try {
    return Operation(argv, folder, writable, output).run();
  } catch (const Fault& fault) {
    output += fault.problem().what + ": " + fault.problem().cause + "\n";
  } catch (const std::exception& error) {
    output += std::string(error.what()) + "\n";
  }
  return 1;
}

void add_read_by_operation(const std::vector<std::string>& argv, const std::string& folder,
                           std::unordered_set<std::string>& read, std::unordered_set<std::string>& listed) {
  if (argv.empty()) return;
  std::vector<std::string> words;
  for (std::size_t i = 1; i < argv.size(); ++i) {
    if (argv[i].empty() || argv[i][0] != '-') words.push_back(argv[i]);
  }
  const std::string& name = argv[0];
  if (name.starts_with("copy") && !words.empty()) {
    words.pop_back();
  } else if (name == "create_hardlink") {
    words.resize(std::min<std::size_t>(words.size(), 1));
  } else if (name == "tar") {
    // Unpacking reads the archive, packing what is named behind it.
    const bool unpacks = !words.empty() && words[0].find('x') != std::string::npos;
    if (unpacks && words.size() > 1)
      words = {words[1]};
    else
      words.erase(words.begin(), words.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(words.size(), 2)));
  } else if (name != "compare_files" && name != "cat" && !name.ends_with("sum")) {
    return;
  }
  for (const auto& word : words) {
    const std::string path = files::absolute(word, folder);
    if (!files::is_folder(path)) {
      read.insert(path);
      continue;
    }
    listed.insert(path);
    std::error_code error;
    for (auto it = fs::recursive_directory_iterator(path, error); !error && it != fs::recursive_directory_iterator();
         it.increment(error)) {
      (it->is_directory(error) ? listed : read).insert(it->path().string());
    }
  }
}

}  // namespace coctilis::files
