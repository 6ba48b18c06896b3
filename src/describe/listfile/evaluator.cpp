#include "describe/listfile/evaluator.h"

#include "base/files.h"
#include "base/lists.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/lower/lower.h"
#include "describe/listfile/tool.h"

namespace coctilis::describe::listfile {

namespace {
// Where one of three characters stands first. The library's own search is slow on the short texts that words are.
std::size_t first_of(std::string_view text, char a, char b, char c, std::size_t from = 0) {
  for (std::size_t i = from; i < text.size(); ++i) {
    if (text[i] == a || text[i] == b || text[i] == c) return i;
  }
  return std::string::npos;
}
}  // namespace

std::vector<std::string> Invocation::texts(std::size_t from) const {
  std::vector<std::string> out;
  for (std::size_t i = from; i < words.size(); ++i) out.push_back(words[i].text);
  return out;
}

std::pair<std::string, bool> time_form(const std::vector<std::string>& words, std::size_t at) {
  const bool universal = words.size() > at && words.back() == "UTC";
  if (words.size() > at && words[at] != "UTC") return {words[at], universal};
  return {universal ? "%Y-%m-%dT%H:%M:%SZ" : "%Y-%m-%dT%H:%M:%S", universal};
}

std::string strip_expressions(const std::string& text) {
  std::string out;
  int depth = 0;
  for (std::size_t k = 0; k < text.size(); ++k) {
    if (text.compare(k, 2, "$<") == 0) {
      ++depth;
      ++k;
    } else if (depth > 0 && text[k] == '>') {
      --depth;
    } else if (depth == 0) {
      out += text[k];
    }
  }
  return out;
}

Keywords keywords(const std::vector<std::string>& words, const std::vector<std::string>& flags,
                  const std::vector<std::string>& one, const std::vector<std::string>& many) {
  const auto in = [](const std::vector<std::string>& list, const std::string& word) {
    return std::find(list.begin(), list.end(), word) != list.end();
  };
  Keywords out;
  std::string single;
  std::vector<std::string>* list = nullptr;
  for (const auto& word : words) {
    if (in(flags, word)) {
      out.flags.insert(word);
      single.clear();
      list = nullptr;
    } else if (in(one, word)) {
      single = word;
      list = nullptr;
    } else if (in(many, word)) {
      single.clear();
      list = &out.many[word];
    } else if (!single.empty()) {
      out.one[single] = word;
      single.clear();
    } else if (list != nullptr) {
      list->push_back(word);
    } else {
      out.rest.push_back(word);
    }
  }
  return out;
}

Evaluator::Evaluator(locate::Locator& the_locator, const model::Survey& the_survey, std::string root,
                     const Limits& limits)
    : locator(the_locator), survey(the_survey), tree(the_survey.tree), binary_root(std::move(root)), limits_(limits) {}

// ---- variables -----------------------------------------------------------------------------------------------------

const std::string* Evaluator::find(const std::string& name) const {
  for (const Scope* scope = scope_; scope != nullptr; scope = scope->parent) {
    if (const auto it = scope->variables.find(name); it != scope->variables.end()) {
      if (it->second) return &*it->second;
      break;
    }
  }
  const auto it = cache.find(name);
  return it == cache.end() ? nullptr : &it->second.value;
}

std::string Evaluator::value(const std::string& name) const {
  const std::string* found = find(name);
  return found == nullptr ? std::string{} : *found;
}

void Evaluator::append_element(const std::string& name, const std::string& text) {
  auto it = scope_->variables.find(name);
  if (it == scope_->variables.end() || !it->second) {
    const std::string* before = find(name);
    std::string start = before == nullptr ? std::string{} : *before;
    it = scope_->variables.insert_or_assign(name, std::move(start)).first;
  }
  std::string& list = *it->second;
  if (!list.empty()) list += ';';
  list += text;
}

bool Evaluator::on(const std::string& name) const {
  const std::string* found = find(name);
  return found != nullptr && !is_false(*found);
}

void Evaluator::set_in_parent(const std::string& name, std::optional<std::string> value) {
  if (scope_->parent != nullptr) scope_->parent->variables[name] = std::move(value);
}

void Evaluator::set_cache(const std::string& name, const std::string& value, const std::string& type,
                          const std::string& help, bool force, const Place& place) {
  auto [it, fresh] = cache.try_emplace(name);
  CacheEntry& entry = it->second;
  const bool untyped = entry.type.empty();
  // A relative path that the user gave counts from where the user stands.
  if (fresh || force)
    entry.value = value;
  else if (untyped && entry.from_user && (type == "PATH" || type == "FILEPATH") && !entry.value.empty())
    entry.value = files::absolute(entry.value);
  if (untyped || fresh || force) {
    entry.type = type;
    entry.help = help;
  }
  if (!entry.declared) {
    entry.declared = true;
    entry.initial = value;
    entry.place = place;
  }
}

std::string Evaluator::environment_value(const std::string& name, bool* is_set) const {
  if (is_set != nullptr) *is_set = true;
  if (const auto it = environment.find(name); it != environment.end()) {
    if (is_set != nullptr) *is_set = it->second.has_value();
    return it->second.value_or("");
  }
  const char* found = std::getenv(name.c_str());
  if (is_set != nullptr) *is_set = found != nullptr;
  return found == nullptr ? std::string{} : found;
}

std::vector<std::string> Evaluator::variable_names() const {
  std::map<std::string, bool> seen;
  for (const Scope* scope = scope_; scope != nullptr; scope = scope->parent) {
    for (const auto& [name, value] : scope->variables) seen.emplace(name, value.has_value());
  }
  for (const auto& [name, entry] : cache) seen.emplace(name, true);
  std::vector<std::string> out;
  for (const auto& [name, is_set] : seen) {
    if (is_set) out.push_back(name);
  }
  return out;
}

std::unique_ptr<Scope> Evaluator::push_scope() {
  auto scope = std::make_unique<Scope>();
  scope->parent = scope_;
  scope_ = scope.get();
  return scope;
}

void Evaluator::pop_scope(std::unique_ptr<Scope> scope) { scope_ = scope->parent; }

// ---- words ---------------------------------------------------------------------------------------------------------

void Evaluator::expand_reference(const std::string& text, std::size_t& at, std::string& out, const Place& place) {
  if (++reference_depth_ > 200)
    fail(place, "references are nested more than 200 deep", "look at the text that stands here");
  struct Leave {
    int& depth;
    ~Leave() { --depth; }
  } leave{reference_depth_};
  // at stands on '$' of "${", "$ENV{" or "$CACHE{".
  const auto open = text.find('{', at);
  const std::string_view space(text.data() + at + 1, open - at - 1);
  std::size_t i = std::min(first_of(text, '}', '$', '\\', open + 1), text.size());
  std::string name(text, open + 1, i - open - 1);
  while (i < text.size() && text[i] != '}') {
    if (text[i] == '$' &&
        (text.compare(i, 2, "${") == 0 || text.compare(i, 5, "$ENV{") == 0 || text.compare(i, 7, "$CACHE{") == 0)) {
      expand_reference(text, i, name, place);
    } else if (text[i] == '\\' && i + 1 < text.size()) {
      name += text[i + 1];
      i += 2;
    } else {
      name += text[i++];
    }
  }
  if (i >= text.size())
    fail(place, "'${' without '}' in \"" + text::printable_line(text) + "\"", "close the reference");
  at = i + 1;
  const auto before = out.size();
  if (space == "ENV") {
    out += environment_value(name);
  } else if (space == "CACHE") {
    if (const auto it = cache.find(name); it != cache.end()) out += it->second.value;
  } else if (const std::string* found = find(name)) {
    out += *found;
  } else if (name == "CMAKE_CURRENT_LIST_LINE") {
    out += std::to_string(place.line);
  }
  count_text(out.size(), out.size() - before, place);
}

std::string Evaluator::expand(const std::string& text, const Place& place, bool at_references) {
  if (first_of(text, '$', '\\', at_references ? '@' : '$') == std::string::npos) return text;
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    const char c = text[i];
    if (c == '$' &&
        (text.compare(i, 2, "${") == 0 || text.compare(i, 5, "$ENV{") == 0 || text.compare(i, 7, "$CACHE{") == 0)) {
      expand_reference(text, i, out, place);
    } else if (c == '\\' && i + 1 < text.size()) {
      const char next = text[i + 1];
      if (next == 't')
        out += '\t';
      else if (next == 'n')
        out += '\n';
      else if (next == 'r')
        out += '\r';
      else if (next == ';')
        out += "\\;";
      else if (std::isalnum(static_cast<unsigned char>(next)) == 0)
        out += next;
      else
        fail(place, std::string("'\\") + next + "' means nothing", "write '\\\\' for a backslash");
      i += 2;
    } else {
      const auto next = std::min(first_of(text, '$', '\\', '$', i + 1), text.size());
      out.append(text, i, next - i);
      i = next;
    }
  }
  return out;
}

