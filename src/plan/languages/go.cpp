// Go: all sources of a package are compiled in one go into an archive, with what it says of itself to those that import
// it; programs are linked from these and from the standard library's.
#include <nlohmann/json.hpp>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "plan/languages/whole.h"

namespace coctilis::plan {

using model::Action;
using model::Step;
using model::StepKind;
using model::Unit;

namespace {

class GoSteps {
 public:
  GoSteps(Planning& planning, const Unit& unit)
      : planning_(planning), unit_(unit), whole_(*unit.whole), package_(*unit.whole->package) {
    base_ = unit.work_folder + "/.go/" + unit.name;
    tools_ = package_.kit + "/pkg/tool/" + package_.system + "_" + package_.processor;
  }

  std::vector<Step> steps() {
    if (unit_.kind == model::TargetKind::program) return {link()};
    return {compile()};
  }

 private:
  [[nodiscard]] Step step(StepKind kind, const std::string& subject) const {
    Step out = whole_step(unit_, kind, subject);
    out.outputs = {unit_.result.file};
    out.identity = package_.kit;
    return out;
  }

  [[nodiscard]] Action tool(const std::string& name, std::vector<std::string> words) const {
    Action out;
    out.folder = unit_.work_folder;
    out.argv = {tools_ + "/" + name};
    out.argv.insert(out.argv.end(), words.begin(), words.end());
    out.environment = {{"GOROOT", package_.kit}, {"GOOS", package_.system}, {"GOARCH", package_.processor}};
    return out;
  }

  // A file that the plan writes; what it says counts.
  std::string written(const std::string& name, const std::string& content, Step& step) {
    std::string path = base_ + "." + name;
    planning_.plan.files.push_back({path, content, false});
    step.inputs.push_back(path);
    return path;
  }

  [[nodiscard]] std::string archive_of(const std::string& import) const {
    if (import.starts_with('/')) return import;
    const auto it = planning_.units.find(import);
    return it == planning_.units.end() ? std::string{} : it->second->result.file;
  }

  Step compile() {
    Step out = step(StepKind::compile, package_.own_paths ? unit_.name : package_.path);
    out.tools = {tools_ + "/compile"};
    std::vector<std::string> words = {"-o", unit_.result.file, "-p", package_.is_main ? "main" : package_.path,
                                      "-pack"};
    if (!package_.own_paths) words.insert(words.end(), {"-trimpath", unit_.folder + "=>" + package_.path});
    if (!package_.language.empty()) words.push_back("-lang=" + package_.language);
    std::string imports = "# what it imports\n";
    for (const auto& [path, from] : package_.imports) {
      const std::string archive = archive_of(from);
      imports += "packagefile " + path + "=" + archive + "\n";
      out.inputs.push_back(archive);
    }
    words.insert(words.end(), {"-importcfg", written("imports", imports, out)});
    if (!package_.embeds.empty()) words.insert(words.end(), {"-embedcfg", written("embeds", embeds(out), out)});
    std::vector<std::string> objects;
    const bool calls_c = !package_.calling_c.empty();
    if (calls_c) {
      call_c(out, words, objects);
    }
    const std::string header = base_ + ".asm/go_asm.h";
    if (package_.assembler.empty() && !calls_c) {
      words.emplace_back("-complete");
    } else if (!calls_c) {
      out.tools.push_back(tools_ + "/asm");
      out.tools.push_back(tools_ + "/pack");
      out.inputs.insert(out.inputs.end(), package_.assembler.begin(), package_.assembler.end());
      out.inputs.insert(out.inputs.end(), package_.headers.begin(), package_.headers.end());
      const std::string names = base_ + ".asm/symbols";
      out.byproducts = {header, names};
      out.actions.push_back(model::make_folder(base_ + ".asm", unit_.work_folder));
      // The assembler tells first what it defines; its includes come with the compiler.
      out.actions.push_back({Action::How::shell, {": >" + text::shell_quote(header)}, unit_.work_folder, {}});
      auto first = assembler_words();
      first.insert(first.end(), {"-gensymabis", "-o", names});
      first.insert(first.end(), package_.assembler.begin(), package_.assembler.end());
      out.actions.push_back(tool("asm", std::move(first)));
      words.insert(words.end(), {"-symabis", names, "-asmhdr", header});
    }
    for (const auto& source : unit_.sources) {
      out.inputs.push_back(source.path);
      words.push_back(source.path);
    }
    out.actions.push_back(tool("compile", std::move(words)));
    // Beside C it is the C compiler's assembler.
    for (std::size_t i = 0; i < package_.assembler.size() && !calls_c; ++i) {
      const std::string object = base_ + ".asm/" + std::to_string(i) + ".o";
      out.byproducts.push_back(object);
      auto more = assembler_words();
      more.insert(more.end(), {"-o", object, package_.assembler[i]});
      out.actions.push_back(tool("asm", std::move(more)));
      objects.push_back(object);
    }
    if (!objects.empty()) {
      objects.insert(objects.begin(), {"r", unit_.result.file});
      out.actions.push_back(tool("pack", std::move(objects)));
    }
    return out;
  }

