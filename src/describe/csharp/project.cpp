#include "describe/csharp/project.h"

#include <re2/re2.h>

#include <algorithm>
#include <functional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "base/xml.h"
#include "survey/survey.h"

namespace coctilis::describe::csharp {

namespace {

constexpr int most_deep = 20;
constexpr std::size_t most_bytes = 1U << 20U;

std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }
std::string slashes(const std::string& text) { return text::replace_all(text, "\\", "/"); }

// ---- conditions -----------------------------------------------------------------------------------------------------
class Condition {
 public:
  Condition(const std::string& text, std::string folder) : text_(text), folder_(std::move(folder)) {}
  bool run(std::string& problem) {
    const bool out = either(0);
    blanks();
    if (at_ < text_.size() && problem_.empty()) problem_ = "'" + text_.substr(at_, 30) + "' is no part of a condition";
    problem = problem_;
    return out && problem_.empty();
  }

 private:
  void blanks() {
    while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_])) != 0) ++at_;
  }
  bool take(const std::string& word) {
    blanks();
    if (text::lower(text_.substr(at_, word.size())) != word) return false;
    const bool letters = std::isalpha(static_cast<unsigned char>(word.front())) != 0;
    if (letters && at_ + word.size() < text_.size() &&
        std::isalnum(static_cast<unsigned char>(text_[at_ + word.size()])) != 0)
      return false;
    at_ += word.size();
    return true;
  }
  bool either(int depth) {
    bool out = both(depth);
    while (take("or")) {
      const bool other = both(depth);
      out = out || other;
    }
    return out;
  }
  bool both(int depth) {
    bool out = one(depth);
    while (take("and")) {
      const bool other = one(depth);
      out = out && other;
    }
    return out;
  }
  bool one(int depth) {
    if (depth > 100) {
      problem_ = "it goes too deep";
      return false;
    }
    blanks();
    if (text_.compare(at_, 1, "!") == 0 && text_.compare(at_, 2, "!=") != 0) {
      ++at_;
      return !one(depth + 1);
    }
    if (take("(")) {
      const bool out = either(depth + 1);
      if (!take(")") && problem_.empty()) problem_ = "a bracket is not closed";
      return out;
    }
    if (take("exists")) {
      if (!take("(")) problem_ = "Exists needs brackets";
      const std::string path = value();
      if (!take(")") && problem_.empty()) problem_ = "a bracket is not closed";
      return !path.empty() && files::exists(files::absolute(slashes(path), folder_));
    }
    if (take("hastrailingslash")) {
      take("(");
      const std::string path = value();
      take(")");
      return path.ends_with('/') || path.ends_with('\\');
    }
    const std::string left = value();
    blanks();
    for (const auto& [sign, which] : {std::pair{"==", 0}, {"!=", 1}, {">=", 2}, {"<=", 3}, {">", 4}, {"<", 5}}) {
      if (!take(sign)) continue;
      const std::string right = value();
      const int order = text::lower(left) == text::lower(right)              ? 0
                        : std::atof(left.c_str()) < std::atof(right.c_str()) ? -1
                                                                             : 1;
      switch (which) {
        case 0: return order == 0;
        case 1: return order != 0;
        case 2: return order >= 0;
        case 3: return order <= 0;
        case 4: return order > 0;
        default: return order < 0;
      }
    }
    return text::lower(left) == "true";
  }
  std::string value() {
    blanks();
    if (at_ < text_.size() && (text_[at_] == '\'' || text_[at_] == '"')) {
      const char quote = text_[at_++];
      const auto end = text_.find(quote, at_);
      if (end == std::string::npos) {
        problem_ = "a quote is not closed";
        at_ = text_.size();
        return {};
      }
      std::string out = text_.substr(at_, end - at_);
      at_ = end + 1;
      return out;
    }
    const auto begin = at_;
    while (at_ < text_.size() && std::string_view(" \t\r\n()=!<>'").find(text_[at_]) == std::string_view::npos) ++at_;
    if (at_ == begin && problem_.empty()) {
      problem_ = "a value is missing";
      at_ = text_.size();
    }
    return text_.substr(begin, at_ - begin);
  }

  const std::string& text_;
  const std::string folder_;
  std::size_t at_ = 0;
  std::string problem_;
};

