// Facts that are the same for every tool chain.
#pragma once

#include <memory>

#include "model/project.h"

namespace coctilis::describe {

class KnownFacts : public model::Facts {
 public:
  explicit KnownFacts(model::Build build) : build_(std::move(build)) {}
  [[nodiscard]] model::Build build_with(const model::Toolchain&) const override { return build_; }

 private:
  model::Build build_;
};

[[nodiscard]] inline std::shared_ptr<const model::Facts> known_facts(model::Build build) {
  return std::make_shared<KnownFacts>(std::move(build));
}

}  // namespace coctilis::describe
