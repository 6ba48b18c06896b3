// From goals to recipes: which rule makes each name, what it needs, and the lines that are run.
#include <algorithm>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"
#include "model/documents.h"

namespace coctilis::describe::makefile {

namespace {
constexpr std::size_t most_chain = 1500;  // targets that need each other in a row
}

void Make::add_specific(Scope& scope, const std::string& name, const Place& place) {
  const auto add = [&](const Assignment& assignment) {
    const auto global = variables_.find(assignment.name);
    if (global != variables_.end() && !assignment.override_ &&
        (global->second.origin == Origin::command_line || global->second.origin == Origin::environment_override))
      return;
    Assignment here = assignment;
    // Its text was worked out where it stood.
    if (here.how == Assign::simple) here.value = text::replace_all(here.value, "$", "$$");
    assign_into(scope.variables, here, assignment.override_ ? Origin::override_ : Origin::file, &scope, place);
    if (assignment.exported) scope.variables[assignment.name].exported = assignment.exported;
    if (assignment.private_) scope.own_only[assignment.name] = true;
  };
  std::string stem;
  for (const auto& [pattern, assignment] : pattern_assignments_) {
    if (match_pattern(pattern, name, stem)) add(assignment);
  }
  if (const auto it = entries_.find(name); it != entries_.end()) {
    for (const auto& assignment : it->second.assignments) add(assignment);
  }
}

std::vector<std::string> Make::expand_late(const std::string& text, Node& node, const Place& place,
                                           std::vector<std::string>& order_only) {
  Automatic automatic;
  automatic.target = &node.name;
  automatic.stem = &node.stem;
  automatic.prerequisites = &node.prerequisites;
  Automatic* outer = automatic_;
  automatic_ = &automatic;
  const Scope* outer_scope = scope_;
  scope_ = node.scope.get();
  std::vector<std::string> out;
  split_prerequisites(expand(text, place), out, order_only);
  scope_ = outer_scope;
  automatic_ = outer;
  return out;
}

Make::Node& Make::resolve(const std::string& name, const std::string& wanted_by, const Place& place,
                          const std::shared_ptr<const Scope>& outer) {
  const auto at = nodes_.try_emplace(name).first;
  auto& slot = at->second;
  if (slot && slot->state >= 1) return *slot;  // of a circle the caller tells
  slot = std::make_unique<Node>(at->first);
  Node& node = *slot;
  node.state = 1;
  if (chain_.size() > most_chain)
    fail(place, "targets need each other more than " + std::to_string(most_chain) + " deep",
         "look for one without end");
  chain_.push_back(&node.name);
  const auto entry = entries_.find(name);
  const bool known = entry != entries_.end() && !entry->second.rules.empty();
  std::string stem;
  const bool specific = (entry != entries_.end() && !entry->second.assignments.empty()) ||
                        std::any_of(pattern_assignments_.begin(), pattern_assignments_.end(),
                                    [&](const auto& p) { return match_pattern(p.first, name, stem); });
  if (specific || outer) {
    node.scope = std::make_shared<Scope>();
    node.scope->parent = outer;
    if (specific) add_specific(*node.scope, name, place);
  }
  node.phony = phony_.contains(name);
  Place here = place;
  if (known) {
    here = entry->second.rules.front()->place;
    const Rule* with_recipe = nullptr;
    for (const auto& rule : entry->second.rules) {
      if (rule->recipe) with_recipe = rule.get();
    }
    if (with_recipe != nullptr) {
      here = with_recipe->place;
      node.rule = with_recipe;
      node.recipe = with_recipe->recipe;
      node.stem = with_recipe->stem;
      if (with_recipe->double_colon) {
        // Those that are due are run, one after the other.
        auto all = std::make_shared<RecipeText>(RecipeText{{}, node.recipe->place});
        for (const auto& rule : entry->second.rules) {
          if (!rule->recipe) continue;
          all->lines.insert(all->lines.end(), rule->recipe->lines.begin(), rule->recipe->lines.end());
          node.double_colon.push_back(rule);
        }
        node.recipe = all;
        if (node.double_colon.size() < 2) node.double_colon.clear();
      }
      if (with_recipe->grouped) {
        for (const auto& other : with_recipe->targets) {
          if (other != name) node.also.push_back(other);
        }
      }
    }
    const auto take = [&](const Rule& rule) {
      if (!rule.late.empty()) {
        if (node.stem.empty()) node.stem = rule.stem;
        for (auto& late : expand_late(rule.late, node, rule.place, node.order_only))
          node.prerequisites.push_back(std::move(late));
        return;
      }
      node.prerequisites.insert(node.prerequisites.end(), rule.prerequisites.begin(), rule.prerequisites.end());
      node.order_only.insert(node.order_only.end(), rule.order_only.begin(), rule.order_only.end());
    };
    if (with_recipe != nullptr && !with_recipe->double_colon) take(*with_recipe);
    for (const auto& rule : entry->second.rules) {
      if (rule.get() != with_recipe || with_recipe->double_colon) take(*rule);
    }
  }
  if (!node.recipe && !node.phony) {
    Found found;
    std::set<const PatternRule*> used;
    if (implicit(name, found, 0, used)) {
      node.recipe = found.rule->recipe;
      node.stem = found.stem;
      node.also = found.also;
      if (!known) here = found.rule->built_in ? place : found.rule->place;
      found.prerequisites.insert(found.prerequisites.end(), node.prerequisites.begin(), node.prerequisites.end());
      node.prerequisites = std::move(found.prerequisites);
      found.order_only.insert(found.order_only.end(), node.order_only.begin(), node.order_only.end());
      node.order_only = std::move(found.order_only);
    } else if (!exists(name)) {
      if (const std::string elsewhere = search_path(name); !elsewhere.empty()) node.found_at = elsewhere;
    }
  }
  const bool there = exists(node.path());
  if (!node.recipe && !known && !there && last_resort_) {
    node.recipe = last_resort_;
    node.prerequisites.push_back(name);
  }
  node.made = node.recipe != nullptr || known;
  std::string archive;
  std::string member;
  if (node.recipe && split_member(name, archive, member)) members_[archive].push_back(name);
  if (!node.made && !there && !node.phony) {
    std::string remedy = "check the name, or give it a rule";
    const std::string base = name.substr(name.rfind('/') + 1);
    if (wanted_by.empty()) remedy = "name a target that the makefile has";
    std::string nearest;
    std::size_t best = 3;
    for (const auto& [other, rules] : entries_) {
      if (other.size() + 3 < name.size() || other.size() > name.size() + 3 || rules.rules.empty()) continue;
      const auto distance = text::edit_distance(other, name);
      if (distance < best && distance < name.size() / 2) {
        best = distance;
        nearest = other;
      }
    }
    if (!nearest.empty()) remedy = "did you mean '" + nearest + "'?";
    throw NothingMakes(
        name, problem_of(here,
                         "nothing makes '" + text::printable_line(name) + "'" +
                             (wanted_by.empty() ? "" : ", which '" + text::printable_line(wanted_by) + "' needs"),
                         remedy, "there is no such file and no rule for it"));
  }
  if (node.recipe == last_resort_ && last_resort_) node.prerequisites.pop_back();
  if (known) {
    // With two colons and nothing that it needs, a rule is run whether its target is there or not.
    for (const auto& rule : entry->second.rules)
      node.runs_always = node.runs_always || (rule->double_colon && rule->recipe && rule->prerequisites.empty() &&
                                              rule->order_only.empty() && rule->late.empty());
  }
  const auto below = [&](std::vector<std::string>& names, std::vector<Node*>& nodes) {
    nodes.reserve(names.size());
    for (auto& prerequisite : names) {
      if (prerequisite == name) {
        prerequisite.clear();  // needs itself: of no meaning
        continue;
      }
      const auto it = nodes_.find(prerequisite);
      if (it != nodes_.end() && it->second->state >= 2) {
        nodes.push_back(it->second.get());
        continue;
      }
      if (it != nodes_.end() && it->second->state == 1) {
        std::string circle = prerequisite;
        const auto first =
            std::find_if(chain_.begin(), chain_.end(), [&](const auto* one) { return *one == prerequisite; });
        for (auto one = first + 1; one < chain_.end(); ++one) circle += " needs " + **one;
        fail(here, "targets need each other in a circle: " + text::printable_line(circle) + " needs " + prerequisite,
             "take one of these prerequisites away");
      }
      try {
        nodes.push_back(&resolve(prerequisite, name, here, node.scope));
      } catch (const NothingMakes& fault) {
        if (fault.missing != prerequisite || model::is_document(name)) throw;
        if (may_come(prerequisite, node, nodes)) {
          back_to(node);
          nodes.push_back(&expected(prerequisite, node, nodes, here));
        } else if (node.recipe && is_told_by_earlier_run(name, prerequisite)) {
          // It was read then, and may be needed no more: the recipe finds out anew.
          back_to(node);
          const auto gone = nodes_.try_emplace(prerequisite).first;
          gone->second = std::make_unique<Node>(gone->first);
          gone->second->place = here;
          gone->second->made = true;
          gone->second->state = 2;
          nodes.push_back(gone->second.get());
        } else if (!node.recipe && model::is_document(absolute(prerequisite))) {
          // Distributions take documents out whose terms they do not like; nothing is made from this one.
          const auto absent = nodes_.try_emplace(prerequisite).first;
          absent->second = std::make_unique<Node>(absent->first);
          absent->second->place = here;
          back_to(node);
          leave_out(*absent->second, fault.problem());
          absent->second->state = 2;
          nodes.push_back(absent->second.get());
        } else {
          throw;
        }
      }
    }
    std::erase(names, "");
  };
  node.place = here;
  try {
    below(node.prerequisites, node.needed);
    below(node.order_only, node.needed_first);
  } catch (const NothingMakes& fault) {
    // Sources of documents are not always handed on with a tree.
    if (chain_.front() == &node.name || !model::is_document(name)) throw;
    back_to(node);
    leave_out(node, fault.problem());
  }
  node.state = 2;
  chain_.pop_back();
  return node;
}

// Named as a prerequisite only in included files in which recipes write down what they read: such have no recipes, and
// names of their own.
bool Make::is_told_by_earlier_run(const std::string& name, const std::string& prerequisite) const {
  const auto entry = entries_.find(name);
  if (entry == entries_.end()) return false;
  bool told = false;
  for (const auto& rule : entry->second.rules) {
    if (std::find(rule->prerequisites.begin(), rule->prerequisites.end(), prerequisite) == rule->prerequisites.end())
      continue;
    if (rule->recipe) return false;
    const std::string& file = rule->place.file;
    static constexpr const char* endings[] = {".d", ".P", ".Po", ".Plo", ".Tpo", ".dep", ".deps", ".dd", ".depend"};
    if (file.find("depend") == std::string::npos &&
        std::none_of(std::begin(endings), std::end(endings),
                     [&](const char* ending) { return file.ends_with(ending); }))
      return false;
    told = true;
  }
  return told;
}

void Make::back_to(const Node& node) {
  while (chain_.back() != &node.name) chain_.pop_back();
  // What was being worked out for it is not worked out.
  std::erase_if(nodes_, [&](const auto& entry) {
    return entry.second && entry.second->state == 1 &&
           std::find(chain_.begin(), chain_.end(), &entry.second->name) == chain_.end();
  });
}

bool Make::may_come(const std::string& name, const Node& node, const std::vector<Node*>& more) {
  const std::string base = std::filesystem::path(name).filename().string();
  if (base.empty()) return false;
  const auto by = [&](const Node* before) {
    if (!before->recipe) return false;
    const auto& lines = before->recipe->lines;
    return std::any_of(lines.begin(), lines.end(), [&](const std::string& line) {
      return line.find("$(MAKE)") != std::string::npos || line.find("${MAKE}") != std::string::npos ||
             line.find(base) != std::string::npos;
    });
  };
  return std::any_of(node.needed.begin(), node.needed.end(), by) || std::any_of(more.begin(), more.end(), by);
}

// Its recipe, behind those of the prerequisites before it, only looks whether it is there.
Make::Node& Make::expected(const std::string& name, const Node& node, const std::vector<Node*>& more,
                           const Place& place) {
  const auto at = nodes_.try_emplace(name).first;
  at->second = std::make_unique<Node>(at->first);
  Node& out = *at->second;
  out.state = 2;
  out.made = true;
  out.place = place;
  out.scope = node.scope;
  for (const auto* list : {&node.needed, &more}) {
    for (Node* before : *list) {
      if (std::find(out.needed_first.begin(), out.needed_first.end(), before) != out.needed_first.end()) continue;
      out.needed_first.push_back(before);
      out.order_only.push_back(before->name);
    }
  }
  const std::string complaint = "nothing makes '" + text::printable_line(name) + "', which '" +
                                text::printable_line(node.name) + "' needs; what is run before it did not either";
  const std::string line =
      "@test -e " + text::shell_quote(name) + " || { echo " + text::shell_quote(complaint) + " >&2; exit 1; }";
  out.recipe = std::make_shared<RecipeText>(RecipeText{{text::replace_all(line, "$", "$$")}, place});
  return out;
}

// Others that want the document are made as if it were there.
void Make::leave_out(Node& node, const Problem& why) {
  node.left_out = true;
  node.recipe.reset();
  for (auto* names : {&node.prerequisites, &node.order_only, &node.also}) names->clear();
  node.needed.clear();
  node.needed_first.clear();
  warn(node.place, "the document '" + text::printable_line(node.name) + "' is left out: " + why.what);
  left_out_.push_back({"document", node.name, node.place});
}

const Inputs& Make::inputs_behind(Node& node) {
  if (node.inputs) return *node.inputs;
  node.inputs.emplace();  // a circle that members of archives make ends here
  if (node.left_out) return *node.inputs;
  Inputs out;
  const bool is_file = !node.phony && (node.recipe != nullptr || exists(node.path()) || !members_of(node.name).empty());
  std::string archive;
  std::string member;
  if (is_file) {
    out.files = {absolute(split_member(node.path(), archive, member) ? archive : node.path())};
  } else if (node.recipe) {
    out.order = {absolute(node.path())};
    out.always = true;
  } else {
    // A name for others: who needs it needs them. One that stands for nothing is never up to date.
    out.always = node.phony || node.prerequisites.empty();
    for (Node* prerequisite : node.needed) {
      const Inputs& behind = inputs_behind(*prerequisite);
      out.files.insert(out.files.end(), behind.files.begin(), behind.files.end());
      out.order.insert(out.order.end(), behind.order.begin(), behind.order.end());
      out.always = out.always || behind.always;
    }
    for (Node* prerequisite : node.needed_first) {
      const Inputs& behind = inputs_behind(*prerequisite);
      out.order.insert(out.order.end(), behind.files.begin(), behind.files.end());
      out.order.insert(out.order.end(), behind.order.begin(), behind.order.end());
    }
  }
  node.inputs = std::move(out);
  return *node.inputs;
}

// A command that begins with a variable nobody sets is not what was meant.
void Make::unset_command(std::string_view line, const Place& place) {
  if (!line.starts_with("$(") && !line.starts_with("${")) return;
  const auto end = line.find_first_of(")}");
  const std::string name(line.substr(2, std::min(end, line.size()) - 2));
  if (name.empty() || name.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZ_0123456789") != std::string::npos ||
      find(name) != nullptr || !told_unset_.insert(name).second)
    return;
  // Only where words follow: such a variable may be meant to be empty before a command.
  if (const auto rest = text::trim(line.substr(std::min(end + 1, line.size()))); !rest.starts_with('-')) return;
  warn(place, "a command begins with $(" + name + "), which nothing sets; --set " + name + "=... gives it a value");
}

namespace {

// Marks before a command: taken off what begins at `at`.
void take_marks(const std::string& from, std::size_t& at, model::RecipeLine& into) {
  for (; at < from.size(); ++at) {
    if (from[at] == '@')
      into.silent = true;
    else if (from[at] == '-')
      into.ignore_errors = true;
    else if (from[at] == '+')
      into.always = true;
    else if (from[at] != ' ' && from[at] != '\t')
      break;
  }
}

// At line ends that no backslash stands before.
std::vector<std::string> split_lines(const std::string& text) {
  std::vector<std::string> out(1);
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '\n' && !(i > 0 && text[i - 1] == '\\'))
      out.emplace_back();
    else
      out.back() += text[i];
  }
  return out;
}

}  // namespace