// "**/*.cs" against a path; letter case does not count.
bool matches(const std::string& pattern, const std::string& path) {
  return files::path_matches(text::lower(pattern), text::lower(path));
}

class ProjectReader {
 public:
  ProjectReader(const std::string& file, std::string tree, bool debug) : tree_(std::move(tree)) {
    out_.file = file;
    out_.folder = folder_of(file);
    values_ = {{"configuration", debug ? "Debug" : "Release"},
               {"platform", "AnyCPU"},
               {"os", "Unix"},
               {"msbuildprojectdirectory", out_.folder},
               {"msbuildprojectname", std::filesystem::path(file).stem().string()},
               {"projectdir", out_.folder + "/"},
               {"solutiondir", tree_ + "/"},
               {"assemblyname", std::filesystem::path(file).stem().string()},
               {"rootnamespace", text::replace_all(std::filesystem::path(file).stem().string(), "-", "_")}};
  }

  CsharpProject run() {
    list_files();
    pugi::xml_document document;
    load(out_.file, document);
    const auto root = document.child("Project");
    if (!root)
      throw Fault(
          {Exit::description, place(1), "it has no <Project>", {}, "name another description under [tree]", {}});
    is_short_ = root.attribute("Sdk") || root.child("Sdk");
    for (const auto& name : {"Directory.Build.props"}) read_above(name);
    if (is_short_) {
      values_.try_emplace("enabledefaultcompileitems", "true");
      values_.try_emplace("enabledefaultitems", "true");
    }
    // Variables come before items, wherever they stand.
    read_values(root, out_.file, 0);
    if (is_short_ && is("enabledefaultcompileitems") && is("enabledefaultitems")) add_default_files();
    read_items(root, out_.file, 0);
    finish();
    return std::move(out_);
  }

 private:
  [[nodiscard]] Place place(int line) const { return {files::below(file_, tree_), line, 0}; }
  [[nodiscard]] std::string value(const std::string& name) const {
    const auto it = values_.find(text::lower(name));
    return it == values_.end() ? std::string{} : it->second;
  }
  [[nodiscard]] bool is(const std::string& name) const {
    return text::lower(value(name)) == "true" || text::lower(value(name)) == "enable";
  }

  void load(const std::string& file, pugi::xml_document& document) {
    file_ = file;
    load_xml(document, file, files::below(file, tree_), "the project file",
             "mend it, or name another description under [tree] of coctilis.toml");
    out_.read_files.push_back(file);
    content_ = files::read(file).value_or("");
  }

  // The nearest file of that name above the project, within the tree.
  void read_above(const std::string& name) {
    for (std::string folder = out_.folder; files::is_below(folder, tree_); folder = folder_of(folder)) {
      const std::string path = folder + "/" + name;
      if (!files::is_file(path)) continue;
      pugi::xml_document document;
      load(path, document);
      read_values(document.child("Project"), path, 1);
      above_.push_back(path);
      return;
    }
  }

  // ---- values ------------------------------------------------------------------------------------------------------
  [[nodiscard]] std::string filled(const std::string& text) const {
    std::string out;
    std::size_t done = 0;
    for (auto at = text.find("$("); at != std::string::npos; at = text.find("$(", done)) {
      const auto end = text.find(')', at);
      if (end == std::string::npos) break;
      out.append(text, done, at - done);
      out += value(text.substr(at + 2, end - at - 2));
      if (out.size() > most_bytes)
        throw Fault({Exit::description, place(0), "a value of it grows without end", {}, "mend its variables", {}});
      done = end + 1;
    }
    return out.append(text, std::min(done, text.size()));
  }

  bool holds(const pugi::xml_node& node) const {
    const auto attribute = node.attribute("Condition");
    if (!attribute) return true;
    std::string problem;
    const bool out = condition_holds(filled(attribute.value()), out_.folder, problem);
    // Functions of that language's own are beyond this: what hangs on them is left out, and said.
    if (!problem.empty()) {
      left_out_.push_back(
          {"condition", attribute.value(), place(line_of(node, content_)), "it cannot be worked out: " + problem});
      return false;
    }
    return out;
  }

