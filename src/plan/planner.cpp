#include "plan/planner.h"

#include <set>

#include "base/confine.h"
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "plan/artifacts.h"
#include "plan/compilation.h"
#include "plan/declared_tests.h"
#include "plan/expression.h"
#include "plan/generated_files.h"
#include "plan/host_tools.h"
#include "plan/install.h"
#include "plan/recipes.h"
#include "plan/rules.h"
#include "plan/search_paths.h"
#include "plan/usage.h"
#include "survey/languages.h"

namespace coctilis::plan {

using model::Step;
using model::StepKind;
using model::Target;
using model::TargetKind;

namespace {

// A source of a target, found.
struct Source {
  std::string path;
  std::string language;  // empty: not compiled
  Place place;
};

class Planner {
 public:
  Planner(const model::Project& project, const model::Toolchain& toolchain, const model::Settings& settings,
          const std::string& kiln)
      : project_(project),
        toolchain_(toolchain),
        artifacts_(project, toolchain, plan_.notes),
        expressions_(
            project, toolchain,
            {[this](const Target& t, const std::string& kind) { return target_file(t, kind); },
             [this](const Target& t) { return objects_of(t); },
             [this](const Target& t, const std::string& p, std::string& out) { return usage_.gathered(t, p, out); }}),
        usage_(project, artifacts_, expressions_),
        compilations_(project, toolchain, settings, usage_, plan_.notes),
        rules_(project, artifacts_, expressions_, plan_) {
    plan_.tree = project.tree;
    plan_.kiln = kiln;
    plan_.work = project.binary_root;
    auto confinement = confinement_of(project.tree, kiln);
    plan_.writable = std::move(confinement.writable);
    plan_.environment = std::move(confinement.environment);
    if (const auto it = settings.variants.find(settings.variant); it != settings.variants.end()) variant_ = it->second;
  }

  [[nodiscard]] const auto& refused() const { return rules_.refused(); }

  model::Plan run() {
    for (const auto& rule : project_.install_rules) {
      if (rule.words.empty() || rule.words.front().text != "TARGETS") continue;
      for (const auto& word : rule.words) {
        if (const Target* target = project_.target(word.text)) installed_.insert(target->name);
      }
    }
    rules_.add_rules();
    for (const auto& target : project_.targets) {
      if (target.imported || !target.alias_of.empty()) continue;
      plan_target(target);
    }
    rules_.connect_targets();
    plan_.tests = plan_tests(project_, artifacts_, expressions_);
    add_generated_files(project_, expressions_, plan_);
    plan_install(project_, artifacts_, expressions_, plan_);
    show_targets(plan_);
    return std::move(plan_);
  }

 private:
  std::string target_file(const Target& target, const std::string& kind) const {
    const auto& artifact = artifacts_.of(target);
    if (kind == "LINKER_FILE") return artifact.linker_file;
    if (kind == "SONAME_FILE" && !artifact.shared_name.empty())
      return std::filesystem::path(artifact.file).parent_path().string() + "/" + artifact.shared_name;
    return artifact.file;
  }

  ExpressionContext context(const Target& target, const std::string& language = {}) const {
    ExpressionContext out;
    out.target = &target;
    out.language = language;
    out.place = target.place;
    return out;
  }

  // ---- sources -------------------------------------------------------------------------------------------------
  std::vector<Source> sources_of(const Target& target) const {
    std::vector<Source> out;
    std::set<std::string> seen;
    const auto add = [&](const std::string& text, const model::Value& from) {
      Source source = resolve(target, text, from);
      if (!source.path.empty() && seen.insert(source.path).second) out.push_back(std::move(source));
    };
    for (const auto& value : target.sources) {
      auto here = context(target);
      here.place = value.place;
      for (const auto& text : list_elements(expressions_.evaluate(value.text, here), false)) add(text, value);
    }
    for (const Target* used : usage_.used(target, "")) {
      for (const auto& value : used->handed_on.sources) {
        for (const auto& text : list_elements(expressions_.evaluate(value.text, context(target)), false))
          add(text, value);
      }
    }
    return out;
  }

