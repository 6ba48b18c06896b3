#include "base/archive.h"

#include <sys/stat.h>
#include <unistd.h>

#include <cstdlib>
#include <ctime>
#include <fstream>
#include <memory>

#include "base/archive_library.h"
#include "base/files.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::files {

namespace {

struct EndReading {
  void operator()(archive* reader) const { archive_read_free(reader); }
};
struct EndWriting {
  void operator()(archive* writer) const { archive_write_free(writer); }
};
using Reader = std::unique_ptr<archive, EndReading>;
using Writer = std::unique_ptr<archive, EndWriting>;

const char* const endings[] = {".tar",  ".tar.gz",  ".tgz",  ".tar.xz", ".txz",     ".tar.bz2", ".tbz",
                               ".tbz2", ".tar.zst", ".tzst", ".tar.lz", ".tar.lz4", ".zip"};

std::string stem_of(const std::string& path) {
  const std::string name = fs::path(path).filename().string();
  std::string best = name;
  for (const std::string ending : endings) {
    if (text::lower(name).ends_with(ending) && name.size() - ending.size() < best.size() && name.size() > ending.size())
      best = name.substr(0, name.size() - ending.size());
  }
  return best;
}

[[noreturn]] void refuse(const std::string& archive, const std::string& what, const std::string& remedy) {
  throw Fault({Exit::usage, {archive, 0, 0}, what, "", remedy, {}});
}

Reader open(const std::string& path) {
  Reader reader(archive_read_new());
  archive_read_support_filter_all(reader.get());
  archive_read_support_format_tar(reader.get());
  archive_read_support_format_gnutar(reader.get());
  archive_read_support_format_zip(reader.get());
  if (archive_read_open_filename(reader.get(), path.c_str(), 1U << 18U) != ARCHIVE_OK) {
    const char* why = archive_error_string(reader.get());
    refuse(path, "the archive '" + path + "' cannot be read: " + text::printable_line(why == nullptr ? "" : why),
           "check the file; is it whole?");
  }
  return reader;
}

// The entry's name without "./" before it; a fault when it leads outside.
std::string safe_name(const std::string& archive, const char* raw) {
  std::string name = raw == nullptr ? "" : raw;
  while (name.starts_with("./")) name.erase(0, 2);
  while (name.ends_with('/')) name.pop_back();
  if (name == ".") name.clear();
  bool outside = name.starts_with('/');
  for (const auto& part : text::split(name, '/')) outside = outside || part == "..";
  if (outside)
    refuse(archive, "the archive has an entry that leads outside: " + text::printable_line(name),
           "nothing was unpacked; do not trust this archive");
  return name;
}

// The symbolic links in an archive that leave the tree would let later entries, or the build, write elsewhere; the
// unpacker refuses to go through them, and those that point outside are told here.
bool leads_outside(const std::string& name, const std::string& target) {
  if (target.starts_with('/')) return true;
  int depth = static_cast<int>(std::count(name.begin(), name.end(), '/'));
  for (const auto& part : text::split(target, '/')) {
    if (part == "..")
      --depth;
    else if (!part.empty() && part != ".")
      ++depth;
    if (depth < 0) return true;
  }
  return false;
}

struct Pass {
  std::uint64_t entries = 0;
  std::uint64_t bytes = 0;
  std::uint64_t declared = 0;  // the sum of the sizes that entries claim
};

[[noreturn]] void refuse_size(const std::string& path, const ArchiveLimits& limits) {
  refuse(path, "the archive unpacks to more than " + text::size(limits.bytes) + "; it may never end",
         "nothing was unpacked; unpack it by hand if it is right");
}

// Goes through all entries; `handle` gets each with its checked name.
template <class F>
Pass each_entry(const std::string& path, const ArchiveLimits& limits, F&& handle) {
  const Reader reader = open(path);
  Pass pass;
  archive_entry* entry = nullptr;
  int code = ARCHIVE_OK;
  while ((code = archive_read_next_header(reader.get(), &entry)) == ARCHIVE_OK || code == ARCHIVE_WARN) {
    if (interrupted_by != 0) refuse(path, "interrupted", "nothing was unpacked; run it again");
    if (++pass.entries > limits.entries)
      refuse(path, "the archive has more than " + text::grouped(limits.entries) + " entries",
             "nothing was unpacked; unpack it by hand if it is right");
    if (archive_entry_size_is_set(entry) != 0) pass.declared += static_cast<std::uint64_t>(archive_entry_size(entry));
    if (pass.declared > limits.bytes) refuse_size(path, limits);
    const std::string name = safe_name(path, archive_entry_pathname(entry));
    if (!name.empty()) handle(reader.get(), entry, name, pass);
  }
  if (code != ARCHIVE_EOF) {
    const char* why = archive_error_string(reader.get());
    refuse(path, "the archive is broken: " + text::printable_line(why == nullptr ? "" : why),
           "nothing was unpacked; fetch it again");
  }
  if (pass.entries == 0) refuse(path, "the archive is empty", "fetch it again");
  return pass;
}

// The folder that all entries are in; empty when there is none.
std::string lone_folder(const std::string& path, const ArchiveLimits& limits) {
  std::string top;
  bool alone = true;
  each_entry(path, limits, [&](archive*, archive_entry* entry, const std::string& name, Pass&) {
    const std::string first = name.substr(0, name.find('/'));
    if (top.empty()) top = first;
    alone = alone && first == top && (name != top || archive_entry_filetype(entry) == AE_IFDIR);
  });
  return alone ? top : "";
}

bool same_content(const std::string& path, const ArchiveLimits& limits, const std::string& folder,
                  const std::string& strip) {
  bool same = true;
  each_entry(path, limits, [&](archive*, archive_entry* entry, const std::string& name, Pass&) {
    if (!same || name == strip) return;
    const std::string file = folder + "/" + (strip.empty() ? name : name.substr(strip.size() + 1));
    struct stat info {};
    same =
        ::lstat(file.c_str(), &info) == 0 && (info.st_mode & S_IFMT) == archive_entry_filetype(entry) &&
        (!S_ISREG(info.st_mode) || archive_entry_size_is_set(entry) == 0 || info.st_size == archive_entry_size(entry));
    if (archive_entry_hardlink(entry) != nullptr) same = ::lstat(file.c_str(), &info) == 0;
  });
  return same;
}

void copy_data(const std::string& path, archive* reader, archive* writer, Pass& pass, const ArchiveLimits& limits,
               const std::function<void(std::uint64_t)>& progress) {
  const void* block = nullptr;
  std::size_t size = 0;
  la_int64_t offset = 0;
  int code = ARCHIVE_OK;
  while ((code = archive_read_data_block(reader, &block, &size, &offset)) == ARCHIVE_OK) {
    pass.bytes += size;
    if (interrupted_by != 0) refuse(path, "interrupted", "nothing was unpacked; run it again");
    if (pass.bytes > limits.bytes) refuse_size(path, limits);
    if (archive_write_data_block(writer, block, size, offset) != ARCHIVE_OK)
      throw Fault({Exit::kiln,
                   {path, 0, 0},
                   "the archive cannot be unpacked",
                   text::printable_line(archive_error_string(writer) == nullptr ? "" : archive_error_string(writer)),
                   "check space and permissions",
                   {}});
    if (progress) progress(pass.bytes);
  }
  if (code != ARCHIVE_EOF) {
    const char* why = archive_error_string(reader);
    refuse(path, "the archive is broken: " + text::printable_line(why == nullptr ? "" : why),
           "nothing was unpacked; fetch it again");
  }
}

// The name without the lone folder `top` around it; empty: it is that folder. All names lie in it, if there is one.
std::string inside(const std::string& name, const std::string& top) {
  if (top.empty()) return name;
  return name == top ? std::string{} : name.substr(top.size() + 1);
}

// What a hard link names.
std::string linked_name(const std::string& path, const char* raw, const std::string& top) {
  const std::string name = safe_name(path, raw);
  if (!top.empty() && !name.starts_with(top + "/"))
    refuse(path, "the archive has a link to what it does not have: " + text::printable_line(name),
           "nothing was unpacked; do not trust this archive");
  return inside(name, top);
}

// Unpacks every entry below `root`, without the lone folder `top`, if any.
Pass unpack_all(const std::string& path, const std::string& root, const std::string& top, const ArchiveLimits& limits,
                const std::function<void(std::uint64_t)>& progress) {
  const Writer writer(archive_write_disk_new());
  archive_write_disk_set_options(writer.get(), ARCHIVE_EXTRACT_TIME | ARCHIVE_EXTRACT_PERM |
                                                   ARCHIVE_EXTRACT_SECURE_SYMLINKS | ARCHIVE_EXTRACT_SECURE_NODOTDOT |
                                                   ARCHIVE_EXTRACT_UNLINK);
  const auto pass =
      each_entry(path, limits, [&](archive* reader, archive_entry* entry, const std::string& whole, Pass& so_far) {
        const std::string name = inside(whole, top);
        if (name.empty()) return;
        const auto type = archive_entry_filetype(entry);
        const char* hard = archive_entry_hardlink(entry);
        if (hard == nullptr && type != AE_IFREG && type != AE_IFDIR && type != AE_IFLNK)
          return;  // devices and the like
        if (type == AE_IFLNK && hard == nullptr) {
          const char* target = archive_entry_symlink(entry);
          if (target == nullptr || leads_outside(name, target))
            refuse(path,
                   "the archive has a link that leads outside: " + text::printable_line(name) + " to " +
                       text::printable_line(target == nullptr ? "" : target),
                   "nothing was unpacked; do not trust this archive");
        }
        // No set-user-id programs, and nothing that its owner cannot read and remove again.
        const auto mode = archive_entry_perm(entry);
        archive_entry_set_perm(entry, (mode & 0755U) | (type == AE_IFDIR ? 0700U : 0600U));
        archive_entry_set_pathname(entry, (root + "/" + name).c_str());
        if (hard != nullptr) archive_entry_set_hardlink(entry, (root + "/" + linked_name(path, hard, top)).c_str());
        if (archive_write_header(writer.get(), entry) != ARCHIVE_OK) {
          const char* why = archive_error_string(writer.get());
          refuse(path,
                 "the archive's entry " + text::printable_line(name) + " cannot be unpacked: " +
                     text::printable_line(text::replace_all(why == nullptr ? "" : why, root + "/", "")),
                 "nothing was unpacked; check the archive, space and permissions");
        }
        copy_data(path, reader, writer.get(), so_far, limits, progress);
      });
  archive_write_close(writer.get());
  return pass;
}

}  // namespace