  // Sources that call C: what of them is Go and what is C is told apart first; all of C is compiled, and linked once to
  // see which libraries it takes. `words` gets the sources that come of it, `objects` what goes into the archive.
  void call_c(Step& out, std::vector<std::string>& words, std::vector<std::string>& objects) {
    const std::string folder = base_ + ".c";
    // What C includes is seen.
    out.reads = model::Reads::watched;
    out.tools.insert(out.tools.end(), {tools_ + "/cgo", tools_ + "/pack", package_.c_compiler});
    for (const auto* list : {&package_.calling_c, &package_.c_sources, &package_.headers, &package_.assembler})
      out.inputs.insert(out.inputs.end(), list->begin(), list->end());
    out.actions.push_back({Action::How::builtin, {"rm", "-rf", folder}, unit_.work_folder, {}});
    out.actions.push_back(model::make_folder(folder, unit_.work_folder));
    std::vector<std::string> options = {"-I", folder, "-I", unit_.folder};
    options.insert(options.end(), package_.c_options.begin(), package_.c_options.end());
    const auto base = [](const std::string& path) { return std::filesystem::path(path).filename().string(); };
    std::vector<std::string> split = {
        "-objdir", folder, "-importpath", package_.path, "-trimpath", unit_.folder + "=>" + package_.path, "--"};
    split.insert(split.end(), options.begin(), options.end());
    for (const auto& source : package_.calling_c) split.push_back(base(source));
    Action action = tool("cgo", std::move(split));
    action.folder = unit_.folder;
    action.environment["CC"] = package_.c_compiler;
    out.actions.push_back(std::move(action));

    std::vector<std::string> all;
    const auto compile_c = [&](const std::string& source, const std::string& object) {
      const bool plus = !source.ends_with(".c") && !source.ends_with(".s");
      Action one;
      one.folder = unit_.folder;
      one.argv = {plus && !package_.cxx_compiler.empty() ? package_.cxx_compiler : package_.c_compiler,
                  "-c",
                  "-O2",
                  "-g",
                  "-fPIC",
                  "-pthread",
                  "-fdebug-prefix-map=" + folder + "=" + package_.path};
      one.argv.insert(one.argv.end(), options.begin(), options.end());
      one.argv.insert(one.argv.end(), {"-o", object, source});
      out.actions.push_back(std::move(one));
      all.push_back(object);
    };
    compile_c(folder + "/_cgo_export.c", folder + "/_cgo_export.o");
    for (const auto& source : package_.calling_c) {
      const std::string stem = folder + "/" + base(source).substr(0, base(source).size() - 3);
      compile_c(stem + ".cgo2.c", stem + ".cgo2.o");
      words.push_back(stem + ".cgo1.go");
    }
    for (const auto* list : {&package_.c_sources, &package_.assembler}) {
      for (const auto& source : *list) compile_c(source, folder + "/" + base(source) + ".o");
    }
    objects = all;
    compile_c(folder + "/_cgo_main.c", folder + "/_cgo_main.o");
    Action trial;
    trial.folder = unit_.folder;
    const bool plus = std::any_of(package_.c_sources.begin(), package_.c_sources.end(),
                                  [](const auto& source) { return !source.ends_with(".c"); });
    trial.argv = {plus && !package_.cxx_compiler.empty() ? package_.cxx_compiler : package_.c_compiler, "-o",
                  folder + "/_cgo_.o"};
    trial.argv.insert(trial.argv.end(), all.begin(), all.end());
    trial.argv.insert(trial.argv.end(), package_.c_link_words.begin(), package_.c_link_words.end());
    trial.argv.emplace_back("-pthread");
    out.actions.push_back(std::move(trial));
    out.actions.push_back(tool("cgo", {"-dynpackage", package_.is_main ? "main" : package_.name, "-dynimport",
                                       folder + "/_cgo_.o", "-dynout", folder + "/_cgo_import.go"}));
    words.insert(words.end(), {folder + "/_cgo_gotypes.go", folder + "/_cgo_import.go"});
  }

