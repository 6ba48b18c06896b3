// Finding out what is built of the sources of a tree, with the reason for every decision.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "describe/read_request.h"
#include "describe/sources/units.h"
#include "model/settings.h"

namespace coctilis::describe::sources {

class Discovery {
 public:
  explicit Discovery(const ReadRequest& request);
  ~Discovery();
  Discovery(const Discovery&) = delete;
  Discovery& operator=(const Discovery&) = delete;

  // Generates the headers and sources that the named sources (relative to the tree) need.
  void prepare(const std::vector<std::string>& sources);
  // Programs, libraries and what they are made of. Throws Fault (Exit::description) when the sources come to nothing.
  [[nodiscard]] std::vector<model::SourceTarget> targets();

  [[nodiscard]] Workplace place() const;
  [[nodiscard]] std::vector<std::string> headers_for(const std::vector<std::string>& library_sources) const;
  // Sources that belong to nothing, with the reason.
  [[nodiscard]] const std::vector<model::LeftOut>& left_out() const;
  [[nodiscard]] const std::vector<Problem>& warnings() const;

 private:
  class Work;
  std::unique_ptr<Work> work_;
};

}  // namespace coctilis::describe::sources
