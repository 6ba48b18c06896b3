#include "describe/pro/reader.h"

#include <algorithm>
#include <functional>
#include <set>
#include <utility>

#include "base/file_stamp.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/known_facts.h"
#include "describe/mirror.h"
#include "describe/pro/evaluator.h"
#include "describe/pro/project.h"
#include "describe/toolkit.h"
#include "describe/tree_copy.h"
#include "survey/languages.h"

namespace coctilis::describe::pro {

namespace {

constexpr std::size_t most_parts = 5'000;

// Reads a project and all below it, those first that others need.
class Collector {
 public:
  Collector(const Surroundings& surroundings, model::Project& project, const std::string& tree)
      : out_(surroundings), project_(project), tree_(tree) {}

  // The parts that a file comes to.
  std::vector<std::size_t> add(const std::string& file, const Place& asked) {
    if (const auto it = known_.find(file); it != known_.end()) return it->second;
    if (std::find(open_.begin(), open_.end(), file) != open_.end())
      throw Fault({Exit::description,
                   asked,
                   "the project '" + files::below(file, tree_) + "' is a part of itself",
                   {},
                   "take it out of SUBDIRS there",
                   {}});
    if (parts.size() > most_parts)
      throw Fault({Exit::description,
                   asked,
                   "there are more than " + text::grouped(most_parts) + " projects",
                   {},
                   "name one further down under [tree] of coctilis.toml",
                   {}});
    open_.push_back(file);
    auto values = std::make_unique<Evaluator>(out_, file);
    values->run();
    for (const auto& read : values->files()) project_.read_files.push_back(read);
    std::vector<std::size_t> made;
    if (values->value("TEMPLATE") == "subdirs" || values->value("TEMPLATE") == "vcsubdirs") {
      made = folders(*values);
      aside_.push_back(std::move(values));
    } else {
      made = {parts.size()};
      parts.push_back({std::move(values), {}});
    }
    open_.pop_back();
    return known_[file] = made;
  }

  std::vector<Part> parts;

 private:
  std::vector<std::size_t> folders(Evaluator& values) {
    std::vector<std::size_t> all;
    std::map<std::string, std::vector<std::size_t>> by_name;
    const auto& config = values.values("CONFIG");
    const bool ordered = std::find(config.begin(), config.end(), "ordered") != config.end();
    std::vector<std::pair<std::string, std::string>> waits;
    std::vector<std::size_t> last;
    for (const auto& name : values.values("SUBDIRS")) {
      if (by_name.contains(name)) continue;
      const std::string file = file_of(values, name);
      if (file.empty()) continue;
      const auto made = add(file, values.place_of("SUBDIRS"));
      // Whoever waits for the one before waits for all before that.
      if (ordered && !made.empty()) wait(made, std::exchange(last, made));
      by_name[name] = made;
      all.insert(all.end(), made.begin(), made.end());
      for (const auto& before : values.values(name + ".depends")) waits.emplace_back(name, before);
      // Names of folders stand for themselves with other signs.
      const std::string other = text::replace_all(name, "/", "-");
      if (other != name) by_name[other] = made;
    }
    for (const auto& [name, before] : waits) {
      const auto it = by_name.find(before);
      if (it == by_name.end()) {
        project_.warnings.push_back({Exit::done,
                                     values.place_of(name + ".depends"),
                                     "'" + text::printable_line(before) + "', on which '" + text::printable_line(name) +
                                         "' depends, is none of SUBDIRS",
                                     {},
                                     {},
                                     {}});
        continue;
      }
      wait(by_name.at(name), it->second);
    }
    return all;
  }

  void wait(const std::vector<std::size_t>& those, const std::vector<std::size_t>& for_these) {
    for (const auto one : those) {
      for (const auto before : for_these) {
        auto& after = parts[one].after;
        if (before != one && !waits_for(before, one) && std::find(after.begin(), after.end(), before) == after.end())
          after.push_back(before);
      }
    }
  }
  [[nodiscard]] bool waits_for(std::size_t one, std::size_t other) const {
    std::set<std::size_t> seen = {one};
    std::vector<std::size_t> open = {one};
    for (std::size_t at = 0; at < open.size(); ++at) {
      if (open[at] == other) return true;
      for (const auto next : parts[open[at]].after) {
        if (seen.insert(next).second) open.push_back(next);
      }
    }
    return false;
  }

