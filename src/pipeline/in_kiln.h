// Where a run may write: the kilns of its tree, and what all trees of a user share.
#pragma once

#include <functional>

#include "model/run.h"

namespace coctilis::pipeline {

// Calls `work`, in which this program writes in the place of the kilns only, beside what all trees of a user share: by
// no link that a tree, or what it runs, has put there does anything get out. False, with the problem in the run, when
// there can be no kiln.
bool in_kiln(model::Run& run, const std::function<void()>& work);

}  // namespace coctilis::pipeline