  Source resolve(const Target& target, const std::string& text, const model::Value& from) const {
    std::vector<std::string> candidates;
    if (text.starts_with('/')) {
      candidates = {files::absolute(text)};
    } else {
      candidates = {files::absolute(text, target.folder), files::absolute(text, target.binary_folder)};
    }
    if (!project_.overlaid.empty()) {
      for (auto& candidate : candidates) {
        if (const auto it = project_.overlaid.find(candidate); it != project_.overlaid.end()) candidate = it->second;
      }
    }
    Source source;
    source.place = from.place;
    for (const auto& candidate : candidates) {
      if (source.path.empty() && (rules_.makes(candidate) || files::is_file(candidate))) source.path = candidate;
    }
    for (const auto& candidate : candidates) {
      if (source.path.empty() && (is_generated(candidate) || files::is_folder(candidate))) source.path = candidate;
    }
    std::string plain;  // the name as written, where it turns out to be that of another file
    // What is said of a source by its name counts for the one that is made in the output folder.
    if (!source.path.empty() && source.path != candidates.front() && !project_.sources.contains(source.path))
      plain = candidates.front();
    if (source.path.empty()) {
      // A source may be named without its ending.
      for (const char* ending : {".c", ".C",  ".c++", ".cc", ".cpp", ".cxx", ".cu", ".m",   ".M", ".mm",
                                 ".h", ".hh", ".h++", ".hm", ".hpp", ".hxx", ".in", ".txx", ".S", ".s"}) {
        for (const auto& candidate : candidates) {
          if (!source.path.empty() || !files::is_file(candidate + ending)) continue;
          source.path = candidate + ending;
          plain = candidate;
        }
      }
    }
    if (!plain.empty() && project_.sources.contains(plain)) written_as_[source.path] = plain;
    if (source.path.empty() && text.ends_with(".o")) source.path = candidates.front();
    if (source.path.empty()) {
      if (survey::is_header(text)) return source;  // named for display only, and some trees name what is not there
      throw Fault({Exit::description,
                   from.place,
                   "the source '" + text + "' of '" + target.name + "' is not there",
                   "looked for " + text::join(candidates, " and "),
                   target.in_default ? "check the name, or whether a submodule or a generated file is missing"
                                     : "check the name",
                   {}});
    }
    const auto it = project_.sources.find(name_of_source(source.path));
    const auto property = [&](const char* name) -> std::string {
      if (it == project_.sources.end() || !it->second.properties.contains(name)) return {};
      std::string out;
      for (const auto& value : it->second.properties.at(name)) out += (out.empty() ? "" : ";") + value.text;
      return out;
    };
    if (!is_false(property("HEADER_FILE_ONLY"))) return source;
    const std::string language = property("LANGUAGE");
    source.language =
        !language.empty() ? (language == "CXX" ? "C++" : language) : survey::compiled_language(source.path);
    // A source of a language that the description has not switched on is not compiled.
    if (source.language.empty() && (source.path.ends_with(".asm") || source.path.ends_with(".nasm")))
      source.language = "ASM_NASM";
    if (!language_enabled(source.language)) source.language.clear();
    return source;
  }

  // What properties of a source are kept under: its path, or its name as written without an ending.
  const std::string& name_of_source(const std::string& path) const {
    const auto it = written_as_.find(path);
    return it == written_as_.end() ? path : it->second;
  }

  bool is_generated(const std::string& path) const {
    const auto it = project_.sources.find(path);
    if (it == project_.sources.end() || !it->second.properties.contains("GENERATED")) return false;
    const auto& values = it->second.properties.at("GENERATED");
    return !values.empty() && !is_false(values.front().text);
  }
  bool language_enabled(const std::string& language) const {
    if (language == "ASM" || project_.other_compilers.contains(language)) return true;
    return std::find(project_.languages.begin(), project_.languages.end(), language) != project_.languages.end();
  }

