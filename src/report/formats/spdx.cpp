#include <nlohmann/json.hpp>
#include <set>
#include <unordered_set>

#include "base/digest.h"
#include "base/files.h"
#include "base/text.h"
#include "base/version.h"
#include "locate/packages.h"
#include "report/formats/formats.h"
#include "report/formats/uri.h"
#include "report/system_libraries.h"

namespace coctilis::report {

using nlohmann::ordered_json;

namespace {

class Parts {
 public:
  explicit Parts(const model::Run& run) : run_(run) {
    for (const auto& step : run.plan.steps) made_.insert(step.outputs.begin(), step.outputs.end());
  }

  std::string document() {
    const std::string name =
        run_.project.name.empty() ? std::filesystem::path(run_.tree).filename().string() : run_.project.name;
    packages_.push_back(package("SPDXRef-Project", name, run_.project.version, "NOASSERTION"));
    relate("SPDXRef-DOCUMENT", "DESCRIBES", "SPDXRef-Project");
    std::map<std::string, const model::PlannedTarget*> targets;
    for (const auto& target : run_.plan.targets) targets.emplace(target.name, &target);
    for (const auto& target : run_.plan.targets) {
      if (!target.in_default || target.output.empty()) continue;
      const std::string result = file_of(target.output, true);
      if (result.empty()) continue;
      relate("SPDXRef-Project", "GENERATES", result);
      for (const auto& source : sources_of(target)) relate(result, "GENERATED_FROM", file_of(source, false));
      for (const auto& used : target.uses) {
        const auto it = targets.find(used);
        const std::string other =
            it == targets.end() || it->second->output.empty() ? "" : file_of(it->second->output, true);
        if (!other.empty())
          relate(result, it->second->kind == model::TargetKind::shared_library ? "DYNAMIC_LINK" : "STATIC_LINK", other);
      }
      for (const auto& item : system_libraries_of(target, run_)) {
        relate(result, item.ends_with(".a") ? "STATIC_LINK" : "DYNAMIC_LINK", library_of(item));
      }
    }
    // The same content has the same name space: two runs that come to the same have one document.
    const std::string content = packages_.dump(-1, ' ', false, ordered_json::error_handler_t::replace) +
                                files_.dump(-1, ' ', false, ordered_json::error_handler_t::replace) +
                                relationships_.dump(-1, ' ', false, ordered_json::error_handler_t::replace);
    const std::string unique = name_uuid("SHA1", "6ba7b811-9dad-11d1-80b4-00c04fd430c8", content).value_or("");
    const ordered_json out = {{"spdxVersion", "SPDX-2.3"},
                              {"dataLicense", "CC0-1.0"},
                              {"SPDXID", "SPDXRef-DOCUMENT"},
                              {"name", text::printable_line(name)},
                              {"documentNamespace", "urn:uuid:" + unique},
                              {"creationInfo",
                               {{"created", run_.started.substr(0, 19) + "Z"},
                                {"creators", ordered_json::array({"Tool: Coctilis-" + std::string(version)})}}},
                              {"packages", packages_},
                              {"files", files_},
                              {"relationships", relationships_}};
    return out.dump(1, ' ', false, ordered_json::error_handler_t::replace) + "\n";
  }

 private:
  static ordered_json package(const std::string& id, const std::string& name, const std::string& number,
                              const std::string& from) {
    ordered_json out = {{"SPDXID", id}, {"name", text::printable_line(name)}};
    if (!number.empty()) out["versionInfo"] = text::printable_line(number);
    out["downloadLocation"] = from;
    out["filesAnalyzed"] = false;
    out["licenseConcluded"] = "NOASSERTION";
    out["licenseDeclared"] = "NOASSERTION";
    out["copyrightText"] = "NOASSERTION";
    return out;
  }

  void relate(const std::string& from, const char* how, const std::string& to) {
    if (to.empty() || !related_.insert(from + how + to).second) return;
    relationships_.push_back({{"spdxElementId", from}, {"relationshipType", how}, {"relatedSpdxElement", to}});
  }

