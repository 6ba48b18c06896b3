#include "describe/csharp/reader.h"

#include <functional>
#include <map>
#include <set>

#include "base/files.h"
#include "base/process.h"
#include "base/starter_script.h"
#include "base/text.h"
#include "describe/csharp/project.h"
#include "describe/known_facts.h"
#include "describe/switches.h"

namespace coctilis::describe::csharp {

namespace {

class CsharpTree {
 public:
  explicit CsharpTree(const ReadRequest& request) : request_(request), locator_(request.locator) {
    project_.tree = request.survey.tree;
    project_.binary_root = request.work;
    project_.languages = {"C#"};
    project_.name = std::filesystem::path(request.file).stem().string();
  }

  model::Project run(const std::vector<std::string>& files) {
    const auto& settings = locator_.settings();
    const auto it = settings.variants.find(settings.variant);
    debug_ = it != settings.variants.end() && it->second.debug();
    for (const auto& file : files) load(file, {});
    refuse_same_names();
    find_compiler();
    const bool tests = tests_wanted(settings, project_);
    for (const auto& one : projects_) {
      if (tests || !one.is_test) add(one);
    }
    if (build_.units.empty())
      throw Fault({Exit::description,
                   {files::below(request_.file, project_.tree), 0, 0},
                   "its projects have no sources",
                   {},
                   "name another description under [tree] of coctilis.toml",
                   {}});
    project_.facts = known_facts(std::move(build_));
    return std::move(project_);
  }

 private:
  void load(const std::string& file, std::vector<std::string> way) {
    if (std::find(way.begin(), way.end(), file) != way.end()) {
      std::vector<std::string> names;
      for (const auto& one : way) names.push_back(files::below(one, project_.tree));
      names.push_back(files::below(file, project_.tree));
      throw Fault({Exit::description,
                   {files::below(file, project_.tree), 0, 0},
                   "projects need each other in a circle: " + text::join(names, " -> "),
                   {},
                   "take one of these uses out",
                   {}});
    }
    if (!seen_.insert(file).second) return;
    if (!files::is_file(file))
      throw Fault({Exit::description,
                   {files::below(way.empty() ? request_.file : way.back(), project_.tree), 0, 0},
                   "the project " + files::below(file, project_.tree) + " is not there",
                   {},
                   "bring it in",
                   {}});
    way.push_back(file);
    auto one = read_project(file, project_.tree, debug_);
    // What it needs comes before it.
    for (const auto& use : one.uses) {
      seen_.erase(use);
      if (std::none_of(projects_.begin(), projects_.end(), [&](const auto& other) { return other.file == use; }))
        load(use, way);
      seen_.insert(use);
    }
    for (auto& path : one.read_files) project_.read_files.push_back(std::move(path));
    for (auto& left : one.left_out) project_.left_out.push_back(std::move(left));
    projects_.push_back(std::move(one));
  }

  void refuse_same_names() const {
    std::map<std::string, std::string> names;
    for (const auto& one : projects_) {
      const auto [it, fresh] = names.emplace(one.name, one.file);
      if (!fresh)
        throw Fault({Exit::description,
                     {files::below(one.file, project_.tree), 0, 0},
                     "two projects make an assembly '" + text::printable_line(one.name) + "'",
                     "the other is " + files::below(it->second, project_.tree),
                     "give one another AssemblyName",
                     {}});
    }
  }

  // ---- from outside ------------------------------------------------------------------------------------------------
  void find_compiler() {
    for (const auto& [name, package] : {std::pair{"mcs", "mono-mcs"}, {"mono", "mono-runtime"}}) {
      model::Requirement wanted{model::RequirementKind::program,
                                name,
                                {},
                                true,
                                "the description",
                                {files::below(request_.file, project_.tree), 0, 0},
                                {}};
      auto finding = locator_.program(wanted, {name}, {});
      if (!finding.found) finding.package = package;
      (std::string_view(name) == "mcs" ? compiler_ : runtime_) = finding.where;
      locator_.keep(std::move(finding));
    }
    std::set<std::string> frameworks;
    for (const auto& one : projects_) {
      for (const auto& framework : one.frameworks) {
        if (!framework.starts_with("v") && !framework.starts_with("net4") && !framework.starts_with("netstandard"))
          frameworks.insert(framework);
      }
    }
    if (!frameworks.empty())
      build_.notes.push_back("the framework " + text::join({frameworks.begin(), frameworks.end()}, ", ") +
                             " is not here: it is compiled for the class library of " +
                             (runtime_.empty() ? "mono" : runtime_) + ", in C# 7, which is what its compiler knows");
  }

