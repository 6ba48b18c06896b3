#include "describe/go/reader.h"

#include <functional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "describe/go/packages.h"
#include "describe/go/source.h"
#include "describe/known_facts.h"
#include "describe/switches.h"
#include "survey/submodules.h"

namespace coctilis::describe::go {

namespace {

class GoTree {
 public:
  explicit GoTree(const ReadRequest& request) : request_(request) {
    project_.tree = request.survey.tree;
    project_.binary_root = request.work;
    project_.languages = {"Go"};
  }

  model::Project run() {
    read_modules();
    choose_kit();
    declare_options();
    const auto& compiler = request_.locator.toolchain().compiler("C");
    const auto& settings = request_.locator.settings();
    const bool wants_c = declare_switch("cgo", "whether sources that call C count", settings, project_);
    const bool calls_c = compiler.present() && wants_c;
    const bool tests = tests_wanted(settings, project_);
    auto found = find_packages(modules_, kit_, text::words(text::replace_all(option("tags"), ",", " ")), calls_c, tests,
                               request_);
    project_.left_out = std::move(found.left_out);
    for (const auto& package : found.all) add_package(package);
    for (const auto& package : found.all) {
      if (package.own && package.name == "main") add_program(package, found);
    }
    for (const auto& one : found.tests) add_tests(one);
    for (const auto& left : project_.left_out) {
      if (left.kind == "tests")
        build_.notes.push_back(left.place.text() + ": the tests of " + left.name + " are left out: " + left.reason);
    }
    // What is missing is told before this.
    if (found.all.empty() && !request_.locator.any_required_missing())
      throw Fault({Exit::description,
                   {files::below(request_.file, project_.tree), 0, 0},
                   "it has no packages for this machine",
                   {},
                   "--set tags=NAME gives a tag that its constraints ask for",
                   {}});
    project_.facts = known_facts(std::move(build_));
    return std::move(project_);
  }

 private:
  ModuleFile file(const std::string& path) {
    const auto content = files::read(path);
    const std::string shown = files::below(path, project_.tree);
    if (!content) throw Fault({Exit::description, {shown, 0, 0}, "it cannot be read", {}, "check the file", {}});
    project_.read_files.push_back(path);
    return read_module_file(*content, shown);
  }

  void add_module(const std::string& folder, const Place& place) {
    if (!files::is_below(folder, project_.tree) || !files::is_file(folder + "/go.mod"))
      throw Fault({Exit::description,
                   place,
                   "the module in " + files::below(folder, project_.tree) + " is not there, or not of the tree",
                   {},
                   "bring it in, or take the line out",
                   {}});
    Module module;
    module.folder = folder;
    module.file = file(folder + "/go.mod");
    module.path = module.file.path;
    if (module.path.empty())
      throw Fault({Exit::description,
                   {files::below(folder, project_.tree) + "/go.mod", 1, 0},
                   "it names no module",
                   {},
                   "write module NAME in its first line",
                   {}});
    module.own = true;
    module.vendored = files::is_folder(folder + "/vendor");
    modules_.push_back(std::move(module));
  }

  void read_modules() {
    if (!is_file_of_modules(request_.file)) {
      Module module;
      module.folder = project_.tree;
      module.path = module.file.path = path_of_sources();
      module.own = true;
      module.vendored = files::is_folder(project_.tree + "/vendor");
      modules_.push_back(std::move(module));
      project_.name = modules_.front().path.substr(modules_.front().path.rfind('/') + 1);
      return;
    }
    const std::string folder = std::filesystem::path(request_.file).parent_path().string();
    if (request_.file.ends_with(".work")) {
      const auto whole = file(request_.file);
      for (const auto& [use, place] : whole.uses) add_module(files::absolute(use, folder), place);
      if (modules_.empty())
        throw Fault({Exit::description,
                     {files::below(request_.file, project_.tree), 1, 0},
                     "it uses no module",
                     {},
                     "write use ./FOLDER for each",
                     {}});
      for (auto& module : modules_) {
        for (const auto& [path, replaced] : whole.replaces)
          module.file.replaces[path] = from_folder(replaced, folder, module.folder);
      }
      if (whole.minor > minor_) minor_ = whole.minor, minor_place_ = whole.go_place;
    } else {
      add_module(folder, {});
    }
    project_.name = modules_.front().path.substr(modules_.front().path.rfind('/') + 1);
    for (const auto& module : modules_) {
      if (module.file.minor > minor_) minor_ = module.file.minor, minor_place_ = module.file.go_place;
    }
  }

