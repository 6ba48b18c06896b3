#include "survey/relations.h"

#include <re2/re2.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <numeric>
#include <optional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "base/xml.h"
#include "survey/folders.h"
#include "survey/names.h"
#include "survey/settings.h"
#include "survey/survey.h"

namespace coctilis::survey {

namespace {

using Strength = PackageNeed::Strength;

// ---- package.xml ----------------------------------------------------------------------------------------------------

// A condition of format 3: comparisons of words and $VARIABLES of the environment by == != < <= > >=, joined by `and`
// and `or` (which binds less), with parentheses. What cannot be read holds, so that nothing that is needed is lost.
class ManifestCondition {
 public:
  explicit ManifestCondition(const std::string& text) {
    static const RE2 token(R"(\s*(==|!=|<=|>=|<|>|\(|\)|"[^"]*"|'[^']*'|[$A-Za-z0-9_.-]+))");
    re2::StringPiece rest(text);
    std::string word;
    while (tokens_.size() < most_tokens && RE2::Consume(&rest, token, &word)) tokens_.push_back(word);
    readable_ = tokens_.size() < most_tokens && text::trim({rest.data(), rest.size()}).empty();
  }
  bool holds() {
    if (!readable_) return true;
    const bool value = either();
    return at_ == tokens_.size() && !broken_ ? value : true;
  }

 private:
  static constexpr std::size_t most_tokens = 200;
  bool take(const char* word) {
    if (at_ >= tokens_.size() || tokens_[at_] != word) return false;
    ++at_;
    return true;
  }
  bool either() {
    bool value = both();
    while (take("or")) value = both() || value;
    return value;
  }
  bool both() {
    bool value = one();
    while (take("and")) value = one() && value;
    return value;
  }
  bool one() {
    if (take("(")) {
      const bool value = either();
      broken_ = !take(")") || broken_;
      return value;
    }
    const std::string left = value();
    const std::string by = at_ < tokens_.size() ? tokens_[at_++] : "";
    const std::string right = value();
    if (by == "==") return left == right;
    if (by == "!=") return left != right;
    if (by == "<") return left < right;
    if (by == "<=") return left <= right;
    if (by == ">") return left > right;
    if (by == ">=") return left >= right;
    broken_ = true;
    return true;
  }
  std::string value() {
    if (at_ >= tokens_.size()) {
      broken_ = true;
      return {};
    }
    std::string word = tokens_[at_++];
    if (word.starts_with('$')) {
      const char* set = std::getenv(word.c_str() + 1);
      return set == nullptr ? "" : set;
    }
    if (word.size() >= 2 && (word.front() == '"' || word.front() == '\'')) word = word.substr(1, word.size() - 2);
    return word;
  }
  std::vector<std::string> tokens_;
  std::size_t at_ = 0;
  bool readable_ = true;
  bool broken_ = false;
};

std::string constraint_of(const pugi::xml_node& node) {
  static constexpr std::pair<const char*, const char*> attributes[] = {
      {"version_lt", "<"}, {"version_lte", "<="}, {"version_eq", "="}, {"version_gte", ">="}, {"version_gt", ">"}};
  std::vector<std::string> parts;
  for (const auto& [attribute, sign] : attributes) {
    if (const std::string value = node.attribute(attribute).value(); !value.empty())
      parts.push_back(std::string(sign) + " " + value);
  }
  return text::join(parts, ", ");
}

// False when the file is no manifest of this kind: others have the name, too.
bool read_manifest(Package& package, const std::string& tree) {
  const std::string path = tree + "/" + package.folder + "/" + manifest_name;
  const std::string shown = package.folder == "." ? manifest_name : package.folder + "/" + manifest_name;
  pugi::xml_document document;
  load_xml(document, path, shown, "the manifest", "take it away: what its descriptions say is read, too");
  const std::string content = files::read(path).value_or("");
  const auto root = document.child("package");
  const std::string name(text::trim(root.child("name").text().get()));
  if (name.empty() || root.attribute("xmlns")) return false;
  package.name = name;
  package.place = {shown, line_of(root.child("name"), content), 0};
  package.version = text::trim(root.child("version").text().get());
  package.gives.push_back(name);
  static const std::map<std::string, Strength> kinds = {{"depend", Strength::said},
                                                        {"build_depend", Strength::said},
                                                        {"buildtool_depend", Strength::said},
                                                        {"build_export_depend", Strength::said},
                                                        {"run_depend", Strength::for_running},
                                                        {"exec_depend", Strength::for_running},
                                                        {"buildtool_export_depend", Strength::for_running},
                                                        {"test_depend", Strength::for_running}};
  for (const auto& node : root.children()) {
    const auto kind = kinds.find(node.name());
    if (kind == kinds.end() || !ManifestCondition(node.attribute("condition").value()).holds()) continue;
    package.needs.push_back({std::string(text::trim(node.text().get())),
                             constraint_of(node),
                             {shown, line_of(node, content), 0},
                             kind->second});
  }
  return true;
}

// ---- what its own settings and its descriptions say
// -------------------------------------------------------------------

void read_settings_of(Package& package, const std::string& tree) {
  const std::string folder = tree + "/" + package.folder;
  if (package.folder == "." ||
      (!files::is_file(folder + "/coctilis.toml") && !files::is_file(folder + "/coctilis.local.toml")))
    return;
  const auto own = settings_of(folder, {});
  if (!own) throw Fault(own.problem());
  if (!own->package_name.empty()) {
    package.name = own->package_name;
    package.place = own->package_place;
    package.gives.push_back(own->package_name);
  }
  if (!own->package_version.empty()) package.version = own->package_version;
  if (own->package_needs.empty()) return;
  package.names_members = true;
  package.place = own->package_place;
  for (const auto& need : own->package_needs) {
    const auto end = need.find_first_of("<>=! ");
    package.needs.push_back({need.substr(0, end), end == need.npos ? "" : std::string(text::trim(need.substr(end))),
                             own->package_place, Strength::said});
  }
}

// Walks what belongs to a package: not what lies in folders that are for others, or are packages themselves.
class Reading {
 public:
  Reading(Package& package, const std::string& tree, const DescriptionFormats& formats,
          const std::vector<std::string>& others)
      : package_(package), tree_(tree), formats_(formats), others_(others) {}