  void read_values(const pugi::xml_node& root, const std::string& file, int depth) {
    if (depth > most_deep) return;
    for (const auto& node : root.children()) {
      const std::string_view name = node.name();
      if (name == "PropertyGroup" && holds(node)) {
        for (const auto& one : node.children()) {
          if (one.type() == pugi::node_element && holds(one))
            values_[text::lower(one.name())] = filled(std::string(text::trim(one.text().get())));
        }
      } else if (name == "Choose") {
        if (const auto chosen = branch_of(node)) read_values(chosen, file, depth + 1);
      } else if (name == "Import" && holds(node)) {
        take_in(node, file,
                [&](const pugi::xml_node& inner, const std::string& path) { read_values(inner, path, depth + 1); });
      }
    }
  }

  [[nodiscard]] pugi::xml_node branch_of(const pugi::xml_node& choose) const {
    for (const auto& when : choose.children("When")) {
      if (holds(when)) return when;
    }
    return choose.child("Otherwise");
  }

  // A file of the tree that another takes in; those that come with other programs are not there.
  void take_in(const pugi::xml_node& node, const std::string& from,
               const std::function<void(const pugi::xml_node&, const std::string&)>& read) {
    const std::string path = files::absolute(slashes(filled(node.attribute("Project").value())), folder_of(from));
    if (!files::is_below(path, tree_) || !files::is_file(path) || imports_ > 200) return;
    ++imports_;
    pugi::xml_document document;
    const std::string file = file_;
    const std::string content = content_;
    load(path, document);
    read(document.child("Project"), path);
    file_ = file;
    content_ = content;
  }

