// Commands that come with packages which are code generators: a rule of the tree for each call.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

void add_rule(Evaluator& e, const Invocation& i, const std::vector<std::string>& outputs,
              const std::vector<std::string>& command, const std::vector<std::string>& depends,
              const std::string& folder, const RuleExtras& extras) {
  Invocation rule{"add_custom_command", {}, i.place};
  const auto add = [&](const char* key, const std::vector<std::string>& words) {
    rule.words.push_back({key, false});
    for (const auto& word : words) rule.words.push_back({word, true});
  };
  add("OUTPUT", outputs);
  if (!extras.byproducts.empty()) add("BYPRODUCTS", extras.byproducts);
  add("COMMAND", command);
  add("DEPENDS", depends);
  if (!folder.empty()) add("WORKING_DIRECTORY", {folder});
  if (!extras.dependency_file.empty()) add("DEPFILE", {extras.dependency_file});
  rule.words.push_back({"VERBATIM", false});
  if (extras.expand_lists) rule.words.push_back({"COMMAND_EXPAND_LISTS", false});
  e.call(rule);
}

namespace {

// FLEX_TARGET(NAME input output [COMPILE_FLAGS f] [DEFINES_FILE d]), BISON_TARGET the same with REPORT_FILE and
// VERBOSE.
void scanner_or_parser(Evaluator& e, const Invocation& i, bool parser) {
  e.need(i, 3, i.name + "(NAME INPUT OUTPUT ...)");
  const auto words =
      keywords(i.texts(3), {}, {"COMPILE_FLAGS", "OPTIONS", "DEFINES_FILE", "REPORT_FILE", "VERBOSE"}, {});
  const std::string prefix = parser ? "BISON" : "FLEX";
  const std::string name = i[0];
  const std::string input = e.source_path(i[1]);
  const std::string output = e.binary_path(i[2]);
  const std::string program = e.value(prefix + "_EXECUTABLE");
  std::vector<std::string> outputs = {output};
  std::vector<std::string> command = {program.empty() ? text::lower(prefix) : program};
  for (const auto& option : text::shell_words(words.get("COMPILE_FLAGS"))) command.push_back(option);
  std::string header = words.get("DEFINES_FILE");
  if (!header.empty()) header = e.binary_path(header);
  if (parser) {
    if (header.empty()) {
      // The header lies beside, with the ending that goes with that of the output.
      const std::string ending = std::filesystem::path(output).extension().string();
      header = output.substr(0, output.size() - ending.size()) + text::replace_all(ending, "c", "h");
      if (ending.empty()) header += ".h";
      command.emplace_back("-d");
    } else {
      command.push_back("--defines=" + header);
    }
  } else if (!header.empty()) {
    command.push_back("--header-file=" + header);
  }
  if (!header.empty()) outputs.push_back(header);
  for (const auto& word :
       parser ? std::vector<std::string>{"-o", output, input} : std::vector<std::string>{"-o" + output, input})
    command.push_back(word);
  add_rule(e, i, outputs, command, {input}, e.directory().source);
  const std::string mine = prefix + "_" + name;
  e.set(mine + "_DEFINED", "TRUE");
  e.set(mine + "_OUTPUTS", list_join(outputs));
  e.set(mine + "_INPUT", input);
  e.set(mine + "_COMPILE_FLAGS", words.get("COMPILE_FLAGS"));
  e.set(mine + (parser ? "_OUTPUT_SOURCE" : "_OUTPUT"), output);
  e.set(mine + "_OUTPUT_HEADER", header);
}
void command_flex(Evaluator& e, const Invocation& i) { scanner_or_parser(e, i, false); }
void command_bison(Evaluator& e, const Invocation& i) { scanner_or_parser(e, i, true); }

// The scanner's source is compiled after the parser's header is there.
void command_flex_bison(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "ADD_FLEX_BISON_DEPENDENCY(FLEX BISON)");
  Invocation depends{"set_source_files_properties", {}, i.place};
  depends.words.push_back({e.value("FLEX_" + i[0] + "_OUTPUT"), true});
  for (const char* word : {"PROPERTIES", "OBJECT_DEPENDS"}) depends.words.push_back({word, false});
  depends.words.push_back({e.value("BISON_" + i[1] + "_OUTPUT_HEADER"), true});
  e.call(depends);
}

// The compiler of messages, which is needed; gives the word by which it is called.
std::string need_protoc(Evaluator& e, const Invocation& i) {
  auto compiler =
      e.locator.program({model::RequirementKind::program, "protoc", {}, true, i.name, i.place, {}}, {"protoc"}, {});
  const std::string word = compiler.found ? compiler.where : "protoc";
  e.keep(std::move(compiler));
  return word;
}

// PROTOBUF_GENERATE_CPP(SOURCES HEADERS files...).
void command_protobuf(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "PROTOBUF_GENERATE_CPP(SOURCES HEADERS files...)");
  const auto words = keywords(i.texts(2), {}, {"EXPORT_MACRO", "DESCRIPTORS"}, {});
  const std::string compiler = need_protoc(e, i);
  std::vector<std::string> sources;
  std::vector<std::string> headers;
  for (const auto& file : words.rest) {
    const std::string input = e.source_path(file);
    const std::string stem = std::filesystem::path(input).stem().string();
    const std::string out = e.directory().binary;
    sources.push_back(out + "/" + stem + ".pb.cc");
    headers.push_back(out + "/" + stem + ".pb.h");
    const std::string plugin =
        words.has("EXPORT_MACRO") ? "dllexport_decl=" + words.get("EXPORT_MACRO") + ":" + out : out;
    add_rule(e, i, {sources.back(), headers.back()},
             {compiler, "--cpp_out", plugin, "-I", std::filesystem::path(input).parent_path().string(), input}, {input},
             "");
  }
  e.set(i[0], list_join(sources));
  e.set(i[1], list_join(headers));
}