  void folder(const std::string& relative, int depth) {
    std::vector<std::string> folders;
    for (const auto& name : files::names_in(tree_ + "/" + relative)) {
      if (++seen_ > most_names) return;
      const std::string below = relative == "." ? name : relative + "/" + name;
      const std::string path = tree_ + "/" + below;
      if (files::is_link(path)) continue;
      if (files::is_folder(path)) {
        if (depth > 0 && !name.starts_with('.') && role_of_folder(name) == FolderRole::own && !is_kiln(path) &&
            std::find(others_.begin(), others_.end(), below) == others_.end())
          folders.push_back(below);
      } else {
        file(name, below);
      }
    }
    for (const auto& below : folders) folder(below, depth - 1);
  }

 private:
  static constexpr std::size_t most_names = 20000;

  void file(const std::string& name, const std::string& below) {
    static const RE2 package_file(R"((.+?)-?[Cc]onfig\.cmake(?:\.in)?)");
    static const RE2 pc_file(R"((.+)\.pc(?:\.in|\.cmake)?)");
    std::string stem;
    if (RE2::FullMatch(name, package_file, &stem)) package_.gives.push_back(stem);
    Names names;
    if (RE2::FullMatch(name, pc_file, &stem)) {
      package_.gives.push_back(stem);
      names_in_pc_file(read(below), names);
    } else {
      const DescriptionFormat* format = nullptr;
      const bool commands = name == "configure.ac" || name == "configure.in" || name == "Makefile.am";
      if (!commands && (description_name(formats_, name, &format) == nullptr || !format->readable)) return;
      if (!commands && format->names_in != nullptr)
        format->names_in(tree_ + "/" + below, names);
      else
        names_in_commands(read(below), names);
    }
    if (package_.version.empty()) package_.version = names.version;
    package_.gives.insert(package_.gives.end(), names.given.begin(), names.given.end());
    for (auto& asked : names.asked)
      package_.needs.push_back({asked.name, asked.constraint, {below, asked.line, 0}, Strength::read});
  }