// A line as written, expanded; it may stand for several.
void Make::add_lines(const std::string& written, const Place& place, bool errors_ignored,
                     std::vector<model::RecipeLine>& out) {
  const bool again = written.find("$(MAKE)") != std::string::npos || written.find("${MAKE}") != std::string::npos;
  // Marks before a reference count for every line of what it stands for.
  std::size_t begin = 0;
  model::RecipeLine marks;
  take_marks(written, begin, marks);
  unset_command(std::string_view(written).substr(begin), place);
  const std::string text = expand(joined_references(std::string_view(written).substr(begin)), place);
  for (auto& piece : one_shell_ ? std::vector<std::string>{text} : split_lines(text)) {
    model::RecipeLine line = marks;
    std::size_t at = 0;
    if (!one_shell_ || out.empty()) take_marks(piece, at, line);
    line.command = piece.substr(at);
    if (text::trim(line.command).empty()) continue;
    line.always = line.always || again;
    line.ignore_errors = line.ignore_errors || errors_ignored;
    out.push_back(std::move(line));
  }
}

// The recipes of a node, each with the prerequisites that it sees: of rules with two colons those that are due by their
// own, which `by_time` then tells.
std::vector<Make::RecipePart> Make::parts_of(const Node& node, bool at_once, bool& by_time) {
  std::string archive;
  std::string member;
  // Of an archive's member, its own name counts.
  const auto path_of = [&](const Node& needed) {
    return split_member(needed.name, archive, member) ? member : needed.path();
  };
  std::vector<RecipePart> parts;
  if (node.double_colon.empty()) {
    parts.push_back({node.recipe.get(), {}});
    for (const Node* needed : node.needed) parts.back().paths.push_back(path_of(*needed));
  }
  for (const auto& rule : node.double_colon) {
    RecipePart part{rule->recipe.get(), {}};
    for (const auto& name : rule->prerequisites) {
      if (const auto it = nodes_.find(name); it != nodes_.end()) part.paths.push_back(path_of(*it->second));
    }
    const bool own_time = !node.phony && !rule->prerequisites.empty();
    by_time = by_time || own_time;
    const std::int64_t time = at_once && own_time ? modified(node.path()) : -1;
    if (time < 0 || std::any_of(part.paths.begin(), part.paths.end(),
                                [&](const std::string& path) { return modified(path) > time; }))
      parts.push_back(std::move(part));
  }
  return parts;
}

