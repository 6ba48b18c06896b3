// How what a description came to is written down and read again: every member of every type, in the order in which they
// are declared. A member that is added and forgotten here does not compile.
#pragma once

#include <cereal/archives/binary.hpp>
#include <cereal/types/map.hpp>
#include <cereal/types/memory.hpp>
#include <cereal/types/optional.hpp>
#include <cereal/types/set.hpp>
#include <cereal/types/string.hpp>
#include <cereal/types/utility.hpp>
#include <cereal/types/vector.hpp>

#include "base/result.h"
#include "model/plan.h"
#include "model/project.h"
#include "model/requirement.h"
#include "model/run.h"
#include "model/settings.h"
#include "model/survey.h"
#include "model/toolchain.h"

namespace coctilis {

template <class Archive>
void serialize(Archive& archive, Place& value) {
  auto& [file, line, column] = value;
  archive(file, line, column);
}
template <class Archive>
void serialize(Archive& archive, Problem& value) {
  auto& [exit, place, what, cause, remedy, trail] = value;
  archive(exit, place, what, cause, remedy, trail);
}

namespace model {

// ---- project
template <class Archive>
void serialize(Archive& archive, Option& value) {
  auto& [name, type, current, initial, help, place] = value;
  archive(name, type, current, initial, help, place);
}
template <class Archive>
void serialize(Archive& archive, LeftOut& value) {
  auto& [kind, name, place] = value;
  archive(kind, name, place);
}
template <class Archive>
void serialize(Archive& archive, Outline& value) {
  auto& [kind, name, in_default, folder, sources, include_folders, standards] = value;
  archive(kind, name, in_default, folder, sources, include_folders, standards);
}
// Without what only planning needs: a plan is kept beside it.
template <class Archive>
void serialize(Archive& archive, Project& value) {
  archive(value.name, value.version, value.description, value.format, value.complete, value.tree, value.binary_root,
          value.languages, value.outlines, value.by_recipes, value.install_folder, value.options, value.findings,
          value.left_out, value.messages, value.warnings, value.read_files);
}

// ---- plan
template <class Archive>
void serialize(Archive& archive, Compilation& value) {
  auto& [source, output, folder, argv] = value;
  archive(source, output, folder, argv);
}
template <class Archive>
void serialize(Archive& archive, Action& value) {
  auto& [how, argv, folder, environment, may_fail, silent] = value;
  archive(how, argv, folder, environment, may_fail, silent);
}
template <class Archive>
void serialize(Archive& archive, SearchPath& value) {
  auto& [quoted, folders, own] = value;
  archive(quoted, folders, own);
}
template <class Archive>
void serialize(Archive& archive, Step& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u, v, w, x, y] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u, v, w, x, y);
}
template <class Archive>
void serialize(Archive& archive, PlannedTarget& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r);
}
template <class Archive>
void serialize(Archive& archive, TestCase& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u);
}
template <class Archive>
void serialize(Archive& archive, InstallItem::Pattern& value) {
  auto& [regex, text, exclude, mode] = value;
  archive(regex, text, exclude, mode);
}
template <class Archive>
void serialize(Archive& archive, InstallItem& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m);
}
template <class Archive>
void serialize(Archive& archive, WrittenFile& value) {
  auto& [path, content, executable] = value;
  archive(path, content, executable);
}
template <class Archive>
void serialize(Archive& archive, Plan& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r);
}

// ---- what was located
template <class Archive>
void serialize(Archive& archive, Requirement& value) {
  auto& [kind, name, constraint, required, required_by, place, form] = value;
  archive(kind, name, constraint, required, required_by, place, form);
}
template <class Archive>
void serialize(Archive& archive, Usage& value) {
  auto& [a, b, c, d, e] = value;
  archive(a, b, c, d, e);
}
template <class Archive>
void serialize(Archive& archive, Finding& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m);
}
template <class Archive>
void serialize(Archive& archive, Question& value) {
  auto& [a, b, c, d, e, f, g, h, i, j] = value;
  archive(a, b, c, d, e, f, g, h, i, j);
}
template <class Archive>
void serialize(Archive& archive, Mention& value) {
  auto& [name, package, installed, place] = value;
  archive(name, package, installed, place);
}

// ---- what it all hangs on
template <class Archive>
void serialize(Archive& archive, Variant& value) {
  auto& [name, base, compile, link] = value;
  archive(name, base, compile, link);
}
template <class Archive>
void serialize(Archive& archive, SmokeCheck& value) {
  auto& [a, b, c, d, e, f, g, h] = value;
  archive(a, b, c, d, e, f, g, h);
}
template <class Archive>
void serialize(Archive& archive, Need& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k);
}
template <class Archive>
void serialize(Archive& archive, ToolchainWish& value) {
  auto& [text, language, place] = value;
  archive(text, language, place);
}
template <class Archive>
void serialize(Archive& archive, Source& value) {
  auto& [url, revision, folder, place] = value;
  archive(url, revision, folder, place);
}
template <class Archive>
void serialize(Archive& archive, Settings& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u);
}
template <class Archive>
void serialize(Archive& archive, Compiler& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l);
}
template <class Archive>
void serialize(Archive& archive, LinkerChoice& value) {
  auto& [name, path] = value;
  archive(name, path);
}
template <class Archive>
void serialize(Archive& archive, Toolchain& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u, v, w] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u, v, w);
}
template <class Archive>
void serialize(Archive& archive, Submodule& value) {
  auto& [a, b, c, d, e, f, g, h, i] = value;
  archive(a, b, c, d, e, f, g, h, i);
}
template <class Archive>
void serialize(Archive& archive, LanguageCount& value) {
  auto& [language, files, code, comment, blank] = value;
  archive(language, files, code, comment, blank);
}
template <class Archive>
void serialize(Archive& archive, EntryPoint& value) {
  auto& [place] = value;
  archive(place);
}
template <class Archive>
void serialize(Archive& archive, Description& value) {
  auto& [path, format, readable, followed, reason] = value;
  archive(path, format, readable, followed, reason);
}
template <class Archive>
void serialize(Archive& archive, Hazard& value) {
  auto& [kind, path, detail] = value;
  archive(kind, path, detail);
}
template <class Archive>
void serialize(Archive& archive, Survey& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l);
}
template <class Archive>
void serialize(Archive& archive, Repeats& value) {
  auto& [run, steps, up_to_date] = value;
  archive(run, steps, up_to_date);
}

}  // namespace model
}  // namespace coctilis