  std::string read(const std::string& below) const { return files::read(tree_ + "/" + below).value_or(""); }

  Package& package_;
  const std::string& tree_;
  const DescriptionFormats& formats_;
  const std::vector<std::string>& others_;
  std::size_t seen_ = 0;
};

// Whether one of the descriptions at the top of `folder` names the folder `other` by its way there: "../clay".
bool names_folder(const std::string& tree, const std::string& folder, const std::string& other,
                  const DescriptionFormats& formats) {
  const std::string way = files::relative(tree + "/" + other, tree + "/" + folder);
  if (folder == other || way == ".") return false;
  const auto names = files::names_in(tree + "/" + folder);
  return std::any_of(names.begin(), names.end(), [&](const auto& name) {
    const DescriptionFormat* format = nullptr;
    if (description_name(formats, name, &format) == nullptr || !format->readable) return false;
    const std::string text = files::read(tree + "/" + folder + "/" + name).value_or("");
    for (std::size_t at = text.find(way); at != std::string::npos; at = text.find(way, at + 1)) {
      const char next = at + way.size() < text.size() ? text[at + way.size()] : '\n';
      if (std::isalnum(static_cast<unsigned char>(next)) == 0 && next != '_' && next != '-') return true;
    }
    return false;
  });
}

// ---- who needs whom
// -----------------------------------------------------------------------------------------------------

std::string key_of(const std::string& name) {
  std::string key = text::lower(name);
  return key.starts_with("lib") && key.size() > 3 ? key.substr(3) : key;
}

struct Edge {
  std::size_t to = 0;
  const PackageNeed* need = nullptr;
};

class Relating {
 public:
  Relating(std::vector<Package> packages, bool in_this_order)
      : packages_(std::move(packages)),
        in_this_order_(in_this_order),
        edges_(packages_.size()),
        problems_(packages_.size()) {}

  Relations relate() {
    name_all();
    for (std::size_t i = 0; i < packages_.size(); ++i) {
      for (const auto& need : packages_[i].needs) add(i, need);
    }
    order();
    out_.packages = std::move(packages_);
    return std::move(out_);
  }

 private:
  void name_all() {
    std::map<std::string, const Package*> named;
    for (const auto& package : packages_) {
      if (package.place.file.empty()) continue;
      const auto [it, fresh] = named.emplace(package.name, &package);
      if (!fresh)
        throw Fault({Exit::description,
                     package.place,
                     "two members are called '" + text::printable_line(package.name) + "'",
                     "the other one: " + it->second->place.text(),
                     "give one another name, or leave its folder out ([tree] leave-out in coctilis.toml)",
                     {}});
    }
    // What a manifest says comes before what was read in passing.
    for (const bool said : {true, false}) {
      for (std::size_t i = 0; i < packages_.size(); ++i) {
        if (packages_[i].place.file.empty() == said) continue;
        givers_.emplace(key_of(packages_[i].name), i);
      }
    }
    for (std::size_t i = 0; i < packages_.size(); ++i) {
      for (const auto& name : packages_[i].gives) givers_.emplace(key_of(name), i);
    }
  }

