#include "describe/listfile/lower/expression.h"

#include "base/files.h"
#include "base/lists.h"
#include "base/path_text.h"
#include "base/text.h"
#include "describe/listfile/lower/expression_values.h"

namespace coctilis::describe::listfile::lower {

void Expressions::fail(const ExpressionContext& context, const std::string& what, const std::string& remedy) {
  throw Fault({Exit::description, context.place, what, "", remedy, {}});
}

void Expressions::not_understood(const ExpressionContext& context, const std::string& what) {
  throw Fault({Exit::description, context.place, what, "", "", {}, true});
}

std::string Expressions::evaluate(const std::string& input, const ExpressionContext& context) const {
  if (input.find("$<") == std::string::npos) return input;
  if (context.depth > 60) fail(context, "expressions are nested too deep, or refer to themselves");
  std::string out;
  for (std::size_t i = 0; i < input.size();) {
    if (input.compare(i, 2, "$<") != 0) {
      out += input[i++];
      continue;
    }
    // The end of this expression, and the first ':' that belongs to it.
    int depth = 1;
    std::size_t colon = std::string::npos;
    std::size_t end = i + 2;
    for (; end < input.size(); ++end) {
      if (input.compare(end, 2, "$<") == 0) {
        ++depth;
        ++end;
      } else if (input[end] == '>' && --depth == 0) {
        break;
      } else if (input[end] == ':' && depth == 1 && colon == std::string::npos) {
        colon = end;
      }
    }
    if (end >= input.size()) {
      out += input.substr(i);  // no expression after all
      break;
    }
    auto inner = context;
    ++inner.depth;
    const std::size_t name_end = colon == std::string::npos ? end : colon;
    const std::string name = evaluate(input.substr(i + 2, name_end - i - 2), inner);
    const std::string raw = colon == std::string::npos ? "" : input.substr(colon + 1, end - colon - 1);
    if (name == "1")
      out += evaluate(raw, inner);
    else if (name != "0")
      out += one(name, raw, inner);
    i = end + 1;
  }
  return out;
}

std::vector<std::string> Expressions::evaluate(const Values& values, const ExpressionContext& context) const {
  std::vector<std::string> out;
  for (const auto& value : values) {
    if (value.text.find("$<") == std::string::npos) {
      for (auto& element : list_elements(value.text, false)) out.push_back(std::move(element));
      continue;
    }
    auto inner = context;
    if (!value.place.file.empty()) inner.place = value.place;
    for (auto& element : list_elements(evaluate(value.text, inner), false)) out.push_back(std::move(element));
  }
  return out;
}

const Target& Expressions::target(const std::string& name, const ExpressionContext& context) const {
  const auto* found = project_.target(name);
  if (found == nullptr)
    fail(context, "an expression names a target '" + name + "' that is not declared", "check the spelling");
  return *found;
}

std::string Expressions::target_property(const std::vector<std::string>& args, const ExpressionContext& context) const {
  const Target* of = context.target;
  std::string property = args.empty() ? "" : args[0];
  if (args.size() > 1) {
    of = &target(args[0], context);
    property = args[1];
  }
  if (of == nullptr) fail(context, "$<TARGET_PROPERTY:" + property + "> stands where there is no target");
  std::string out;
  if (host_.gathered(*of, property, out)) return out;
  if (property == "NAME") return of->name;
  if (property == "SOURCE_DIR") return of->folder;
  if (property == "BINARY_DIR") return of->binary_folder;
  if (property == "TYPE") {
    switch (of->kind) {
      case model::TargetKind::program: return "EXECUTABLE";
      case model::TargetKind::static_library: return "STATIC_LIBRARY";
      case model::TargetKind::shared_library: return "SHARED_LIBRARY";
      case model::TargetKind::module_library: return "MODULE_LIBRARY";
      case model::TargetKind::object_set: return "OBJECT_LIBRARY";
      case model::TargetKind::interface_library: return "INTERFACE_LIBRARY";
      case model::TargetKind::finished:
      case model::TargetKind::class_library:
      case model::TargetKind::custom: return "UTILITY";
    }
  }
  if (property == "SOURCES") return text::join(evaluate(of->sources, context), ";");
  const auto* values = of->property(property);
  return values == nullptr ? "" : text::join(evaluate(*values, context), ";");
}

namespace {
// Divides at commas that are not within an inner expression.
std::vector<std::string> divide(const std::string& raw) {
  std::vector<std::string> out(1);
  int depth = 0;
  for (std::size_t i = 0; i < raw.size(); ++i) {
    if (raw.compare(i, 2, "$<") == 0) ++depth;
    if (raw[i] == '>' && depth > 0) --depth;
    if (raw[i] == ',' && depth == 0)
      out.emplace_back();
    else
      out.back() += raw[i];
  }
  return out;
}
}  // namespace

std::string Expressions::one(const std::string& name, const std::string& raw, const ExpressionContext& context) const {
  const auto yes = [](bool condition) { return std::string(condition ? "1" : "0"); };
  const auto whole = [&] { return evaluate(raw, context); };
  // Literals and what keeps its content as it is.
  if (name == "ANGLE-R") return ">";
  if (name == "COMMA") return ",";
  if (name == "SEMICOLON") return ";";
  if (name == "QUOTE") return "\"";
  if (name == "BUILD_INTERFACE" || name == "BUILD_LOCAL_INTERFACE") return context.installing ? "" : whole();
  if (name == "INSTALL_INTERFACE") return context.installing ? whole() : "";
  if (name == "LINK_ONLY") return context.linking ? whole() : "";
  if (name == "INSTALL_PREFIX") return project_.install_prefix;
  if (name == "BOOL") return yes(!is_false(whole()));
  if (name == "NOT") return yes(whole() == "0");
  if (name == "LOWER_CASE") return text::lower(whole());
  if (name == "UPPER_CASE") return text::upper(whole());
  if (name == "MAKE_C_IDENTIFIER") {
    std::string out;
    for (const char c : whole()) out += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
    return out;
  }
  if (name == "GENEX_EVAL") return evaluate(whole(), context);
  if (name == "SHELL_PATH") return whole();
  if (name == "CONFIG" && raw.empty()) return project_.configuration;
  if (name == "CONFIGURATION") return project_.configuration;
  if (name == "OUTPUT_CONFIG" || name == "COMMAND_CONFIG") return whole();
  if (name == "TARGET_EXISTS") return yes(project_.target(whole()) != nullptr);
  if (name == "TARGET_NAME_IF_EXISTS") return project_.target(whole()) != nullptr ? whole() : "";
  if (name == "TARGET_OBJECTS") return text::join(host_.objects(target(whole(), context)), ";");
  if (name == "TARGET_POLICY") return "1";
  // Of systems that have such files.
  if (name == "TARGET_RUNTIME_DLLS" || name == "TARGET_RUNTIME_DLL_DIRS") return "";
  if (name == "TARGET_NAME") return whole();

  std::vector<std::string> args;
  for (const auto& part : divide(raw)) args.push_back(evaluate(part, context));
  const auto at_least = [&](std::size_t count) {
    if (args.size() < count) fail(context, "$<" + name + ":...> needs " + std::to_string(count) + " arguments");
  };
  if (name == "AND") return yes(std::all_of(args.begin(), args.end(), [](const auto& a) { return a == "1"; }));
  if (name == "OR") return yes(std::any_of(args.begin(), args.end(), [](const auto& a) { return a == "1"; }));
  if (name == "IF") {
    at_least(3);
    return args[0] == "1" ? args[1] : args[2];
  }
  if (name == "STREQUAL") {
    at_least(2);
    return yes(args[0] == args[1]);
  }
  if (name == "EQUAL") {
    at_least(2);
    return yes(std::strtoll(args[0].c_str(), nullptr, 0) == std::strtoll(args[1].c_str(), nullptr, 0));
  }
  if (name == "PATH_EQUAL") {
    at_least(2);
    return yes(paths::are_equal(args[0], args[1]));
  }
  if (name == "STRLESS" || name == "STRGREATER" || name == "STRLESS_EQUAL" || name == "STRGREATER_EQUAL") {
    at_least(2);
    const int order = args[0].compare(args[1]);
    return yes(name == "STRLESS"         ? order < 0
               : name == "STRGREATER"    ? order > 0
               : name == "STRLESS_EQUAL" ? order <= 0
                                         : order >= 0);
  }
  if (name == "LIST" || name == "PATH" || name == "FILTER") {
    at_least(2);
    std::vector<std::string> rest(args.begin() + 1, args.end());
    const auto out = name == "LIST"   ? list_expression(args[0], rest)
                     : name == "PATH" ? path_expression(args[0], rest)
                                      : list_expression("FILTER", args);
    if (out) return *out;
    not_understood(context,
                   "$<" + name + ":" + text::printable_line(raw) + "> is not understood: its operation or its words");
  }
  if (name == "IN_LIST") {
    at_least(2);
    const auto list = list_elements(args[1], false);
    return yes(std::find(list.begin(), list.end(), args[0]) != list.end());
  }
  if (name.starts_with("VERSION_")) {
    at_least(2);
    const int order = text::compare_versions(args[0], args[1]);
    if (name == "VERSION_LESS") return yes(order < 0);
    if (name == "VERSION_GREATER") return yes(order > 0);
    if (name == "VERSION_EQUAL") return yes(order == 0);
    if (name == "VERSION_LESS_EQUAL") return yes(order <= 0);
    if (name == "VERSION_GREATER_EQUAL") return yes(order >= 0);
  }
  const auto any = [&](const std::string& value, std::size_t from = 0) {
    return std::any_of(args.begin() + static_cast<std::ptrdiff_t>(std::min(from, args.size())), args.end(),
                       [&](const auto& a) { return a == value; });
  };
  if (name == "CONFIG") {
    return yes(std::any_of(args.begin(), args.end(),
                           [&](const auto& a) { return text::lower(a) == text::lower(project_.configuration); }));
  }
  if (name == "PLATFORM_ID") return raw.empty() ? "Linux" : yes(any("Linux"));
  const std::string id = toolchain_.family == "clang" ? "Clang" : "GNU";
  if (name == "C_COMPILER_ID" || name == "CXX_COMPILER_ID" || name == "Fortran_COMPILER_ID")
    return raw.empty() ? id : yes(any(id));
  if (name == "C_COMPILER_FRONTEND_VARIANT" || name == "CXX_COMPILER_FRONTEND_VARIANT")
    return raw.empty() ? "GNU" : yes(any("GNU"));
  if (name == "C_COMPILER_VERSION" || name == "CXX_COMPILER_VERSION" || name == "Fortran_COMPILER_VERSION")
    return raw.empty() ? toolchain_.version : yes(any(toolchain_.version));
  const std::string language = key_of_language(context.language);
  if (name == "COMPILE_LANGUAGE" || name == "LINK_LANGUAGE") return raw.empty() ? language : yes(any(language));
  if (name == "COMPILE_LANG_AND_ID" || name == "LINK_LANG_AND_ID")
    return yes(!args.empty() && args[0] == language && any(id, 1));
  if (name == "COMPILE_FEATURES") return "1";
  if (name == "JOIN") {
    at_least(1);
    return text::join(list_elements(args[0], false), args.size() > 1 ? raw.substr(divide(raw)[0].size() + 1) : "");
  }
  if (name == "REMOVE_DUPLICATES") {
    std::vector<std::string> out;
    for (const auto& element : list_elements(whole(), false)) {
      if (std::find(out.begin(), out.end(), element) == out.end()) out.push_back(element);
    }
    return text::join(out, ";");
  }
  if (name == "TARGET_PROPERTY") return target_property(args, context);
  if (name == "TARGET_GENEX_EVAL") {
    at_least(2);
    auto inner = context;
    inner.target = &target(args[0], context);
    return evaluate(args[1], inner);
  }
  if (name == "LINK_LIBRARY" || name == "LINK_GROUP") {
    at_least(2);
    std::vector<std::string> rest(args.begin() + 1, args.end());
    if (args[0] == "RESCAN") return "-Wl,--start-group;" + text::join(rest, ";") + ";-Wl,--end-group";
    if (args[0] == "WHOLE_ARCHIVE") return "-Wl,--whole-archive;" + text::join(rest, ";") + ";-Wl,--no-whole-archive";
    if (args[0] == "DEFAULT") return text::join(rest, ";");
  }
  static const std::map<std::string, std::string> kinds = {
      {"TARGET_FILE", "FILE"}, {"TARGET_LINKER_FILE", "LINKER_FILE"}, {"TARGET_SONAME_FILE", "SONAME_FILE"}};
  for (const auto& [prefix, kind] : kinds) {
    if (!name.starts_with(prefix)) continue;
    const std::string part = name.substr(prefix.size());
    at_least(1);
    const auto& of = target(args[0], context);
    if (context.named_targets != nullptr) context.named_targets->push_back(of.name);
    const std::filesystem::path path = host_.file(of, kind);
    if (path.empty()) fail(context, "$<" + name + ":" + args[0] + ">: this target makes no file");
    if (part.empty()) return path.string();
    if (part == "_NAME") return path.filename().string();
    if (part == "_DIR") return path.parent_path().string();
    if (part == "_BASE_NAME") {
      std::string base = path.filename().string();
      if (base.starts_with(of.usual_prefix)) base.erase(0, of.usual_prefix.size());
      return of.kind == model::TargetKind::program ? base : base.substr(0, base.find('.'));
    }
  }
  if (name == "TARGET_LINKER_LIBRARY_FILE") return one("TARGET_LINKER_FILE", raw, context);
  if (name == "TARGET_IMPORT_FILE" || name == "TARGET_LINKER_IMPORT_FILE") return "";
  if (name == "TARGET_FILE_PREFIX" || name == "TARGET_LINKER_FILE_PREFIX")
    return target(whole(), context).usual_prefix;
  if (name == "TARGET_FILE_SUFFIX" || name == "TARGET_LINKER_FILE_SUFFIX") {
    return target(whole(), context).usual_suffix;
  }
  not_understood(context, "the expression $<" + text::printable_line(name) + "> is not understood yet");
}

}  // namespace coctilis::describe::listfile::lower