  // ---- files -------------------------------------------------------------------------------------------------------
  void list_files() {
    const std::function<void(const std::string&, const std::string&, int)> look =
        [&](const std::string& folder, const std::string& below, int depth) {
          if (depth > 40 || all_.size() > 200'000) return;
          for (const auto& name : files::names_in(folder)) {
            const std::string path = folder + "/" + name;
            const std::string shown = below.empty() ? name : below + "/" + name;
            if (files::is_link(path)) continue;
            if (!files::is_folder(path)) {
              all_.push_back(shown);
              continue;
            }
            const std::string lower = text::lower(name);
            if (lower == "bin" || lower == "obj" || name.starts_with('.') || survey::is_kiln(path)) continue;
            // A project further down has its own files.
            const auto inner = files::names_in(path);
            if (std::any_of(inner.begin(), inner.end(), [](const auto& one) { return one.ends_with(".csproj"); }))
              continue;
            look(path, shown, depth + 1);
          }
        };
    look(out_.folder, {}, 0);
  }

  // Files by "a.cs;b/**/*.cs" of an attribute, as paths from the project's folder, or absolute.
  [[nodiscard]] std::vector<std::string> files_of(const std::string& attribute) const {
    std::vector<std::string> out;
    for (const auto& part : text::split(slashes(filled(attribute)), ';')) {
      std::string pattern(text::trim(part));
      while (pattern.starts_with("./")) pattern.erase(0, 2);
      if (pattern.empty()) continue;
      if (pattern.find_first_of("*?") == std::string::npos) {
        out.push_back(pattern);
        continue;
      }
      for (const auto& path : all_) {
        if (matches(pattern, path)) out.push_back(path);
      }
    }
    return out;
  }

  [[nodiscard]] std::string absolute(const std::string& path) const {
    std::string full = files::absolute(path, out_.folder);
    if (files::exists(full)) return full;
    // Letter case did not count where it was written.
    for (const auto& one : all_) {
      if (text::lower(one) == text::lower(path)) return out_.folder + "/" + one;
    }
    return full;
  }

  void add_default_files() {
    for (const auto& path : all_) {
      if (path.ends_with(".cs")) sources_.insert(path);
      if (path.ends_with(".resx")) resources_.emplace(path, std::string{});
    }
  }

  void read_items(const pugi::xml_node& root, const std::string& file, int depth) {
    if (depth > most_deep) return;
    if (depth == 0) {
      for (const auto& path : above_) {
        pugi::xml_document document;
        load(path, document);
        read_items(document.child("Project"), path, 1);
      }
      file_ = out_.file;
      content_ = files::read(out_.file).value_or("");
    }
    for (const auto& node : root.children()) {
      const std::string_view name = node.name();
      if (name == "ItemGroup" && holds(node)) {
        for (const auto& item : node.children()) {
          if (item.type() == pugi::node_element && holds(item)) add_item(item);
        }
      } else if (name == "Choose") {
        if (const auto chosen = branch_of(node)) read_items(chosen, file, depth + 1);
      } else if (name == "Import" && holds(node)) {
        take_in(node, file,
                [&](const pugi::xml_node& inner, const std::string& path) { read_items(inner, path, depth + 1); });
      } else if (name == "Target" && (node.child("Exec") || node.child("Copy"))) {
        left_out_.push_back(
            {"target", node.attribute("Name").value(), place(line_of(node, content_)), "its tasks are not followed"});
      }
    }
  }

  // An attribute, or the element of the same name.
  [[nodiscard]] std::string of(const pugi::xml_node& item, const char* name) const {
    const auto attribute = item.attribute(name);
    return filled(attribute ? attribute.value() : std::string(text::trim(item.child(name).text().get())));
  }

  void add_item(const pugi::xml_node& item) {
    const std::string name = item.name();
    const std::string include = item.attribute("Include").value();
    const int line = line_of(item, content_);
    std::set<std::string> without;
    for (auto& path : files_of(item.attribute("Exclude").value())) without.insert(std::move(path));
    if (name == "Compile") {
      for (const auto& path : files_of(item.attribute("Remove").value())) sources_.erase(path);
      for (const auto& path : files_of(include)) {
        if (!without.contains(path)) sources_.insert(path);
      }
    } else if (name == "EmbeddedResource") {
      for (const auto& path : files_of(item.attribute("Remove").value())) resources_.erase(path);
      for (const auto& path : files_of(include)) {
        if (!without.contains(path)) resources_[path] = of(item, "LogicalName");
      }
    } else if (name == "Content" || name == "None") {
      for (const auto& attribute : {include, std::string(item.attribute("Update").value())}) {
        for (const auto& path : files_of(attribute)) {
          if (of(item, "CopyToOutputDirectory").empty() || of(item, "CopyToOutputDirectory") == "Never" ||
              without.contains(path))
            continue;
          const std::string link = slashes(of(item, "Link"));
          contents_[path] = !link.empty()             ? link
                            : path.starts_with("../") ? std::filesystem::path(path).filename().string()
                                                      : path;
        }
      }
    } else if (name == "Using") {
      const std::string used = filled(include);
      const std::string alias = of(item, "Alias");
      const bool all = text::lower(of(item, "Static")) == "true";
      if (!used.empty()) used_.push_back(!alias.empty() ? alias + " = " + used : all ? "static " + used : used);
      if (const std::string gone = filled(item.attribute("Remove").value()); !gone.empty()) not_used_.push_back(gone);
    } else if (name == "ProjectReference") {
      for (const auto& path : files_of(include)) {
        const std::string full = absolute(path);
        if (!files::is_below(full, tree_))
          throw Fault({Exit::description,
                       place(line),
                       "the project " + text::printable_line(path) + " lies outside of the tree",
                       {},
                       "bring it in",
                       {}});
        out_.uses.push_back(full);
      }
    } else if (name == "Reference" && !include.empty()) {
      Reference one;
      one.name = std::string(text::trim(filled(include).substr(0, filled(include).find(','))));
      if (const std::string hint = of(item, "HintPath"); !hint.empty()) one.path = absolute(slashes(hint));
      one.place = place(line);
      out_.references.push_back(std::move(one));
    } else if (name == "PackageReference" && !include.empty()) {
      Reference one;
      one.name = filled(include);
      one.version = of(item, "Version");
      one.is_package = true;
      one.place = place(line);
      out_.references.push_back(std::move(one));
    }
  }

  void finish() {
    out_.name = value("assemblyname");
    const std::string type = text::lower(value("outputtype"));
    out_.is_program = type == "exe" || type == "winexe";
    if (is("implicitusings")) {
      for (const char* name : {"System", "System.Collections.Generic", "System.IO", "System.Linq", "System.Net.Http",
                               "System.Threading", "System.Threading.Tasks"})
        usings_.insert(name);
    }
    for (const auto& name : used_) usings_.insert(name);
    for (const auto& name : not_used_) usings_.erase(name);
    out_.usings.assign(usings_.begin(), usings_.end());
    for (const char* key : {"targetframework", "targetframeworks", "targetframeworkversion"}) {
      for (const auto& one : text::split(value(key), ';')) {
        if (!one.empty()) out_.frameworks.push_back(one);
      }
    }
    const std::set<std::string> of_tests = {"microsoft.net.test.sdk", "nunit", "xunit", "mstest.testframework",
                                            "nunit.framework"};
    out_.is_test =
        is("istestproject") || std::any_of(out_.references.begin(), out_.references.end(),
                                           [&](const auto& one) { return of_tests.contains(text::lower(one.name)); });
    for (const auto& word : text::split(text::replace_all(value("defineconstants"), ",", ";"), ';')) {
      if (const std::string plain(text::trim(word)); !plain.empty()) out_.defines.push_back(plain);
    }
    if (is_short_ && text::lower(value("configuration")) == "debug") out_.defines.emplace_back("DEBUG");
    if (is_short_) out_.defines.emplace_back("TRACE");
    out_.language = value("langversion");
    if (is("allowunsafeblocks")) out_.options.emplace_back("-unsafe");
    if (is("optimize") || (is_short_ && text::lower(value("configuration")) == "release"))
      out_.options.emplace_back("-optimize+");
    if (is("checkforoverflowunderflow")) out_.options.emplace_back("-checked+");
    if (const std::string entry = value("startupobject"); !entry.empty()) out_.options.push_back("-main:" + entry);
    for (const auto& path : sources_) {
      const std::string full = absolute(path);
      if (!files::is_below(full, tree_))
        throw Fault({Exit::description,
                     place(0),
                     "the source " + text::printable_line(path) + " lies outside of the tree",
                     {},
                     "bring it in",
                     {}});
      if (!files::is_file(full))
        throw Fault({Exit::description,
                     place(0),
                     "the source " + text::printable_line(path) + " is not there",
                     {},
                     "bring it in, or take it out of the project",
                     {}});
      out_.sources.push_back(full);
    }
    for (const auto& [path, logical] : resources_) {
      if (path.ends_with(".resx")) {
        left_out_.push_back({"resource", path, place(0), "lists of resources (.resx) are not made into resources yet"});
        continue;
      }
      // By its folders and its name, behind the namespace of the project.
      std::string name = logical;
      if (name.empty()) name = value("rootnamespace") + "." + text::replace_all(path, "/", ".");
      out_.resources.push_back({absolute(path), name});
    }
    for (const auto& [path, to] : contents_) {
      const std::string normal = std::filesystem::path(to).lexically_normal().string();
      if (normal.starts_with("..") || normal.starts_with('/') || !files::is_below(absolute(path), tree_))
        throw Fault({Exit::description,
                     place(0),
                     "the content " + text::printable_line(path) + " leads out",
                     {},
                     "name a place beside the program",
                     {}});
      if (files::is_file(absolute(path)))
        out_.contents.push_back({absolute(path), normal});
      else
        out_.absent.push_back(absolute(path));
    }
    out_.left_out = std::move(left_out_);
  }

  CsharpProject out_;
  const std::string tree_;
  std::string file_;  // that is being read
  std::string content_;
  bool is_short_ = false;
  std::map<std::string, std::string> values_;
  std::vector<std::string> all_;    // files of the project's folder, by path from it
  std::vector<std::string> above_;  // files that it takes in unasked
  std::set<std::string> sources_;
  std::set<std::string> usings_;
  std::vector<std::string> used_, not_used_;
  std::map<std::string, std::string> resources_;  // by path; the name that is given
  std::map<std::string, std::string> contents_;   // by path; where it goes
  int imports_ = 0;
  mutable std::vector<model::LeftOut> left_out_;
};

}  // namespace

bool condition_holds(const std::string& condition, const std::string& folder, std::string& problem) {
  if (text::trim(condition).empty()) return true;
  return Condition(condition, folder).run(problem);
}

CsharpProject read_project(const std::string& file, const std::string& tree, bool debug) {
  return ProjectReader(file, tree, debug).run();
}

std::vector<std::string> projects_of_solution(const std::string& file) {
  static const RE2 line(R"re(Project\("[^"]*"\)\s*=\s*"[^"]*",\s*"([^"]+\.csproj)")re");
  std::vector<std::string> out;
  const std::string content = files::read(file).value_or("");
  re2::StringPiece rest(content);
  std::string path;
  while (RE2::FindAndConsume(&rest, line, &path)) out.push_back(files::absolute(slashes(path), folder_of(file)));
  return out;
}

}  // namespace coctilis::describe::csharp
