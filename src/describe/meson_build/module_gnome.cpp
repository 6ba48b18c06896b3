// The module "gnome": generators of sources from resources, interfaces and enumerations.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/meson_build/module_tables.h"

namespace coctilis::describe::meson_build {

namespace {

// A rule with one file, and the target that stands for it.
std::shared_ptr<CustomTarget> make_one(Evaluator& e, const Arguments& a, const std::string& name,
                                       std::vector<std::string> command, const std::vector<std::string>& inputs,
                                       bool capture = false) {
  const std::string output = e.result_path(name, a);
  for (auto& word : command) word = text::replace_all(std::move(word), "@OUTPUT@", output);
  if (!command.empty() && !command.front().empty()) e.add_rule({output}, std::move(command), inputs, a, capture);
  return e.add_custom(name, {output}, false, a);
}

void install_header(Evaluator& e, const Arguments& a, const std::shared_ptr<CustomTarget>& header) {
  if (!e.truth_or(a, "install_header", false)) return;
  e.install_file(header->outputs.front(),
                 e.install_folder(a, "install_dir", "includedir") + "/" + base_name(header->outputs.front()), 0644, a);
}

Value compile_resources(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"source_dir", "c_name", "dependencies", "export", "extra_args", "gresource_bundle", "install",
                    "install_dir", "install_header", "build_by_default"});
  if (a.positional.size() < 2) e.fail(a, "compile_resources() needs a name and a list of resources");
  const std::string name = e.text(a, 0);
  const auto inputs = e.paths_of({a.positional[1]}, a);
  if (inputs.empty()) e.fail(a, "compile_resources() needs a list of resources");
  const std::string program = e.tool("glib-compile-resources", a);
  std::vector<std::string> folders;
  for (const auto& one : e.texts(a, "source_dir")) {
    const std::string path = e.source_path(one);
    folders.push_back(path);
    if (files::is_below(path, e.tree)) folders.push_back(e.result_folder_of(path));
  }
  folders.push_back(e.source_folder());
  folders.push_back(e.result_folder());
  std::vector<std::string> command = {program, inputs[0]};
  for (const auto& folder : folders) command.push_back("--sourcedir=" + folder);
  if (const std::string c_name = e.text_or(a, "c_name"); !c_name.empty()) command.push_back("--c-name=" + c_name);
  if (!e.truth_or(a, "export", false)) command.emplace_back("--internal");
  for (const auto& one : e.texts(a, "extra_args")) command.push_back(one);
  // What goes into it, as the list names it; what the tree makes is there when the rule runs.
  std::vector<std::string> all = inputs;
  for (const auto& path : e.paths_of(e.list(a, "dependencies"), a)) all.push_back(path);
  if (!program.empty() && files::is_file(inputs[0])) {
    auto ask = command;
    ask.emplace_back("--generate-dependencies");
    const auto ended = e.run_command(ask, e.source_folder(), {}, a);
    for (const auto& line : text::split(ended.good() ? ended.output : "", '\n')) {
      const std::string file(text::trim(line));
      if (!file.empty() && files::is_file(files::absolute(file, e.source_folder())))
        all.push_back(files::absolute(file, e.source_folder()));
    }
  }
  if (e.truth_or(a, "gresource_bundle", false)) {
    auto bundle = command;
    bundle.insert(bundle.end(), {"--target=@OUTPUT@"});
    auto out = make_one(e, a, name + ".gresource", bundle, all);
    if (e.truth_or(a, "install", false))
      e.install_file(out->outputs[0], e.install_folder(a, "install_dir", "datadir") + "/" + name + ".gresource", 0644,
                     a);
    return object(std::move(out));
  }
  auto source = command;
  source.insert(source.end(), {"--generate-source", "--target=@OUTPUT@"});
  auto header = command;
  header.insert(header.end(), {"--generate-header", "--target=@OUTPUT@"});
  auto c = make_one(e, a, name + ".c", source, all);
  auto h = make_one(e, a, name + ".h", header, all);
  install_header(e, a, h);
  return Array{object(std::move(c)), object(std::move(h))};
}

Value genmarshal(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"sources", "depends", "depend_files", "prefix", "internal", "nostdinc", "skip_source", "stdinc",
                    "valist_marshallers", "extra_args", "install_header", "install_dir"});
  const std::string name = e.text(a, 0);
  const auto inputs = e.paths_of(e.list(a, "sources"), a);
  std::vector<std::string> command = {e.tool("glib-genmarshal", a), "--quiet"};
  if (const std::string prefix = e.text_or(a, "prefix"); !prefix.empty())
    command.insert(command.end(), {"--prefix", prefix});
  for (const auto& [key, option] : {std::pair{"internal", "--internal"},
                                    {"nostdinc", "--nostdinc"},
                                    {"skip_source", "--skip-source"},
                                    {"stdinc", "--stdinc"},
                                    {"valist_marshallers", "--valist-marshallers"}}) {
    if (e.truth_or(a, key, false)) command.emplace_back(option);
  }
  for (const auto& one : e.texts(a, "extra_args")) command.push_back(one);
  const auto with = [&](const std::vector<std::string>& more) {
    auto out = command;
    out.insert(out.end(), more.begin(), more.end());
    out.insert(out.end(), inputs.begin(), inputs.end());
    return out;
  };
  auto c =
      make_one(e, a, name + ".c", with({"--body", "--include-header=" + name + ".h", "--output", "@OUTPUT@"}), inputs);
  auto h = make_one(e, a, name + ".h", with({"--header", "--pragma-once", "--output", "@OUTPUT@"}), inputs);
  install_header(e, a, h);
  return Array{object(std::move(c)), object(std::move(h))};
}