  // ---- objects -------------------------------------------------------------------------------------------------
  std::string object_path(const Target& target, const std::string& source) const {
    std::string relative = files::is_below(source, target.folder) ? files::below(source, target.folder)
                           : files::is_below(source, project_.binary_root)
                               ? "generated/" + files::below(source, project_.binary_root)
                           : files::is_below(source, project_.tree) ? "tree/" + files::below(source, project_.tree)
                                                                    : "outside" + source;
    return project_.binary_root + "/.objects/" +
           (target.binary_folder == project_.binary_root
                ? ""
                : files::below(target.binary_folder, project_.binary_root) + "/") +
           text::replace_all(target.name, "/", "_") + "/" + relative + ".o";
  }

  std::vector<std::string> objects_of(const Target& target) const {
    std::vector<std::string> out;
    for (const auto& source : sources_of(target)) {
      if (source.path.ends_with(".o"))
        out.push_back(source.path);
      else if (!source.language.empty())
        out.push_back(object_path(target, source.path));
    }
    return out;
  }

  // ---- compiling -----------------------------------------------------------------------------------------------
  std::vector<std::string> source_options(const Target& target, const Source& source) const {
    std::vector<std::string> out;
    const auto it = project_.sources.find(name_of_source(source.path));
    if (it == project_.sources.end()) return out;
    const auto values = [&](const char* name) {
      const auto found = it->second.properties.find(name);
      return found == it->second.properties.end()
                 ? std::vector<std::string>{}
                 : expressions_.evaluate(found->second, context(target, source.language));
    };
    for (const auto& definition : values("COMPILE_DEFINITIONS")) out.push_back("-D" + definition);
    for (const auto& folder : values("INCLUDE_DIRECTORIES"))
      out.push_back("-I" + files::absolute(folder, target.folder));
    for (const auto& flags : values("COMPILE_FLAGS")) {
      for (const auto& word : text::shell_words(flags)) out.push_back(word);
    }
    for (const auto& option : values("COMPILE_OPTIONS")) out.push_back(option);
    return out;
  }

  std::vector<std::string> source_inputs(const Target& target, const Source& source) const {
    std::vector<std::string> out;
    const auto it = project_.sources.find(name_of_source(source.path));
    if (it == project_.sources.end() || !it->second.properties.contains("OBJECT_DEPENDS")) return out;
    for (const auto& file :
         expressions_.evaluate(it->second.properties.at("OBJECT_DEPENDS"), context(target, source.language)))
      out.push_back(files::absolute(file, target.folder));
    return out;
  }

  void plan_target(const Target& target) {
    model::PlannedTarget planned;
    planned.name = target.name;
    planned.kind = target.kind;
    planned.place = target.place;
    planned.installed = installed_.contains(target.name);
    planned.in_default = target.in_default && target.kind != TargetKind::interface_library;
    if (target.kind == TargetKind::custom) {
      rules_.add_custom_target(target, planned);
      plan_.targets.push_back(std::move(planned));
      return;
    }
    std::vector<std::string> objects;
    std::vector<std::string> generated;  // made by rules, needed before anything is compiled
    std::string link_language = "C";
    std::map<std::string, Compilation> compilations;
    const auto sources = sources_of(target);
    for (const auto& source : sources) {
      if (rules_.makes(source.path)) generated.push_back(source.path);
      for (const auto& needed : source_inputs(target, source)) {
        if (rules_.makes(needed)) generated.push_back(needed);
      }
    }
    if (target.kind == TargetKind::interface_library) {
      rules_.set_generated(target, generated, {});
      plan_.targets.push_back(std::move(planned));
      return;
    }
    for (const auto& source : sources) {
      if (source.path.ends_with(".o")) {
        objects.push_back(source.path);
        continue;
      }
      if (source.language.empty()) continue;
      ++planned.sources;
      if (source.language == "C++") link_language = "C++";
      auto [it, fresh] = compilations.try_emplace(source.language);
      if (fresh) {
        it->second = compilations_.of(target, source.language);
        const auto same = std::count_if(sources.begin(), sources.end(),
                                        [&](const Source& other) { return other.language == source.language; });
        // Compiling headers ahead pays from a few sources on.
        if (!it->second.ahead.empty() && same > 2) {
          planned.steps.push_back(plan_.steps.size());
          plan_.steps.push_back(ahead_step(target, source.language, it->second));
        }
      }
      const Compilation& with = it->second;
      if (planned.include_folders.empty() && planned.definitions.empty() && planned.compile_options.empty()) {
        planned.include_folders = with.usage.include_folders;
        planned.system_include_folders = with.usage.system_include_folders;
        for (const auto& definition : with.definitions) planned.definitions.push_back(definition.substr(2));
        planned.compile_options = with.options;
      }
      planned.steps.push_back(plan_.steps.size());
      plan_.steps.push_back(compile_step(target, source, with));
      objects.push_back(plan_.steps.back().outputs.front());
    }
    rules_.set_generated(target, generated, planned.steps);
    link_target(target, link_language, std::move(objects), planned);
    plan_.targets.push_back(std::move(planned));
  }