std::vector<model::RecipeLine> Make::lines_of(Node& node, bool& late, bool at_once) {
  std::vector<model::RecipeLine> out;
  std::vector<std::string> order;
  std::string archive;
  std::string member;
  bool depends_on_time = false;
  const auto parts = parts_of(node, at_once, depends_on_time);
  for (const Node* needed : node.needed_first)
    order.push_back(split_member(needed->name, archive, member) ? member : needed->path());
  Automatic automatic;
  automatic.target = &node.path();
  automatic.stem = &node.stem;
  automatic.order_only = &order;
  if (split_member(node.name, archive, member)) {
    automatic.member = &member;
    automatic.target = &archive;
  }
  if (at_once) {
    automatic.target_time = modified(node.path());
    for (const auto& part : parts) {
      for (const auto& path : part.paths) (void)modified(path);
    }
  }
  // "$*" of an explicit rule is the target without a known suffix.
  std::string own_stem;
  if (node.stem.empty()) {
    for (const auto& suffix : suffixes_) {
      if (node.name.size() > suffix.size() && node.name.ends_with(suffix))
        own_stem = node.name.substr(0, node.name.size() - suffix.size());
    }
    automatic.stem = &own_stem;
  }
  Automatic* outer = automatic_;
  automatic_ = &automatic;
  const Scope* outer_scope = scope_;
  scope_ = node.scope.get();
  forbid_late_ = !at_once;
  used_late_ = false;
  const bool all_ignored = all_ignored_ || call_.ignore_errors || ignored_.contains(node.name);
  for (const auto& part : parts) {
    automatic.prerequisites = &part.paths;
    for (const auto& written : part.recipe->lines) add_lines(written, node.recipe->place, all_ignored, out);
  }
  if (one_shell_ && out.size() > 1) {
    for (std::size_t i = 1; i < out.size(); ++i) {
      out[0].command += "\n" + out[i].command;
      out[0].always = out[0].always || out[i].always;
    }
    out.resize(1);
  }
  late = !at_once && (used_late_ || automatic.used_newer || depends_on_time);
  forbid_late_ = false;
  scope_ = outer_scope;
  automatic_ = outer;
  return out;
}