  static bool is_file_of_modules(const std::string& path) { return path.ends_with(".mod") || path.ends_with(".work"); }

  // By which its packages import each other: what stands before the folders of the tree in most of their imports. Its
  // name where they do not.
  [[nodiscard]] std::string path_of_sources() const {
    std::map<std::string, std::size_t> votes;
    std::size_t read = 0;
    const std::function<void(const std::string&, int)> look = [&](const std::string& folder, int depth) {
      for (const auto& name : files::names_in(folder)) {
        const std::string path = folder + "/" + name;
        if (files::is_folder(path)) {
          if (depth < 20 && !files::is_link(path) && !name.starts_with('.') && name != "vendor" && name != "testdata" &&
              !files::is_below(request_.work, path))
            look(path, depth + 1);
          continue;
        }
        if (!name.ends_with(".go") || ++read > 20'000) continue;
        for (const auto& import : facts_of_source(files::read(path).value_or("")).imports) {
          if (import.substr(0, import.find('/')).find('.') == std::string::npos) continue;
          for (auto at = import.find('/'); at != std::string::npos; at = import.find('/', at + 1)) {
            if (!files::is_folder(project_.tree + "/" + import.substr(at + 1))) continue;
            ++votes[import.substr(0, at)];
            break;
          }
        }
      }
    };
    look(project_.tree, 0);
    std::string best = std::filesystem::path(project_.tree).filename().string();
    std::size_t most = 0;
    for (const auto& [path, count] : votes) {
      if (count > most) {
        most = count;
        best = path;
      }
    }
    return best;
  }

  // A folder counts from the file that has the line.
  static Replaced from_folder(Replaced replaced, const std::string& file_folder, const std::string& module_folder) {
    if (replaced.path.starts_with('.'))
      replaced.path = "./" + files::relative(files::absolute(replaced.path, file_folder), module_folder);
    return replaced;
  }

  void choose_kit() {
    auto chosen =
        locate::choose_go(locate::go_kits(request_.locator.settings().wished_prefixes()), minor_, minor_place_);
    kit_ = chosen.kit;
    const bool found = chosen.finding.found;
    request_.locator.keep(std::move(chosen.finding));
    if (!chosen.note.empty()) build_.notes.push_back(chosen.note);
    if (!found) kit_.system = "linux";
  }

  [[nodiscard]] std::string option(const std::string& name) const {
    const auto& options = request_.locator.settings().options;
    const auto it = options.find(name);
    return it == options.end() ? std::string{} : it->second;
  }
  void declare_options() {
    for (const auto& [name, help] :
         {std::pair{"tags", "further tags that build constraints ask for, parted by commas"},
          {"ldflags", "words for the linker: -X main.version=2.1 sets a variable of a program"}}) {
      model::Option one;
      one.name = name;
      one.type = "text";
      one.value = option(name);
      one.help = help;
      project_.options.push_back(std::move(one));
    }
  }

  model::Unit unit_of(const Package& package, const std::string& name) {
    model::Unit unit;
    unit.name = name;
    unit.folder = package.folder;
    unit.work_folder = request_.work;
    unit.place = package.place;
    unit.parts = {{"Go", {}}};
    auto& whole = unit.whole.emplace();
    whole.compiler = kit_.tools + "/compile";
    auto& go = whole.package.emplace();
    go.path = package.path;
    go.name = package.name;
    go.kit = kit_.folder;
    go.system = kit_.system;
    go.processor = kit_.processor;
    go.is_main = package.name == "main";
    return unit;
  }

  // A program has the last part of its path for a name, which may be all that a package has: then this one gives way,
  // as programs are what users name.
  static std::string unit_name(const std::string& path) {
    return path.find('/') == std::string::npos ? path + " (package)" : path;
  }

  void add_package(const Package& package) {
    auto unit = compiled(package, unit_name(package.path), unit_name);
    // What others import is only made when something of the tree wants it.
    unit.in_default = package.own;
    unit.result.file = request_.work + "/.go/" + package.path + ".a";
    add(std::move(unit), package);
  }

  void add(model::Unit unit, const Package& package) {
    model::Outline outline;
    outline.name = unit.name;
    outline.folder = unit.folder;
    outline.sources = package.sources;
    outline.in_default = unit.in_default;
    project_.outlines.push_back(std::move(outline));
    build_.units.push_back(std::move(unit));
  }

  // A package to be compiled. `name_of`: the unit of what it imports, by its path.
  model::Unit compiled(const Package& package, const std::string& name,
                       const std::function<std::string(const std::string&)>& name_of) {
    auto unit = unit_of(package, name);
    unit.kind = model::TargetKind::object_set;
    auto& go = *unit.whole->package;
    if (package.minor > 0) go.language = "go1." + std::to_string(std::min(package.minor, kit_.minor));
    go.assembler = package.assembler;
    go.headers = package.headers;
    go.imports = package.imports;
    go.embeds = package.embeds;
    go.calling_c = package.calling_c;
    go.c_sources = package.c_sources;
    go.c_options = package.c_options;
    go.c_link_words = package.c_link_words;
    go.c_compiler = request_.locator.toolchain().compiler("C").path;
    go.cxx_compiler = request_.locator.toolchain().compiler("C++").path;
    for (const auto& path : package.sources) {
      model::UnitSource source;
      source.path = path;
      source.part = 0;
      unit.sources.push_back(std::move(source));
    }
    for (auto& [import, from] : go.imports) {
      if (from.starts_with('/')) continue;
      from = name_of(from);
      unit.whole->units.push_back(from);
      unit.uses.push_back({from, model::Use::How::link});
    }
    return unit;
  }

  // ---- tests -------------------------------------------------------------------------------------------------------

  // The package with its tests, the tests beside it, what is compiled again for them, and the program that runs them.
  void add_tests(const PackageTests& tests) {
    std::set<std::string> again;
    for (const auto& package : tests.again) again.insert(package.path);
    const std::string inside = tests.path + " (with its tests)";
    // A package of the tree may be called as the one beside is.
    const std::string outside = tests.path + " (tests beside it)";
    const auto name_of = [&](const std::string& path) {
      if (path == tests.path && tests.anew) return inside;
      if (path == tests.outside.path && !tests.outside.sources.empty()) return outside;
      return again.contains(path) ? path + " (for the tests of " + tests.path + ")" : unit_name(path);
    };
    const std::string folder = request_.work + "/.go-tests/" + tests.path;
    const auto add_one = [&](const Package& package, const std::string& name, const std::string& file) {
      auto unit = compiled(package, name, name_of);
      unit.in_default = false;
      unit.result.file = folder + "/" + file + ".a";
      // They may look for files beside their sources.
      unit.whole->package->own_paths = true;
      unit.whole->package->is_main = false;
      add(std::move(unit), package);
    };
    if (tests.anew) add_one(tests.inside, inside, "inside");
    for (std::size_t i = 0; i < tests.again.size(); ++i)
      add_one(tests.again[i], name_of(tests.again[i].path), "again-" + std::to_string(i));
    if (!tests.outside.sources.empty()) add_one(tests.outside, outside, "outside");

    Package main;
    main.path = tests.path + " (what runs its tests)";
    main.name = "main";
    main.folder = tests.inside.folder;
    main.place = tests.inside.place;
    main.imports = tests.imports;
    std::string imports;
    const auto import_one = [&](const Package& package, bool beside, const char* alias) {
      if (package.sources.empty() && package.calling_c.empty()) return;
      const bool called = std::any_of(tests.functions.begin(), tests.functions.end(), [&](const auto& function) {
        return function.outside == beside &&
               (function.said.kind != TestFunction::Kind::example || function.said.runs());
      });
      imports += std::string("\t") + (called ? alias : "_") + " " + as_text(package.path) + "\n";
      main.imports.emplace(package.path, package.path);
    };
    import_one(tests.inside, false, "inside");
    import_one(tests.outside, true, "outside");
    const std::string source = folder + "/main.go";
    build_.files.push_back({source, main_of(tests, imports), false});
    main.sources = {source};
    auto unit = compiled(main, main.path, name_of);
    unit.in_default = false;
    unit.result.file = folder + "/main.a";
    const std::string compiled_main = unit.name;
    add(std::move(unit), main);

    const std::string name = unused(program_name(tests.path) + "-tests");
    auto program = program_of(main, name, compiled_main);
    program.installed = false;
    add(std::move(program), {});
    model::TestCase test;
    test.name = "tests of " + tests.path;
    test.command = {request_.work + "/" + name, "-test.paniconexit0"};
    test.folder = main.folder;
    test.limit_seconds = 600;
    test.program = name;
    test.place = main.place;
    build_.tests.push_back(std::move(test));
  }

  // What the program of tests is compiled from, against the interface of the packages "testing" and
  // "testing/internal/testdeps".
  [[nodiscard]] std::string main_of(const PackageTests& tests, const std::string& imports) const {
    using Kind = TestFunction::Kind;
    std::string run = "\tos.Exit(every.Run())\n";
    std::string more;
    const auto list = [&](Kind kind, const std::string& type) {
      std::string out = "[]testing." + type + "{\n";
      for (const auto& [function, outside] : tests.functions) {
        if (function.kind != kind || (kind == Kind::example && !function.runs())) continue;
        out += "\t\t{" + as_text(function.name) + ", " + (outside ? "outside." : "inside.") + function.name;
        if (kind == Kind::example)
          out += ", " + as_text(function.output + "\n") + ", " + (function.any_order ? "true" : "false");
        out += "},\n";
      }
      return out + "\t}";
    };
    for (const auto& [function, outside] : tests.functions) {
      if (function.kind != Kind::main) continue;
      // It may end the program itself; where it comes back, what the tests came to is kept in what they were run by.
      run = std::string("\t") + (outside ? "outside" : "inside") +
            ".TestMain(every)\n\tos.Exit(int(reflect.ValueOf(every).Elem().FieldByName(\"exitCode\").Int()))\n";
      more = "\t\"reflect\"\n";
    }
    return "// Written anew whenever the tests of the package change.\npackage main\n\nimport (\n\t\"os\"\n" + more +
           "\t\"testing\"\n\t\"testing/internal/testdeps\"\n" + imports + ")\n\nfunc main() {\n" +
           "\ttestdeps.ImportPath = " + as_text(tests.path) + "\n\tevery := testing.MainStart(testdeps.TestDeps{}, " +
           list(Kind::test, "InternalTest") + ", " + list(Kind::benchmark, "InternalBenchmark") + ", " +
           (kit_.minor >= 18 ? list(Kind::fuzz_target, "InternalFuzzTarget") + ", " : std::string{}) +
           list(Kind::example, "InternalExample") + ")\n" + run + "}\n";
  }

  // A program is called like the last part of its path that is no release: "kiln" of yard.example/kiln/v2.
  static std::string program_name(const std::string& path) {
    auto parts = text::split(path, '/');
    const auto is_release = [](const std::string& part) {
      return part.size() > 1 && part[0] == 'v' && part.find_first_not_of("0123456789", 1) == std::string::npos;
    };
    if (parts.size() > 1 && is_release(parts.back())) parts.pop_back();
    return parts.back();
  }

  // A name of a program that no other has.
  std::string unused(const std::string& wanted) {
    std::string name = wanted;
    for (int n = 2; !names_.insert(name).second; ++n) name = wanted + "-" + std::to_string(n);
    return name;
  }

  // The program that is linked of what a unit compiles.
  model::Unit program_of(const Package& package, const std::string& name, const std::string& compiled) {
    auto unit = unit_of(package, name);
    unit.kind = model::TargetKind::program;
    unit.installed = true;
    unit.result.file = request_.work + "/" + name;
    unit.result.linker_file = unit.result.file;
    unit.whole->units = {compiled};
    unit.uses.push_back({compiled, model::Use::How::link});
    auto& go = *unit.whole->package;
    go.standard = standard();
    go.link_words = text::shell_words(option("ldflags"));
    return unit;
  }

  void add_program(const Package& package, const Packages& found) {
    const std::string name = unused(program_name(package.path));
    auto unit = program_of(package, name, unit_name(package.path));
    if (kit_.minor >= 18) unit.whole->package->build_information = as_text(build_information(package, found));
    model::InstallItem item;
    item.from = unit.result.file;
    item.to = "bin/" + name;
    item.mode = 0755;
    item.target = name;
    item.place = package.place;
    build_.install.push_back(std::move(item));
    add(std::move(unit), {});
  }

  // What programs of this release tell of themselves, between two marks (package runtime/debug, "BuildInfo"): the
  // module, those of others that are in it, how it was compiled, and the revision that it was made of.
  [[nodiscard]] std::string build_information(const Package& package, const Packages& found) const {
    const auto has = [](const std::string& path, const std::string& module) {
      return path == module || (path.starts_with(module) && path.size() > module.size() && path[module.size()] == '/');
    };
    const Module* own = &modules_.front();
    for (const auto& module : modules_) {
      if (has(package.path, module.path) && (!has(package.path, own->path) || module.path.size() > own->path.size()))
        own = &module;
    }
    std::string out = "path\t" + package.path + "\nmod\t" + own->path + "\t(devel)\t\n";
    for (const auto& required : own->file.requires_) {
      const std::string& path = required.first;
      const bool in_it = std::any_of(found.all.begin(), found.all.end(),
                                     [&](const auto& one) { return !one.own && has(one.path, path); });
      if (in_it) out += "dep\t" + path + "\t" + required.second.version + "\t\n";
    }
    std::vector<std::pair<std::string, std::string>> settings = {{"-compiler", "gc"}};
    if (const std::string tags = option("tags"); !tags.empty()) settings.emplace_back("-tags", tags);
    if (const std::string words = option("ldflags"); !words.empty()) settings.emplace_back("-ldflags", as_text(words));
    settings.emplace_back("GOARCH", kit_.processor);
    settings.emplace_back("GOOS", kit_.system);
    // Looked at here, so that what was made of another revision is not taken for made of this one.
    if (const std::string revision = survey::repository_revision(project_.tree); !revision.empty()) {
      settings.emplace_back("vcs", "git");
      settings.emplace_back("vcs.revision", revision);
    }
    for (const auto& [name, value] : settings) out += "build\t" + name + "=" + value + "\n";
    static constexpr std::string_view begin = "\x30\x77\xaf\x0c\x92\x74\x08\x02\x41\xe1\xc1\x07\xe6\xd6\x18\xe6";
    static constexpr char end[] = "\xf9\x32\x43\x31\x86\x18\x20\x72\x00\x82\x42\x10\x41\x16\xd8\xf2";
    return std::string(begin) + out + std::string(end, 16);
  }

  // All archives of the standard library, by import path.
  const std::vector<std::pair<std::string, std::string>>& standard() {
    if (!standard_.empty()) return standard_;
    const std::function<void(const std::string&, const std::string&)> look = [&](const std::string& folder,
                                                                                 const std::string& path) {
      for (const auto& name : files::names_in(folder)) {
        const std::string inner = path.empty() ? name : path + "/" + name;
        if (name.ends_with(".a"))
          standard_.emplace_back(inner.substr(0, inner.size() - 2), folder + "/" + name);
        else if (files::is_folder(folder + "/" + name) && inner != "cmd")
          look(folder + "/" + name, inner);
      }
    };
    look(kit_.packages, {});
    return standard_;
  }

  const ReadRequest& request_;
  model::Project project_;
  model::Build build_;
  std::vector<Module> modules_;
  locate::GoKit kit_;
  int minor_ = 0;
  Place minor_place_;
  std::set<std::string> names_;
  std::vector<std::pair<std::string, std::string>> standard_;
};

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading a module of Go", [&] { return GoTree(request).run(); });
}

}  // namespace

Result<model::Project> read_sources(const ReadRequest& request) { return read(request); }

Reader reader() {
  Reader out;
  out.format.format = "go.mod";
  // Makefiles and scripts beside it call what it is for.
  out.format.names = {{"go.work", 4}, {"go.mod", 5}};
  out.format.readable = true;
  out.format.is_one = [](const std::string& path) { return path.ends_with(".mod") || path.ends_with(".work"); };
  out.format.programs = {"go"};
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::go