  // Compiles the headers that all sources of a language include first, once. Compilers take the result in place of the
  // header of that name.
  Step ahead_step(const Target& target, const std::string& language, Compilation& with) {
    const std::string header = project_.binary_root + "/.objects/" + text::replace_all(target.name, "/", "_") +
                               "/ahead." + (language == "C" ? "h" : "hpp");
    std::string content;
    for (const auto& name : with.ahead)
      content += name.starts_with('/') ? "#include \"" + name + "\"\n" : "#include <" + name + ">\n";
    plan_.files.push_back({header, content, false});
    const std::vector<std::string> headers = std::move(with.ahead);
    with.ahead.clear();
    Step step = compile_step(target, {header, language, target.place}, with);
    step.subject = "the first headers of " + target.name;
    step.outputs = {header + ".gch"};
    step.depfile = header + ".gch.d";
    auto& argv = step.actions.front().argv;
    for (std::size_t i = 0; i + 1 < argv.size(); ++i) {
      if (argv[i] == "-x")
        argv.erase(argv.begin() + static_cast<std::ptrdiff_t>(i), argv.begin() + static_cast<std::ptrdiff_t>(i) + 2);
      if (argv[i] == "-o") argv[i + 1] = step.outputs.front();
      if (argv[i] == "-MF") argv[i + 1] = step.depfile;
      if (argv[i] == "-c") {
        argv.insert(argv.begin() + static_cast<std::ptrdiff_t>(i), {"-x", language == "C" ? "c-header" : "c++-header"});
        break;
      }
    }
    with.ahead = headers;
    with.ahead_header = header;
    return step;
  }

  Step compile_step(const Target& target, const Source& source, const Compilation& with) {
    const auto& compiler = toolchain_.compiler(source.language == "ASM" ? "C" : source.language);
    Step step;
    step.kind = StepKind::compile;
    step.target = target.name;
    step.language = source.language;
    step.source = source.path;
    step.subject = files::below(files::below(source.path, project_.binary_root), project_.tree);
    step.place = source.place;
    step.identity = compiler.identity;
    step.tools = compiler.programs;
    const std::string object = object_path(target, source.path);
    step.outputs = {object};
    step.depfile = object + ".d";
    step.inputs = {source.path};
    for (auto& input : source_inputs(target, source)) step.inputs.push_back(std::move(input));
    model::Action action;
    action.folder = target.binary_folder;
    auto& argv = action.argv;
    argv = {compiler.path};
    const auto add = [&](const std::vector<std::string>& words) {
      argv.insert(argv.end(), words.begin(), words.end());
    };
    if (const auto other = project_.other_compilers.find(source.language); other != project_.other_compilers.end()) {
      argv = other->second;
      step.identity = argv.front();
      step.tools = {argv.front()};
      add(with.definitions);
      // This assembler puts folder and name together as they are.
      for (const auto& folder : with.folders) {
        if (folder.starts_with("-I")) add({folder + "/"});
      }
      add(with.options);
      // Another that is taken for it only tells what it reads when it is asked for nothing else.
      const bool tells_apart = std::filesystem::path(argv.front()).filename() == "yasm";
      model::Action tell = action;
      if (!tells_apart) add({"-MD", step.depfile});
      add({"-o", object, source.path});
      step.actions.push_back(action);
      if (tells_apart) {
        tell.argv.insert(tell.argv.end(), {"-M", "-o", object, source.path});
        tell.argv = {text::shell_join(tell.argv) + " >" + text::shell_quote(step.depfile)};
        tell.how = model::Action::How::shell;
        step.actions.push_back(std::move(tell));
      }
      return step;
    }
    add(toolchain_.options);
    add(with.definitions);
    if (const auto own = compilations_.overlay_of(std::filesystem::path(source.path).parent_path().string());
        !own.empty())
      add({"-iquote", own});
    add(with.folders);
    add(with.options);
    add(source_options(target, source));
    if (!with.ahead_header.empty()) {
      add({"-include", with.ahead_header});
      step.inputs.push_back(with.ahead_header + ".gch");
    } else {
      for (const auto& header : with.ahead) add({"-include", header});
    }
    // -c with -x only where the file's name does not tell the language.
    if (survey::compiled_language(source.path) != source.language && source.language != "ASM")
      add({"-x", source.language == "C" ? "c" : "c++"});
    add({"-MD", "-MF", step.depfile, "-o", object, "-c", source.path});
    step.search = plan_.search_number(search_path_of(argv, action.folder, compiler.include_folders));
    step.actions.push_back(std::move(action));
    return step;
  }