Value mkenums(Evaluator& e, Self, Arguments& a) {
  e.check_names(a,
                {"sources", "depends", "c_template", "h_template", "install_header", "install_dir", "comments", "eprod",
                 "fhead", "fprod", "ftail", "identifier_prefix", "symbol_prefix", "vhead", "vprod", "vtail"});
  const std::string name = e.text(a, 0);
  const auto inputs = e.paths_of(e.list(a, "sources"), a);
  std::vector<std::string> command = {e.tool("glib-mkenums", a)};
  for (const auto& [key, option] : {std::pair{"comments", "--comments"},
                                    {"eprod", "--eprod"},
                                    {"fhead", "--fhead"},
                                    {"fprod", "--fprod"},
                                    {"ftail", "--ftail"},
                                    {"identifier_prefix", "--identifier-prefix"},
                                    {"symbol_prefix", "--symbol-prefix"},
                                    {"vhead", "--vhead"},
                                    {"vprod", "--vprod"},
                                    {"vtail", "--vtail"}}) {
    if (const std::string value = e.text_or(a, key); !value.empty()) command.insert(command.end(), {option, value});
  }
  Array out;
  for (const char* key : {"c_template", "h_template"}) {
    const auto templates = e.paths_of(e.list(a, key), a);
    if (templates.empty()) continue;
    std::string file = base_name(templates[0]);
    for (const char* ending : {".template", ".in", ".tmpl"}) {
      if (file.ends_with(ending)) file = file.substr(0, file.size() - std::string(ending).size());
    }
    auto one = command;
    one.insert(one.end(), {"--template", templates[0]});
    one.insert(one.end(), inputs.begin(), inputs.end());
    auto all = inputs;
    all.push_back(templates[0]);
    auto made = make_one(e, a, file, one, all, true);
    if (std::string_view(key) == "h_template") install_header(e, a, made);
    out.push_back(object(std::move(made)));
  }
  if (out.empty()) {
    command.insert(command.end(), inputs.begin(), inputs.end());
    return object(make_one(e, a, name, command, inputs, true));
  }
  return out.size() == 1 ? out[0] : Value(std::move(out));
}

Value mkenums_simple(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"sources", "body_prefix", "decorator", "function_prefix", "header_prefix", "identifier_prefix",
                    "symbol_prefix", "install_header", "install_dir"});
  const std::string name = e.text(a, 0);
  const auto inputs = e.paths_of(e.list(a, "sources"), a);
  std::vector<std::string> command = {e.tool("glib-mkenums", a)};
  for (const auto& [key, option] :
       {std::pair{"identifier_prefix", "--identifier-prefix"}, {"symbol_prefix", "--symbol-prefix"}}) {
    if (const std::string value = e.text_or(a, key); !value.empty()) command.insert(command.end(), {option, value});
  }
  std::string decorator = e.text_or(a, "decorator");
  if (!decorator.empty()) decorator += " ";
  const std::string function = e.text_or(a, "function_prefix");
  const auto with = [&](const std::vector<std::string>& more) {
    auto out = command;
    out.insert(out.end(), more.begin(), more.end());
    out.insert(out.end(), inputs.begin(), inputs.end());
    return out;
  };
  std::string body = "#include \"" + name + ".h\"\n";
  for (const auto& input : inputs) body += "#include \"" + base_name(input) + "\"\n";
  body += e.text_or(a, "body_prefix") + "\n";
  const std::string type = function + "@enum_name@_get_type";
  auto c = make_one(
      e, a, name + ".c",
      with({"--fhead", body, "--fprod", "\n/* from \"@basename@\" */\n", "--vhead",
            "GType\n" + type + " (void)\n{\n  static gsize type = 0;\n  static const G@Type@Value values[] = {",
            "--vprod", "    { @VALUENAME@, \"@VALUENAME@\", \"@valuenick@\" },", "--vtail",
            "    { 0, NULL, NULL }\n  };\n  if (g_once_init_enter (&type))\n    g_once_init_leave (&type, "
            "g_@type@_register_static (g_intern_static_string (\"@EnumName@\"), "
            "values));\n  return (GType) type;\n}\n"}),
      inputs, true);
  auto h = make_one(
      e, a, name + ".h",
      with({"--fhead",
            "#pragma once\n\n#include <glib-object.h>\n" + e.text_or(a, "header_prefix") + "\nG_BEGIN_DECLS\n",
            "--fprod", "\n/* from \"@basename@\" */\n", "--vhead",
            decorator + "GType " + type + " (void);\n#define @ENUMPREFIX@_TYPE_@ENUMSHORT@ (" + type + " ())\n",
            "--ftail", "G_END_DECLS\n"}),
      inputs, true);
  install_header(e, a, h);
  return Array{object(std::move(c)), object(std::move(h))};
}