namespace {
std::string with_macro_arguments(const std::string& text, const std::map<std::string, std::string>& arguments) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    if (text.compare(i, 2, "${") == 0) {
      const auto end = text.find('}', i);
      if (end != std::string::npos) {
        const auto it = arguments.find(text.substr(i + 2, end - i - 2));
        if (it != arguments.end()) {
          out += it->second;
          i = end + 1;
          continue;
        }
      }
    }
    out += text[i++];
  }
  return out;
}
}  // namespace

std::vector<Word> Evaluator::expand_arguments(const std::vector<Argument>& arguments, const Place& at) {
  std::vector<Word> out;
  out.reserve(arguments.size());
  std::optional<Place> elsewhere;
  for (const auto& argument : arguments) {
    const bool quoted = argument.kind != Argument::Kind::unquoted;
    if (argument.plain || argument.kind == Argument::Kind::bracket) {
      out.push_back({argument.text, quoted});
      continue;
    }
    if (argument.line != at.line) elsewhere = Place{at.file, argument.line, 0};
    const Place& place = argument.line != at.line ? *elsewhere : at;
    std::string text = macro_arguments_ != nullptr
                           ? expand(with_macro_arguments(argument.text, *macro_arguments_), place)
                           : expand(argument.text, place);
    if (quoted || (!text.empty() && first_of(text, ';', '\\', ';') == std::string::npos)) {
      // In quotes "\;" is kept by reference expansion for lists; as a word on its own it stays so.
      out.push_back({std::move(text), quoted});
    } else {
      if (text.size() > (1U << 20U) &&
          out.size() + static_cast<std::size_t>(std::count(text.begin(), text.end(), ';')) > most_words)
        fail(place, "a call has more than " + text::grouped(most_words) + " words",
             "look for a list that grows without end");
      for (auto& element : list_elements(text, false)) out.push_back({std::move(element), false});
    }
  }
  return out;
}