  // ---- linking -------------------------------------------------------------------------------------------------
  void link_target(const Target& target, const std::string& sources_language, std::vector<std::string> objects,
                   model::PlannedTarget& planned) {
    if (target.kind == TargetKind::object_set) return;
    std::string language = sources_language;
    const auto uses_cxx = [&](const Target& used) {
      return std::any_of(used.sources.begin(), used.sources.end(),
                         [](const auto& v) { return survey::compiled_language(v.text) == "C++"; });
    };
    const std::string forced = property_text(target, "LINKER_LANGUAGE");
    LinkUsage link = usage_.link(target, language);
    for (const Target* used : link.targets) {
      if (used->kind == TargetKind::static_library && uses_cxx(*used)) language = "C++";
    }
    for (const Target* set : link.object_sets) {
      if (uses_cxx(*set)) language = "C++";
    }
    if (!forced.empty()) language = forced == "CXX" ? "C++" : "C";
    if (language != sources_language) link = usage_.link(target, language);
    for (const Target* set : link.object_sets) {
      for (auto& object : objects_of(*set)) objects.push_back(std::move(object));
    }
    const auto& artifact = artifacts_.of(target);
    planned.output = artifact.file;
    planned.names = artifact.names;
    planned.shared_name = artifact.shared_name;
    planned.link_items = link.items;
    for (const Target* used : link.targets) planned.uses.push_back(used->name);
    if (objects.empty()) {
      throw Fault({Exit::description,
                   target.place,
                   "'" + target.name + "' has no source that can be compiled",
                   "its sources are of no language that the description switches on, or there are none",
                   "check its sources and the languages of project()",
                   {}});
    }
    Step step;
    step.target = target.name;
    step.place = target.place;
    step.outputs = {artifact.file};
    step.inputs = objects;
    step.subject = files::below(artifact.file, project_.binary_root);
    for (const auto& rule : target.before_compile) rules_.add_actions(rule, step);
    for (const auto& rule : target.before_link) rules_.add_actions(rule, step);
    if (target.kind == TargetKind::static_library) {
      archive_step(target, objects, artifact, step);
    } else {
      link_step(target, language, objects, artifact, link, planned, step);
    }
    for (const auto& name : artifact.names) {
      // Each name points at the next longer one, all in the same folder.
      const std::string to =
          std::filesystem::path(&name == &artifact.names.front() ? artifact.file : artifact.names.front())
              .filename()
              .string();
      step.actions.push_back({model::Action::How::builtin, {"create_symlink", to, name}, target.binary_folder, {}});
      step.outputs.push_back(name);
    }
    for (const auto& rule : target.after_link) rules_.add_actions(rule, step);
    planned.steps.push_back(plan_.steps.size());
    plan_.steps.push_back(std::move(step));
  }

