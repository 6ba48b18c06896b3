// Brings in what a tree lacks of other repositories: submodules, nested ones too, at the revision that pins them, and
// the [[source]] entries of coctilis.toml. Only ever called when the user asked for it.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "model/settings.h"
#include "model/survey.h"

namespace coctilis::survey {

// How far one repository is.
struct Transfer {
  std::string path;  // relative to the tree
  std::size_t objects = 0;
  std::size_t objects_in_all = 0;
  std::size_t bytes = 0;
};

using model::Filled;
using model::FillOutcome;

struct FillResult {
  std::vector<Filled> entries;  // in order of ending
  bool interrupted = false;
  [[nodiscard]] std::size_t count(FillOutcome outcome) const;
  [[nodiscard]] bool complete() const;  // nothing was refused or failed
};

// Told from the thread that called `fill`.
class FillObserver {
 public:
  virtual ~FillObserver() = default;
  virtual void ended(const Filled& one) = 0;
  // `done` of `known` repositories so far; more may come to light.
  virtual void progress(std::size_t done, std::size_t known, const std::vector<Transfer>& running) = 0;
};

// Fills all that is empty or at another revision, at most `jobs` at once. A repository with local changes, or a folder
// that holds something else, is left alone and told. `settings.prefixes` are also looked through for copies of the
// repositories (PREFIX/NAME.git, PREFIX/NAME, PREFIX/PATH), and those of `settings.mirrors` asked, before the URL is. URLs may be https, ssh, file or a
// path; hooks, filters and commands of repository settings are never run. What was completed stays when it is cut off.
// Errors: the tree has neither submodules nor sources (Exit::usage).
[[nodiscard]] Result<FillResult> fill(const std::string& tree, const model::Settings& settings, unsigned jobs,
                                      FillObserver& observer);

// `url` as seen from the repository in `folder`: "./x" and "../x" count from where that repository came from
// (gitmodules(5)). Empty, with `fault` set, when it cannot be told or must not be used.
[[nodiscard]] std::string resolve_url(const std::string& url, const std::string& folder, std::string& fault);

}  // namespace coctilis::survey