std::vector<Argument> Evaluator::written_arguments(const Invocation& i, std::size_t leave_out) {
  std::vector<Argument> out;
  // A call that another one makes up is written nowhere: its words are what they are.
  const bool written = standing_.body != nullptr && [&] {
    const auto words = expand_arguments(standing_.body->at(standing_.at).call.arguments, i.place);
    return std::equal(words.begin(), words.end(), i.words.begin(), i.words.end(),
                      [](const Word& a, const Word& b) { return a.text == b.text; });
  }();
  if (!written) {
    for (std::size_t k = leave_out; k < i.size(); ++k) out.push_back({Argument::Kind::bracket, i[k], i.place.line});
    return out;
  }
  const auto& all = standing_.body->at(standing_.at).call.arguments;
  for (const auto& argument : all) {
    if (leave_out > 0) {
      leave_out -= std::min(leave_out, expand_arguments({argument}, i.place).size());
      continue;
    }
    out.push_back(argument);
    if (macro_arguments_ != nullptr && argument.kind != Argument::Kind::bracket) {
      out.back().text = with_macro_arguments(argument.text, *macro_arguments_);
      out.back().plain = false;
    }
  }
  return out;
}

std::string Evaluator::language_flags(const std::string& language) const {
  return value("CMAKE_" + language + "_FLAGS") + " " +
         value("CMAKE_" + language + "_FLAGS_" + text::upper(configuration()));
}

std::string Evaluator::configuration() const { return value("CMAKE_BUILD_TYPE"); }

// ---- failures ------------------------------------------------------------------------------------------------------

void Evaluator::fail(const Place& place, const std::string& what, const std::string& remedy,
                     const std::string& cause) const {
  Problem problem{Exit::description, place, what, cause, remedy, {}};
  for (auto it = stack_.rbegin(); it != stack_.rend(); ++it)
    problem.trail.push_back(it->first + " at " + it->second.text());
  throw Fault(problem);
}

void Evaluator::not_understood(const Invocation& i, const std::string& construct) const {
  try {
    fail(i.place, construct + " is not understood yet",
         "the rest of the description is not looked at, because its meaning may depend on this");
  } catch (const Fault& fault) {
    Problem problem = fault.problem();
    problem.not_understood = true;
    throw Fault(problem);
  }
}

