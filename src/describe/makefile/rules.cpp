// Rules as they are read: explicit, static pattern, pattern and suffix rules, special targets.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"

namespace coctilis::describe::makefile {

void Make::rule_line(const std::string& text, const Place& place, bool indented) {
  const bool in_rule = pending_.open;
  std::string line = text;
  std::size_t colon = colon_of_rule(line);
  bool expanded = false;
  if (colon == std::string_view::npos) {
    const auto semicolon = outside(line, ';');
    line =
        expand(line.substr(0, semicolon), place) + (semicolon == std::string_view::npos ? "" : line.substr(semicolon));
    expanded = true;
    if (text::trim(line).empty()) return;
    // What is worked out is text; references in it stand for themselves.
    line = text::replace_all(line, "$", "$$");
    colon = line.find(':');
  }
  if (colon == std::string_view::npos) {
    end_rule();
    const std::string said = text::clip(text::printable_line(text), 60);
    fail(place, "'" + said + "' is neither an assignment nor a rule",
         indented && in_rule ? "it begins with blanks; a recipe line begins with a tab"
                             : "an assignment has '=', a rule has ':', and a recipe line begins with a tab");
  }
  end_rule();
  bool grouped = false;
  std::size_t end_of_targets = colon;
  if (colon > 0 && line[colon - 1] == '&') {
    grouped = true;
    --end_of_targets;
  }
  std::string targets = expand(line.substr(0, end_of_targets), place);
  std::string rest = line.substr(colon + 1);
  bool double_colon = false;
  if (rest.starts_with(':')) {
    double_colon = true;
    rest.erase(0, 1);
  }
  (void)expanded;
  // A value for these targets only?
  Assignment assignment;
  std::string tail(text::trim(rest));
  for (;;) {
    std::string after = tail;
    const std::string word = first_word(after);
    if (after.empty() || starts_with_operator(after)) break;
    if (word == "override")
      assignment.override_ = true;
    else if (word == "private")
      assignment.private_ = true;
    else if (word == "export" || word == "unexport")
      assignment.exported = word == "export";
    else
      break;
    tail = after;
  }
  if (split_assignment(tail, assignment.name, assignment.how, assignment.value)) {
    assignment.name = expand(assignment.name, place);
    if (assignment.how == Assign::simple) assignment.value = expand(assignment.value, place);
    for (const auto& target : text::words(targets)) {
      if (target.find('%') != std::string::npos)
        pattern_assignments_.emplace_back(target, assignment);
      else
        named_ends_.set(end_of(plain_name(target)));
      entries_[plain_name(target)].assignments.push_back(assignment);
    }
    return;
  }
  const auto semicolon = outside(rest, ';');
  std::string recipe;
  const bool has_recipe = semicolon != std::string_view::npos;
  if (has_recipe) {
    recipe = rest.substr(semicolon + 1);
    recipe.erase(0, std::min(recipe.find_first_not_of(" \t"), recipe.size()));
    if (expanded) recipe = text::replace_all(recipe, "$$", "$");
    rest.resize(semicolon);
  }
  add_rule(targets, std::move(rest), double_colon, grouped, has_recipe ? &recipe : nullptr, place);
}

void Make::add_rule(const std::string& targets_text, std::string rest, bool double_colon, bool grouped,
                    const std::string* recipe, const Place& place) {
  std::vector<std::string> targets;
  for (const auto& word : names_in(targets_text)) {
    if (word.find_first_of("*?[") != std::string::npos) {
      for (auto& name : matching(word)) targets.push_back(std::move(name));
    } else {
      targets.push_back(plain_name(word));
    }
  }
  const std::string prerequisites = expand(rest, place);
  if (targets.empty()) {
    // The names of the targets were empty: what follows belongs to nothing.
    pending_.open = true;
    return;
  }
  std::string late = second_expansion_ && prerequisites.find('$') != std::string::npos ? prerequisites : std::string{};
  std::string target_pattern;
  std::string list = prerequisites;
  if (const auto colon = list.find(':'); colon != std::string::npos && list.find('%') != std::string::npos) {
    target_pattern = std::string(text::trim(list.substr(0, colon)));
    list = list.substr(colon + 1);
    if (!late.empty()) late = list;
    if (target_pattern.find('%') == std::string::npos)
      fail(place, "the pattern '" + text::printable_line(target_pattern) + "' for targets has no '%'",
           "write: targets: target-pattern: prerequisite-patterns");
  }
  std::vector<std::string> normal;
  std::vector<std::string> order_only;
  if (late.empty()) split_prerequisites(list, normal, order_only);
  const auto globbed = [&](std::vector<std::string>& names) {
    std::vector<std::string> out;
    for (auto& name : names) {
      if (name.find_first_of("*?[") != std::string::npos) {
        auto found = matching(name);
        if (!found.empty()) {
          out.insert(out.end(), found.begin(), found.end());
          continue;
        }
      }
      out.push_back(std::move(name));
    }
    names = std::move(out);
  };
  globbed(normal);
  globbed(order_only);
  pending_.open = true;
  if (recipe != nullptr) {
    pending_.recipe = std::make_shared<RecipeText>(RecipeText{{}, place});
    if (!recipe->empty()) pending_.recipe->lines.push_back(*recipe);
  }
  const bool pattern = target_pattern.empty() && targets.front().find('%') != std::string::npos;
  if (pattern) {
    PatternRule rule{targets, {}, normal, {}, order_only, late, nullptr, double_colon, place.file == "built in", place};
    pending_.patterns.push_back(patterns_.size());
    patterns_.push_back(std::move(rule));
    return;
  }
  for (const auto* names : {&normal, &order_only}) {
    for (const auto& name : *names) {
      if (target_pattern.empty()) mention(name);
    }
  }
  auto rule =
      std::make_shared<Rule>(Rule{targets, normal, order_only, late, nullptr, double_colon, grouped, {}, place});
  if (targets.size() == 1 && targets[0].starts_with('.') && targets[0].find('/') == std::string::npos &&
      targets[0].size() > 1 && std::isupper(static_cast<unsigned char>(targets[0][1])) != 0) {
    special_target(*rule);
  }
  for (const auto& target : targets) {
    std::shared_ptr<Rule> own = rule;
    if (!target_pattern.empty()) {
      std::string stem;
      if (!match_pattern(target_pattern, target, stem)) {
        warn(place,
             "the target '" + text::printable_line(target) + "' does not fit the pattern '" + target_pattern + "'");
        continue;
      }
      own = std::make_shared<Rule>(*rule);
      own->targets = {target};
      own->stem = stem;
      for (auto* names : {&own->prerequisites, &own->order_only}) {
        for (auto& name : *names) {
          name = fill_pattern(name, stem);
          mention(name);
        }
      }
      if (!own->late.empty()) own->late = late_with_stem(own->late);
      pending_.rules.push_back(own);
    }
    named_ends_.set(end_of(target));
    entries_[target].rules.push_back(own);
    if (first_target_.empty() && place.file != "built in" &&
        (!target.starts_with('.') || target.find('/') != std::string::npos))
      first_target_ = target;
  }
  if (target_pattern.empty()) pending_.rules.push_back(rule);
}

void Make::special_target(const Rule& rule) {
  const std::string& name = rule.targets[0];
  const auto& words = rule.prerequisites;
  if (name == ".PHONY") {
    for (const auto& word : words) phony_.insert(word);
  } else if (name == ".SUFFIXES") {
    if (words.empty()) suffixes_.clear();
    for (const auto& word : words) {
      if (std::find(suffixes_.begin(), suffixes_.end(), word) == suffixes_.end()) suffixes_.push_back(word);
    }
    variables_["SUFFIXES"].value = text::join(suffixes_, " ");
  } else if (name == ".SILENT") {
    if (words.empty()) all_silent_ = true;
    silent_.insert(words.begin(), words.end());
  } else if (name == ".IGNORE") {
    if (words.empty()) all_ignored_ = true;
    ignored_.insert(words.begin(), words.end());
  } else if (name == ".POSIX") {
    posix_ = true;
    // With this target each line of a recipe fails on any of its commands.
    variables_[".SHELLFLAGS"] = {"-ec", false, Origin::built_in, std::nullopt};
  } else if (name == ".NOTPARALLEL") {
    not_parallel_ = true;
  } else if (name == ".ONESHELL") {
    one_shell_ = true;
  } else if (name == ".SECONDEXPANSION") {
    second_expansion_ = true;
  } else if (name == ".EXPORT_ALL_VARIABLES") {
    export_all_ = true;
  }
}

void Make::end_rule() {
  if (!pending_.open) return;
  for (auto& rule : pending_.rules) {
    rule->recipe = pending_.recipe;
    if (rule->targets.size() == 1 && rule->targets[0] == ".DEFAULT") last_resort_ = pending_.recipe;
  }
  for (const auto index : pending_.patterns) patterns_[index].recipe = pending_.recipe;
  pending_ = {};
}

// Suffix rules are pattern rules in another spelling; they come behind those.
void Make::suffix_rules() {
  std::vector<PatternRule> more;
  const auto known = [&](const std::string& suffix) {
    return std::find(suffixes_.begin(), suffixes_.end(), suffix) != suffixes_.end();
  };
  for (const auto& [name, entry] : entries_) {
    if (!name.starts_with('.') || name.find('/') != std::string::npos) continue;
    for (const auto& rule : entry.rules) {
      // With prerequisites it is no suffix rule (POSIX.1-2024, XCU make, "Inference Rules"); trees that do not ask for
      // the standard's letter count on it to be one all the same, and its prerequisites not to matter.
      if (!rule->recipe || (posix_ && !rule->prerequisites.empty())) continue;
      PatternRule pattern;
      pattern.recipe = rule->recipe;
      pattern.place = rule->place;
      pattern.built_in = rule->place.file == "built in";
      const auto second = name.find('.', 1);
      if (second == std::string::npos) {
        if (!known(name)) continue;
        pattern.targets = {"%"};
        pattern.prerequisites = {"%" + name};
      } else if (second + 2 == name.size() && name[second + 1] == 'a' && known(name.substr(0, second))) {
        // Members of an archive from sources. The one that is built in throws the objects away, which most makefiles do
        // not count on.
        if (pattern.built_in && !posix_) continue;
        pattern.targets = {"(%.o)"};
        pattern.prerequisites = {"%" + name.substr(0, second)};
      } else {
        // The name may hold further dots: every division into two known suffixes counts.
        bool found = false;
        for (auto dot = second; dot != std::string::npos && !found; dot = name.find('.', dot + 1)) {
          if (!known(name.substr(0, dot)) || !known(name.substr(dot))) continue;
          pattern.targets = {"%" + name.substr(dot)};
          pattern.prerequisites = {"%" + name.substr(0, dot)};
          found = true;
        }
        if (!found) {
          if (!known(name)) continue;
          pattern.targets = {"%"};
          pattern.prerequisites = {"%" + name};
        }
      }
      more.push_back(std::move(pattern));
    }
  }
  // Those of the makefile before those built in; among built-in ones the order of the suffixes decides.
  const auto rank = [&](const PatternRule& rule) {
    const auto it = std::find(suffixes_.begin(), suffixes_.end(), rule.prerequisites[0].substr(1));
    return std::make_pair(rule.built_in, it - suffixes_.begin());
  };
  std::stable_sort(more.begin(), more.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
  std::vector<PatternRule> all;
  for (auto& rule : patterns_) {
    if (!rule.built_in) all.push_back(std::move(rule));
  }
  all.insert(all.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
  for (auto& rule : patterns_) {
    if (rule.built_in && !rule.targets.empty()) all.push_back(std::move(rule));
  }
  patterns_ = std::move(all);
}

void Make::finish_reading() {
  end_rule();
  // A pattern rule that comes again, with the same names, takes the place of the earlier one; without a recipe it
  // only takes it away.
  std::vector<bool> gone(patterns_.size(), false);
  for (std::size_t i = 0; i < patterns_.size(); ++i) {
    for (std::size_t k = 0; k < i; ++k) {
      if (!gone[k] && patterns_[k].targets == patterns_[i].targets &&
          patterns_[k].prerequisites == patterns_[i].prerequisites)
        gone[k] = true;
    }
    if (!patterns_[i].recipe && patterns_[i].late.empty()) gone[i] = true;
  }
  std::vector<PatternRule> kept;
  for (std::size_t i = 0; i < patterns_.size(); ++i) {
    if (!gone[i]) kept.push_back(std::move(patterns_[i]));
  }
  patterns_ = std::move(kept);
  suffix_rules();
  const auto searched = variables_.find("VPATH");
  searches_ = !vpaths_.empty() || (searched != variables_.end() && !searched->second.value.empty());
  for (auto& ending : patterns_by_end_) ending.clear();
  patterns_of_any_end_.clear();
  any_end_counts_ = false;
  for (std::size_t i = 0; i < patterns_.size(); ++i) {
    PatternRule& rule = patterns_[i];
    rule.divided.clear();
    rule.divided_prerequisites.clear();
    for (const auto& target : rule.targets) {
      rule.divided.push_back(divide_pattern(target));
      const std::string& behind = rule.divided.back().second;
      auto& slot = behind.empty() ? patterns_of_any_end_ : patterns_by_end_[static_cast<unsigned char>(behind.back())];
      if (slot.empty() || slot.back() != i) slot.push_back(i);
      if (behind.empty() && (rule.terminal || !rule.divided.back().first.empty())) any_end_counts_ = true;
    }
    for (const auto& prerequisite : rule.prerequisites) {
      auto [before, behind] = divide_pattern(prerequisite);
      if (prerequisite.find('%') == std::string::npos)
        rule.divided_prerequisites.emplace_back(prerequisite, std::nullopt);
      else
        rule.divided_prerequisites.emplace_back(std::move(before), std::move(behind));
    }
  }
}

}  // namespace coctilis::describe::makefile