  void archive_step(const Target& target, const std::vector<std::string>& objects, const Artifact& artifact,
                    Step& step) const {
    step.kind = StepKind::archive;
    step.identity = toolchain_.archiver;
    step.tools = {toolchain_.archiver};
    // An archive that is there would keep members that are no longer wanted.
    step.actions.push_back({model::Action::How::builtin, {"rm", "-f", artifact.file}, target.binary_folder, {}});
    model::Action action;
    action.folder = target.binary_folder;
    action.argv = {toolchain_.archiver, "qcsD", artifact.file};
    action.argv.insert(action.argv.end(), objects.begin(), objects.end());
    step.actions.push_back(std::move(action));
  }

  void link_step(const Target& target, const std::string& language, const std::vector<std::string>& objects,
                 const Artifact& artifact, const LinkUsage& link, model::PlannedTarget& planned, Step& step) const {
    step.kind = StepKind::link;
    step.language = language;
    const auto& compiler = toolchain_.compiler(language).present() ? toolchain_.compiler(language) : toolchain_.c;
    step.identity = compiler.identity;
    step.tools = compiler.programs;
    // Which libraries it takes, and where it looked for them before, only the linker knows.
    step.reads = model::Reads::opened;
    model::Action action;
    action.folder = target.binary_folder;
    auto& argv = action.argv;
    argv = {compiler.path};
    const auto add = [&](const std::vector<std::string>& words) {
      argv.insert(argv.end(), words.begin(), words.end());
    };
    const bool shared = target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library;
    add(toolchain_.options);
    add(toolchain_.link_options);
    if (shared) add({"-fPIC"});
    if (const auto it = target.language_options.find(language == "C" ? "C" : "CXX");
        it != target.language_options.end())
      add(text::shell_words(it->second));
    add(variant_.compile);
    if (compilations_.optimises_when_linking(target)) add({"-flto"});
    const std::string kind = target.kind == TargetKind::program          ? "EXE"
                             : target.kind == TargetKind::shared_library ? "SHARED"
                                                                         : "MODULE";
    if (const auto it = target.link_variables.find(kind); it != target.link_variables.end())
      add(text::shell_words(it->second));
    add(variant_.link);
    for (const auto& option : link.options) {
      if (option.starts_with("SHELL:"))
        add(text::shell_words(option.substr(6)));
      else if (option.starts_with("LINKER:"))
        add({"-Wl," + option.substr(7)});
      else
        add({option});
    }
    add(text::shell_words(property_text(target, "LINK_FLAGS")));
    if (shared) add({"-shared"});
    if (!artifact.shared_name.empty()) add({"-Wl,-soname," + artifact.shared_name});
    if (target.kind == TargetKind::program &&
        (property_on(target, "ENABLE_EXPORTS") || target.property("__exports_always") != nullptr))
      add({"-rdynamic"});
    add({"-o", artifact.file});
    add(objects);
    for (const auto& folder : link.folders) add({"-L" + files::absolute(folder, target.folder)});
    planned.run_path = run_path(target, artifact, link);
    if (!planned.run_path.empty()) add({"-Wl,-rpath," + text::join(planned.run_path, ":")});
    for (const Target* behind : link.shared_behind)
      add({"-Wl,-rpath-link," + std::filesystem::path(artifacts_.of(*behind).file).parent_path().string()});
    add(link.items);
    if (const auto it = target.link_variables.find(language == "C" ? "C_STANDARD_LIBRARIES" : "CXX_STANDARD_LIBRARIES");
        it != target.link_variables.end())
      add(text::shell_words(it->second));
    for (const auto& item : link.items) {
      if (item.starts_with('/')) step.inputs.push_back(item);
    }
    for (const Target* behind : link.shared_behind) step.order_only.push_back(artifacts_.of(*behind).file);
    step.actions.push_back(std::move(action));
  }

