// Facts for the plan from what a description declares.
#include <algorithm>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"
#include "survey/languages.h"

namespace coctilis::describe::meson_build {

namespace {

using model::TargetKind;

// Files that are compiled with others take in, and are no sources by themselves.
bool is_object(const std::string& path) {
  return path.ends_with(".o") || path.ends_with(".a") || path.ends_with(".obj");
}

// All that dependencies, and those that they need in turn, come to: each once, those first that are named first.
void collect(const std::vector<std::shared_ptr<Dependency>>& from, std::vector<std::shared_ptr<Dependency>>& out,
             std::set<const void*>& seen) {
  for (const auto& one : from) {
    if (!one->found || !seen.insert(one.get()).second) continue;
    out.push_back(one);
    collect(one->needs, out, seen);
  }
}

class Lowering {
 public:
  explicit Lowering(Evaluator& e) : e_(e) {}

  model::Build run() {
    for (const auto& target : e_.targets) plan_objects(*target);
    for (const auto& target : e_.targets) lower(target);
    return std::move(e_.build);
  }

 private:
  struct Laid {
    std::vector<std::string> sources;    // absolute, in order: those that are compiled
    std::vector<std::string> generated;  // absolute: what has to be there before
    std::vector<std::string> ready;      // objects as they are
    std::vector<std::string> objects;    // where those of `sources` lie
    std::vector<std::string> made_folders;
    std::vector<std::shared_ptr<Dependency>> needs;
  };

  // ---- sources and where their objects lie
  void add_source(Laid& laid, const Value& value, const Target& target) {
    const auto add = [&](const std::string& path, bool made) {
      if (made) {
        laid.generated.push_back(path);
        lists::append_once(laid.made_folders, folder_of(path));
      }
      if (is_object(path)) {
        laid.ready.push_back(path);
      } else if (!survey::compiled_language(path).empty() && survey::compiled_language(path) != "Java" &&
                 !lists::contains(laid.sources, path)) {
        laid.sources.push_back(path);
      }
    };
    if (const auto file = value.as<File>()) {
      add(file->path, false);
    } else if (const auto custom = value.as<CustomTarget>()) {
      for (const auto& path : custom->outputs) add(path, true);
    } else if (const auto output = value.as<CustomOutput>()) {
      // The others of its files are made by the same commands.
      add(output->path, true);
    } else if (const auto choice = value.as<SourceChoice>()) {
      for (const auto& one : choice->sources) add_source(laid, one, target);
    } else if (const auto other = value.as<Target>()) {
      laid.generated.push_back(other->result.file);
    } else if (!value.as<RunTarget>() && value.object() != nullptr && !value.as<Dependency>()) {
      throw Fault({Exit::description,
                   target.place,
                   std::string(value.kind()) + " is no source of '" + target.name + "'",
                   {},
                   "name files, and what makes some",
                   {}});
    }
  }

  void plan_objects(const Target& target) {
    auto& laid = laid_[&target];
    std::set<const void*> seen;
    collect(target.needs, laid.needs, seen);
    for (const auto& source : target.sources) add_source(laid, source, target);
    for (const auto& dependency : laid.needs) {
      for (const auto& source : dependency->sources) add_source(laid, source, target);
    }
    laid.objects = model::object_paths(e_.project, target.unit, target.folder, e_.work, laid.sources);
  }

  // The objects of a target, with what it takes in whole itself.
  void objects_of(const Target& target, std::vector<std::string>& out, std::vector<std::string>& units,
                  std::set<const void*>& seen) {
    if (!seen.insert(&target).second) return;
    const auto& laid = laid_.at(&target);
    out.insert(out.end(), laid.objects.begin(), laid.objects.end());
    out.insert(out.end(), laid.ready.begin(), laid.ready.end());
    units.push_back(target.unit);
    for (const auto& value : target.objects) add_objects(value, target, out, units);
    for (const auto& value : whole_of(target)) {
      if (const auto other = value.as<Target>()) objects_of(*other, out, units, seen);
    }
  }
  std::vector<Value> whole_of(const Target& target) {
    std::vector<Value> out = target.link_whole;
    for (const auto& dependency : laid_.at(&target).needs)
      out.insert(out.end(), dependency->link_whole.begin(), dependency->link_whole.end());
    return out;
  }