  [[nodiscard]] std::vector<std::string> assembler_words() const {
    return {"-p",        package_.is_main ? "main" : package_.path,
            "-trimpath", unit_.folder + "=>" + package_.path,
            "-I",        base_ + ".asm",
            "-I",        package_.kit + "/pkg/include",
            "-I",        unit_.folder,
            "-D",        "GOOS_" + package_.system,
            "-D",        "GOARCH_" + package_.processor,
            "-D",        "GOAMD64_v1"};
  }

  // Which files a pattern takes, as the compiler reads it (JSON).
  std::string embeds(Step& step) const {
    nlohmann::ordered_json out = {{"Patterns", nlohmann::ordered_json::object()},
                                  {"Files", nlohmann::ordered_json::object()}};
    for (const auto& embed : package_.embeds) {
      auto names = nlohmann::ordered_json::array();
      for (const auto& [name, path] : embed.files) {
        names.push_back(name);
        out["Files"][name] = path;
        step.inputs.push_back(path);
      }
      out["Patterns"][embed.pattern] = names;
    }
    return out.dump(1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
  }

  Step link() {
    Step out = step(StepKind::link, files::below(unit_.result.file, planning_.project.binary_root));
    out.tools = {tools_ + "/link"};
    std::set<std::string> seen;
    std::string imports = "# all that is linked\n";
    const auto& first = *planning_.units.at(whole_.units.front());
    add_behind(first, seen, imports, out);
    for (const auto& [path, archive] : package_.standard) imports += "packagefile " + path + "=" + archive + "\n";
    if (!package_.build_information.empty()) imports += "modinfo " + package_.build_information + "\n";
    std::vector<std::string> words = {"-o", unit_.result.file, "-importcfg", written("linked", imports, out),
                                      "-buildmode=exe",
                                      // Who builds it at another place gets the same.
                                      "-buildid="};
    const auto& compiler = planning_.toolchain.compiler("C");
    if (compiler.present()) words.push_back("-extld=" + compiler.path);
    if (!c_words_.empty()) words.insert(words.end(), {"-extldflags", text::shell_join(c_words_)});
    words.insert(words.end(), package_.link_words.begin(), package_.link_words.end());
    words.push_back(first.result.file);
    out.actions.push_back(tool("link", std::move(words)));
    return out;
  }

  void add_behind(const Unit& unit, std::set<std::string>& seen, std::string& imports, Step& step) {
    if (!seen.insert(unit.name).second || !unit.whole || !unit.whole->package) return;
    step.inputs.push_back(unit.result.file);
    for (const auto& word : unit.whole->package->c_link_words) c_words_.push_back(word);
    if (!unit.whole->package->is_main)
      imports += "packagefile " + unit.whole->package->path + "=" + unit.result.file + "\n";
    for (const auto& [path, from] : unit.whole->package->imports) {
      if (from.starts_with('/')) continue;
      if (const auto it = planning_.units.find(from); it != planning_.units.end())
        add_behind(*it->second, seen, imports, step);
    }
  }

  Planning& planning_;
  const Unit& unit_;
  const model::Whole& whole_;
  const model::GoPackage& package_;
  std::string base_;
  std::string tools_;
  std::vector<std::string> c_words_;  // that what is linked wants of the linker
};

}  // namespace

std::vector<Step> go_steps(Planning& planning, const Unit& unit) { return GoSteps(planning, unit).steps(); }

}  // namespace coctilis::plan
