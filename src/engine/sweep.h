// Takes away what steps made that are no more: results of rules that are gone would be found by what is built next, and
// by users.
#pragma once

#include <cstdint>
#include <functional>
#include <set>
#include <string>

#include "base/result.h"
#include "engine/journal.h"
#include "model/plan.h"

namespace coctilis::engine {

// Of all records for which `is_gone`, removes the files among the results that no other record has among its results,
// and then the records. Returns how many files went.
std::size_t sweep(const model::Plan& plan, Journal& journal, const std::function<bool(const Journal::Entry&)>& is_gone);

// The records of makers that are none of `makers`, in the journal of the plan. Errors: the kiln cannot be written
// (Exit::kiln).
[[nodiscard]] Result<std::size_t> sweep_all_but(const model::Plan& plan, const std::set<std::uint64_t>& makers);

}  // namespace coctilis::engine