const std::vector<std::string>& Make::members_of(const std::string& archive) const {
  static const std::vector<std::string> none;
  const auto it = members_.find(archive);
  return it == members_.end() ? none : it->second;
}

std::vector<model::RecipeLine> Make::all_lines(Node& node, bool& late, bool at_once) {
  std::vector<model::RecipeLine> out;
  bool any_late = false;
  const auto add = [&](Node& one) {
    if (!one.recipe) return;
    auto lines = lines_of(one, late, at_once);
    any_late = any_late || late;
    out.insert(out.end(), std::make_move_iterator(lines.begin()), std::make_move_iterator(lines.end()));
  };
  for (const auto& name : members_of(node.name)) add(*nodes_.at(name));
  add(node);
  late = any_late;
  return out;
}

// What a node and its members need, each once.
void Make::add_inputs(const Node& node, const std::vector<std::string>& members, model::Recipe& recipe) {
  // Of few paths, looking through them is the quickest way to see whether one is new.
  std::unordered_set<std::string> seen;
  const auto is_new = [&](const std::string& path) {
    constexpr std::size_t few = 16;
    if (seen.empty() && recipe.inputs.size() + recipe.after.size() < few)
      return std::find(recipe.inputs.begin(), recipe.inputs.end(), path) == recipe.inputs.end() &&
             std::find(recipe.after.begin(), recipe.after.end(), path) == recipe.after.end();
    if (seen.empty()) {
      seen.insert(recipe.inputs.begin(), recipe.inputs.end());
      seen.insert(recipe.after.begin(), recipe.after.end());
    }
    return seen.insert(path).second;
  };
  const auto add = [&](std::vector<std::string>& into, const std::vector<std::string>& paths) {
    for (const auto& path : paths) {
      if (path != recipe.outputs.front() && is_new(path)) into.push_back(path);
    }
  };
  const auto add_of = [&](const Node& of) {
    for (Node* needed : of.needed) {
      const Inputs& behind = inputs_behind(*needed);
      add(recipe.inputs, behind.files);
      add(recipe.after, behind.order);
      recipe.always = recipe.always || behind.always;
    }
  };
  for (const auto& name : members) add_of(*nodes_.at(name));
  add_of(node);
  for (Node* needed : node.needed_first) {
    const Inputs& behind = inputs_behind(*needed);
    add(recipe.after, behind.files);
    add(recipe.after, behind.order);
  }
}