  // Sources that the steps of a target compile or are told to read.
  [[nodiscard]] std::vector<std::string> sources_of(const model::PlannedTarget& target) const {
    std::vector<std::string> out;
    std::set<std::string> seen;
    for (const auto index : target.steps) {
      if (index >= run_.plan.steps.size()) continue;
      const auto& step = run_.plan.steps[index];
      for (const auto& file : step.inputs) {
        if (!made_.contains(file) && files::is_below(file, run_.tree) && seen.insert(file).second) out.push_back(file);
      }
    }
    return out;
  }

  // The identifier of a file; empty when it cannot be read.
  std::string file_of(const std::string& path, bool result) {
    const auto known = file_ids_.find(path);
    if (known != file_ids_.end()) return known->second;
    std::string& id = file_ids_[path];
    const auto content = files::read(path);
    const auto sha1 = content ? digest("SHA1", *content) : std::nullopt;
    const auto sha256 = content ? digest("SHA256", *content) : std::nullopt;
    if (!sha1 || !sha256) return id;
    id = "SPDXRef-File-" + std::to_string(files_.size() + 1);
    const std::string shown =
        result ? files::below(files::below(path, run_.plan.work), run_.kiln) : files::below(path, run_.tree);
    files_.push_back({{"SPDXID", id},
                      {"fileName", "./" + text::printable_line(shown)},
                      {"fileTypes", ordered_json::array({result ? "BINARY" : "SOURCE"})},
                      {"checksums", ordered_json::array({{{"algorithm", "SHA1"}, {"checksumValue", *sha1}},
                                                         {{"algorithm", "SHA256"}, {"checksumValue", *sha256}}})},
                      {"licenseConcluded", "NOASSERTION"},
                      {"licenseInfoInFiles", ordered_json::array({"NOASSERTION"})},
                      {"copyrightText", "NOASSERTION"}});
    return id;
  }

  // A library of the system, by the package that has it, else by its file.
  std::string library_of(const std::string& path) {
    const auto known = library_ids_.find(path);
    if (known != library_ids_.end()) return known->second;
    // What is loaded is what the name at link time leads to; it has a package of its own.
    std::error_code error;
    const std::string behind = std::filesystem::canonical(path, error).string();
    std::string owner = error ? std::string{} : system_.owner(behind);
    if (owner.empty()) owner = system_.owner(path);
    std::string& id = library_ids_[path];
    const std::string key = owner.empty() ? path : owner;
    const auto by_key = package_ids_.find(key);
    if (by_key != package_ids_.end()) return id = by_key->second;
    id = "SPDXRef-Library-" + std::to_string(package_ids_.size() + 1);
    package_ids_.emplace(key, id);
    std::string number = owner.empty() ? "" : system_.version(owner);
    for (const auto& finding : run_.findings) {
      const auto& items = finding.usage.link_items;
      if (number.empty() && std::find(items.begin(), items.end(), path) != items.end()) number = finding.version;
    }
    const std::string plain = owner.substr(0, owner.find(':'));
    const std::string architecture = plain.size() < owner.size() ? owner.substr(plain.size() + 1) : std::string{};
    auto one =
        package(id, owner.empty() ? std::filesystem::path(path).filename().string() : plain, number, "NOASSERTION");
    one["comment"] = "linked as " + text::printable_line(path);
    if (!owner.empty())
      one["externalRefs"] = ordered_json::array(
          {{{"referenceCategory", "PACKAGE-MANAGER"},
            {"referenceType", "purl"},
            {"referenceLocator",
             "pkg:deb/debian/" + uri_path(plain) + (architecture.empty() ? "" : "?arch=" + uri_path(architecture))}}});
    packages_.push_back(std::move(one));
    return id;
  }

  const model::Run& run_;
  // Which package has a file is kept for all runs: to find it out anew takes longer than a small build.
  Answers answers_{Answers::usual_path()};
  locate::Packages system_{locate::Packages::usual_root(), &answers_};
  ordered_json packages_ = ordered_json::array();
  ordered_json files_ = ordered_json::array();
  ordered_json relationships_ = ordered_json::array();
  std::set<std::string> related_;
  std::map<std::string, std::string> file_ids_;
  std::map<std::string, std::string> library_ids_;
  std::map<std::string, std::string> package_ids_;
  std::unordered_set<std::string> made_;  // files that steps make
};

}  // namespace

std::string parts_spdx(const model::Run& run) { return Parts(run).document(); }

}  // namespace coctilis::report