  std::vector<std::string> run_path(const Target& target, const Artifact& artifact, const LinkUsage& link) const {
    std::vector<std::string> out;
    if (property_on(target, "SKIP_BUILD_RPATH")) return out;
    const std::string from = std::filesystem::path(artifact.file).parent_path().string();
    const auto add = [&](const std::string& folder) {
      // Relative to the file itself, so that a kiln may be moved.
      std::string entry = folder;
      if (files::is_below(folder, project_.binary_root)) {
        const std::string relative = files::relative(folder, from);
        entry = relative == "." ? "$ORIGIN" : "$ORIGIN/" + relative;
      }
      if (std::find(out.begin(), out.end(), entry) == out.end()) out.push_back(entry);
    };
    for (const auto& folder : list_elements(property_text(target, "BUILD_RPATH"), false)) add(folder);
    for (const auto* list : {&link.targets, &link.shared_behind}) {
      for (const Target* used : *list) {
        if (used->kind == TargetKind::shared_library)
          add(std::filesystem::path(artifacts_.of(*used).file).parent_path().string());
      }
    }
    // Libraries outside of the loader's own folders.
    const auto& builtin = toolchain_.c.present() ? toolchain_.c.link_folders : toolchain_.cxx.link_folders;
    for (const auto& item : link.items) {
      if (!item.starts_with('/') || item.find(".so") == std::string::npos ||
          files::is_below(item, project_.binary_root))
        continue;
      const std::string folder = std::filesystem::path(item).parent_path().string();
      if (std::find(builtin.begin(), builtin.end(), folder) == builtin.end()) add(folder);
    }
    for (const auto& folder : link.folders) {
      const std::string absolute = files::absolute(folder, target.folder);
      if (std::find(builtin.begin(), builtin.end(), absolute) == builtin.end()) add(absolute);
    }
    return out;
  }

  const model::Project& project_;
  const model::Toolchain& toolchain_;
  model::Variant variant_;
  model::Plan plan_;
  mutable std::map<std::string, std::string> written_as_;
  std::set<std::string> installed_;
  Artifacts artifacts_;
  Expressions expressions_;
  Usage usage_;
  Compilations compilations_;
  Rules rules_;
};

}  // namespace

namespace {
void mark_default(model::Plan& plan) {
  std::vector<std::string> names;
  for (const auto& target : plan.targets) {
    if (target.in_default) names.push_back(target.name);
  }
  for (auto& step : plan.steps) step.in_default = false;
  if (names.empty()) return;
  const auto selected = select_steps(plan, names);
  if (!selected) throw Fault(selected.problem());
  for (std::size_t i = 0; i < plan.steps.size(); ++i) plan.steps[i].in_default = (*selected)[i];
}
}  // namespace

namespace {
model::Plan plan_of_recipes(const model::Project& project, const model::Toolchain& toolchain, const std::string& kiln) {
  model::Plan plan;
  plan.tree = project.tree;
  plan.kiln = kiln;
  plan.work = project.binary_root;
  plan.writable = confinement_of(plan.work, kiln).writable;  // recipes know the copy of the tree only
  place_recipes(plan, project.tree, toolchain);
  add_recipes(project.recipes, project.binary_root, plan);
  for (const auto& test : project.tests) {
    model::PlannedTest planned;
    planned.name = test.name;
    for (const auto& word : test.command) planned.command.push_back(word.text);
    planned.folder = test.folder;
    planned.limit_seconds = 1800;
    planned.place = test.place;
    plan.tests.push_back(std::move(planned));
  }
  show_targets(plan);
  return plan;
}
}  // namespace

Result<model::Plan> make_plan(const model::Project& project, const model::Toolchain& toolchain,
                              const model::Settings& settings, const std::string& kiln, const model::Toolchain* host) {
  return guarded("planning", [&] {
    if (project.by_recipes) return plan_of_recipes(project, toolchain, kiln);
    Planner planner(project, toolchain, settings, kiln);
    auto plan = planner.run();
    if (toolchain.foreign && host != nullptr && runs_own_programs(plan))
      use_host_tools(plan, Planner(project, *host, settings, kiln).run(), *host);
    mark_default(plan);
    for (const auto& [index, problem] : planner.refused()) {
      if (plan.steps[index].in_default) throw Fault(problem);
    }
    return plan;
  });
}

}  // namespace coctilis::plan