  void add(std::size_t from, const PackageNeed& need) {
    const auto giver = givers_.find(key_of(need.name));
    if (giver == givers_.end()) {
      if (packages_[from].names_members && need.strength == Strength::said) nobody(from, need);
      return;
    }
    const std::size_t to = giver->second;
    if (to == from || gives(from, need.name)) return;
    if (in_this_order_ && need.strength == Strength::read && to > from) return;
    const auto& version = packages_[to].version;
    if (need.strength == Strength::said && !need.constraint.empty() && !version.empty() &&
        !text::version_meets(version, need.constraint) && !problems_[from])
      problems_[from] =
          Problem{Exit::missing,
                  need.place,
                  "it needs " + text::printable_line(need.name + " " + need.constraint) + ", and the member '" +
                      packages_[to].name + "' is " + version,
                  "its version is said in " +
                      (packages_[to].place.file.empty() ? packages_[to].folder : packages_[to].place.file),
                  "bring in another version of one of them",
                  {}};
    const auto known =
        std::find_if(edges_[from].begin(), edges_[from].end(), [&](const auto& e) { return e.to == to; });
    if (known == edges_[from].end())
      edges_[from].push_back({to, &need});
    else if (need.strength < known->need->strength)
      known->need = &need;
  }

  [[noreturn]] void nobody(std::size_t from, const PackageNeed& need) const {
    std::vector<std::string> names;
    for (const auto& package : packages_) {
      if (&package != &packages_[from]) names.push_back(package.name);
    }
    throw Fault(
        {Exit::description,
         need.place,
         "'" + packages_[from].name + "' needs '" + text::printable_line(need.name) + "', and no member is called so",
         names.empty() ? "it is the only member" : "there are " + text::join(names, ", "),
         "what comes from outside of the tree is a [[need]]",
         {}});
  }

  // What a package has itself it does not ask others for, unless it says so.
  [[nodiscard]] bool gives(std::size_t package, const std::string& name) const {
    const auto& own = packages_[package].gives;
    return std::any_of(own.begin(), own.end(), [&](const auto& one) { return key_of(one) == key_of(name); });
  }

  // The strongest that keeps a package back: nothing when all it needs is there.
  [[nodiscard]] std::optional<Strength> held_by(std::size_t package) const {
    std::optional<Strength> out;
    for (const auto& edge : edges_[package]) {
      if (!place_of_.contains(edge.to) && (!out || edge.need->strength < *out)) out = edge.need->strength;
    }
    return out;
  }

  // All that a package waits for, itself among them when it is in a circle.
  [[nodiscard]] std::set<std::size_t> waits_for(std::size_t package) const {
    std::set<std::size_t> out;
    std::vector<std::size_t> open = {package};
    while (!open.empty()) {
      const std::size_t at = open.back();
      open.pop_back();
      for (const auto& edge : edges_[at]) {
        if (!place_of_.contains(edge.to) && out.insert(edge.to).second) open.push_back(edge.to);
      }
    }
    return out;
  }

  // When every package waits for another: of a circle that waits for nothing but itself the one with the weakest tie.
  [[nodiscard]] std::size_t weakest_in_circle() const {
    std::map<std::size_t, std::set<std::size_t>> waits;
    for (std::size_t i = 0; i < packages_.size(); ++i) {
      if (!place_of_.contains(i)) waits[i] = waits_for(i);
    }
    std::optional<std::size_t> out;
    for (const auto& entry : waits) {
      const auto i = entry.first;
      const auto& others = entry.second;
      const bool alone = std::all_of(others.begin(), others.end(), [&](auto j) { return waits.at(j).contains(i); });
      if (alone && (!out || *held_by(i) > *held_by(*out))) out = i;
    }
    return *out;  // there is one: whoever waits for the fewest
  }

  void order() {
    while (place_of_.size() < packages_.size()) {
      std::size_t next = 0;
      while (next < packages_.size() && (place_of_.contains(next) || held_by(next))) ++next;
      if (next == packages_.size()) {
        next = weakest_in_circle();
        if (*held_by(next) == Strength::said) circle(next);
      }
      place(next);
    }
  }

