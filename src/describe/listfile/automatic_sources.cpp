// Sources that code generators write for a target because its properties ask for that: AUTOMOC, AUTOUIC and AUTORCC.
#include <re2/re2.h>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/code_generators.h"
#include "describe/listfile/evaluator.h"
#include "survey/languages.h"

namespace coctilis::describe::listfile {

namespace {

// Those by which the header that belongs to a source is looked for.
const std::vector<std::string>& header_endings() {
  static const std::vector<std::string> list = {".h", ".hh", ".hpp", ".hxx"};
  return list;
}

std::string stem_of(const std::string& path) { return std::filesystem::path(path).stem().string(); }
std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

// What a text includes whose name matches `pattern`, which catches the folder and the stem: "ui_(.+).h", say.
std::set<std::pair<std::string, std::string>> included(const std::string& text, const RE2& pattern) {
  std::set<std::pair<std::string, std::string>> out;
  re2::StringPiece rest(text);
  std::string folder;
  std::string stem;
  while (RE2::FindAndConsume(&rest, pattern, &folder, &stem)) out.emplace(folder, stem);
  return out;
}

class AutomaticSources {
 public:
  AutomaticSources(Evaluator& evaluator, Target& asked)
      : e_(evaluator), target_(asked), folder_(asked.binary_folder + "/" + asked.name + "_autogen") {
    if (const std::string other = property("AUTOGEN_BUILD_DIR"); !other.empty())
      folder_ = files::absolute(other, asked.binary_folder);
    std::string names = property("AUTOMOC_MACRO_NAMES");
    if (names.empty()) names = "Q_OBJECT;Q_GADGET;Q_NAMESPACE;Q_NAMESPACE_EXPORT";
    std::string any;
    for (const auto& name : list_elements(names)) any += (any.empty() ? "" : "|") + RE2::QuoteMeta(name);
    macros_ = std::make_unique<RE2>("(?m)^[ \\t{]*(?:" + any + ")\\b");
  }

  void add() {
    moc_ = wanted("AUTOMOC", "moc");
    uic_ = wanted("AUTOUIC", "uic");
    rcc_ = wanted("AUTORCC", "rcc");
    if (moc_.empty() && uic_.empty() && rcc_.empty()) return;
    const auto given = target_.sources;
    std::vector<std::string> headers;
    for (const auto& value : given) {
      const std::string path = place_of(value);
      if (path.empty() || skipped(path, "SKIP_AUTOGEN")) continue;
      if (path.ends_with(".qrc") && !rcc_.empty() && !skipped(path, "SKIP_AUTORCC")) resources(path);
      if (survey::is_header(path)) headers.push_back(path);
      if (survey::compiled_language(path) == "C++") source(path, headers);
    }
    for (const auto& path : std::set<std::string>(headers.begin(), headers.end())) header(path);
    auto& includes = target_.properties["INCLUDE_DIRECTORIES"];
    includes.insert(includes.begin(), {folder_ + "/include", target_.place, target_.folder});
  }

 private:
  [[nodiscard]] std::string property(const char* name) const { return e_.target_property(target_, name).value_or(""); }

  // The expression that gives the generator, when the target asks for it. Without it the target is made as it is, as it
  // would be where the package is optional.
  std::string wanted(const char* switched, const char* tool) {
    if (!is_true(property(switched))) return {};
    for (const std::string& version : {e_.value("QT_VERSION_MAJOR"), std::string("6"), std::string("5")}) {
      const std::string name = "Qt" + version + "::" + tool;
      if (!version.empty() && e_.target(name) != nullptr) return "$<TARGET_FILE:" + name + ">";
    }
    if (!told_)
      e_.warn(target_.place,
              std::string(switched) + " of '" + target_.name + "' has no effect: no package gives the program " + tool);
    told_ = true;
    return {};
  }

  // Where a source lies, if it is there by now.
  [[nodiscard]] std::string place_of(const Value& value) const {
    if (value.text.find("$<") != std::string::npos) return {};
    for (const auto& folder : {value.folder.empty() ? target_.folder : value.folder, target_.binary_folder}) {
      std::string path = files::absolute(value.text, folder);
      if (files::is_file(path)) return path;
    }
    return {};
  }

  [[nodiscard]] bool skipped(const std::string& path, const char* name) const {
    return is_true(e_.source_property(path, name).value_or(""));
  }