  // The file of an assembly or a package; empty: it is nowhere.
  std::string find_assembly(const Reference& wanted, const CsharpProject& one, std::vector<std::string>& looked) const {
    const auto there = [&](const std::string& path) {
      looked.push_back(path);
      return files::is_file(path);
    };
    if (!wanted.path.empty() && there(wanted.path)) return wanted.path;
    const std::string file = wanted.name + ".dll";
    std::vector<std::string> folders;
    for (const auto& prefix : locator_.settings().wished_prefixes()) {
      for (const char* below : {"/lib", "/lib/cli", ""}) folders.push_back(prefix + below);
    }
    for (const auto& base : {one.folder, project_.tree}) {
      for (const char* below : {"/lib", "/libs", "/packages", "/vendor", ""}) folders.push_back(base + below);
    }
    folders.emplace_back("/usr/lib/mono/4.5");
    folders.emplace_back("/usr/lib/mono/4.5/Facades");
    for (const auto& folder : folders) {
      if (there(folder + "/" + file)) return folder + "/" + file;
    }
    // Packages by name and version: of the user, and as systems keep them.
    std::vector<std::string> roots = {"/usr/lib/cli", "/usr/lib/mono/gac"};
    if (const char* home = std::getenv("HOME")) roots.insert(roots.begin(), std::string(home) + "/.nuget/packages");
    for (const auto& root : roots) {
      for (const auto& name : files::names_in(root)) {
        const std::string lower = text::lower(name);
        if (lower != text::lower(wanted.name) && !lower.starts_with(text::lower(wanted.name) + "-")) continue;
        for (const auto& path : assemblies_below(root + "/" + name, file, 0)) {
          if (there(path)) return path;
        }
      }
    }
    return {};
  }
  // "2.6.3" of nunit.framework-2.6.3/nunit.framework.dll, "1.4.0.0" of a folder 1.4.0.0__token; empty: it tells none.
  static std::string version_of(const std::string& path, const std::string& name) {
    std::string folder = std::filesystem::path(path).parent_path().filename().string();
    if (folder.starts_with(name + "-")) folder = folder.substr(name.size() + 1);
    if (const auto at = folder.find("__"); at != std::string::npos) folder.resize(at);
    return folder.empty() || folder.find_first_not_of("0123456789.") != std::string::npos ? std::string{} : folder;
  }
  static std::vector<std::string> assemblies_below(const std::string& folder, const std::string& file, int depth) {
    std::vector<std::string> out;
    if (depth > 5) return out;
    for (const auto& name : files::names_in(folder)) {
      const std::string path = folder + "/" + name;
      if (text::lower(name) == text::lower(file)) out.push_back(path);
      if (files::is_folder(path)) {
        auto more = assemblies_below(path, file, depth + 1);
        out.insert(out.end(), more.begin(), more.end());
      }
    }
    return out;
  }

  // Packages that have nothing that is compiled with: they check sources, or extend other programs.
  static bool is_for_builds(const std::string& name) {
    static const std::set<std::string> names = {"microsoft.net.test.sdk",
                                                "nunit3testadapter",
                                                "nunittestadapter",
                                                "xunit.runner.visualstudio",
                                                "coverlet.collector",
                                                "coverlet.msbuild",
                                                "minver",
                                                "nerdbank.gitversioning",
                                                "gitversion.msbuild",
                                                "sonaranalyzer.csharp",
                                                "microsoft.dotnet.ilcompiler"};
    return names.contains(name) || name.ends_with(".analyzers") || name.ends_with("analyzers.csharp") ||
           name.starts_with("microsoft.sourcelink.");
  }