void Evaluator::need(const Invocation& i, std::size_t words, const std::string& usage) const {
  if (i.size() < words) fail(i.place, "'" + i.name + "' has too few arguments", "write " + usage);
}

void Evaluator::warn(const Place& place, const std::string& what, const std::string& remedy) {
  project.warnings.push_back({Exit::done, place, what, {}, remedy, {}});
}

// ---- folders -------------------------------------------------------------------------------------------------------

Directory* Evaluator::directory_of(const std::string& path) {
  const std::string absolute = source_path(path);
  for (auto& folder : directories) {
    if (folder->source == absolute || folder->binary == absolute) return folder.get();
  }
  return nullptr;
}

std::string Evaluator::source_path(const std::string& path) const {
  std::string out = files::absolute(path, directory_ == nullptr ? tree : directory_->source);
  if (!project.overlaid.empty()) {
    if (const auto it = project.overlaid.find(out); it != project.overlaid.end()) return it->second;
  }
  return out;
}
std::string Evaluator::binary_path(const std::string& path) const {
  return files::absolute(path, directory_ == nullptr ? binary_root : directory_->binary);
}
std::string Evaluator::shown(const std::string& path) const { return files::below(path, tree); }

std::string kiln_of(const std::string& work) { return std::filesystem::path(work).parent_path().string(); }

Place Evaluator::shown_place(const std::string& file, int line, int column) {
  if (last_shown_.first != file) last_shown_ = {file, shown(file)};
  return {last_shown_.second, line, column};
}

std::string Evaluator::writable(const std::string& path, const Place& place) {
  if (files::lies_below(path, binary_root)) return path;
  if (files::is_below(path, binary_root) || (in_copy && !files::lies_below(path, tree))) {
    // Through a link in the output folder: what counts is where it leads.
    std::error_code error;
    const auto parent = std::filesystem::weakly_canonical(std::filesystem::path(path).parent_path(), error);
    const std::string real = (parent / std::filesystem::path(path).filename()).string();
    if (!error && real != path && files::is_below(real, tree)) return writable(real, place);
    fail(place, "the description writes to '" + shown(path) + "', outside its output folder",
         "a link on the way leads out of it", "only the output folder is written to");
  }
  if (!files::is_below(path, tree) || path == tree || files::is_below(path, tree + "/.git"))
    fail(place, "the description writes to '" + shown(path) + "', outside its output folder", "",
         "only the output folder is written to");
  if (in_copy) return path;
  if (script) kept_from_writing("a script of the description writes '" + shown(path) + "'", place);
  if (const auto it = project.overlaid.find(path); it != project.overlaid.end()) return it->second;
  const std::string instead = binary_root + "/.tree/" + files::below(path, tree);
  project.overlaid[path] = instead;
  warn(place, "the description writes '" + shown(path) + "' into the source tree; it goes to " +
                  files::below(instead, binary_root) + " of the output folder, which is looked into first");
  return instead;
}

void Evaluator::rule_makes(const std::string& path, const Rule& rule, const Place& place) {
  if (files::is_below(path, binary_root) || !files::is_below(path, tree)) return;
  for (const auto& command : rule.commands) {
    for (const auto& word : command.words) {
      if (word.text.find(path) != std::string::npos) return;
    }
  }
  kept_from_writing("the description makes '" + shown(path) + "'", place);
}

void Evaluator::kept_from_writing(const std::string& what, const Place& place) const {
  if (!in_copy) throw NeedsCopy{{Exit::done, place, what + " in the source tree", {}, {}, {}}};
}

const Confinement& Evaluator::confinement() {
  if (!confinement_) {
    confinement_ = confinement_of(tree, kiln_of(binary_root));
    if (const auto it = confinement_->environment.find("TMPDIR"); it != confinement_->environment.end())
      files::make_folder(it->second);
  }
  return *confinement_;
}

// ---- declarations --------------------------------------------------------------------------------------------------

Target* Evaluator::target(const std::string& name) {
  return const_cast<Target*>(project.target(name));  // NOLINT: the project is ours
}

Target& Evaluator::need_target(const std::string& name, const Invocation& i) {
  Target* found = target(name);
  if (found == nullptr)
    fail(i.place, "'" + i.name + "' names a target '" + name + "' that is not declared",
         "declare it before, or check the spelling");
  return *found;
}

