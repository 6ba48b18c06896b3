// The functions of makefiles. A new one is a function and a line in the table.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::makefile {

class Make;

// What functions need of the makefile they stand in.
class Functions {
 public:
  using Arguments = std::vector<std::string>;
  struct Known {
    const char* name;
    std::size_t least;
    std::size_t most;  // further commas belong to the last argument; 0: any number
    bool expanded;     // arguments are worked out before
    void (*run)(Make&, std::string& out, Arguments& arguments, const Place& place);
  };
  // nullptr when there is no function of that name.
  [[nodiscard]] static const Known* find(std::string_view name);

 private:
  static void call(Make&, std::string&, Arguments&, const Place&);
  static void eval(Make&, std::string&, Arguments&, const Place&);
  static void value(Make&, std::string&, Arguments&, const Place&);
  static void origin(Make&, std::string&, Arguments&, const Place&);
  static void flavor(Make&, std::string&, Arguments&, const Place&);
  static void foreach (Make&, std::string&, Arguments&, const Place&);
  static void let(Make&, std::string&, Arguments&, const Place&);
  static void if_(Make&, std::string&, Arguments&, const Place&);
  static void or_(Make&, std::string&, Arguments&, const Place&);
  static void and_(Make&, std::string&, Arguments&, const Place&);
  static void intcmp(Make&, std::string&, Arguments&, const Place&);
  static void shell(Make&, std::string&, Arguments&, const Place&);
  static void wildcard(Make&, std::string&, Arguments&, const Place&);
  static void file(Make&, std::string&, Arguments&, const Place&);
  static void abspath(Make&, std::string&, Arguments&, const Place&);
  static void realpath(Make&, std::string&, Arguments&, const Place&);
  static void error(Make&, std::string&, Arguments&, const Place&);
  static void warning(Make&, std::string&, Arguments&, const Place&);
  static void info(Make&, std::string&, Arguments&, const Place&);
};

}  // namespace coctilis::describe::makefile