  void take(const Reference& wanted, const CsharpProject& one, model::Whole& whole, bool& missing) {
    if (is_for_builds(text::lower(wanted.name))) return;
    std::vector<std::string> looked;
    Reference sought = wanted;
    // The package has another name than what lies in it.
    if (text::lower(wanted.name) == "nunit") sought.name = "nunit.framework";
    const std::string found = find_assembly(sought, one, looked);
    model::Finding finding;
    finding.requirement = {wanted.is_package ? model::RequirementKind::package : model::RequirementKind::library,
                           wanted.name,
                           {},
                           !one.is_test,
                           "'" + one.name + "'",
                           wanted.place,
                           {}};
    finding.found = !found.empty();
    finding.where = found;
    finding.looked = std::move(looked);
    finding.how = "assembly";
    finding.version = version_of(found, sought.name);
    if (!found.empty() && std::atoi(wanted.version.c_str()) > std::atoi(finding.version.c_str()) &&
        !finding.version.empty())
      build_.notes.push_back("'" + one.name + "' asks for " + wanted.name + " " + wanted.version + ": " +
                             finding.version + " is what is here");
    if (found.empty()) {
      missing = true;
      finding.reason = "no " + wanted.name + ".dll" + (wanted.version.empty() ? "" : " (" + wanted.version + ")") +
                       " is here; nothing is fetched: put it into lib/ of the tree, or name its prefix by --with";
      std::string name = text::replace_all(text::lower(wanted.name), ".", "-");
      for (const auto& package : {"libmono-" + name + "4.0-cil", "lib" + name + "-cil", "lib" + name + "-cil-dev",
                                  "libmono-" + name + "-cil"}) {
        if (!locator_.packages().available(package)) continue;
        finding.package = package;
        break;
      }
    } else {
      whole.libraries.push_back(found);
    }
    locator_.keep(std::move(finding));
  }

  // ---- units -------------------------------------------------------------------------------------------------------
  // Each has a folder of its own, as programs look beside themselves for what they need.
  [[nodiscard]] std::string folder_of(const CsharpProject& one) const { return request_.work + "/" + one.name; }
  [[nodiscard]] std::string assembly_of(const CsharpProject& one) const {
    return folder_of(one) + "/" + assembly_name(one);
  }
  static std::string assembly_name(const CsharpProject& one) { return one.name + (one.is_program ? ".exe" : ".dll"); }

  void add(const CsharpProject& one) {
    if (one.sources.empty()) {
      project_.left_out.push_back(
          {"project", one.name, {files::below(one.file, project_.tree), 0, 0}, "it has no sources"});
      return;
    }
    model::Unit unit;
    unit.name = assembly_name(one);
    unit.kind = model::TargetKind::class_library;
    unit.folder = one.folder;
    unit.work_folder = request_.work;
    unit.place = {files::below(one.file, project_.tree), 0, 0};
    unit.installed = !one.is_test;
    unit.result.file = assembly_of(one);
    unit.result.linker_file = unit.result.file;
    unit.parts = {{"C#", {}}};
    for (const auto& path : one.sources) {
      model::UnitSource source;
      source.path = path;
      source.part = 0;
      unit.sources.push_back(std::move(source));
    }
    auto& whole = unit.whole.emplace();
    whole.compiler = compiler_;
    whole.runtime = runtime_;
    whole.options = one.options;
    whole.options.push_back(std::string("-target:") + (one.is_program ? "exe" : "library"));
    for (const auto& define : one.defines) whole.options.push_back("-define:" + define);
    for (const auto& name : one.usings) {
      // What is in an assembly of its own counts where that is here.
      if (name == "System.Net.Http") {
        std::vector<std::string> looked;
        const std::string path = find_assembly({name, {}, {}, false, {}}, one, looked);
        if (path.empty()) continue;
        whole.libraries.push_back(path);
      }
      whole.first_lines.push_back("using " + name + ";");
    }
    add_language(one, whole);
    bool missing = false;
    for (const auto& reference : one.references) take(reference, one, whole, missing);
    for (const auto& use : one.uses) {
      const auto it =
          std::find_if(projects_.begin(), projects_.end(), [&](const auto& other) { return other.file == use; });
      if (it == projects_.end() || it->sources.empty()) continue;
      whole.units.push_back(assembly_name(*it));
      unit.uses.push_back({assembly_name(*it), model::Use::How::link});
    }
    for (const auto& resource : one.resources) whole.resources.push_back({resource.path, resource.name});
    for (const auto& path : one.absent) {
      model::Finding finding;
      finding.requirement = {model::RequirementKind::file,
                             files::below(path, project_.tree),
                             {},
                             false,
                             "'" + one.name + "'",
                             unit.place,
                             {}};
      finding.looked = {path};
      finding.how = "file beside the program";
      finding.reason = "the project copies it beside the program, and it is not there";
      locator_.keep(std::move(finding));
    }
    if (one.is_test) unit.in_default = add_tests(one, unit, missing);
    model::Outline outline;
    outline.name = unit.name;
    outline.folder = unit.folder;
    outline.sources = one.sources;
    outline.in_default = unit.in_default;
    project_.outlines.push_back(std::move(outline));
    const bool in_default = unit.in_default;
    install(unit.result.file, "lib/" + one.name + "/" + unit.name, unit, 0644);
    auto& parts = parts_[one.file];
    for (const auto& library : whole.libraries)
      parts.push_back({library, std::filesystem::path(library).filename().string()});
    parts.insert(parts.end(), one.contents.begin(), one.contents.end());
    build_.units.push_back(std::move(unit));
    for (const char* name : {"App.config", "app.config"}) {
      if (one.is_program && files::is_file(one.folder + "/" + name))
        put_beside(one.folder + "/" + name, one.name + ".exe.config", one);
    }
    for (const auto& part : parts) put_beside(part.path, part.to, one);
    for (const auto& other : projects_) {
      if ((!one.is_program && !one.is_test) || other.sources.empty() || !needs(one, other.file, 0)) continue;
      put_beside(assembly_of(other), assembly_name(other), one);
      for (const auto& part : parts_[other.file]) put_beside(part.path, part.to, one);
    }
    if (one.is_program) add_program(one, in_default);
  }

