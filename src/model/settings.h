// What the user asked for: coctilis.toml and the options that all commands share.
#pragma once

#include <algorithm>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "base/sandbox.h"
#include "model/asked_check.h"
#include "model/finish.h"
#include "model/told_language.h"

namespace coctilis::model {

// A named set of compile options; "debug" and "release" are always there.
struct Variant {
  std::string name;
  std::string base;  // "debug" or "release": which of the description's two settings it follows
  std::vector<std::string> compile;
  std::vector<std::string> link;
  bool debug() const { return base == "debug"; }
};

// A [[need]]: something from outside that the description does not know, or a pin on it.
struct Need {
  std::string library;  // one of library, program, kit, file is set
  std::string program;
  std::string kit;                     // a vendor's folder with whatever it holds, told by its prefix
  std::string file;                    // a data file, in the tree or anywhere
  std::string constraint;              // ">= 2.1, < 3"
  std::string prefix;                  // search here first; environment variables replaced
  std::vector<std::string> files;      // files that must exist below the prefix
  std::vector<std::string> goes_with;  // other needs whose version must agree in its first two numbers
  std::string form;                    // "static", "shared" or empty
  std::string source;                  // the [[source]] that it is built from first; empty: it is there
  Place place;
  std::map<std::string, Place> places;  // where each value was read: a later file may have changed one of them
  [[nodiscard]] const std::string& name() const {
    return !library.empty() ? library : !program.empty() ? program : !kit.empty() ? kit : file;
  }
};

// Repositories whose address begins with one text are looked for first where another stands in its place.
struct Mirror {
  std::string of;
  std::string at;
};

// A wish for a compiler: "gcc", "clang", "gcc >= 12", or a machine triplet.
struct ToolchainWish {
  std::string text;
  std::string language;  // the key it stands under in coctilis.toml; empty: the command line
  Place place;
};

// A [[source]]: another repository that is brought into the tree; or, without an address, one that comes with it; or an
// archive that is unpacked beside a program of the tree once that is built.
struct Source {
  std::string url;
  std::string revision;
  std::string folder;  // relative to the tree; of an archive to the program's own folder
  Place place;
  std::string name;
  std::string archive;                         // a file of the tree, or absolute
  std::string beside;                          // the program
  std::map<std::string, std::string> options;  // of its own description, where it is built for a need
};

// An [[edit]]: a file of the tree is built as if what a pattern matches were something else.
struct Edit {
  std::string file;         // from the tree
  std::string pattern;      // RE2, by lines
  std::string replacement;  // "\1" stands for a group of the pattern
  Place place;
};

// A [[target]]: something that is made of sources alone. The same is found out where no description tells.
struct SourceTarget {
  enum class Kind {
    program,
    library,  // for users: an archive and a shared library
    archive   // for other targets only
  };
  // Sources that are compiled alike. Paths count from the tree, or are absolute.
  struct Part {
    std::vector<std::string> sources;  // grammars among them
    std::vector<std::string> include;
    std::vector<std::string> quote_include;  // searched for names in quotes only
    std::vector<std::string> define;         // NAME or NAME=VALUE
    std::vector<std::string> options;
  };
  std::string name;
  Kind kind = Kind::program;
  std::vector<Part> parts;
  std::vector<std::string> use;        // other targets
  std::vector<std::string> libraries;  // of the system, as after -l, or files
  bool by_default = true;
  std::string why;  // what made it one, where that was found out; else empty
  Place place;
};

struct Settings {
  // [tree]
  std::string description;
  std::vector<std::string> components;  // folders or descriptions that are members of one run, in order
  Place components_place;
  // What it is called and needs as one of several members: names of others, each with the version it needs behind it.
  std::string package_name;
  std::string package_version;
  std::vector<std::string> package_needs;
  Place package_place;
  std::vector<std::string> leave_out;
  std::vector<std::string> choose;  // folders that are taken of several that exclude each other
  Place choose_place;
  std::vector<std::string> arguments;  // for a description that is a script
  // Whether a listfile's -Werror counts. Which warnings there are hangs on the compiler and on how much it optimises,
  // neither of which the tree's developers chose.
  bool warnings_as_errors = false;
  std::map<std::string, Place> tree_places;  // by the keys of [tree] that are told
  bool header_times = false;    // header-times: compilers that can tell are asked how long each header takes
  bool links_database = false;  // compile-commands: a link to the compile database lies at the top of the tree
  // [sandbox]: what its commands need of the machine, for its user to allow
  bool network = false;
  std::vector<std::string> devices;
  Place network_place, devices_place;
  sandbox::Limits limits;
  std::map<std::string, Place> limit_places;  // by the keys that are told
  // [toolchain]
  std::vector<ToolchainWish> toolchain;  // all of them have to be met
  std::string machine;
  int java = 0;  // the release of Java that it is to be compiled with; 0: what the description says
  Place java_place;
  std::string linker;   // the word after -fuse-ld=; empty: the compiler's own choice
  std::string sysroot;  // given to the compilers; empty: their own
  Place toolchain_place;
  // [options]
  std::map<std::string, std::string> options;
  std::map<std::string, Place> option_places;
  std::vector<Need> needs;
  std::vector<Source> sources;
  std::map<std::string, Variant> variants;
  std::vector<AskedCheck> smoke;
  std::vector<AskedService> services;
  std::vector<Finish> finishes;
  std::vector<DesktopEntry> desktop_entries;
  std::vector<SourceTarget> targets;
  std::vector<Edit> edits;
  std::vector<ToldLanguage> languages;
  // the command line
  std::string variant = "release";
  std::vector<std::string> prefixes;       // --with, then the user's, the first is searched first
  std::string user_file;                   // the file with the user's; empty: there are none
  std::vector<std::string> user_prefixes;  // those of `prefixes` that are the user's
  std::vector<Mirror> mirrors;             // of the user's file
  unsigned jobs = 1;
  bool rerun = false;  // --rerun: the description is read again and scripts run, whatever has changed

  // The language of [language.NAME] that a file is a source of by its name; null: of none of them.
  [[nodiscard]] const ToldLanguage* told_language_of(const std::string& file) const {
    for (const auto& language : languages) {
      for (const auto& ending : language.endings) {
        if (file.size() > ending.size() && file.ends_with(ending)) return &language;
      }
    }
    return nullptr;
  }

  // By what a prefix is searched: "--with", or the user's file.
  [[nodiscard]] std::string origin_of_prefix(const std::string& prefix) const {
    return std::find(user_prefixes.begin(), user_prefixes.end(), prefix) == user_prefixes.end() ? "--with" : user_file;
  }

  // The prefixes to look in before anything else: those of the command line, then those of needs.
  [[nodiscard]] std::vector<std::string> wished_prefixes() const {
    std::vector<std::string> out = prefixes;
    for (const auto& need : needs) {
      if (!need.prefix.empty()) out.push_back(need.prefix);
    }
    return out;
  }
};

}  // namespace coctilis::model