void Evaluator::name_result(Target& target) const {
  const std::string kind = target.kind == model::TargetKind::program          ? "EXECUTABLE"
                           : target.kind == model::TargetKind::static_library ? "STATIC_LIBRARY"
                           : target.kind == model::TargetKind::module_library ? "SHARED_MODULE"
                                                                              : "SHARED_LIBRARY";
  target.usual_prefix = value("CMAKE_" + kind + "_PREFIX");
  target.usual_suffix = value("CMAKE_" + kind + "_SUFFIX");
}

Target& Evaluator::add_target(const std::string& name, model::TargetKind kind, const Invocation& i) {
  if (name.empty()) fail(i, "a target without a name");
  if (const auto it = project.target_index.find(name); it != project.target_index.end()) {
    auto& other = project.targets[it->second];
    if (other.imported) {
      // One from outside gives way to the tree's own of the same name.
      warn(i.place, "the target '" + name + "' of the tree takes the place of the installed one");
      other.name += " (installed)";
      project.target_index[other.name] = it->second;
    } else
      fail(i.place, "the target '" + name + "' is declared a second time", "rename one of the two",
           "the first stands at " + other.place.text());
  }
  Target target;
  target.name = name;
  target.kind = kind;
  name_result(target);
  target.place = i.place;
  target.folder = directory_->source;
  target.binary_folder = directory_->binary;
  target.in_default = directory_->in_default;
  project.target_index[name] = project.targets.size();
  directory_->targets.push_back(project.targets.size());
  project.targets.push_back(std::move(target));
  return project.targets.back();
}

Value Evaluator::word(const std::string& text, const Invocation& i) const {
  return {text, i.place, directory_ == nullptr ? tree : directory_->source};
}

namespace {
int open_expressions(const std::string& text) {
  int depth = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text.compare(i, 2, "$<") == 0) {
      ++depth;
      ++i;
    } else if (text[i] == '>' && depth > 0) {
      --depth;
    }
  }
  return depth;
}
}  // namespace

void Evaluator::append(Values& values, Value value) {
  if (!values.empty() && values.back().place.line == value.place.line && values.back().place.file == value.place.file &&
      open_expressions(values.back().text) > 0) {
    values.back().text += ";" + value.text;
    return;
  }
  values.push_back(std::move(value));
}

void Evaluator::append_all(Values& values, const std::vector<std::string>& texts, const Invocation& i) const {
  for (const auto& text : texts) {
    if (!text.empty()) append(values, word(text, i));
  }
}

std::string Evaluator::joined(const Values& values) {
  std::string out;
  for (const auto& value : values) {
    if (!out.empty()) out += ';';
    out += value.text;
  }
  return out;
}

bool Evaluator::policy_is_new(int number) const {
  for (auto it = policy_stack.rbegin(); it != policy_stack.rend(); ++it) {
    if (const auto found = it->find(number); found != it->end()) return found->second;
  }
  // The version in which each policy came, by the first number of every version.
  static const std::map<int, const char*> introduced = {
      {0, "2.6"},     {10, "2.6.3"},  {12, "2.8.0"}, {15, "2.8.1"}, {16, "2.8.3"}, {17, "2.8.4"}, {18, "2.8.9"},
      {19, "2.8.11"}, {21, "2.8.12"}, {24, "3.0"},   {51, "3.1"},   {55, "3.2"},   {57, "3.3"},   {64, "3.4"},
      {66, "3.7"},    {67, "3.8"},    {68, "3.9"},   {70, "3.10"},  {72, "3.11"},  {73, "3.12"},  {76, "3.13"},
      {82, "3.14"},   {89, "3.15"},   {95, "3.16"},  {98, "3.17"},  {103, "3.18"}, {109, "3.19"}, {115, "3.20"},
      {121, "3.21"},  {127, "3.22"},  {129, "3.23"}, {130, "3.24"}, {140, "3.25"}};
  if (number < 0 || number > newest_policy) return false;
  const auto it = std::prev(introduced.upper_bound(number));
  return text::compare_versions(policy_level.empty() ? "2.8" : policy_level, it->second) >= 0;
}

std::optional<std::string> Evaluator::source_property(const std::string& path, const std::string& property) const {
  const auto it = project.sources.find(path);
  if (it == project.sources.end()) return std::nullopt;
  const auto values = it->second.properties.find(property);
  if (values == it->second.properties.end()) return std::nullopt;
  return joined(values->second);
}