  // Each target whose objects are all taken comes once for each target that takes them.
  void add_objects(const Value& value, const Target& target, std::vector<std::string>& out,
                   std::vector<std::string>& units) {
    if (const auto* text = value.text()) {
      out.push_back(files::absolute(*text, target.folder));
    } else if (const auto file = value.as<File>()) {
      out.push_back(file->path);
    } else if (const auto extracted = value.as<ExtractedObjects>()) {
      const auto& laid = laid_.at(extracted->of.get());
      units.push_back(extracted->of->unit);
      if (extracted->all) {
        if (!taken_.insert(extracted->of.get()).second) return;
        out.insert(out.end(), laid.objects.begin(), laid.objects.end());
        if (extracted->with_extracted) {
          for (const auto& one : extracted->of->objects) add_objects(one, *extracted->of, out, units);
        }
        return;
      }
      for (const auto& source : extracted->sources) {
        const auto it = std::find(laid.sources.begin(), laid.sources.end(), source);
        if (it == laid.sources.end())
          throw Fault(
              {Exit::description,
               target.place,
               "'" + text::printable_line(e_.shown_path(source)) + "' is no source of '" + extracted->of->name + "'",
               {},
               "name one of its sources",
               {}});
        out.push_back(laid.objects[static_cast<std::size_t>(it - laid.sources.begin())]);
      }
    } else if (const auto custom = value.as<CustomTarget>()) {
      out.insert(out.end(), custom->outputs.begin(), custom->outputs.end());
    } else if (const auto output = value.as<CustomOutput>()) {
      out.push_back(output->path);
    }
  }

  // ---- compiling
  model::CompileSettings settings_for(const Target& target, const Laid& laid, const std::string& language) {
    model::CompileSettings out;
    std::set<std::string> seen;
    const auto add_folder = [&](const std::string& folder, bool system) {
      if (seen.insert(folder).second)
        out.include_folders.push_back(
            {system ? model::IncludeFolder::Kind::system : model::IncludeFolder::Kind::plain, folder});
    };
    for (const auto& folder : laid.made_folders) add_folder(folder, false);
    for (const auto& folders : target.include) {
      for (const auto& folder : folders->folders) {
        if (!folders->system) add_folder(folder, false);
      }
    }
    if (target.implicit_include) {
      add_folder(target.result_folder, false);
      add_folder(target.folder, false);
    }
    for (const auto& dependency : laid.needs) {
      for (const auto& folders : dependency->include) {
        for (const auto& folder : folders->folders) add_folder(folder, folders->system);
      }
      for (const auto& folder : dependency->usage.include_folders) add_folder(folder, true);
    }
    for (const auto& folders : target.include) {
      for (const auto& folder : folders->folders) add_folder(folder, folders->system);
    }
    auto& first = out.first_options;
    if (language == "C" || language == "C++") {
      static const std::vector<std::string> by_level[] = {
          {}, {"-Wall"}, {"-Wall", "-Wextra"}, {"-Wall", "-Wextra", "-Wpedantic"}};
      first = by_level[target.warning_level];
      first.emplace_back("-D_FILE_OFFSET_BITS=64");
    }
    const std::string& standard = target.standards[language == "C" ? 0 : language == "C++" ? 1 : 2];
    if (!standard.empty() && (language == "C" || language == "C++" || language == "Fortran"))
      first.push_back("-std=" + standard);
    first.insert(first.end(), target.first_options.begin(), target.first_options.end());
    out.position_independence = target.independent           ? model::PositionIndependence::library
                                : target.program_independent ? model::PositionIndependence::program
                                                             : model::PositionIndependence::none;
    if (!target.visibility.empty()) {
      const bool inlines = target.visibility == "inlineshidden";
      out.inlines_hidden = inlines && language == "C++";
      if (!inlines) out.visibility = target.visibility;
    }
    out.warnings_are_errors = target.warnings_are_errors && e_.locator.settings().warnings_as_errors;
    auto& options = out.options;
    const auto add_all = [&](const std::vector<std::string>& words) {
      for (const auto& word : words) {
        if (word == "-Werror" && !e_.locator.settings().warnings_as_errors) continue;
        options.push_back(word);
      }
    };
    const std::string as = language == "Assembler" ? "C" : language;
    if (const auto it = target.project_arguments.find(as); it != target.project_arguments.end()) add_all(it->second);
    // Those that are needed last come first: what the target says itself wins.
    for (auto it = laid.needs.rbegin(); it != laid.needs.rend(); ++it) {
      const auto& dependency = **it;
      for (const auto& definition : dependency.usage.definitions) options.push_back("-D" + definition);
      add_all(dependency.usage.compile_options);
      add_all(dependency.compile_arguments);
    }
    if (const auto it = target.arguments.find(as); it != target.arguments.end()) add_all(it->second);
    if (language == "C" || language == "C++") out.first_headers = target.first_headers;
    return out;
  }