  // Tests are run by what knows how; false: they cannot be, and are built when they are asked for.
  bool add_tests(const CsharpProject& one, const model::Unit& unit, bool missing) {
    const auto refers_to = [&](std::string_view begin) {
      return std::any_of(one.references.begin(), one.references.end(),
                         [&](const auto& reference) { return text::lower(reference.name).starts_with(begin); });
    };
    std::string why;
    std::string runner;
    if (missing) {
      why = "what they are written with is not here";
    } else if (refers_to("nunit")) {
      auto finding = locator_.program(
          {model::RequirementKind::program, "nunit-console", {}, false, "'" + one.name + "'", unit.place, {}},
          {"nunit-console"}, {});
      runner = finding.where;
      if (!finding.found) {
        why = "what runs them is not here";
        if (locator_.packages().available("nunit-console")) finding.package = "nunit-console";
      }
      locator_.keep(std::move(finding));
    } else {
      why = "nothing here runs what they are written with";
    }
    if (!why.empty()) {
      project_.left_out.push_back({"tests", one.name, unit.place, why});
      build_.notes.push_back("the tests '" + one.name + "' are left out: " + why);
      return false;
    }
    model::TestCase test;
    test.name = one.name;
    test.command = {runner, "-nologo", "-noresult", "-noshadow", "-nodots", unit.result.file};
    test.folder = folder_of(one);
    test.limit_seconds = 600;
    test.program = unit.name;
    test.place = unit.place;
    // What the runtime keeps for itself is none of the user's.
    test.environment["HOME"] = request_.work + "/.csharp/home";
    // Its exit code is how many failed: none of none is no success, nor is a test that ends it all.
    test.prints = {"Tests run: [1-9]"};
    build_.tests.push_back(std::move(test));
    return true;
  }

  static void add_language(const CsharpProject& one, model::Whole& whole) {
    std::string version = one.language;
    // Newer ones than the compiler knows are left to it: sources say what they need by failing to compile.
    if (version.empty() || std::atof(version.c_str()) > 7.2 ||
        text::lower(version).find("latest") != std::string::npos || text::lower(version) == "default" ||
        text::lower(version) == "preview")
      version = "latest";
    whole.options.push_back("-langversion:" + version);
  }

  void install(const std::string& from, const std::string& to, const model::Unit& unit, unsigned mode) {
    if (!unit.installed) return;
    model::InstallItem item;
    item.from = from;
    item.to = to;
    item.mode = mode;
    item.target = unit.name;
    item.place = unit.place;
    build_.install.push_back(std::move(item));
  }