// protobuf_generate([TARGET name] [LANGUAGE language] [OUT_VAR variable] [PROTOS files...] [IMPORT_DIRS folders...]
// ...): a rule for each file, whose results go into the target.
void command_protobuf_generate(Evaluator& e, const Invocation& i) {
  const auto words = keywords(
      i.texts(), {"APPEND_PATH"},
      {"TARGET", "LANGUAGE", "OUT_VAR", "EXPORT_MACRO", "PROTOC_OUT_DIR", "PLUGIN", "PLUGIN_OPTIONS", "PROTOC_EXE"},
      {"PROTOS", "IMPORT_DIRS", "GENERATE_EXTENSIONS", "PROTOC_OPTIONS", "DEPENDENCIES"});
  if (!words.has("TARGET") && !words.has("OUT_VAR"))
    e.fail(i, "protobuf_generate(...) has neither TARGET nor OUT_VAR", "name the target that the results go into");
  const std::string language = words.has("LANGUAGE") ? text::lower(words.get("LANGUAGE")) : "cpp";
  auto endings = words.list("GENERATE_EXTENSIONS");
  if (endings.empty() && language == "cpp") endings = {".pb.h", ".pb.cc"};
  if (endings.empty() && language == "python") endings = {"_pb2.py"};
  if (endings.empty())
    e.fail(i, "protobuf_generate(...) does not tell what comes out for '" + language + "'", "add GENERATE_EXTENSIONS");
  std::vector<std::string> inputs = words.list("PROTOS");
  if (inputs.empty() && words.has("TARGET")) {
    for (const auto& source : e.need_target(words.get("TARGET"), i).sources) {
      if (source.text.ends_with(".proto")) inputs.push_back(source.text);
    }
  }
  if (inputs.empty()) e.fail(i, "protobuf_generate(...) has no files to work on", "their names end in .proto");
  const std::string compiler = need_protoc(e, i);
  std::vector<std::string> imports;
  const auto add_import = [&](const std::string& folder) {
    if (std::find(imports.begin(), imports.end(), folder) == imports.end()) imports.push_back(folder);
  };
  if (words.has("APPEND_PATH")) {
    for (const auto& file : inputs) add_import(std::filesystem::path(e.source_path(file)).parent_path().string());
  }
  for (const auto& folder : words.list("IMPORT_DIRS")) add_import(e.source_path(folder));
  if (imports.empty()) add_import(e.directory().source);
  const std::string out =
      words.get("PROTOC_OUT_DIR").empty() ? e.directory().binary : e.binary_path(words.get("PROTOC_OUT_DIR"));
  std::string options = words.get("PLUGIN_OPTIONS");
  if (words.has("EXPORT_MACRO") && language == "cpp")
    options = "dllexport_decl=" + words.get("EXPORT_MACRO") + (options.empty() ? "" : ",") + options;
  std::vector<std::string> made;
  for (const auto& file : inputs) {
    const std::string input = e.source_path(file);
    // Results lie below the output folder as the file lies below the folder that it is imported from.
    std::string below = std::filesystem::path(input).filename().string();
    for (const auto& folder : imports) {
      if (!files::is_below(input, folder)) continue;
      below = files::below(input, folder);
      break;
    }
    const std::string stem = below.substr(0, below.size() - std::filesystem::path(below).extension().string().size());
    std::vector<std::string> outputs;
    for (const auto& ending : endings) outputs.push_back(out + "/" + stem + ending);
    std::vector<std::string> command = {compiler};
    for (const auto& option : words.list("PROTOC_OPTIONS")) command.push_back(option);
    command.push_back("--" + language + "_out");
    command.push_back(options.empty() ? out : options + ":" + out);
    if (words.has("PLUGIN")) command.push_back("--plugin=" + words.get("PLUGIN"));
    for (const auto& folder : imports) command.insert(command.end(), {"-I", folder});
    command.push_back(input);
    std::vector<std::string> depends = {input};
    for (const auto& file_or_target : words.list("DEPENDENCIES")) depends.push_back(file_or_target);
    add_rule(e, i, outputs, command, depends, "");
    made.insert(made.end(), outputs.begin(), outputs.end());
  }
  if (words.has("OUT_VAR")) e.set(words.get("OUT_VAR"), list_join(made));
  if (words.has("TARGET")) {
    Invocation sources{"target_sources", {{words.get("TARGET"), true}, {"PRIVATE", false}}, i.place};
    for (const auto& file : made) sources.words.push_back({file, true});
    e.call(sources);
  }
}

}  // namespace

void add_generator_commands(CommandTable& table) {
  table["flex_target"] = command_flex;
  table["bison_target"] = command_bison;
  table["add_flex_bison_dependency"] = command_flex_bison;
  table["protobuf_generate_cpp"] = command_protobuf;
  table["protobuf_generate"] = command_protobuf_generate;
}

}  // namespace coctilis::describe::listfile