  // ---- linking
  // The items of a link line of one unit.
  struct Line {
    model::LinkSettings& link;
    std::map<const void*, std::size_t> units;
    std::map<std::string, std::size_t> texts;
    std::set<std::string> languages;
    std::set<std::string> used;
    std::vector<model::Use>& uses;
    std::vector<std::string>& generated;
    std::set<const void*> whole;  // whose objects are there already
  };

  std::size_t text_item(Line& line, const std::string& text) {
    const bool repeats = text.starts_with("-Wl,") || !text.starts_with("-l");
    if (!repeats) {
      if (const auto it = line.texts.find(text); it != line.texts.end()) return it->second;
    }
    model::LinkItem item;
    item.text = text;
    line.link.items.push_back(std::move(item));
    line.texts[text] = line.link.items.size() - 1;
    return line.link.items.size() - 1;
  }

  // What a dependency puts on the line; those of `value` first.
  void value_items(Line& line, const Value& value, std::vector<std::size_t>& into) {
    if (const auto target = value.as<Target>()) {
      into.push_back(unit_item(line, *target));
    } else if (const auto custom = value.as<CustomTarget>()) {
      for (const auto& path : custom->outputs) {
        line.generated.push_back(path);
        into.push_back(text_item(line, path));
      }
    } else if (const auto output = value.as<CustomOutput>()) {
      line.generated.push_back(output->path);
      into.push_back(text_item(line, output->path));
    } else if (const auto file = value.as<File>()) {
      into.push_back(text_item(line, file->path));
    } else if (const auto* text = value.text()) {
      into.push_back(text_item(line, *text));
    }
  }
  void dependency_items(Line& line, const Dependency& dependency, std::vector<std::size_t>& into, bool with_whole) {
    for (const auto& value : dependency.link_with) value_items(line, value, into);
    for (const auto& value : dependency.link_whole) {
      const auto target = value.as<Target>();
      if (with_whole || (target && line.whole.contains(target.get()))) continue;
      value_items(line, value, into);
    }
    for (const auto& folder : dependency.usage.link_folders) {
      lists::append_once(line.link.folders, folder);
    }
    for (const auto& word : dependency.link_arguments) {
      if (word.starts_with("-l") || word.starts_with('/'))
        into.push_back(text_item(line, word));
      else
        line.link.options.push_back(word);
    }
    for (const auto& word : dependency.usage.link_items) into.push_back(text_item(line, word));
  }

