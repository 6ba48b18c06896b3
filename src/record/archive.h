// How what a description came to is written down and read again: every field of every struct of the model, in the order
// in which they are declared. A field that is added is kept without a word here. (What a file of another layout is told
// by is the program that wrote it: key_of.)
#pragma once

#include <cereal/archives/binary.hpp>
#include <cereal/types/map.hpp>
#include <cereal/types/memory.hpp>
#include <cereal/types/optional.hpp>
#include <cereal/types/set.hpp>
#include <cereal/types/string.hpp>
#include <cereal/types/utility.hpp>
#include <cereal/types/vector.hpp>

#include "base/fields.h"
#include "base/result.h"
#include "model/plan.h"
#include "model/project.h"
#include "model/requirement.h"
#include "model/run.h"
#include "model/settings.h"
#include "model/survey.h"
#include "model/toolchain.h"

namespace coctilis {

namespace record {
// A struct whose fields say all; one with a way of its own (a member `serialize`) goes that way.
template <class T, class Archive>
concept SaidByFields = fields::Plain<T> && !requires(T & value, Archive& archive) {
  value.serialize(archive);
};
}  // namespace record

template <class Archive, record::SaidByFields<Archive> T>
void serialize(Archive& archive, T& value) {
  fields::with_each(value, [&](auto&... field) { archive(field...); });
}

namespace model {

template <class Archive, record::SaidByFields<Archive> T>
void serialize(Archive& archive, T& value) {
  fields::with_each(value, [&](auto&... field) { archive(field...); });
}
// Without what only planning needs: a plan is kept beside it.
template <class Archive>
void serialize(Archive& archive, Project& value) {
  archive(value.name, value.version, value.description, value.format, value.complete, value.tree, value.binary_root,
          value.languages, value.outlines, value.by_recipes, value.install_folder, value.options, value.findings,
          value.left_out, value.messages, value.warnings, value.read_files);
}

}  // namespace model
}  // namespace coctilis
