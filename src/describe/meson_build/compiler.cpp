// What a description asks a compiler.
#include <algorithm>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

namespace {

using locate::Probe;

const std::string& language_of(Self self) { return std::static_pointer_cast<CompilerObject>(self)->language; }
const model::Compiler& compiler_of(const Evaluator& e, Self self) {
  return e.locator.toolchain().compiler_or_any(language_of(self));
}

// A source with what the call says of flags, folders and dependencies.
Probe probe_of(Evaluator& e, Self self, const Arguments& a, const std::string& source, Probe::How how) {
  Probe probe;
  probe.how = how;
  probe.language = language_of(self);
  probe.source = source;
  auto& options = probe.compile_options;
  // What a project adds for all that it builds is not for questions (it may make mistakes of warnings); what its user
  // adds is.
  for (const auto& word : text::words(e.built_in(probe.language == "C" ? "c_args" : "cpp_args")))
    options.push_back(word);
  if (const std::string standard = e.standard_of(probe.language); !standard.empty())
    options.push_back("-std=" + standard);
  if (probe.language == "C") options.emplace_back("-Werror=implicit-function-declaration");
  if (probe.language != "Fortran") options.emplace_back("-D_FILE_OFFSET_BITS=64");
  for (const auto& one : e.list(a, "include_directories")) {
    if (const auto folders = one.as<IncludeFolders>()) {
      for (const auto& folder : folders->folders) options.push_back("-I" + folder);
    } else if (one.text() != nullptr) {
      options.push_back("-I" + e.source_path(*one.text()));
    }
  }
  lists::append(options, e.texts(a, "args"));
  std::vector<std::shared_ptr<Dependency>> open;
  for (const auto& one : e.list(a, "dependencies")) {
    if (const auto dependency = one.as<Dependency>()) open.push_back(dependency);
  }
  std::set<const void*> seen;
  for (std::size_t at = 0; at < open.size(); ++at) {
    const Dependency& one = *open[at];
    if (!seen.insert(&one).second) continue;
    for (const auto& folder : one.usage.include_folders) options.push_back("-I" + folder);
    for (const auto& definition : one.usage.definitions) options.push_back("-D" + definition);
    lists::append(options, one.usage.compile_options);
    lists::append(options, one.compile_arguments);
    for (const auto& folders : one.include) {
      for (const auto& folder : folders->folders) options.push_back("-I" + folder);
    }
    if (how != Probe::How::compile) {
      for (const auto& folder : one.usage.link_folders) probe.link_options.push_back("-L" + folder);
      lists::append(probe.link_options, one.usage.link_items);
      lists::append(probe.link_options, one.link_arguments);
    }
    const auto needs = one.needs;
    open.insert(open.end(), needs.begin(), needs.end());
  }
  return probe;
}

locate::Answer ask(Evaluator& e, const Probe& probe, const Arguments& a, const std::string& about) {
  model::Question question;
  question.name = about;
  question.required_by = a.name;
  question.place = a.place;
  question.language = probe.language;
  return e.locator.ask(probe, std::move(question));
}

Value concluded(Evaluator& e, bool value) {
  e.locator.conclude(value ? "1" : "");
  return value;
}

std::string prefix_of(Evaluator& e, const Arguments& a) {
  const auto* given = a.find("prefix");
  if (given == nullptr) return {};
  std::string out;
  for (const auto& line : e.texts(a, "prefix")) out += line + "\n";
  return out;
}

// What is asked for and not there; a failure when it is required.
Value settled(Evaluator& e, const Arguments& a, bool found, const std::string& what) {
  if (!found && e.wanted(a).required && a.find("required") != nullptr)
    e.fail(a, what, "install what has it, or leave it out there");
  return found;
}

// Whether a source compiles, or links; a failure when that is required and it does not.
Value asked(Evaluator& e, const Arguments& a, const Probe& probe, const std::string& about,
            const std::string& otherwise) {
  const bool good = ask(e, probe, a, about).compiled;
  static_cast<void>(concluded(e, good));
  return settled(e, a, good, otherwise);
}

bool is_off(Evaluator& e, const Arguments& a) { return a.find("required") != nullptr && e.wanted(a).off; }

std::string code_of(Evaluator& e, const Arguments& a) {
  if (a.positional.empty()) e.fail(a, a.name + "() needs a source");
  if (const auto file = a.positional[0].as<File>()) return files::read(file->path).value_or("");
  return e.text(a, 0);
}
std::string about(Evaluator& e, const Arguments& a, const std::string& other) { return e.text_or(a, "name", other); }

// ---- whether something compiles, links or runs
Value compiles(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const auto probe = probe_of(e, self, a, code_of(e, a), a.name == "links" ? Probe::How::link : Probe::How::compile);
  const auto answer = ask(e, probe, a, about(e, a, a.name));
  const bool good =
      answer.compiled && (!e.truth_or(a, "werror", false) || answer.output.find("warning:") == std::string::npos);
  static_cast<void>(concluded(e, good));
  return settled(e, a, good, "what it needs of the compiler is not there: " + about(e, a, a.name));
}

Value runs(Evaluator& e, Self self, Arguments& a) {
  auto out = std::make_shared<RunResult>();
  const auto answer = ask(e, probe_of(e, self, a, code_of(e, a), Probe::How::run), a, about(e, a, "run"));
  out->compiled = answer.compiled;
  out->code = answer.ran ? answer.exit : 1;
  out->output = answer.run_output;
  static_cast<void>(concluded(e, answer.ran && answer.exit == 0));
  return object(std::move(out));
}

Value has_header(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const std::string header = e.text(a, 0);
  std::string source = prefix_of(e, a);
  // The one asks whether it is there, the other whether it can be used.
  source += a.name == "check_header"
                ? "#include <" + header + ">\n"
                : "#ifdef __has_include\n#if !__has_include(\"" + header +
                      "\")\n#error it is not there\n#endif\n#else\n#include <" + header + ">\n#endif\n";
  if (language_of(self) == "Fortran") source = "include \"" + header + "\"\nend\n";
  return asked(e, a, probe_of(e, self, a, source, Probe::How::compile), header,
               "the header '" + text::printable_line(header) + "' is not there");
}

Value has_header_symbol(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const std::string header = e.text(a, 0);
  const std::string symbol = e.text(a, 1);
  const std::string source = prefix_of(e, a) + "#include <" + header + ">\nint main(void) {\n#ifndef " +
                             symbol.substr(0, symbol.find_first_of("(: ")) + "\n  " +
                             (language_of(self) == "C++" ? "using " + symbol + ";" : symbol + ";") +
                             "\n#endif\n  return 0;\n}\n";
  auto answer = ask(e, probe_of(e, self, a, source, Probe::How::compile), a, symbol);
  if (!answer.compiled && language_of(self) == "C++") {
    const std::string other = prefix_of(e, a) + "#include <" + header + ">\nint main(void) {\n#ifndef " + symbol +
                              "\n  " + symbol + ";\n#endif\n  return 0;\n}\n";
    answer = ask(e, probe_of(e, self, a, other, Probe::How::compile), a, symbol);
  }
  static_cast<void>(concluded(e, answer.compiled));
  return settled(e, a, answer.compiled,
                 "'" + text::printable_line(symbol) + "' is not in the header '" + text::printable_line(header) + "'");
}

Value has_function(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const std::string function = e.text(a, 0);
  const std::string before = prefix_of(e, a);
  const std::string stub = "#include <limits.h>\n#if defined __stub_" + function + " || defined __stub___" + function +
                           "\n#error it does nothing\n#endif\n";
  std::string source = before;
  if (function.starts_with("__builtin_"))
    // What the compiler does itself is in no library.
    source += "int main(void) {\n#if !__has_builtin(" + function + ")\n#error it is none\n#endif\n  return 0;\n}\n";
  else if (before.find("#include") != std::string::npos)
    // With a header the function has to be declared there.
    source += stub + "int main(void) { void* where = (void*)(&" + function + "); return !where; }\n";
  else
    // Without one it is linked by its name alone, however it is declared.
    source += "#undef " + function + "\n" + stub + (language_of(self) == "C++" ? "extern \"C\"\n" : "") + "char " +
              function + "(void);\nint main(void) { return " + function + "(); }\n";
  auto probe = probe_of(e, self, a, source, Probe::How::link);
  probe.compile_options.emplace_back("-fno-builtin");
  return asked(e, a, probe, function, "the function '" + text::printable_line(function) + "' is not there");
}

Value has_type(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const std::string type = e.text(a, 0);
  const std::string source = prefix_of(e, a) + "void use(void) { (void)sizeof(" + type + "); }\n";
  return asked(e, a, probe_of(e, self, a, source, Probe::How::compile), type,
               "the type '" + text::printable_line(type) + "' is not there");
}

Value has_members(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const std::string type = e.text(a, 0);
  std::string source = prefix_of(e, a) + "void use(void) {\n  " + type + " it;\n";
  std::string names;
  for (std::size_t i = 1; i < a.positional.size(); ++i) {
    source += "  (void)(it." + e.text(a, i) + ");\n";
    names += (names.empty() ? "" : ", ") + e.text(a, i);
  }
  return asked(e, a, probe_of(e, self, a, source + "}\n", Probe::How::compile), type + "." + names,
               "the type '" + text::printable_line(type) + "' has no " + text::printable_line(names));
}

// ---- numbers
// The value of an expression, worked out by the compiler alone: the object holds it between marks, digit by digit.
std::optional<std::int64_t> number_of(Evaluator& e, Self self, const Arguments& a, const std::string& before,
                                      const std::string& expression, const std::string& name) {
  const std::string source =
      before + "\n#define IT ((long long)(" + expression +
      "))\n#define ABSOLUTE (IT < 0 ? -(unsigned long long)IT : (unsigned long long)IT)\n"
      "#define DIGIT(n) (char)('0' + (ABSOLUTE / n) % 10)\n"
      "const char coctilis_value[] = {'b','e','g','i','n','-','v','a','l','u','e','[', IT < 0 ? '-' : '+',\n"
      "  DIGIT(1000000000000000000ULL), DIGIT(100000000000000000ULL), DIGIT(10000000000000000ULL), "
      "DIGIT(1000000000000000ULL),\n"
      "  DIGIT(100000000000000ULL), DIGIT(10000000000000ULL), DIGIT(1000000000000ULL), DIGIT(100000000000ULL), "
      "DIGIT(10000000000ULL),\n"
      "  DIGIT(1000000000ULL), DIGIT(100000000ULL), DIGIT(10000000ULL), DIGIT(1000000ULL), DIGIT(100000ULL), "
      "DIGIT(10000ULL),\n"
      "  DIGIT(1000ULL), DIGIT(100ULL), DIGIT(10ULL), DIGIT(1ULL), ']', 0};\n"
      "const char* coctilis_use(void) { return coctilis_value; }\n";
  auto probe = probe_of(e, self, a, source, Probe::How::compile);
  // The bytes have to stand in the object as they are.
  probe.compile_options.insert(probe.compile_options.end(), {"-fno-lto", "-O0"});
  const auto answer = ask(e, probe, a, name);
  const auto at = answer.object.find("begin-value[");
  if (!answer.compiled || at == std::string::npos || at + 32 > answer.object.size()) {
    e.locator.conclude("");
    return std::nullopt;
  }
  const std::string digits = answer.object.substr(at + 12, 20);
  std::int64_t value = 0;
  try {
    value = static_cast<std::int64_t>(std::stoll(digits));
  } catch (const std::logic_error&) {
    e.locator.conclude("");
    return std::nullopt;
  }
  e.locator.conclude(std::to_string(value));
  return value;
}

Value size_of(Evaluator& e, Self self, Arguments& a) {
  const std::string type = e.text(a, 0);
  const std::string before = "#include <stddef.h>\n" + prefix_of(e, a);
  if (a.name == "alignment")
    return number_of(e, self, a, before + "struct coctilis_pair { char first; " + type + " second; };\n",
                     "offsetof(struct coctilis_pair, second)", type)
        .value_or(-1);
  return number_of(e, self, a, before, "sizeof(" + type + ")", type).value_or(-1);
}

Value compute_int(Evaluator& e, Self self, Arguments& a) {
  const std::string expression = e.text(a, 0);
  const auto value = number_of(e, self, a, prefix_of(e, a), expression, expression);
  if (!value) e.fail(a, "the compiler cannot work out '" + text::clip(text::printable_line(expression), 80) + "'");
  return *value;
}

Value get_define(Evaluator& e, Self self, Arguments& a) {
  const std::string name = e.text(a, 0);
  // Its text, put between marks by the preprocessor and kept in the object.
  const std::string source =
      prefix_of(e, a) + "#define TEXT_OF(x) #x\n#define TEXT(x) TEXT_OF(x)\n#ifndef " + name +
      "\n#error it is not defined\n#endif\nconst char coctilis_value[] = \"begin-value[\" TEXT(" + name +
      ") \"]end-value\";\n"
      "const char* coctilis_use(void) { return coctilis_value; }\n";
  auto probe = probe_of(e, self, a, source, Probe::How::compile);
  probe.compile_options.insert(probe.compile_options.end(), {"-fno-lto", "-O0"});
  const auto answer = ask(e, probe, a, name);
  const auto begin = answer.object.find("begin-value[");
  const auto end = answer.object.find("]end-value");
  const bool found = answer.compiled && begin != std::string::npos && end != std::string::npos && begin < end;
  std::string value = found ? answer.object.substr(begin + 12, end - begin - 12) : "";
  e.locator.conclude(value);
  if (a.name == "has_define") return found;
  return value;
}

// ---- flags
bool takes(Evaluator& e, Self self, const Arguments& a, const std::vector<std::string>& words, bool linking) {
  Probe probe;
  probe.language = language_of(self);
  probe.how = linking ? Probe::How::link : Probe::How::compile;
  probe.source = probe.language == "Fortran" ? "program p\nend program\n" : "int main(void) { return 0; }\n";
  probe.compile_options = words;
  // The compiler takes any "-Wno-..." in silence, as long as nothing else is wrong.
  for (auto& word : probe.compile_options) {
    if (word.starts_with("-Wno-") && word != "-Wno-attributes" && !word.starts_with("-Wno-error") &&
        word.find('=') == std::string::npos)
      word = "-W" + word.substr(5);
  }
  if (linking) std::swap(probe.compile_options, probe.link_options);
  if (linking) probe.link_options = words;
  probe.compile_options.emplace_back("-Werror");
  if (compiler_of(e, self).family == "clang")
    probe.compile_options.insert(probe.compile_options.end(),
                                 {"-Wunknown-warning-option", "-Wunused-command-line-argument"});
  const auto answer = ask(e, probe, a, text::join(words, " "));
  const bool taken = answer.compiled && answer.output.find("unrecognized") == std::string::npos &&
                     answer.output.find("is valid for") == std::string::npos &&
                     answer.output.find("unknown option") == std::string::npos;
  return *concluded(e, taken).boolean();
}
bool is_about_linking(const Arguments& a) { return a.name.find("link_arg") != std::string::npos; }

Value has_argument(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const auto words = e.texts(flattened(a.positional), a);
  return settled(e, a, takes(e, self, a, words, is_about_linking(a)),
                 "the compiler does not take " + text::printable_line(text::join(words, " ")));
}
Value supported_arguments(Evaluator& e, Self self, Arguments& a) {
  Array out;
  const bool first = a.name.starts_with("first_");
  for (const auto& word : e.texts(flattened(a.positional), a)) {
    if (!takes(e, self, a, {word}, is_about_linking(a))) continue;
    out.emplace_back(word);
    if (first) break;
  }
  return out;
}

bool has_attribute(Evaluator& e, Self self, const Arguments& a, const std::string& name) {
  static const std::map<std::string, std::string> texts = {
      {"alias", "int foo(void) { return 0; }\nint bar(void) __attribute__((alias(\"foo\")));"},
      {"weakref", "static int foo(void) { return 0; }\nstatic int bar(void) __attribute__((weakref(\"foo\")));"},
      {"ifunc",
       "static int foo(void) { return 0; }\nstatic int (*choose(void))(void) { return foo; }\nint bar(void) "
       "__attribute__((ifunc(\"choose\")));"},
      {"aligned", "int foo(void) __attribute__((aligned(32)));"},
      {"alloc_size", "void* foo(int a) __attribute__((alloc_size(1)));"},
      {"cleanup",
       "static void end(int* x) { *x = 0; }\nint foo(void) { int x __attribute__((cleanup(end))) = 0; return x; }"},
      {"constructor_priority", "int foo(void) __attribute__((constructor(12345)));"},
      {"deprecated", "int foo(void) __attribute__((deprecated(\"\")));"},
      {"fallthrough",
       "int foo(int a) { switch (a) { case 1: a = 2; __attribute__((fallthrough)); case 2: break; } return a; }"},
      {"format", "int foo(const char* p, ...) __attribute__((format(printf, 1, 2)));"},
      {"format_arg", "char* foo(const char* p) __attribute__((format_arg(1)));"},
      {"nonnull", "int foo(char* p) __attribute__((nonnull(1)));"},
      {"optimize", "int foo(void) __attribute__((optimize(3)));"},
      {"packed", "struct __attribute__((packed)) foo { char a; int b; };"},
      {"sentinel", "int foo(const char* p, ...) __attribute__((sentinel));"},
      {"section", "int foo __attribute__((section(\".brick\"))) = 1;"},
      {"unused", "int foo(int a) __attribute__((unused));"},
      {"vector_size", "__attribute__((vector_size(32))) int foo;"},
      {"visibility", "int foo(void) __attribute__((visibility(\"default\")));"},
      {"visibility:default", "int foo(void) __attribute__((visibility(\"default\")));"},
      {"visibility:hidden", "int foo(void) __attribute__((visibility(\"hidden\")));"},
      {"visibility:internal", "int foo(void) __attribute__((visibility(\"internal\")));"},
      {"visibility:protected", "int foo(void) __attribute__((visibility(\"protected\")));"},
      {"warn_unused_result", "int foo(void) __attribute__((warn_unused_result));"},
      {"warning", "int foo(void) __attribute__((warning(\"\")));"},
      {"error", "int foo(void) __attribute__((error(\"\")));"},
      {"used", "int foo(void) __attribute__((used));"},
      {"retain", "int foo __attribute__((retain)) = 1;"},
      {"malloc", "void* foo(void) __attribute__((malloc));"},
      {"returns_nonnull", "void* foo(void) __attribute__((returns_nonnull));"},
      {"pure", "int foo(void) __attribute__((pure));"},
      {"const", "int foo(void) __attribute__((const));"}};
  if (name == "dllexport" || name == "dllimport") return false;
  const auto it = texts.find(name);
  const std::string source = (it == texts.end() ? "int foo(void) __attribute__((" + name + "));" : it->second) + "\n";
  Probe probe;
  probe.language = language_of(self);
  probe.source = source;
  probe.compile_options = {"-Werror", "-Wattributes"};
  return *concluded(e, ask(e, probe, a, name).compiled).boolean();
}
Value has_function_attribute(Evaluator& e, Self self, Arguments& a) {
  if (is_off(e, a)) return false;
  const std::string name = e.text(a, 0);
  return settled(e, a, has_attribute(e, self, a, name),
                 "the compiler does not know the attribute '" + text::printable_line(name) + "'");
}
Value supported_attributes(Evaluator& e, Self self, Arguments& a) {
  Array out;
  for (const auto& name : e.texts(flattened(a.positional), a)) {
    if (has_attribute(e, self, a, name)) out.emplace_back(name);
  }
  return out;
}

// ---- libraries
Value find_library(Evaluator& e, Self self, Arguments& a) {
  e.check_names(a,
                {"required", "dirs", "has_headers", "static", "disabler", "header_args", "header_include_directories",
                 "header_dependencies", "header_no_builtin_args", "header_prefix", "header_required"});
  auto out = std::make_shared<Dependency>();
  out->name = e.text(a, 0);
  const auto wanted = e.wanted(a);
  if (!wanted.off) {
    model::Requirement want;
    want.kind = model::RequirementKind::library;
    want.name = out->name;
    want.required = wanted.required;
    want.required_by = "find_library()";
    want.place = a.place;
    if (e.truth_or(a, "static", false)) want.form = "static";
    std::vector<std::string> folders = e.texts(a, "dirs");
    auto finding = e.locator.link_name(want, {folders});
    out->found = finding.found;
    // Some are part of the C library, and there is nothing left of them but the name.
    if (!out->found) {
      Probe probe;
      probe.language = language_of(self);
      probe.how = Probe::How::link;
      probe.source = "int main(void) { return 0; }\n";
      probe.link_options = {"-l" + out->name};
      if (out->name.find_first_of(" /") == std::string::npos && ask(e, probe, a, out->name).compiled) {
        static_cast<void>(concluded(e, true));
        out->found = finding.found = true;
        finding.how = "compiler check";
        finding.reason.clear();
        finding.package.clear();
      }
    }
    for (const auto& header : e.texts(a, "has_headers")) {
      if (!out->found) break;
      if (!ask(e,
               probe_of(e, self, {a.name, {}, {}, a.place}, prefix_of(e, a) + "#include <" + header + ">\n",
                        Probe::How::compile),
               a, header)
               .compiled) {
        static_cast<void>(concluded(e, false));
        out->found = finding.found = false;
        finding.reason = "the header '" + text::printable_line(header) + "' is not there";
      }
    }
    if (out->found) {
      for (const auto& folder : folders) out->usage.link_folders.push_back(folder);
      out->usage.link_items = {"-l" + out->name};
      if (want.form == "static" && files::is_file(finding.where)) out->usage.link_items = {finding.where};
    }
    e.locator.keep(std::move(finding));
  }
  if (!out->found && e.truth_or(a, "disabler", false)) return object(std::make_shared<Disabler>());
  return object(std::move(out));
}

// ---- what it is
Value get_id(Evaluator& e, Self self, Arguments&) { return compiler_of(e, self).family; }
Value get_linker_id(Evaluator& e, Self, Arguments&) {
  const std::string linker = base_name(e.locator.toolchain().linker);
  for (const char* one : {"gold", "lld", "mold"}) {
    if (linker.find(one) != std::string::npos) return std::string("ld.") + one;
  }
  return "ld.bfd";
}
Value get_argument_syntax(Evaluator&, Self, Arguments&) { return "gcc"; }
Value version(Evaluator& e, Self self, Arguments&) { return compiler_of(e, self).version; }
Value cmd_array(Evaluator& e, Self self, Arguments&) { return Array{Value(compiler_of(e, self).path)}; }
Value no(Evaluator&, Self, Arguments&) { return false; }
Value no_words(Evaluator&, Self, Arguments&) { return Array{}; }

}  // namespace

