#include "describe/meson_build/options.h"

#include <algorithm>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"

namespace coctilis::describe::meson_build {

namespace {

// Options that every project has, with what they are when nobody says otherwise. Those of the system's compilers that
// make no difference to what is built are not among them.
const std::map<std::string, std::string>& every_project() {
  static const std::map<std::string, std::string> table = {
      {"prefix", "/usr/local"},
      {"bindir", "bin"},
      {"sbindir", "sbin"},
      {"libdir", "lib"},
      {"libexecdir", "libexec"},
      {"includedir", "include"},
      {"datadir", "share"},
      {"mandir", "share/man"},
      {"infodir", "share/info"},
      {"licensedir", ""},
      {"localedir", "share/locale"},
      {"sysconfdir", "etc"},
      {"localstatedir", "var"},
      {"sharedstatedir", "com"},
      {"buildtype", "release"},
      {"debug", ""},  // these two follow from it
      {"optimization", ""},
      {"default_library", "shared"},
      {"default_both_libraries", "shared"},
      {"warning_level", "1"},
      {"werror", "false"},
      {"auto_features", "auto"},
      {"strip", "false"},
      {"unity", "off"},
      {"layout", "mirror"},
      {"backend", "none"},
      {"wrap_mode", "nodownload"},
      {"errorlogs", "true"},
      {"stdsplit", "true"},
      {"install_umask", "022"},
      {"prefer_static", "false"},
      {"pkg_config_path", ""},
      {"b_ndebug", "false"},
      {"b_lto", "false"},
      {"b_pie", "false"},
      {"b_pch", "true"},
      {"b_pgo", "off"},
      {"b_staticpic", "true"},
      {"b_lundef", "true"},
      {"b_asneeded", "true"},
      {"b_sanitize", "none"},
      {"b_coverage", "false"},
      {"b_colorout", "always"},
      {"b_vscrt", "none"},
      {"b_bitcode", "false"},
      {"c_std", "none"},
      {"cpp_std", "none"},
      {"fortran_std", "none"},
      {"cpp_eh", "default"},
      {"cpp_rtti", "true"},
      {"cpp_debugstl", "false"},
      {"c_args", ""},
      {"cpp_args", ""},
      {"c_link_args", ""},
      {"cpp_link_args", ""},
      {"python.install_env", "prefix"},
      {"python.platlibdir", ""},
      {"python.purelibdir", ""},
      {"pkgconfig.relocatable", "false"},
  };
  return table;
}

bool is_truth(const std::string& name) {
  static const std::set<std::string> truths = {"werror",   "strip",        "errorlogs",     "stdsplit",
                                               "b_lto",    "b_pie",        "b_pch",         "b_staticpic",
                                               "b_lundef", "b_asneeded",   "b_coverage",    "b_bitcode",
                                               "cpp_rtti", "cpp_debugstl", "prefer_static", "pkgconfig.relocatable",
                                               "debug"};
  return truths.contains(name);
}

Value feature(const std::string& name, const std::string& state) {
  return object(std::make_shared<Feature>(state == "enabled"    ? Feature::State::enabled
                                          : state == "disabled" ? Feature::State::disabled
                                                                : Feature::State::automatic,
                                          name));
}

// A value as somebody writes it on a command line, for an option that has a value of its kind; null: it does not fit.
std::optional<Value> value_like(const Value& like, const std::string& text) {
  if (const auto held = like.as<Feature>()) {
    if (text != "enabled" && text != "disabled" && text != "auto") return std::nullopt;
    return feature(held->name, text);
  }
  if (like.boolean() != nullptr) {
    const std::string lower = text::lower(text);
    if (lower != "true" && lower != "false") return std::nullopt;
    return Value(lower == "true");
  }
  if (like.number() != nullptr) {
    try {
      std::size_t used = 0;
      const auto number = static_cast<std::int64_t>(std::stoll(text, &used));
      return used == text.size() ? std::optional<Value>(number) : std::nullopt;
    } catch (const std::logic_error&) {
      return std::nullopt;
    }
  }
  if (like.array() != nullptr) {
    Array out;
    std::string plain = text;
    if (plain.starts_with('[') && plain.ends_with(']')) plain = plain.substr(1, plain.size() - 2);
    for (const auto& one : text::split(plain, ',')) {
      std::string word(text::trim(one));
      if (word.size() > 1 && word.front() == '\'' && word.back() == '\'') word = word.substr(1, word.size() - 2);
      if (!word.empty()) out.emplace_back(word);
    }
    return Value(std::move(out));
  }
  return Value(text);
}

// Whether anything is called in it, `outer` itself aside: lists of options are made of plain values.
bool has_call(const Node& node, bool outer) {
  if (!outer && node.kind == Node::Kind::call) return true;
  return std::any_of(node.children.begin(), node.children.end(),
                     [](const auto& one) { return has_call(*one, false); }) ||
         std::any_of(node.named.begin(), node.named.end(),
                     [](const auto& one) { return has_call(*one.second, false); }) ||
         std::any_of(node.keyed.begin(), node.keyed.end(),
                     [](const auto& one) { return has_call(*one.first, false) || has_call(*one.second, false); });
}

// As users name it: options of subprojects with the folder of that before them.
std::string shown_option(const ProjectScope& scope, const std::string& name) {
  return scope.is_subproject ? scope.key() + ":" + name : name;
}

// Why the option cannot be that, as what to say instead; empty: it can.
std::string remedy_for(const DeclaredOption& option, const std::optional<Value>& value) {
  if (option.value.as<Feature>()) return value ? "" : "say enabled, disabled or auto";
  if (option.value.boolean() != nullptr) return value ? "" : "say true or false";
  if (option.value.number() != nullptr) {
    const std::string least = option.least ? " of at least " + std::to_string(*option.least) : "";
    const std::string most =
        option.most ? (least.empty() ? " of" : " and") + std::string(" at most ") + std::to_string(*option.most) : "";
    const bool good = value && (!option.least || *value->number() >= *option.least) &&
                      (!option.most || *value->number() <= *option.most);
    return good ? "" : "say a number" + least + most;
  }
  if (option.choices.empty()) return {};
  for (const auto& one : flattened(*value)) {
    if (!lists::contains(option.choices, *one.text())) return "say one of " + text::join(option.choices, ", ");
  }
  return {};
}

std::pair<std::string, std::string> halves(const std::string& word) {
  const auto equals = word.find('=');
  return equals == std::string::npos ? std::make_pair(word, std::string("true"))
                                     : std::make_pair(word.substr(0, equals), word.substr(equals + 1));
}

}  // namespace

void set_default_options(Evaluator& e, const std::vector<std::string>& defaults) {
  auto& scope = e.scope();
  for (const auto& word : defaults) {
    auto [name, value] = halves(word);
    if (name.find(':') != std::string::npos) {
      e.for_subprojects[name] = value;
      continue;
    }
    if (every_project().contains(name))
      scope.built_in.try_emplace(name, value);
    else
      scope.defaults.emplace_back(name, value);
  }
}

void Evaluator::declare_option(const Statement& statement) {
  const auto& node = statement.value;
  if (statement.kind != Statement::Kind::expression || node->kind != Node::Kind::call || node->text != "option" ||
      has_call(*node, true))
    throw Fault({Exit::description,
                 place_of(statement.line),
                 "here only option(...) is expected",
                 {},
                 "correct the file there",
                 {}});
  Arguments a = arguments_of(*node, 0);
  check_names(a, {"type", "value", "choices", "description", "min", "max", "yield", "deprecated"});
  const std::string name = text(a, 0);
  const std::string type = text_or(a, "type");
  const Value* given = a.find("value");
  Value value;
  if (type == "boolean") {
    value = given == nullptr ? Value(true) : *given;
    if (value.text() != nullptr) value = Value(*value.text() == "true");
  } else if (type == "integer") {
    value = given == nullptr ? Value(std::int64_t{0}) : *given;
  } else if (type == "string") {
    value = given == nullptr ? Value("") : *given;
  } else if (type == "combo") {
    const auto choices = texts(a, "choices");
    value = given != nullptr ? *given : choices.empty() ? Value("") : Value(choices.front());
  } else if (type == "array") {
    value = given != nullptr ? *given : Value(Array{});
    if (given == nullptr) {
      Array all;
      for (const auto& one : texts(a, "choices")) all.emplace_back(one);
      value = Value(std::move(all));
    } else if (value.text() != nullptr) {
      value = *value_like(Value(Array{}), *value.text());
    }
  } else if (type == "feature") {
    value = feature(name, text_or(a, "value", "auto"));
  } else {
    unknown(a, "the type '" + text::clip(text::printable_line(type), 40) + "' of an option is not known here");
  }
  DeclaredOption declared{value, texts(a, "choices"), std::nullopt, std::nullopt};
  if (a.find("min") != nullptr) declared.least = number_or(a, "min", 0);
  if (a.find("max") != nullptr) declared.most = number_or(a, "max", 0);
  // The same option of the project above decides, where it has one of the kind.
  if (truth_or(a, "yield", false) && scope_->is_subproject) {
    if (const auto it = top->options.find(name); it != top->options.end()) declared.value = it->second.value;
  }
  model::Option option;
  option.name = shown_option(*scope_, name);
  option.type = type == "boolean" ? "switch" : "text";
  option.help = text::printable_line(text_or(a, "description"));
  if (type == "combo") option.help += (option.help.empty() ? "" : "; ") + text::join(texts(a, "choices"), ", ");
  if (type == "feature") option.help += option.help.empty() ? "enabled, disabled, auto" : "; enabled, disabled, auto";
  option.place = a.place;
  option.initial = value.as<Feature>() ? text_or(a, "value", "auto") : meson_build::shown(value);
  option.value = option.initial;
  scope_->options[name] = std::move(declared);
  project.options.push_back(std::move(option));
}

// option('name', type : ..., value : ...), and nothing else.
void Evaluator::read_options(const std::string& file) {
  const std::string shown = shown_path(file);
  const auto content = files::read(file);
  if (!content) return;
  if (files_read_.insert(file).second) project.read_files.push_back(file);
  const std::string outer = std::exchange(file_, shown);
  for (const auto& statement : parse(*content, shown)) {
    try {
      declare_option(statement);
    } catch (const TooLong&) {
      fail_at(statement.line, "a list or a text gets too long");
    }
  }
  file_ = outer;
}

void settle_options(Evaluator& e) {
  auto& scope = e.scope();
  // False when nothing has the name.
  const auto set = [&](const std::string& name, const std::string& text, const Place& place) {
    const auto it = scope.options.find(name);
    if (it == scope.options.end()) {
      const bool known = every_project().contains(name);
      if (known) scope.built_in[name] = text;
      return known;
    }
    auto value = value_like(it->second.value, text);
    if (const std::string remedy = remedy_for(it->second, value); !remedy.empty())
      throw Fault({Exit::usage,
                   place,
                   "the option '" + shown_option(scope, name) + "' cannot be '" +
                       text::clip(text::printable_line(text), 80) + "'",
                   {},
                   remedy,
                   {}});
    it->second.value = std::move(*value);
    for (auto& option : e.project.options) {
      if (option.name == shown_option(scope, name)) option.value = text;
    }
    return true;
  };
  const Place here = {e.shown_path(scope.folder + "/meson.build"), 0, 0};
  const auto set_here = [&](const std::string& name, const std::string& text) {
    if (!set(name, text, here))
      e.warn(here, "there is no option '" + text::clip(text::printable_line(name), 60) + "' to be given a value");
  };
  for (const auto& [name, value] : scope.defaults) set_here(name, value);
  const std::string own = scope.key() + ":";
  if (scope.is_subproject) {
    for (const auto& [name, value] : e.for_subprojects) {
      if (name.starts_with(own)) set_here(name.substr(own.size()), value);
    }
  }
  // What the user sets: those of a subproject by its folder; of those that all have, one for all.
  const auto& settings = e.locator.settings();
  for (const auto& [name, value] : settings.options) {
    const auto it = settings.option_places.find(name);
    const Place place = it == settings.option_places.end() ? Place{} : it->second;
    const bool of_another = name.find(':') != std::string::npos;
    bool heeded = false;
    if (!of_another && (!scope.is_subproject || every_project().contains(name)))
      heeded = set(name, value, place);
    else if (scope.is_subproject && name.starts_with(own))
      heeded = set(name.substr(own.size()), value, place);
    if (heeded) e.options_heeded.insert(name);
  }
  // Features that nobody has decided are decided all at once.
  const std::string automatic = e.built_in("auto_features");
  if (automatic == "enabled" || automatic == "disabled") {
    for (auto& [name, option] : scope.options) {
      const auto held = option.value.as<Feature>();
      if (held && held->state == Feature::State::automatic) option.value = feature(name, automatic);
    }
  }
}

std::string Evaluator::built_in(const std::string& name) const {
  const auto value_in = [&](const ProjectScope& in) -> const std::string* {
    const auto it = in.built_in.find(name);
    return it == in.built_in.end() ? nullptr : &it->second;
  };
  const std::string* own = value_in(*scope_);
  if (own == nullptr && top) own = value_in(*top);
  if (name == "buildtype") {
    if (variant.debug()) return "debug";
    if (own != nullptr && *own != "debug" && *own != "custom") return *own;
    return "release";
  }
  if (name == "debug") {
    const std::string type = built_in("buildtype");
    return type == "debug" || type == "debugoptimized" ? "true" : "false";
  }
  if (name == "optimization") {
    if (own != nullptr && !variant.debug()) return *own;
    const std::string type = built_in("buildtype");
    return type == "debug"            ? "0"
           : type == "minsize"        ? "s"
           : type == "plain"          ? "plain"
           : type == "debugoptimized" ? "2"
                                      : "3";
  }
  if (own != nullptr) return *own;
  const auto it = every_project().find(name);
  return it == every_project().end() ? "" : it->second;
}

Value Evaluator::option(const std::string& name, const Arguments& a) const {
  if (const auto it = scope_->options.find(name); it != scope_->options.end()) return it->second.value;
  if (!every_project().contains(name)) {
    if (name.ends_with("_std") || name.ends_with("_args"))
      return Value(name.ends_with("_std") ? Value("none") : Value(Array{}));
    fail(a, "there is no option '" + text::clip(text::printable_line(name), 60) + "'");
  }
  const std::string value = built_in(name);
  if (is_truth(name)) return value == "true";
  if (name.ends_with("_args") || name == "pkg_config_path") {
    Array out;
    for (const auto& one : text::words(value)) out.emplace_back(one);
    return out;
  }
  if (name == "auto_features") return feature(name, value);
  return value;
}

std::string Evaluator::below_prefix(const std::string& path) const {
  const std::string prefix = built_in("prefix");
  if (!path.starts_with('/')) return path;
  const std::string full = files::absolute(path);
  if (full == prefix) return ".";
  return files::is_below(full, prefix) ? files::below(full, prefix) : full;
}

std::string Evaluator::install_folder(const Arguments& a, const std::string& key, const std::string& fallback) const {
  const auto given = list(a, key);
  std::string folder;
  if (!given.empty() && given[0].text() != nullptr) folder = *given[0].text();
  if (folder.empty()) folder = built_in(fallback);
  return below_prefix(folder);
}

std::vector<std::string> Evaluator::variant_options() const {
  std::vector<std::string> out;
  const std::string level = built_in("optimization");
  if (level != "plain") out.push_back("-O" + level);
  if (built_in("debug") == "true") out.emplace_back("-g");
  const std::string asserts = built_in("b_ndebug");
  const std::string type = built_in("buildtype");
  if (asserts == "true" || (asserts == "if-release" && (type == "release" || type == "plain")))
    out.emplace_back("-DNDEBUG");
  return out;
}

std::string Evaluator::standard_of(const std::string& language) const {
  const std::string value = built_in(language == "C" ? "c_std" : language == "C++" ? "cpp_std" : "fortran_std");
  // Several, of which the first that is known counts.
  for (const auto& one : text::split(value, ',')) {
    const std::string word(text::trim(one));
    if (word.empty() || word == "none") continue;
    if (word == "vc++latest" || word == "c++latest") continue;
    return word;
  }
  return {};
}

}  // namespace coctilis::describe::meson_build