bool is_archive_name(const std::string& path) {
  const std::string name = text::lower(fs::path(path).filename().string());
  return std::any_of(std::begin(endings), std::end(endings),
                     [&](const char* ending) { return name.ends_with(ending); });
}

Result<Unpacked> unpack_beside(const std::string& given, const ArchiveLimits& limits,
                               const std::function<void(std::uint64_t)>& progress) {
  return guarded("unpacking", [&] {
    std::error_code error;
    const auto real = fs::canonical(given, error);
    const std::string path = error ? absolute(given) : real.string();
    const std::string beside = fs::path(path).parent_path().string();
    const std::string top = lone_folder(path, limits);
    Unpacked out;
    out.folder = beside + "/" + (top.empty() ? stem_of(path) : top);
    if (fs::exists(fs::symlink_status(out.folder, error))) {
      if (!is_folder(out.folder) || !same_content(path, limits, out.folder, top))
        refuse(path, "'" + out.folder + "' is there already and is not what the archive has",
               "name that folder if it is the tree to bring up, or move it away");
      out.was_there = true;
      return out;
    }
    // Beside, so that the last move is one; gone again if anything fails.
    std::string pattern = beside + "/.unpacking-XXXXXX";
    if (::mkdtemp(pattern.data()) == nullptr)
      throw Fault({Exit::kiln,
                   {path, 0, 0},
                   "nothing can be written beside the archive, in " + beside,
                   "",
                   "move the archive to a folder of your own",
                   {}});
    struct Gone {
      std::string path;
      ~Gone() {
        std::error_code ignored;
        fs::remove_all(path, ignored);
      }
    } const gone{pattern};
    const std::string into = pattern + "/" + (top.empty() ? "tree" : "");
    if (top.empty()) fs::create_directory(into, error);
    const auto pass = unpack_all(path, top.empty() ? into : pattern, {}, limits, progress);
    fs::rename(top.empty() ? into : pattern + "/" + top, out.folder, error);
    if (error)
      throw Fault(
          {Exit::kiln, {path, 0, 0}, "'" + out.folder + "' cannot be made", error.message(), "check permissions", {}});
    out.entries = pass.entries;
    out.bytes = pass.bytes;
    return out;
  });
}