void Make::emit(Node& node, std::vector<model::Recipe>& out) {
  if (node.state == 3) return;
  node.state = 3;
  for (const auto* needed : {&node.needed, &node.needed_first}) {
    for (Node* one : *needed) {
      emit(*one, out);
      node.evaluates = node.evaluates || one->evaluates;
    }
  }
  std::string archive;
  std::string member;
  if (node.recipe && split_member(node.name, archive, member)) {
    // Members are put into one file: one after the other, in the recipe of the archive.
    const auto at = nodes_.try_emplace(archive).first;
    auto& slot = at->second;
    if (!slot) {
      slot = std::make_unique<Node>(at->first);
      slot->place = node.place;
      slot->state = 2;
      slot->made = true;
    }
    const bool early =
        slot->state == 3 && members_taken_.contains(archive) && !members_taken_[archive].contains(node.name);
    if (!early) {
      emit(*slot, out);
      return;
    }
    // The archive's recipe has been handed out without it: it gets one of its own, run each time.
  }
  const auto& members = members_of(node.name);
  if (!members.empty()) members_taken_[node.name].insert(members.begin(), members.end());
  for (const auto& name : members) emit(*nodes_.at(name), out);
  if (!node.recipe && members.empty()) return;
  const auto written = node.recipe ? node.recipe : nodes_.at(members.front())->recipe;
  model::Recipe recipe;
  recipe.name = node.name;
  recipe.outputs = {absolute(node.path())};
  for (const auto& other : node.also) {
    const std::string path = absolute(other);
    const auto it = nodes_.find(other);
    // Made by the same run; it must not be made again.
    if (it == nodes_.end() || it->second->state != 3) recipe.outputs.push_back(path);
    if (it != nodes_.end() && it->second->state == 2 && it->second->recipe == node.recipe) it->second->state = 3;
  }
  recipe.phony = node.phony;
  recipe.folder = call_.folder;
  recipe.place = written->place.file == "built in" ? node.place : written->place;
  recipe.key = out.size();
  if (!member.empty()) recipe.after.push_back(absolute(archive));
  add_inputs(node, members, recipe);
  recipe.always = recipe.always || node.runs_always;
  used_eval_ = false;
  recipe.lines = all_lines(node, recipe.late, false);
  // What runs behind a recipe that changes variables sees what they are then.
  recipe.late = recipe.late || node.evaluates;
  node.evaluates = node.evaluates || used_eval_;
  if (recipe.late) {
    // What identifies it is its text as written.
    recipe.lines.clear();
    for (const auto& line : written->lines)
      recipe.lines.push_back(
          {line, false, false, line.find("$(MAKE)") != std::string::npos || line.find("${MAKE}") != std::string::npos});
  }
  recipe.one_shell = one_shell_;
  const Scope* outer = scope_;
  scope_ = node.scope.get();
  if (node.scope) {
    recipe.shell = shell_words();
  } else {
    if (!shell_) shell_ = shell_words();
    recipe.shell = *shell_;
  }
  scope_ = outer;
  recipe.environment = environment_of(node);
  if (all_silent_ || call_.silent || silent_.contains(node.name)) {
    for (auto& line : recipe.lines) line.silent = true;
  }
  out.push_back(std::move(recipe));
}