  std::size_t unit_item(Line& line, const Target& target) {
    if (const auto it = line.units.find(&target); it != line.units.end()) return it->second;
    const std::size_t at = line.link.items.size();
    line.units[&target] = at;
    model::LinkItem item;
    item.unit = target.unit;
    item.archive = target.what == TargetKind::static_library;
    line.link.items.push_back(std::move(item));
    if (line.used.insert(target.unit).second) line.uses.push_back({target.unit, model::Use::How::link});
    if (target.what == TargetKind::static_library) {
      // What it uses is for those that link it.
      std::vector<std::size_t> needs;
      for (const auto& value : target.link_with) value_items(line, value, needs);
      for (const auto& dependency : laid_.at(&target).needs) dependency_items(line, *dependency, needs, true);
      for (const auto& language : languages_of(target)) line.languages.insert(language);
      for (const auto& word : target.link_arguments) {
        if (word.starts_with("-l") || word.starts_with('/')) needs.push_back(text_item(line, word));
      }
      line.link.items[at].needs = std::move(needs);
    } else if (target.what == TargetKind::shared_library) {
      behind(line, target);
    }
    return at;
  }
  // Shared libraries that only others need have to be found by the linker.
  void behind(Line& line, const Target& target) {
    std::vector<Value> all = target.link_with;
    for (const auto& dependency : laid_.at(&target).needs)
      all.insert(all.end(), dependency->link_with.begin(), dependency->link_with.end());
    for (const auto& value : all) {
      const auto other = value.as<Target>();
      if (!other) continue;
      if (other->what == TargetKind::shared_library) {
        if (lists::contains(line.link.shared_behind, other->unit)) continue;
        line.link.shared_behind.push_back(other->unit);
        if (line.used.insert(other->unit).second) line.uses.push_back({other->unit, model::Use::How::link});
      }
      behind_of(line, *other);
    }
  }
  void behind_of(Line& line, const Target& target) {
    if (line.units.contains(&target) || !seen_behind_.insert(&target).second) return;
    behind(line, target);
  }

  std::set<std::string> languages_of(const Target& target) {
    std::set<std::string> out;
    for (const auto& source : laid_.at(&target).sources) {
      const std::string language = survey::compiled_language(source);
      if (language != "Assembler") out.insert(language);
    }
    return out;
  }

  void add_links(model::Unit& unit, const Target& target, const Laid& laid) {
    seen_behind_.clear();
    auto& link = unit.link;
    Line line{link, {}, {}, languages_of(target), {}, unit.uses, unit.generated, {}};
    const bool is_archive = target.what == TargetKind::static_library;
    // What is taken in whole comes as objects.
    std::vector<std::string> objects = laid.ready;
    std::vector<std::string> units;
    taken_.clear();
    for (const auto& value : target.objects) add_objects(value, target, objects, units);
    std::set<const void*> seen = {&target};
    for (const auto& value : whole_of(target)) {
      if (const auto other = value.as<Target>()) {
        if (other->what != TargetKind::static_library) {
          link.named.push_back(unit_item(line, *other));
          continue;
        }
        objects_of(*other, objects, units, seen);
        line.whole.insert(other.get());
        for (const auto& language : languages_of(*other)) line.languages.insert(language);
      } else {
        // An archive that a command makes.
        std::vector<std::string> paths;
        if (const auto custom = value.as<CustomTarget>()) paths = custom->outputs;
        if (const auto output = value.as<CustomOutput>()) paths = {output->path};
        for (const auto& path : paths) {
          unit.generated.push_back(path);
          if (!is_archive) link.options.push_back("-Wl,--whole-archive," + path + ",--no-whole-archive");
        }
      }
    }
    for (const auto& path : objects) {
      const bool is_there =
          std::any_of(unit.sources.begin(), unit.sources.end(), [&](const auto& one) { return one.path == path; });
      if (is_there) continue;
      model::UnitSource source;
      source.path = path;
      source.place = target.place;
      unit.sources.push_back(std::move(source));
    }
    for (const auto& name : units) {
      if (name != target.unit && line.used.insert(name).second) unit.uses.push_back({name, model::Use::How::link});
    }
    std::vector<std::size_t> items;
    for (const auto& value : target.link_with) value_items(line, value, items);
    for (const auto& dependency : laid.needs) dependency_items(line, *dependency, items, false);
    // What those need that are taken in whole.
    for (const auto* whole : line.whole) {
      const auto& other = *static_cast<const Target*>(whole);
      for (const auto& value : other.link_with) value_items(line, value, items);
      for (const auto& dependency : laid_.at(&other).needs) dependency_items(line, *dependency, items, true);
    }
    for (const auto item : items) {
      if (std::find(link.named.begin(), link.named.end(), item) == link.named.end()) link.named.push_back(item);
    }
    link.languages.assign(line.languages.begin(), line.languages.end());
    static const std::map<std::string, std::string> by_word = {{"c", "C"}, {"cpp", "C++"}, {"fortran", "Fortran"}};
    const auto told = by_word.find(target.start_with_language);
    link.language = told != by_word.end()                ? told->second
                    : line.languages.contains("C++")     ? "C++"
                    : line.languages.contains("Fortran") ? "Fortran"
                                                         : "C";
    if (is_archive) {
      link.named.clear();
      return;
    }
    link.first_options = target.first_link_options;
    link.exports_symbols = target.exports_symbols;
    link.run_folders = target.build_run_path;
    if (const auto it = target.project_link_arguments.find(link.language); it != target.project_link_arguments.end())
      link.options.insert(link.options.end(), it->second.begin(), it->second.end());
    for (const auto& word : target.link_arguments) {
      // Libraries come where libraries come.
      if (word.starts_with("-l"))
        link.libraries.push_back(word);
      else
        link.options.push_back(word);
    }
    const bool threads =
        std::any_of(laid.needs.begin(), laid.needs.end(), [](const auto& one) { return one->name == "threads"; });
    if (threads) link.libraries.emplace_back("-pthread");
  }