bool unpack_into(const std::string& archive, const std::string& folder, std::string& why) {
  const auto done = guarded("unpacking", [&] { return unpack_all(archive, folder, {}, {}, {}).entries; });
  if (!done) why = done.problem().what;
  return done.ok();
}

bool unpack_content_into(const std::string& archive, const std::string& folder, std::string& why) {
  const auto done =
      guarded("unpacking", [&] { return unpack_all(archive, folder, lone_folder(archive, {}), {}, {}).entries; });
  if (!done) why = done.problem().what;
  return done.ok();
}

Result<std::vector<std::string>> names_in_archive(const std::string& archive, bool content) {
  return guarded("reading an archive", [&] {
    const std::string top = content ? lone_folder(archive, {}) : std::string{};
    std::vector<std::string> out;
    each_entry(archive, {}, [&](::archive*, archive_entry* entry, const std::string& whole, Pass&) {
      const auto type = archive_entry_filetype(entry);
      const bool file = archive_entry_hardlink(entry) != nullptr || type == AE_IFREG || type == AE_IFLNK;
      if (file && !inside(whole, top).empty()) out.push_back(inside(whole, top));
    });
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  });
}

bool pack(const std::string& archive, const std::string& folder, const std::vector<std::string>& names,
          const std::string& packing, bool zip, std::string& why) {
  const Writer writer(archive_write_new());
  if (zip) {
    archive_write_set_format_zip(writer.get());
  } else {
    archive_write_set_format_pax_restricted(writer.get());
    if (!packing.empty() && archive_write_add_filter_by_name(writer.get(), packing.c_str()) != ARCHIVE_OK) {
      why = "there is no packing '" + packing + "'";
      return false;
    }
  }
  bool good = archive_write_open_filename(writer.get(), archive.c_str()) == ARCHIVE_OK;
  const std::function<void(const std::string&)> add = [&](const std::string& name) {
    const std::string path = absolute(name, folder);
    struct stat info {};
    if (!good || ::lstat(path.c_str(), &info) != 0) {
      if (good) why = "'" + name + "' is not there";
      good = false;
      return;
    }
    archive_entry* entry = archive_entry_new();
    archive_entry_set_pathname(entry, name.c_str());
    archive_entry_copy_stat(entry, &info);
    std::string content;
    if (S_ISREG(info.st_mode)) content = read(path).value_or("");
    if (S_ISLNK(info.st_mode)) {
      std::error_code error;
      archive_entry_set_symlink(entry, fs::read_symlink(path, error).string().c_str());
    }
    good = archive_write_header(writer.get(), entry) == ARCHIVE_OK &&
           (content.empty() || archive_write_data(writer.get(), content.data(), content.size()) >= 0);
    archive_entry_free(entry);
    if (!S_ISDIR(info.st_mode)) return;
    std::error_code error;
    std::vector<std::string> inner;
    for (const auto& below : fs::directory_iterator(path, error)) inner.push_back(below.path().filename().string());
    std::sort(inner.begin(), inner.end());
    for (const auto& below : inner) add(name + "/" + below);
  };
  for (const auto& name : names) add(name);
  good = archive_write_close(writer.get()) == ARCHIVE_OK && good;
  if (!good && why.empty()) why = "the archive '" + archive + "' cannot be written";
  return good;
}