std::vector<std::string> Make::shell_words() {
  // With words of its own, as "/bin/sh -e".
  std::vector<std::string> out = text::shell_words(value("SHELL"));
  if (out.empty()) out = {"/bin/sh"};
  for (auto& word : text::words(value(".SHELLFLAGS"))) out.push_back(std::move(word));
  return out;
}

model::Environment Make::environment_of(const Node& node) {
  // Most targets have no values of their own that are handed on: one environment serves all of them.
  for (const Scope* scope = node.scope.get(); scope != nullptr; scope = scope->parent.get()) {
    for (const auto& [name, variable] : scope->variables) {
      const Variable* global = variables_.contains(name) ? &variables_.at(name) : nullptr;
      if (!variable.exported.value_or(false) && !(global != nullptr && global->exported.value_or(false)) &&
          !export_all_ && !call_.environment.contains(name))
        continue;
      return environment(node.scope.get(), node.place);
    }
  }
  if (!environment_) environment_ = environment(nullptr, node.place);
  return *environment_;
}

std::vector<model::Recipe> Make::recipes(const std::vector<std::string>& goals) {
  std::vector<model::Recipe> out;
  std::vector<std::string> names = goals;
  if (names.empty()) names = text::words(default_goal());
  nodes_.reserve(entries_.size());
  if (names.empty()) {
    fail(files_.empty() ? Place{shown(call_.folder), 0, 0} : place_of(files_.front(), 0), "the makefile makes nothing",
         "it has no target; name a folder or a makefile that has one");
  }
  for (auto& name : names) {
    chain_.clear();
    try {
      Node& node = resolve(plain_name(name), {}, files_.empty() ? Place{} : place_of(files_.front(), 0), nullptr);
      emit(node, out);
    } catch (const Fault&) {
      // What was being worked out when it failed is not worked out.
      chain_.clear();
      std::erase_if(nodes_, [](const auto& entry) { return !entry.second || entry.second->state == 1; });
      for (auto& [archive, members] : members_)
        std::erase_if(members, [&](const auto& member) { return !nodes_.contains(member); });
      scope_ = nullptr;
      automatic_ = nullptr;
      forbid_late_ = false;
      expanding_.clear();
      arguments_.clear();
      depth_ = 0;
      throw;
    }
  }
  return out;
}

