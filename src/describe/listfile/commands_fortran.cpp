// Fortran seen from C: how the compiler writes the names of procedures, and the header that tells C of it.
#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/probes.h"

namespace coctilis::describe::listfile {

namespace {

// How a name is written: what comes before it, behind it, between module and procedure, and in which case.
struct Mangling {
  bool found = false;
  std::string prefix;
  std::string middle;
  std::string suffix;
  bool upper = false;
};

// Of one of the names in an object, `pattern` with groups for what surrounds it.
Mangling read_off(const std::string& object, const std::string& module, const std::string& name) {
  for (const bool upper : {false, true}) {
    const auto cased = [&](const std::string& word) { return upper ? text::upper(word) : word; };
    RE2::Options options;
    options.set_encoding(RE2::Options::EncodingLatin1);
    const RE2 pattern(
        "[\\x00]([_.]*)" + (module.empty() ? "" : cased(module) + "([A-Za-z_.]*?)") + cased(name) + "([_.]*)[\\x00]",
        options);
    Mangling out;
    out.upper = upper;
    const bool hit = module.empty() ? RE2::PartialMatch(object, pattern, &out.prefix, &out.suffix)
                                    : RE2::PartialMatch(object, pattern, &out.prefix, &out.middle, &out.suffix);
    if (!hit) continue;
    out.found = true;
    return out;
  }
  return {};
}

struct Interface {
  Mangling global, global_with_underscore, module, module_with_underscore;
};

Interface interface_of(Evaluator& e, const Invocation& i) {
  locate::Probe probe;
  probe.language = "Fortran";
  probe.source =
      "module mymodule\ncontains\nsubroutine mysub()\nend subroutine\nend module\n"
      "module my_module\ncontains\nsubroutine my_sub()\nend subroutine\nend module\n"
      "subroutine plainsub()\nend subroutine\nsubroutine plain_sub()\nend subroutine\n";
  probe.compile_options = text::shell_words(e.value("CMAKE_Fortran_FLAGS"));
  const auto answer = e.locator.ask(probe, {"FortranCInterface", i.name, i.place, {}, {}, {}, {}, {}, {}, false});
  Interface out;
  if (answer.compiled) {
    out.global = read_off(answer.object, "", "plainsub");
    out.global_with_underscore = read_off(answer.object, "", "plain_sub");
    out.module = read_off(answer.object, "mymodule", "mysub");
    out.module_with_underscore = read_off(answer.object, "my_module", "my_sub");
  }
  e.locator.conclude(out.global.found ? "found" : "not found");
  const auto tell = [&](const std::string& kind, const Mangling& is) {
    const std::string name = "FortranCInterface_" + kind;
    e.set(name + "_FOUND", is.found ? "1" : "0");
    e.set(name + "_PREFIX", is.prefix);
    e.set(name + "_MIDDLE", is.middle);
    e.set(name + "_SUFFIX", is.suffix);
    e.set(name + "_CASE", is.upper ? "UPPER" : "LOWER");
  };
  tell("GLOBAL", out.global);
  tell("GLOBAL_", out.global_with_underscore);
  tell("MODULE", out.module);
  tell("MODULE_", out.module_with_underscore);
  return out;
}

std::string pasted(const std::vector<std::string>& parts) {
  std::vector<std::string> out;
  for (const auto& part : parts) {
    if (!part.empty()) out.push_back(part);
  }
  return text::join(out, "##");
}

std::string macro_of(const std::string& name, const Mangling& is, bool module) {
  if (!is.found) return "";
  if (!module)
    return "#define " + name + "(name,NAME) " + pasted({is.prefix, is.upper ? "NAME" : "name", is.suffix}) + "\n";
  return "#define " + name + "(mod_name,name, mod_NAME,NAME) " +
         pasted({is.prefix, is.upper ? "mod_NAME" : "mod_name", is.middle, is.upper ? "NAME" : "name", is.suffix}) +
         "\n";
}

void command_verify(Evaluator& e, const Invocation& i) {
  const auto words = keywords(i.texts(0), {"CXX", "QUIET"}, {}, {});
  const auto is = interface_of(e, i);
  if (!is.global.found && !words.has("QUIET"))
    e.fail(i, "C and Fortran cannot be linked with each other: how the Fortran compiler writes names cannot be told",
           "'coctilis why FortranCInterface' has what the compiler said; the tree has to ask for Fortran in project()");
  e.set("FortranCInterface_VERIFIED_C", is.global.found ? "1" : "0");
  if (words.has("CXX")) e.set("FortranCInterface_VERIFIED_CXX", is.global.found ? "1" : "0");
}

void command_header(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "FortranCInterface_HEADER(FILE [MACRO_NAMESPACE NAME] [SYMBOL_NAMESPACE NAME] [SYMBOLS ...])");
  const auto words = keywords(i.texts(1), {}, {"MACRO_NAMESPACE", "SYMBOL_NAMESPACE"}, {"SYMBOLS"});
  const std::string macros = words.has("MACRO_NAMESPACE") ? words.get("MACRO_NAMESPACE") : "FC_";
  const auto is = interface_of(e, i);
  std::string out = "#ifndef " + macros + "HEADER_INCLUDED\n#define " + macros + "HEADER_INCLUDED\n\n";
  out += "/* Names of procedures, and of those with an underscore in theirs. */\n";
  out += macro_of(macros + "GLOBAL", is.global, false) + macro_of(macros + "GLOBAL_", is.global_with_underscore, false);
  out += "\n/* The same for procedures of modules. */\n";
  out += macro_of(macros + "MODULE", is.module, true) + macro_of(macros + "MODULE_", is.module_with_underscore, true);
  for (const auto& symbol : words.list("SYMBOLS")) {
    const auto colon = symbol.find(':');
    const bool in_module = colon != std::string::npos;
    const std::string name = in_module ? symbol.substr(colon + 1) : symbol;
    const std::string module = in_module ? symbol.substr(0, colon) : "";
    const std::string underscore = symbol.find('_') == std::string::npos ? "" : "_";
    const std::string shown = words.get("SYMBOL_NAMESPACE") + (in_module ? module + "_" : "") + name;
    out += "\n#define " + shown + " " + macros + (in_module ? "MODULE" : "GLOBAL") + underscore + "(" +
           (in_module ? text::lower(module) + "," + text::lower(name) + ", " + text::upper(module) + ","
                      : text::lower(name) + ",") +
           text::upper(name) + ")";
  }
  out += "\n#endif\n";
  files::write_if_different(e.writable(e.binary_path(i[0]), i.place), out);
}

}  // namespace

void add_fortran_commands(CommandTable& table) {
  table["fortrancinterface_verify"] = command_verify;
  table["fortrancinterface_header"] = command_header;
}

}  // namespace coctilis::describe::listfile