namespace {

// Entries of one archive that is written.
class Packer {
 public:
  Packer(const std::string& archive, std::string& why) : writer_(archive_write_new()), archive_(archive), why_(why) {
    const char* epoch = std::getenv("SOURCE_DATE_EPOCH");
    constexpr std::time_t first_day = 315532800;
    time_ = epoch == nullptr ? first_day : static_cast<std::time_t>(std::strtoll(epoch, nullptr, 10));
    const std::string name = text::lower(archive);
    if (name.ends_with(".zip") || name.ends_with(".jar")) {
      archive_write_set_format_zip(writer_.get());
    } else {
      archive_write_set_format_pax_restricted(writer_.get());
      static const std::vector<std::pair<std::string, const char*>> packings = {
          {".gz", "gzip"},   {".tgz", "gzip"},  {".xz", "xz"},      {".txz", "xz"},
          {".bz2", "bzip2"}, {".tbz", "bzip2"}, {".tbz2", "bzip2"}, {".zst", "zstd"},
          {".tzst", "zstd"}, {".lz4", "lz4"},   {".lz", "lzip"}};
      for (const auto& [ending, packing] : packings) {
        if (!name.ends_with(ending)) continue;
        good_ = archive_write_add_filter_by_name(writer_.get(), packing) == ARCHIVE_OK;
        if (!good_) why_ = std::string("the packing '") + packing + "' is not to be had here";
        // It would tell the present time.
        archive_write_set_filter_option(writer_.get(), "gzip", "timestamp", nullptr);
        break;
      }
    }
    good_ = good_ && archive_write_open_filename(writer_.get(), archive.c_str()) == ARCHIVE_OK;
  }