std::optional<std::string> Evaluator::target_property(const Target& target, const std::string& property) const {
  if (property == "NAME") return target.name;
  if (property == "SOURCE_DIR") return target.folder;
  if (property == "BINARY_DIR") return target.binary_folder;
  if (property == "IMPORTED") return target.imported ? "TRUE" : "FALSE";
  if (property == "TYPE") {
    switch (target.kind) {
      case model::TargetKind::program: return "EXECUTABLE";
      case model::TargetKind::static_library: return "STATIC_LIBRARY";
      case model::TargetKind::shared_library:
        return target.imported && target.property("IMPORTED_UNKNOWN") != nullptr ? "UNKNOWN_LIBRARY" : "SHARED_LIBRARY";
      case model::TargetKind::module_library: return "MODULE_LIBRARY";
      case model::TargetKind::object_set: return "OBJECT_LIBRARY";
      case model::TargetKind::interface_library: return "INTERFACE_LIBRARY";
      case model::TargetKind::finished:
      case model::TargetKind::class_library:
      case model::TargetKind::custom: return "UTILITY";
    }
  }
  if (property == "SOURCES" && !target.sources.empty()) return joined(target.sources);
  // Only the plan knows it.
  if ((property == "LOCATION" || property.starts_with("LOCATION_")) && !target.imported)
    return "$<TARGET_FILE:" + target.name + ">";
  const auto* values = target.property(property);
  // Of one that is there already, the file of the configuration that is asked for, of none, or of any.
  if (values == nullptr && (property == "LOCATION" || property.starts_with("LOCATION_"))) {
    values = target.property("IMPORTED_" + property);
    if (values == nullptr) values = target.property("IMPORTED_LOCATION");
    const auto any = target.properties.lower_bound("IMPORTED_LOCATION_");
    if (values == nullptr && any != target.properties.end() && any->first.starts_with("IMPORTED_LOCATION_"))
      values = &any->second;
  }
  if (values == nullptr) {
    const bool place = property.starts_with("LOCATION") || property.starts_with("IMPORTED_LOCATION");
    return place && target.imported ? place_of_library(target) : std::nullopt;
  }
  return joined(*values);
}

// The file of a library of the system that only its link line tells.
std::optional<std::string> Evaluator::place_of_library(const Target& target) const {
  const auto* items = target.property("INTERFACE_LINK_LIBRARIES");
  if (target.kind != model::TargetKind::interface_library || items == nullptr || items->empty()) return std::nullopt;
  const std::string& first = items->front().text;
  if (first.starts_with('/')) return first;
  if (!first.starts_with("-l")) return std::nullopt;
  std::vector<std::string> folders;
  if (const auto* given = target.property("INTERFACE_LINK_DIRECTORIES"); given != nullptr) {
    for (const auto& folder : *given) folders.push_back(folder.text);
  }
  const auto found =
      locator.link_name({model::RequirementKind::library, first.substr(2), {}, false, {}, {}, {}}, folders);
  return found.found ? std::optional(found.where) : std::nullopt;
}

void Evaluator::fail_in_the_end(const Place& place, const std::string& what, const std::string& remedy) {
  try {
    fail(place, what, remedy);
  } catch (const Fault& fault) {
    constexpr std::size_t most = 100;
    if (errors_.size() < most) errors_.push_back(fault.problem());
  }
}

void Evaluator::stop_for_errors() const {
  if (errors_.empty()) return;
  Problem first = errors_.front();
  for (std::size_t k = 1; k < errors_.size(); ++k)
    first.trail.push_back("then " + errors_[k].place.text() + ": " + errors_[k].what);
  throw Fault(first);
}

