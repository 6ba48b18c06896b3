// What a reader is given: the description and the tree, where it may write, and what it is lent by later stages.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "locate/locator.h"
#include "model/project.h"
#include "model/survey.h"

namespace coctilis::describe {

// What only later stages can do.
struct Services {
  // Runs those of the recipes that are out of date, in their order, as steps of a plan are run; `lines` works out the
  // lines of one that had to wait. True when any ran. Throws Fault (Exit::step) when one fails. Where it is empty,
  // nothing can be run.
  std::function<bool(const std::vector<model::Recipe>& recipes,
                     const std::function<std::vector<model::RecipeLine>(const model::Recipe&)>& lines)>
      run_recipes;
  // True when a step is known to have made the file (absolute), whatever became of it since; or to have read it.
  std::function<bool(const std::string& path)> made_by_step;
  std::function<bool(const std::string& path)> read_by_step;
};

struct ReadRequest {
  std::string file;  // absolute: the description
  const model::Survey& survey;
  locate::Locator& locator;
  std::string work;  // absolute: the only folder, with what lies beside it in the kiln, that is written to
  const Services& services;
};

}  // namespace coctilis::describe