  // The project file that a name of SUBDIRS means; empty, with a warning, when there is none.
  std::string file_of(const Evaluator& values, const std::string& name) {
    std::string given = values.value(name + ".file");
    if (given.empty()) given = values.value(name + ".subdir");
    if (given.empty()) given = name;
    const std::string path = files::absolute(given, values.folder());
    if (!files::is_below(path, tree_)) {
      warn(values, "'" + text::printable_line(given) + "' of SUBDIRS lies outside of the tree: it is left out");
      return {};
    }
    if (files::is_file(path)) return path;
    if (files::is_folder(path)) {
      const std::string own = path + "/" + path.substr(path.rfind('/') + 1) + ".pro";
      if (files::is_file(own)) return own;
      std::vector<std::string> found;
      for (const auto& file : files::names_in(path)) {
        if (file.ends_with(".pro")) found.push_back(path + "/" + file);
      }
      if (found.size() == 1) return found.front();
    }
    // A part that was not brought along is no reason to do nothing.
    warn(values, "'" + text::printable_line(given) + "' of SUBDIRS is not there: it is left out");
    project_.left_out.push_back({"project", given, values.place_of("SUBDIRS"), "it is not there"});
    return {};
  }
  void warn(const Evaluator& values, const std::string& what) {
    project_.warnings.push_back({Exit::done, values.place_of("SUBDIRS"), what, {}, {}, {}});
  }