Value gdbus_codegen(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"sources", "interface_prefix", "namespace", "object_manager", "annotations", "docbook",
                    "autocleanup", "extra_args", "install_header", "install_dir", "build_by_default"});
  const std::string name = e.text(a, 0);
  auto values = e.list(a, "sources");
  for (std::size_t i = 1; i < a.positional.size(); ++i) values.push_back(a.positional[i]);
  const auto inputs = e.paths_of(values, a);
  std::vector<std::string> command = {e.tool("gdbus-codegen", a)};
  if (const std::string prefix = e.text_or(a, "interface_prefix"); !prefix.empty())
    command.insert(command.end(), {"--interface-prefix", prefix});
  if (const std::string prefix = e.text_or(a, "namespace"); !prefix.empty())
    command.insert(command.end(), {"--c-namespace", prefix});
  if (e.truth_or(a, "object_manager", false)) command.emplace_back("--c-generate-object-manager");
  if (const std::string cleanup = e.text_or(a, "autocleanup", "all"); !cleanup.empty())
    command.insert(command.end(), {"--c-generate-autocleanup", cleanup});
  if (const auto* given = a.find("annotations")) {
    std::vector<std::string> words;
    for (const auto& one : flattened(*given)) words.push_back(shown(one));
    for (std::size_t i = 0; i + 2 < words.size(); i += 3)
      command.insert(command.end(), {"--annotate", words[i], words[i + 1], words[i + 2]});
  }
  for (const auto& one : e.texts(a, "extra_args")) command.push_back(one);
  const auto with = [&](const std::string& what) {
    auto out = command;
    out.insert(out.end(), {what, "--output", "@OUTPUT@"});
    out.insert(out.end(), inputs.begin(), inputs.end());
    return out;
  };
  auto c = make_one(e, a, name + ".c", with("--body"), inputs);
  auto h = make_one(e, a, name + ".h", with("--header"), inputs);
  install_header(e, a, h);
  Array out = {object(std::move(c)), object(std::move(h))};
  if (const std::string book = e.text_or(a, "docbook"); !book.empty()) {
    e.build.not_installed.push_back({"documentation", book, a.place, "documents are not made"});
    out.push_back(object(std::make_shared<RunTarget>()));
  }
  return out;
}

Value compile_schemas(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"build_by_default", "depend_files"});
  std::vector<std::string> inputs = e.paths_of(e.list(a, "depend_files"), a);
  for (const auto& one : files::names_in(e.source_folder())) {
    if (one.ends_with(".gschema.xml") || one.ends_with(".enums.xml")) inputs.push_back(e.source_folder() + "/" + one);
  }
  const std::string output = e.result_path("gschemas.compiled", a);
  const std::string program = e.tool("glib-compile-schemas", a);
  if (!program.empty())
    e.add_rule({output}, {program, "--targetdir=" + e.result_folder(), e.source_folder()}, inputs, a);
  return object(e.add_custom("gschemas.compiled", {output}, e.truth_or(a, "build_by_default", true), a));
}

// What is made of a library for other languages, and documents.
Value left_out(Evaluator& e, Self, Arguments& a) {
  const bool document = a.name == "yelp" || a.name == "gtkdoc";
  e.project.left_out.push_back(
      {document ? "documentation" : "description of a library",
       a.positional.empty() || a.positional[0].text() == nullptr ? a.name : *a.positional[0].text(), a.place,
       document ? "documents are not made" : "descriptions for other languages are not made"});
  if (document) return object(std::make_shared<RunTarget>());
  if (a.name == "generate_vapi") {
    auto none = std::make_shared<Dependency>();
    none->found = true;
    none->by = "internal";
    return object(std::move(none));
  }
  return Array{object(std::make_shared<RunTarget>()), object(std::make_shared<RunTarget>())};
}

Value nothing_to_do(Evaluator&, Self, Arguments&) { return {}; }
Value documents_folder(Evaluator& e, Self, Arguments& a) {
  return e.below_prefix(e.built_in("datadir")) + "/gtk-doc/html/" + e.text(a, 0);
}

}  // namespace

const MethodTable& gnome_methods() {
  static const MethodTable table = {{"compile_resources", compile_resources},
                                    {"genmarshal", genmarshal},
                                    {"mkenums", mkenums},
                                    {"mkenums_simple", mkenums_simple},
                                    {"gdbus_codegen", gdbus_codegen},
                                    {"compile_schemas", compile_schemas},
                                    {"post_install", nothing_to_do},
                                    {"generate_gir", left_out},
                                    {"generate_vapi", left_out},
                                    {"yelp", left_out},
                                    {"gtkdoc", left_out},
                                    {"gtkdoc_html_dir", documents_folder}};
  return table;
}

}  // namespace coctilis::describe::meson_build