  void add(const std::string& path, const std::string& name) {
    if (!good_) return;
    if (interrupted_by != 0) return stop("interrupted");
    struct stat info {};
    if (::lstat(path.c_str(), &info) != 0) return stop("'" + path + "' is not there");
    if (!S_ISREG(info.st_mode) && !S_ISLNK(info.st_mode) && !S_ISDIR(info.st_mode))
      return stop("'" + path + "' is no file, link or folder");
    struct stat plain {};
    plain.st_mode = (info.st_mode & S_IFMT) | (S_ISDIR(info.st_mode) || (info.st_mode & 0111U) != 0 ? 0755U : 0644U);
    plain.st_size = S_ISREG(info.st_mode) ? info.st_size : 0;
    plain.st_mtime = time_;
    plain.st_nlink = 1;
    const std::unique_ptr<archive_entry, void (*)(archive_entry*)> entry(
        archive_entry_new(), [](archive_entry* made) { archive_entry_free(made); });
    archive_entry_set_pathname(entry.get(), name.c_str());
    archive_entry_copy_stat(entry.get(), &plain);
    std::error_code error;
    if (S_ISLNK(info.st_mode)) archive_entry_set_symlink(entry.get(), fs::read_symlink(path, error).string().c_str());
    good_ = archive_write_header(writer_.get(), entry.get()) == ARCHIVE_OK;
    if (S_ISREG(info.st_mode)) content(path, info.st_size);
    if (!S_ISDIR(info.st_mode)) return;
    for (const auto& inner : names_in(path)) add(path + "/" + inner, name + "/" + inner);
  }

  bool close() {
    good_ = archive_write_close(writer_.get()) == ARCHIVE_OK && good_;
    if (!good_ && why_.empty()) why_ = "the archive '" + archive_ + "' cannot be written";
    return good_;
  }

 private:
  void stop(std::string why) {
    good_ = false;
    why_ = std::move(why);
  }

  void content(const std::string& path, off_t size) {
    std::ifstream in(path, std::ios::binary);
    std::vector<char> block(1U << 20U);
    off_t done = 0;
    while (good_ && in.good()) {
      in.read(block.data(), static_cast<std::streamsize>(block.size()));
      const auto got = in.gcount();
      if (got > 0) good_ = archive_write_data(writer_.get(), block.data(), static_cast<std::size_t>(got)) == got;
      done += got;
    }
    // One that grew would be cut off without a word.
    if (good_ && done != size) stop("'" + path + "' cannot be read, or changed meanwhile");
  }

  const Writer writer_;
  const std::string& archive_;
  std::string& why_;
  std::time_t time_ = 0;
  bool good_ = true;
};

}  // namespace

bool pack_reproducibly(const std::string& archive, const std::vector<Packed>& what, std::string& why) {
  Packer packer(archive, why);
  for (const auto& one : what) packer.add(one.path, one.name);
  return packer.close();
}

}  // namespace coctilis::files