  // A source: what it includes that is generated, and the headers that belong to it.
  void source(const std::string& path, std::vector<std::string>& headers) {
    const std::string text = files::read(path).value_or("");
    const std::string stem = stem_of(path);
    for (const char* suffix : {"", "_p"}) {
      for (const auto& ending : header_endings()) {
        const std::string beside = folder_of(path) + "/" + stem + suffix + ending;
        if (files::is_file(beside) && !skipped(beside, "SKIP_AUTOGEN")) headers.push_back(beside);
      }
    }
    forms(path, text);
    if (moc_.empty() || skipped(path, "SKIP_AUTOMOC")) return;
    static const RE2 of_header(
        R"((?m)^[ \t]*#[ \t]*include[ \t]*[<"](?:([^>"\n]*)/)?moc_([^>"/\n]+)\.(?:cpp|cxx|cc)[>"])");
    for (const auto& [folder, name] : included(text, of_header)) {
      for (const auto& ending : header_endings()) {
        const std::string beside =
            files::absolute((folder.empty() ? "" : folder + "/") + name + ending, folder_of(path));
        if (files::is_file(beside))
          by_inclusion_[beside] = (folder.empty() ? "" : folder + "/") + "moc_" + name + ".cpp";
      }
    }
    static const RE2 of_source(R"((?m)^[ \t]*#[ \t]*include[ \t]*[<"](?:([^>"\n]*)/)?([^>"/\n]+)\.moc[>"])");
    for (const auto& [folder, name] : included(text, of_source)) {
      if (name == stem)
        meta_objects(path, folder_ + "/include/" + (folder.empty() ? "" : folder + "/") + name + ".moc");
    }
  }

  void header(const std::string& path) {
    const std::string text = files::read(path).value_or("");
    forms(path, text);
    if (moc_.empty() || skipped(path, "SKIP_AUTOMOC") || !RE2::PartialMatch(text, *macros_)) return;
    const auto it = by_inclusion_.find(path);
    meta_objects(path, it != by_inclusion_.end() ? folder_ + "/include/" + it->second
                                                 : folder_ + "/" + part_of(path) + "/moc_" + stem_of(path) + ".cpp");
  }

  // A name for the folder that a file lies in: files of one name in different folders do not meet.
  [[nodiscard]] std::string part_of(const std::string& path) const {
    const std::string below = files::relative(folder_of(path), target_.folder);
    return below == "." ? "here" : text::replace_all(text::replace_all(below, "..", "up"), "/", "_");
  }

  void meta_objects(const std::string& input, const std::string& output) {
    const std::string about = "$<TARGET_PROPERTY:" + target_.name + ",";
    std::vector<std::string> command = {
        moc_, "$<$<BOOL:" + about + "INCLUDE_DIRECTORIES>>:-I$<JOIN:" + about + "INCLUDE_DIRECTORIES>,;-I>>",
        "$<$<BOOL:" + about + "COMPILE_DEFINITIONS>>:-D$<JOIN:" + about + "COMPILE_DEFINITIONS>,;-D>>"};
    for (const auto& word : list_elements(property("AUTOMOC_MOC_OPTIONS"))) command.push_back(word);
    for (const auto& word : {std::string("--include"), predefined(), std::string("-o"), output, input})
      command.push_back(word);
    rule(output, std::move(command), {input, predefined()});
  }

  // The macros of the compiler, which the generator does not know by itself.
  std::string predefined() {
    const std::string path = folder_ + "/moc_predefs.h";
    if (std::exchange(has_predefined_, true)) return path;
    rule(path, command_for_predefined_macros(e_.value("CMAKE_CXX_COMPILER"), property("CXX_STANDARD"), path), {});
    return path;
  }

  void forms(const std::string& path, const std::string& text) {
    if (uic_.empty() || skipped(path, "SKIP_AUTOUIC")) return;
    static const RE2 of_form(R"((?m)^[ \t]*#[ \t]*include[ \t]*[<"](?:([^>"\n]*)/)?ui_([^>"/\n]+)\.h[>"])");
    for (const auto& [folder, name] : included(text, of_form)) {
      const std::string inner = folder.empty() ? "" : folder + "/";
      std::vector<std::string> places = {folder_of(path)};
      for (const auto& place : list_elements(property("AUTOUIC_SEARCH_PATHS")))
        places.push_back(files::absolute(place, target_.folder));
      for (const auto& place : places) {
        std::string form = place + "/" + inner + name + ".ui";
        if (!files::is_file(form)) form = place + "/" + name + ".ui";
        if (!files::is_file(form) || skipped(form, "SKIP_AUTOUIC")) continue;
        const std::string output = folder_ + "/include/" + inner + "ui_" + name + ".h";
        std::vector<std::string> command = {uic_};
        for (const auto& word : list_elements(property("AUTOUIC_OPTIONS"))) command.push_back(word);
        for (const auto& word : {std::string("-o"), output, form}) command.push_back(word);
        rule(output, std::move(command), {form});
        break;
      }
    }
  }

  // A list of files that go into the program.
  void resources(const std::string& path) {
    const std::string output = folder_ + "/" + part_of(path) + "/qrc_" + stem_of(path) + ".cpp";
    std::vector<std::string> command = {rcc_};
    for (const auto& word : list_elements(property("AUTORCC_OPTIONS"))) command.push_back(word);
    const std::string name = text::replace_all(stem_of(path), "-", "_");
    for (const auto& word : {std::string("--name"), name, std::string("-o"), output, path}) command.push_back(word);
    auto depends = files_of_resource_list(path);
    depends.insert(depends.begin(), path);
    rule(output, std::move(command), depends);
  }

  void rule(const std::string& output, std::vector<std::string> command, const std::vector<std::string>& depends) {
    if (!made_.insert(output).second) return;
    files::make_folder(folder_of(output));
    add_rule(e_, {"add_custom_command", {}, target_.place}, {output}, command, depends, target_.binary_folder,
             {.expand_lists = true});
    // As a source of the target it is there before anything of it is compiled, and compiled if it is code.
    target_.sources.push_back({output, target_.place, target_.folder});
  }

  Evaluator& e_;
  Target& target_;
  std::string folder_;
  std::unique_ptr<RE2> macros_;
  std::string moc_;
  std::string uic_;
  std::string rcc_;
  bool told_ = false;
  bool has_predefined_ = false;
  std::set<std::string> made_;
  std::map<std::string, std::string> by_inclusion_;  // a header -> the generated file by which a source includes it
};

}  // namespace

void add_automatic_sources(Evaluator& e, Target& target) {
  if (target.imported || target.kind == model::TargetKind::custom ||
      target.kind == model::TargetKind::interface_library)
    return;
  AutomaticSources(e, target).add();
}

}  // namespace coctilis::describe::listfile
