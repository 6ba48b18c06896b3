// Steps after linking: what [[finish]] asks for, and archives that are unpacked beside a program.
#pragma once

#include <string>
#include <vector>

#include "model/plan.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::plan {

// Appends a step and a target for each [[finish]] of the settings and each [[source]] that is an archive; what they
// make lies in plan.finished(), or beside a program. The plan has all other steps. `by_recipes`: they are commands of
// the tree, whose results are only known in part. Throws Fault: a file that is neither a result nor one of the tree, a
// name that a target has already (Exit::usage), a program or archive that is not there (Exit::missing), a file that two
// make (Exit::usage).
void add_finishing(model::Plan& plan, const model::Settings& settings, const model::Toolchain& toolchain,
                   bool by_recipes);

// ---- operations of steps (plan/operations.h); all words are absolute paths but for names ----------------------------

// FROM TO ...: files and folders, copied where they are another content or mode.
int finish_by_copying(const std::vector<std::string>& words, const std::string& root, std::string& output);
// PROGRAM TO PART ...: the program, and behind its end the parts.
int finish_by_joining(const std::vector<std::string>& words, const std::string& root, std::string& output);
// ARCHIVE PATH NAME ...: packs each path under its name.
int finish_by_packing(const std::vector<std::string>& words, const std::string& root, std::string& output);
// ARCHIVE FOLDER "whole" or "content": unpacks, with or without the one folder that all is in.
int finish_by_unpacking(const std::vector<std::string>& words, const std::string& root, std::string& output);

}  // namespace coctilis::plan
