// The toolkit that project files are mostly written for: its modules by the names that QT takes, and its generators.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "locate/locator.h"

namespace coctilis::describe {

class Toolkit {
 public:
  // Looks for it: the older of the two that can be installed comes first, as most projects are written for it, unless
  // `wanted` names one ("5", "6").
  Toolkit(locate::Locator& locator, const std::string& wanted);

  [[nodiscard]] bool found() const { return !version_.empty(); }
  [[nodiscard]] const std::string& version() const { return version_; }  // "5.15.8"
  [[nodiscard]] std::string major() const { return version_.substr(0, version_.find('.')); }
  [[nodiscard]] bool has_module(const std::string& name) const;
  // The finding of a module ("widgets", "core-private"), kept as one that is required.
  [[nodiscard]] model::Finding module(const std::string& name, const std::string& required_by, const Place& place,
                                      bool required) const;
  // A generator ("moc", "uic", "rcc", "lrelease"): absolute, and a finding where it is missing.
  [[nodiscard]] std::string generator(const std::string& name, const std::string& required_by,
                                      const Place& place) const;
  // The file of a feature that another package has installed; what belongs to the toolkit itself is done here.
  [[nodiscard]] std::string installed_feature(const std::string& name) const;
  // Where its parts lie, by the names that $$[...] takes.
  [[nodiscard]] const std::map<std::string, std::string>& properties() const { return properties_; }
  // Whether only the newer of the two has such a module.
  [[nodiscard]] static bool is_only_in_newer(const std::string& module);
  // The macro that says that a module is used: "QT_WIDGETS_LIB".
  [[nodiscard]] static std::string macro_of(const std::string& module);

 private:
  [[nodiscard]] std::string module_file(const std::string& name) const;
  [[nodiscard]] std::optional<model::Finding> module_of_other_package(const std::string& name) const;
  locate::Locator& locator_;
  std::string major_;
  std::string version_;
  std::map<std::string, std::string> modules_;  // in lower case -> the name of the .pc file
  std::vector<std::string> program_folders_;
  std::map<std::string, std::string> properties_;
};

}  // namespace coctilis::describe
