// What coctilis.toml asks to be done after linking: [[finish]], and desktop entries, [[desktop]].
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::model {

// A step after linking. Files that it takes are results of the tree by name, what an earlier [[finish]] made by its
// path among what is finished, or files and folders of the tree. What it makes lies in the kiln's folder "finished".
struct Finish {
  enum class Kind {
    strip,    // a program or library without what only debuggers read
    bind,     // further files put into a program: behind its end, or as a section
    copy,     // files and folders
    archive,  // what came out, packed
    run       // a command of the tree's own
  };
  Kind kind = Kind::copy;
  std::string name;                  // what it is called, and built by
  std::vector<std::string> from;     // strip: one; bind: the parts
  std::string into;                  // bind: the program
  std::string section;               // bind: the name of the section; empty: behind the program's end
  std::string to;                    // strip, bind: a file; copy: a folder; archive: the file. From "finished"
  std::string debug;                 // strip: the file for what is taken away, from "finished"; empty: none
  std::string folder;                // archive: the folder in it that all lies in; empty: none
  std::vector<std::string> command;  // run: the program by name or path, and its words; ${NAME} is the path of a result
  std::vector<std::string> outputs;  // run: what it makes, from "finished"
  Place place;
};

// How a program is offered in the menus of a desktop, once it is installed.
struct DesktopEntry {
  std::string program;  // by name, as the description installs it
  std::string title;
  std::string comment;
  std::string icon;                    // a file of the tree, PNG or SVG; empty: none
  std::vector<std::string> arguments;  // ${prefix} is where it is installed
  std::string folder;                  // the working folder, from the prefix; empty: that of the desktop
  std::vector<std::string> categories;
  bool terminal = false;
  Place place;
};

}  // namespace coctilis::model