const MethodTable& compiler_methods() {
  static const MethodTable table = {{"compiles", compiles},
                                    {"links", compiles},
                                    {"runs", runs},
                                    {"run", runs},
                                    {"has_header", has_header},
                                    {"check_header", has_header},
                                    {"has_header_symbol", has_header_symbol},
                                    {"has_function", has_function},
                                    {"has_type", has_type},
                                    {"has_member", has_members},
                                    {"has_members", has_members},
                                    {"sizeof", size_of},
                                    {"alignment", size_of},
                                    {"compute_int", compute_int},
                                    {"get_define", get_define},
                                    {"has_define", get_define},
                                    {"has_argument", has_argument},
                                    {"has_multi_arguments", has_argument},
                                    {"has_link_argument", has_argument},
                                    {"has_multi_link_arguments", has_argument},
                                    {"get_supported_arguments", supported_arguments},
                                    {"first_supported_argument", supported_arguments},
                                    {"get_supported_link_arguments", supported_arguments},
                                    {"first_supported_link_argument", supported_arguments},
                                    {"has_function_attribute", has_function_attribute},
                                    {"get_supported_function_attributes", supported_attributes},
                                    {"find_library", find_library},
                                    {"get_id", get_id},
                                    {"get_linker_id", get_linker_id},
                                    {"get_argument_syntax", get_argument_syntax},
                                    {"version", version},
                                    {"cmd_array", cmd_array},
                                    {"symbols_have_underscore_prefix", no},
                                    {"unittest_args", no_words}};
  return table;
}

}  // namespace coctilis::describe::meson_build