  // Behind all that are placed already.
  void place(std::size_t package) {
    Placed out;
    out.package = package;
    out.problem = problems_[package];
    for (const auto& edge : edges_[package]) {
      if (const auto at = place_of_.find(edge.to); at != place_of_.end())
        out.needs.push_back(at->second);
      else
        out_.notes.push_back("the members " + packages_[package].name + " and " + packages_[edge.to].name +
                             " ask for each other: " + packages_[package].name + " comes first (" +
                             edge.need->place.text() + ")");
    }
    std::sort(out.needs.begin(), out.needs.end());
    out.waits = out.needs;
    if (in_this_order_ && packages_[package].place.file.empty()) {
      out.waits.resize(out_.order.size());
      std::iota(out.waits.begin(), out.waits.end(), std::size_t{0});
    }
    std::set<std::size_t> sees(out.waits.begin(), out.waits.end());
    for (const auto i : out.waits) sees.insert(out_.order[i].sees.begin(), out_.order[i].sees.end());
    out.sees.assign(sees.begin(), sees.end());
    place_of_[package] = out_.order.size();
    out_.order.push_back(std::move(out));
  }

  // Follows what is said until a package comes again.
  [[noreturn]] void circle(std::size_t begin) const {
    std::vector<std::size_t> way = {begin};
    std::vector<const PackageNeed*> by;
    for (;;) {
      const auto& edges = edges_[way.back()];
      const auto edge = std::find_if(edges.begin(), edges.end(), [&](const auto& e) {
        return !place_of_.contains(e.to) && e.need->strength == Strength::said;
      });
      if (edge == edges.end()) break;  // cannot be: every one that is left is held by what is said
      by.push_back(edge->need);
      const auto again = std::find(way.begin(), way.end(), edge->to);
      if (again == way.end()) {
        way.push_back(edge->to);
        continue;
      }
      by.erase(by.begin(), by.begin() + (again - way.begin()));
      way.erase(way.begin(), again);
      way.push_back(way.front());
      break;
    }
    std::vector<std::string> names;
    for (const auto i : way) names.push_back(packages_[i].name);
    std::vector<std::string> places;
    for (const auto* need : by) places.push_back(need->place.text());
    throw Fault({Exit::description,
                 by.empty() ? Place{} : by.front()->place,
                 "members need each other in a circle: " + text::join(names, " -> "),
                 "it is said at " + text::join(places, ", "),
                 "take one of these needs away",
                 {}});
  }

  std::vector<Package> packages_;
  const bool in_this_order_;
  std::vector<std::vector<Edge>> edges_;
  std::vector<std::optional<Problem>> problems_;
  std::map<std::size_t, std::size_t> place_of_;  // of those that have one
  std::map<std::string, std::size_t> givers_;
  Relations out_;
};

}  // namespace

Result<Package> package_in(const std::string& tree, const std::string& folder, const DescriptionFormats& formats,
                           const std::vector<std::string>& others) {
  return guarded("reading what a member needs", [&] {
    Package package;
    package.folder = folder;
    package.name = std::filesystem::path(folder == "." ? tree : folder).filename().string();
    if (files::is_file(tree + "/" + folder + "/" + manifest_name)) read_manifest(package, tree);
    read_settings_of(package, tree);
    package.gives.insert(package.gives.end(), {package.name, folder});
    Reading(package, tree, formats, others).folder(folder, 3);
    for (const auto& other : others) {
      if (names_folder(tree, folder, other, formats))
        package.needs.push_back({other, {}, {folder, 0, 0}, Strength::read});
    }
    return package;
  });
}

Result<Relations> relations_of(std::vector<Package> packages, bool in_this_order) {
  return guarded("ordering the members", [&] { return Relating(std::move(packages), in_this_order).relate(); });
}

Result<Relations> relations_between(const std::string& tree, const std::vector<std::string>& folders,
                                    const DescriptionFormats& formats, bool in_this_order,
                                    const std::vector<std::vector<std::string>>& more_names) {
  std::vector<Package> packages;
  for (const auto& folder : folders) {
    auto package = package_in(tree, folder, formats, folders);
    if (!package) return package.problem();
    if (!more_names.empty()) {
      const auto& more = more_names[packages.size()];
      package->gives.insert(package->gives.end(), more.begin(), more.end());
    }
    packages.push_back(std::move(*package));
  }
  return relations_of(std::move(packages), in_this_order);
}

}  // namespace coctilis::survey