  // ---- one target
  void lower(const std::shared_ptr<Target>& of) {
    const Target& target = *of;
    const Laid& laid = laid_.at(of.get());
    model::Unit unit;
    unit.name = target.unit;
    unit.kind = target.what;
    unit.in_default = target.by_default || target.installed;
    unit.installed = target.installed;
    unit.folder = target.folder;
    unit.work_folder = e_.work;  // from which names of files among the options count
    unit.result = target.result;
    unit.place = target.place;
    unit.generated = laid.generated;
    unit.generated.insert(unit.generated.end(), target.link_depends.begin(), target.link_depends.end());
    std::map<std::string, std::size_t> parts;
    for (const auto& path : laid.sources) {
      const std::string language = survey::compiled_language(path);
      if (!parts.contains(language)) {
        parts[language] = unit.parts.size();
        unit.parts.push_back({language, settings_for(target, laid, language)});
        auto& of_project = e_.project.languages;
        if (language != "Assembler" && std::find(of_project.begin(), of_project.end(), language) == of_project.end())
          of_project.push_back(language);
      }
      model::UnitSource source;
      source.path = path;
      source.part = parts.at(language);
      source.place = {e_.shown_path(path), 0, 0};
      unit.sources.push_back(std::move(source));
    }
    add_links(unit, target, laid);
    if (unit.sources.empty()) {
      if (target.what != TargetKind::static_library)
        throw Fault({Exit::description,
                     target.place,
                     "'" + text::printable_line(target.name) + "' has no source",
                     {},
                     "name what it is made of",
                     {}});
      // What it would have held is for other machines: an archive there is all the same.
      const std::string path = e_.work + "/.made/" + text::replace_all(unit.name, "/", "-") + "-nothing.c";
      e_.build.files.push_back({path, "typedef int nothing;\n", false});
      unit.parts.push_back({"C", settings_for(target, laid, "C")});
      model::UnitSource source;
      source.path = path;
      source.part = unit.parts.size() - 1;
      unit.sources.push_back(std::move(source));
    }
    // Each is named once.
    std::set<std::string> seen;
    std::erase_if(unit.generated, [&](const auto& path) { return !seen.insert(path).second; });
    model::Outline outline;
    outline.name = unit.name;
    outline.in_default = unit.in_default;
    outline.folder = unit.folder;
    outline.sources = laid.sources;
    if (!unit.parts.empty()) {
      for (const auto& folder : unit.parts.front().settings.include_folders)
        outline.include_folders.push_back(folder.path);
    }
    e_.project.outlines.push_back(std::move(outline));
    e_.build.units.push_back(std::move(unit));
  }

  Evaluator& e_;
  std::map<const void*, Laid> laid_;
  std::set<const void*> taken_;
  std::set<const void*> seen_behind_;
};

}  // namespace

model::Build Evaluator::lowered() { return Lowering(*this).run(); }

}  // namespace coctilis::describe::meson_build
