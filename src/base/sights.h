// How a number of files and folders looked at one time, so that all of them can be looked at again in one pass: a run
// that would come upon nothing else than the one before has nothing to work out.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "base/file_stamp.h"

namespace coctilis {

class Sights {
 public:
  enum class Kind : std::uint8_t {
    file = 1,      // a file or folder as its stamp says; links are followed
    link = 2,      // a symbolic link as its own stamp says
    absent = 3,    // nothing is there, not even a link
    presence = 4,  // something is there: only its kind, and whether it may be run
    dangling = 5,  // following links leads to nothing
  };

  // What was seen at `path` (absolute). The same path seen as something else before makes all of it worthless.
  void add(Kind kind, const std::string& path, const FileStamp& stamp);
  // Looks now.
  void look(Kind kind, const std::string& path);
  // Looks at what this program itself has just written, a link or what is there: later changes of it matter, its youth
  // does not.
  void see_own(const std::string& path);
  // The same of a folder and all that lies below it.
  void see_own_below(const std::string& folder);
  // It was seen in a way that cannot be looked at again, or may have changed since.
  void spoil() { spoilt_ = true; }
  [[nodiscard]] bool spoilt() const { return spoilt_; }
  [[nodiscard]] std::size_t size() const { return places_.size(); }
  // In the form that `stand` reads.
  [[nodiscard]] const std::string& packed() const { return packed_; }

  // True when everything in `packed` is as it was seen. Looks at nothing else, and allocates nothing for each.
  [[nodiscard]] static bool stand(std::string_view packed);

 private:
  std::string packed_;
  std::unordered_map<std::string, std::size_t> places_;  // kind and path -> where its stamp is
  bool spoilt_ = false;
};

}  // namespace coctilis