  const Surroundings& out_;
  model::Project& project_;
  const std::string tree_;
  std::vector<std::string> open_;
  std::map<std::string, std::vector<std::size_t>> known_;
  std::vector<std::unique_ptr<Evaluator>> aside_;
};

// Files of other kinds have the same ending: one that sets nothing that is built is none of these.
bool is_project(const std::string& path) {
  const std::string text = files::read_beginning(path, 64U << 10U);
  for (const char* word : {"TEMPLATE", "SOURCES", "SUBDIRS", "TARGET", "CONFIG", "include"}) {
    if (text.find(word) != std::string::npos) return true;
  }
  return false;
}

// Of several in one folder the one that is called like it, else one that names others.
int place_among(const std::string& path) {
  const std::filesystem::path file = path;
  const std::string stem = text::lower(file.stem().string());
  if (stem == text::lower(file.parent_path().filename().string())) return 0;
  const std::string text = files::read_beginning(path, 64U << 10U);
  return text.find("subdirs") != std::string::npos ? 1 : stem.find("test") == std::string::npos ? 2 : 3;
}

model::Project named_project(const ReadRequest& request) {
  model::Project project;
  project.name = std::filesystem::path(request.file).stem().string();
  project.tree = request.survey.tree;
  project.binary_root = request.work;
  return project;
}

bool asks_for_newer(const Evaluator& values) {
  const auto& modules = values.values("QT");
  return std::any_of(modules.begin(), modules.end(), Toolkit::is_only_in_newer);
}

// Compiles and links a test project, in a folder of its own among the results.
bool compiles(const std::string& name, const std::string& file, const Surroundings& out, const Toolkit& toolkit,
              const ReadRequest& request) {
  Surroundings inner = out;
  inner.compiles = [](const std::string&, const std::string&) { return false; };  // tests have none of their own
  inner.warn = [](const Place&, const std::string&) {};
  inner.say = [](const std::string&) {};
  Command command;
  try {
    Evaluator values(inner, file);
    values.run();
    std::vector<std::string> behind;
    const auto use = [&](const model::Usage& usage) {
      for (const auto& folder : usage.include_folders) command.argv.push_back("-I" + folder);
      for (const auto& one : usage.definitions) command.argv.push_back("-D" + one);
      for (const auto& one : usage.compile_options) command.argv.push_back(one);
      for (const auto& folder : usage.link_folders) behind.push_back("-L" + folder);
      behind.insert(behind.end(), usage.link_items.begin(), usage.link_items.end());
    };
    bool cpp = false;
    for (const auto& source : values.values("SOURCES")) cpp = cpp || survey::compiled_language(source) == "C++";
    const auto& chain = request.locator.toolchain();
    command.argv = {chain.compiler_or_any(cpp ? "C++" : "C").path, "-fPIC", "-w"};
    for (const auto& one : values.values("DEFINES")) command.argv.push_back("-D" + one);
    for (const auto& one : values.values("INCLUDEPATH")) command.argv.push_back("-I" + values.source_path(one));
    command.argv.push_back("-I" + values.folder());
    if (values.has_config("qt")) {
      for (const auto& module : values.values("QT")) {
        const auto finding = toolkit.module(module, {}, {}, false);
        if (!finding.found) return false;
        use(finding.usage);
      }
    }
    for (const auto& package : values.values("PKGCONFIG")) {
      model::Requirement want;
      want.name = package;
      const auto finding = request.locator.module(want);
      if (!finding.found) return false;
      use(finding.usage);
    }
    for (const auto& source : values.values("SOURCES")) command.argv.push_back(values.source_path(source));
    for (const auto& one : values.values("LIBS")) behind.push_back(one);
    const std::string folder = request.work + "/.tests/" + text::replace_all(name, "/", "-");
    files::make_folder(folder);
    command.argv.insert(command.argv.end(), {"-o", folder + "/test"});
    command.argv.insert(command.argv.end(), behind.begin(), behind.end());
    command.folder = folder;
    command.writable = {folder};
    command.environment["LC_ALL"] = "C.UTF-8";
    command.limit_seconds = 120;
  } catch (const Fault&) {
    return false;
  }
  return observe::run(command).good();
}

// What the project comes to with a toolkit; nothing when it is written for a newer one.
std::optional<model::Build> read_with(const Toolkit& toolkit, const ReadRequest& request, model::Project& project,
                                      const model::Variant& variant, bool in_copy) {
  auto& locator = request.locator;
  const auto& settings = locator.settings();
  Surroundings out;
  out.tree = project.tree;
  out.work = request.work;
  out.initial = initial_values(toolkit, locator.toolchain(), variant);
  out.properties = toolkit.properties();
  // What its user sets is set before the first line.
  for (const auto& [name, value] : settings.options) {
    auto& list = out.initial[name];
    if (name == "CONFIG" || name == "QT" || name == "DEFINES") {
      for (const auto& word : text::words(value)) list.push_back(word);
    } else {
      list = text::words(value);
    }
  }
  out.installed_feature = [&](const std::string& name) { return toolkit.installed_feature(name); };
  out.compiles = [&](const std::string& name, const std::string& file) {
    return compiles(name, file, out, toolkit, request);
  };
  out.has_module = [&](const std::string& module) { return toolkit.has_module(module); };
  out.has_package = [&](const std::string& package) {
    model::Requirement want;
    want.kind = model::RequirementKind::package;
    const auto words = text::words(package);
    if (words.empty()) return false;
    want.name = words[0];
    for (std::size_t i = 1; i < words.size(); ++i) want.constraint += (i > 1 ? " " : "") + words[i];
    want.required = false;
    want.required_by = "packagesExist";
    auto finding = locator.module(want);
    const bool found = finding.found;
    locator.keep(std::move(finding));
    return found;
  };
  out.run = [&](const std::string& line, const std::string& folder) -> std::pair<std::string, bool> {
    const auto words = text::words(line);
    if (!words.empty() && is_build_program(words[0].substr(words[0].rfind('/') + 1))) return {"", false};
    Command command;
    command.argv = {"/bin/sh", "-c", line};
    command.folder = folder;
    command.merge_errors = false;
    command.limit_seconds = 120;
    command.writable = {request.work};
    command.output_limit = 4U << 20U;
    if (in_copy) command.writable.push_back(project.tree);
    files::make_folder(request.work);
    const Ended ended = observe::run(command);
    const bool refused = ended.errors.find("Read-only file system") != std::string::npos ||
                         ended.errors.find("Permission denied") != std::string::npos;
    if (!ended.good() && refused && !in_copy)
      throw NeedsCopy{{Exit::done,
                       {files::below(request.file, project.tree), 0, 0},
                       "'" + text::clip(text::printable_line(line), 80) + "' writes in the source tree",
                       {},
                       {},
                       {}}};
    return {ended.output, ended.good()};
  };
  out.warn = [&](const Place& place, const std::string& what) {
    Place where = place;
    where.file = files::below(where.file, project.tree);
    project.warnings.push_back({Exit::done, where, what, {}, {}, {}});
  };
  out.say = [&](const std::string& what) { project.messages.push_back(text::printable(what)); };
  Collector collector(out, project, project.tree);
  static_cast<void>(collector.add(request.file, {}));
  if (collector.parts.empty())
    throw Fault({Exit::description,
                 {files::below(request.file, project.tree), 0, 0},
                 "the project names nothing to build",
                 "none of its SUBDIRS is there",
                 "bring them in, or name another description under [tree] of coctilis.toml",
                 {}});
  const bool uses_toolkit = std::any_of(collector.parts.begin(), collector.parts.end(),
                                        [](const auto& part) { return part.values->has_config("qt"); });
  if (uses_toolkit && toolkit.major() == "5") {
    for (const auto& part : collector.parts) {
      if (part.values->has_config("qt") && asks_for_newer(*part.values)) return std::nullopt;
    }
  }
  Lowering lowering(collector.parts, uses_toolkit ? &toolkit : nullptr, locator, project, variant, project.tree,
                    request.work);
  auto build = lowering.run();
  const std::string version = collector.parts.front().values->value("VERSION");
  if (collector.parts.size() == 1) project.version = version;
  return build;
}

}  // namespace

namespace {

model::Project read_in(const ReadRequest& request, bool in_copy) {
  auto& locator = request.locator;
  const auto& settings = locator.settings();
  const auto variant_it = settings.variants.find(settings.variant);
  const model::Variant variant = variant_it == settings.variants.end() ? model::Variant{} : variant_it->second;
  model::Project project = named_project(request);
  // Most projects are written for the older one; those that ask for what only the newer one has, for that.
  auto made = read_with(Toolkit(locator, {}), request, project, variant, in_copy);
  if (made) {
    project.facts = known_facts(std::move(*made));
    return project;
  }
  project = named_project(request);
  auto other = read_with(Toolkit(locator, "6"), request, project, variant, in_copy);
  project.facts = known_facts(std::move(*other));
  return project;
}

}  // namespace

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading a project file", [&] {
    if (request.locator.settings().rerun) forget_copy(request.work);
    if (!is_copy_needed(request.work)) {
      try {
        return read_in(request, false);
      } catch (const NeedsCopy& needed) {
        use_copy(request.work, needed.why);
      }
    }
    const std::string& tree = request.survey.tree;
    const std::string copy = copy_of(request.work);
    if (auto mirrored = mirror(tree, copy, request.services.made_by_step); !mirrored) throw Fault(mirrored.problem());
    model::Survey of_copy = request.survey;
    of_copy.tree = copy;
    const ReadRequest inner{copy + "/" + files::below(request.file, tree), of_copy, request.locator, request.work,
                            request.services};
    const std::int64_t began = file_clock();
    auto project = read_in(inner, true);
    Given::note_since(copy, began);  // what reading has written there stays
    for (auto& one : project.read_files) {
      if (files::is_below(one, copy)) one = tree + "/" + files::below(one, copy);
    }
    if (auto why = why_copy(request.work); !why.what.empty()) project.warnings.push_back(std::move(why));
    return project;
  });
}
Reader reader() {
  Reader out;
  out.format = {"*.pro",
                {{"*.pro", 3}},
                true,
                [](const std::string& path) { return path.ends_with(".pro"); },
                {"qmake", "qmake6"}};
  out.format.counts = is_project;
  out.format.among = place_among;
  out.use_copy = use_copy;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::pro