std::vector<model::RecipeLine> Make::late_lines(const model::Recipe& recipe) {
  const auto it = nodes_.find(recipe.name);
  if (it == nodes_.end() || (!it->second->recipe && members_of(recipe.name).empty())) return recipe.lines;
  times_.clear();
  folders_.clear();
  bool late = false;
  return all_lines(*it->second, late, true);
}

// ---- makefiles that are made ---------------------------------------------------------------------------------------

bool Make::run_now(const std::string& name, const Place& place) {
  chain_.clear();
  resolve(name, {}, place, nullptr);
  std::vector<model::Recipe> all;
  emit(*nodes_.at(name), all);
  // What it comes to hangs on all of this.
  for (const auto& recipe : all) {
    for (const auto* list : {&recipe.outputs, &recipe.inputs}) {
      for (const auto& path : *list) observe::content(path);
    }
  }
  if (!run_recipes)
    fail(place, "the makefile '" + text::printable_line(name) + "' is made by a rule, and nothing may be run here");
  const bool ran = run_recipes(all, [this](const model::Recipe& recipe) { return late_lines(recipe); });
  times_.clear();
  folders_.clear();
  return ran;
}

bool Make::remake_makefiles() {
  bool changed = false;
  const auto list = included_;
  for (const auto& item : list) {
    const std::string name = plain_name(item.name);
    const auto entry = entries_.find(name);
    const bool known = entry != entries_.end() && !entry->second.rules.empty();
    // One without prerequisites that is made anew each time would have no end.
    const bool endless =
        known && (phony_.contains(name) ||
                  std::any_of(entry->second.rules.begin(), entry->second.rules.end(),
                              [](const auto& r) { return r->double_colon && r->prerequisites.empty(); }));
    if (endless && item.there) continue;
    const std::int64_t before = modified(name);
    try {
      Found found;
      std::set<const PatternRule*> used;
      if (known || implicit(name, found, 0, used)) {
        const bool ran = run_now(name, item.place);
        nodes_.clear();
        members_.clear();
        members_taken_.clear();
        times_.clear();
        if (ran && modified(name) != before) changed = true;
        if (modified(name) >= 0) continue;
      }
    } catch (const Fault& fault) {
      nodes_.clear();
      members_.clear();
      members_taken_.clear();
      chain_.clear();
      if (item.there || item.optional) {
        if (interrupted_by != 0) throw;
        // What a release ships ready made serves without the tools that made it, but then changes do not show.
        const auto& problem = fault.problem();
        if (item.there && !item.optional && problem.exit == Exit::step)
          warn(problem.place, problem.what + " (" + text::clip(text::printable_line(text::trim(problem.cause)), 200) +
                                  "); what is there is taken as it is");
        continue;
      }
      throw;
    }
    if (!item.there && !item.optional) {
      fail(item.place, "the makefile '" + text::printable_line(item.name) + "' is not there, and nothing makes it",
           "it may be written by a configure script, or come with a submodule");
    }
  }
  return changed;
}

}  // namespace coctilis::describe::makefile