model::Project Evaluator::run(const std::string& file) {
  start_variables();
  project.tree = tree;
  project.binary_root = binary_root;
  project.description = shown(file);
  project.format = "CMakeLists.txt";
  files::make_folder(binary_root);
  const std::string folder = std::filesystem::path(file).parent_path().string();
  Invocation start{"description", {}, {project.description, 0, 0}};
  try {
    run_subfolder(folder, binary_root, true, start);
    stop_for_errors();
    finish();
  } catch (const Fault& fault) {
    // What came after an error that was to be told in the end may be its consequence.
    if (!errors_.empty() && errors_.front().what != fault.problem().what) {
      errors_.push_back(fault.problem());
      if (!locator.any_required_missing()) stop_for_errors();
    }
    // With something required missing, later failures are most likely its consequence: the missing is what is told.
    if (!locator.any_required_missing()) throw;
    project.warnings.push_back(fault.problem());
    project.warnings.back().what = "reading stopped here: " + project.warnings.back().what;
  }
  project.findings = locator.findings();
  project.read_files.assign(read_files.begin(), read_files.end());
  project.outlines = lower::outlines_of(project);
  auto declared = std::make_shared<const Declared>(std::move(project));
  model::Project out = *declared;
  // In a copy of the tree, which lies in the kiln, all of the kiln may be written to.
  out.facts = lower::facts_of(declared, in_copy ? kiln_of(binary_root) : binary_root);
  return out;
}

std::vector<std::string> Evaluator::run_script(const std::string& file, const std::string& folder,
                                               const std::vector<std::string>& definitions,
                                               const std::vector<std::string>& arguments) {
  script = true;
  start_variables();
  auto here = std::make_unique<Directory>();
  here->source = here->binary = folder;
  here->scope = std::make_unique<Scope>();
  here->scope->parent = scope_;
  directory_ = here.get();
  scope_ = here->scope.get();
  directories.push_back(std::move(here));
  for (const char* name :
       {"CMAKE_SOURCE_DIR", "CMAKE_BINARY_DIR", "CMAKE_CURRENT_SOURCE_DIR", "CMAKE_CURRENT_BINARY_DIR"})
    set(name, folder);
  set("CMAKE_SCRIPT_MODE_FILE", file);
  std::vector<std::string> all = {tool_word, "-P", file};
  all.insert(all.end(), arguments.begin(), arguments.end());
  set("CMAKE_ARGC", std::to_string(all.size()));
  for (std::size_t k = 0; k < all.size(); ++k) set("CMAKE_ARGV" + std::to_string(k), all[k]);
  for (const auto& definition : definitions) {
    const auto equals = definition.find('=');
    const auto colon = definition.find(':');
    set(definition.substr(0, std::min(equals, colon)),
        equals == std::string::npos ? "" : definition.substr(equals + 1));
  }
  run_file(file, Invocation{"script", {}, {shown(file), 0, 0}});
  stop_for_errors();
  return project.messages;
}

std::optional<ScriptCall> script_call(const std::vector<std::string>& words) {
  ScriptCall out;
  for (std::size_t k = 0; k < words.size(); ++k) {
    if (words[k] == "-P" && k + 1 < words.size()) {
      out.file = words[k + 1];
      out.arguments.assign(words.begin() + static_cast<std::ptrdiff_t>(k) + 2, words.end());
      return out;
    }
    if (words[k] == "-D" && k + 1 < words.size())
      out.definitions.push_back(words[++k]);
    else if (words[k].starts_with("-D"))
      out.definitions.push_back(words[k].substr(2));
    else
      return std::nullopt;
  }
  return std::nullopt;
}

namespace {
// The types of options in this program's words.
std::string type_of_option(const std::string& type) {
  return type == "BOOL" ? "switch" : type == "PATH" ? "folder" : type == "FILEPATH" ? "file" : "text";
}
}  // namespace

void Evaluator::finish() {
  project.configuration = configuration();
  project.install_prefix = files::absolute(value("CMAKE_INSTALL_PREFIX"), std::string("/"));
  for (const auto& [name, entry] : cache) {
    if (entry.type == "INTERNAL" || entry.type == "STATIC" || !entry.declared || entry.place.file.empty()) continue;
    project.options.push_back({name, type_of_option(entry.type), entry.value, entry.initial, entry.help, entry.place});
  }
  for (const auto& [name, text] : locator.settings().options) {
    const auto it = cache.find(name);
    if (it != cache.end() && it->second.declared) continue;
    Problem problem{
        Exit::done, {}, "the description declares no option '" + name + "'; it got the value but may not look at it",
        {},         "", {}};
    std::size_t best = 4;
    for (const auto& [known, entry] : cache) {
      const auto distance = text::edit_distance(text::lower(known), text::lower(name));
      if (entry.declared && !entry.place.file.empty() && distance < best) {
        best = distance;
        problem.remedy = "did you mean '" + known + "'?";
      }
    }
    project.warnings.push_back(problem);
  }
  finish_targets(*this);
  finish_own_projects(*this);
}

}  // namespace coctilis::describe::listfile
