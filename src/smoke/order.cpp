#include "smoke/order.h"

#include <algorithm>
#include <functional>
#include <set>

#include "base/process.h"
#include "base/text.h"

namespace coctilis::smoke {

using model::Check;
using model::Verdict;

namespace {

constexpr std::size_t most_looked_into = 5;
constexpr double most_seconds = 60;

class Orders {
 public:
  Orders(const Kind& kind, const Context& context, Runner& runner) : kind_(kind), context_(context), runner_(runner) {}

  void look(Check& check, std::size_t made) {
    // It was the only one that ran: nobody can have disturbed it.
    if (made > 1 && passes_alone(check.name)) {
      check.cause = "alone it passes: what a test before it leaves behind disturbs it";
      check.remedy = "let it make what it needs itself, or clean up behind the others; coctilis smoke " +
                     text::shell_quote(check.name) + " runs it alone";
    } else if (!context_.request.only.empty() && passes_behind_others(check.name)) {
      check.cause = "it needs what a test before it leaves: behind all of them it passes";
      check.remedy = "let the description say so (the test it comes behind, or a fixture), or run all tests";
    }
  }
  [[nodiscard]] bool has_time() const { return now() - began_ < most_seconds && interrupted_by == 0; }

 private:
  // With those that it is said to wait for, in a copy of the tree that no other has seen.
  bool passes_alone(const std::string& name) {
    runner_.forget_copy();
    const auto all = kind_.expand(context_);
    const auto it = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.name == name; });
    if (it == all.end()) return false;
    std::set<std::size_t> wanted;
    const std::function<void(std::size_t)> want = [&](std::size_t i) {
      if (!wanted.insert(i).second) return;
      for (const auto before : all[i].company.waits) want(before);
    };
    want(static_cast<std::size_t>(it - all.begin()));
    return last_passes(all, wanted);
  }

  bool passes_behind_others(const std::string& name) {
    runner_.forget_copy();
    Request request = context_.request;
    request.only.clear();
    const Context whole{context_.plan, context_.settings, request};
    const auto all = kind_.expand(whole);
    std::set<std::size_t> wanted;
    for (std::size_t i = 0; i < all.size(); ++i) {
      wanted.insert(i);
      if (all[i].name == name) return wanted.size() > 1 && last_passes(all, wanted);
    }
    return false;
  }

  // Makes those, in order: whether the last passes.
  bool last_passes(const std::vector<PlannedCheck>& all, const std::set<std::size_t>& wanted) {
    bool passed = false;
    for (const auto i : wanted) {
      if (!has_time()) return false;
      passed = all[i].run(runner_).verdict == Verdict::passed;
    }
    return passed;
  }

  const Kind& kind_;
  const Context& context_;
  Runner& runner_;
  const double began_ = now();
};

}  // namespace

void name_order_as_cause(const Kind& kind, const Context& context, Runner& runner, std::vector<Check>& checks) {
  Orders orders(kind, context, runner);
  std::size_t looked = 0;
  for (auto& check : checks) {
    if (check.kind != kind.kind || check.verdict != Verdict::failed) continue;
    if (looked++ == most_looked_into || !orders.has_time()) return;
    orders.look(check, checks.size());
  }
}

}  // namespace coctilis::smoke