  // What has to lie in the folder of the program: assemblies from elsewhere, data, settings.
  void put_beside(const std::string& from, const std::string& name, const CsharpProject& one) {
    // What the runtime brings along is found by it.
    if (from.starts_with("/usr/lib/mono/")) return;
    const std::string to = folder_of(one) + "/" + name;
    if (const auto [it, fresh] = beside_.emplace(to, from); !fresh) {
      if (it->second != from)
        project_.left_out.push_back({"file",
                                     files::below(from, project_.tree),
                                     {files::below(one.file, project_.tree), 0, 0},
                                     "beside '" + one.name + "' lies another of that name"});
      return;
    }
    model::Rule rule;
    rule.outputs = {to};
    rule.inputs = {from};
    rule.place = {files::below(one.file, project_.tree), 0, 0};
    rule.actions = {{model::Action::How::builtin, {"copy", from, to}, request_.work, {}}};
    for (auto& unit : build_.units) {
      if (unit.name == assembly_name(one)) unit.generated.push_back(to);
    }
    build_.rules.push_back(std::move(rule));
    if (!one.is_test) {
      model::InstallItem item;
      item.from = from;
      item.to = "lib/" + one.name + "/" + name;
      item.mode = 0644;
      item.place = {files::below(one.file, project_.tree), 0, 0};
      build_.install.push_back(std::move(item));
    }
  }

  void add_program(const CsharpProject& one, bool in_default) {
    model::Unit unit;
    unit.name = one.name;
    unit.kind = model::TargetKind::program;
    unit.folder = one.folder;
    unit.work_folder = request_.work;
    unit.place = {files::below(one.file, project_.tree), 0, 0};
    unit.in_default = in_default;
    unit.installed = !one.is_test;
    unit.result.file = request_.work + "/bin/" + one.name;
    unit.result.linker_file = unit.result.file;
    unit.parts = {{"C#", {}}};
    auto& whole = unit.whole.emplace();
    whole.compiler = compiler_;
    whole.runtime = runtime_;
    whole.entry = assembly_name(one);
    whole.units = {assembly_name(one)};
    unit.uses.push_back({whole.units.front(), model::Use::How::link});
    if (unit.installed) {
      model::InstallItem item;
      item.kind = model::InstallItem::Kind::text;
      item.from = starter_script(assembly_name(one), {text::shell_quote(runtime_),
                                                      from_script("../lib/" + one.name + "/" + assembly_name(one))});
      item.to = "bin/" + one.name;
      item.mode = 0755;
      item.target = one.name;
      item.place = unit.place;
      build_.install.push_back(std::move(item));
    }
    model::Outline outline;
    outline.name = unit.name;
    outline.folder = unit.folder;
    outline.in_default = in_default;
    project_.outlines.push_back(std::move(outline));
    build_.units.push_back(std::move(unit));
  }

  [[nodiscard]] bool needs(const CsharpProject& one, const std::string& file, int depth) const {
    if (depth > 100) return false;
    return std::any_of(one.uses.begin(), one.uses.end(), [&](const auto& use) {
      if (use == file) return true;
      const auto it =
          std::find_if(projects_.begin(), projects_.end(), [&](const auto& other) { return other.file == use; });
      return it != projects_.end() && needs(*it, file, depth + 1);
    });
  }

  const ReadRequest& request_;
  locate::Locator& locator_;
  model::Project project_;
  model::Build build_;
  bool debug_ = false;
  std::vector<CsharpProject> projects_;  // each behind those that it uses
  std::set<std::string> seen_;
  std::map<std::string, std::string> beside_;          // what lies there -> where it is from
  std::map<std::string, std::vector<Content>> parts_;  // of each project, what is to lie beside whoever runs it
  std::string compiler_, runtime_;
};

Result<model::Project> read_one(const ReadRequest& request) {
  return guarded("reading a project of C#", [&] {
    // All of a folder belong together, as with a solution.
    const std::string folder = std::filesystem::path(request.file).parent_path().string();
    std::vector<std::string> all = {request.file};
    for (const auto& name : files::names_in(folder)) {
      if (name.ends_with(".csproj") && folder + "/" + name != request.file) all.push_back(folder + "/" + name);
    }
    return CsharpTree(request).run(all);
  });
}

}  // namespace

Reader reader() {
  Reader out;
  out.format.format = "*.csproj";
  out.format.names = {{"*.csproj", 21}};
  out.format.readable = true;
  out.format.is_one = [](const std::string& path) { return path.ends_with(".csproj"); };
  out.format.programs = {"dotnet", "xbuild"};
  out.read = read_one;
  return out;
}

bool is_solution(const std::string& path) {
  const std::string content = files::read(path).value_or("");
  return content.find(".csproj\"") != std::string::npos && content.find(".vcxproj\"") == std::string::npos &&
         content.find(".vcproj\"") == std::string::npos;
}

Result<model::Project> read_solution(const ReadRequest& request) {
  return guarded("reading a solution", [&] { return CsharpTree(request).run(projects_of_solution(request.file)); });
}

}  // namespace coctilis::describe::csharp
