// Variables of the environment that have a say in a build: the one list of them.
#pragma once

#include <initializer_list>
#include <string_view>

namespace coctilis::model {

// Who looks at a variable. Several may.
enum EnvironmentRole : unsigned {
  // Compilers, linkers and what they start, whatever their command says (GCC, "Environment Variables Affecting GCC";
  // ld(1), "ENVIRONMENT").
  for_compilers = 1U,
  // What compilers answer when they are asked what they are hangs on it.
  for_answers = 2U,
  // Whoever chooses compilers, options and packages: this program, makefiles, configure scripts.
  for_choices = 4U,
  // Other programs, commonly (POSIX.1-2024, XBD 8.2); compilers are run in one language.
  for_programs = 8U
};

struct EnvironmentVariable {
  const char* name;
  unsigned roles;
  const char* effect;  // what users are told of it; null: nothing
};

inline constexpr EnvironmentVariable environment_variables[] = {
    {"CC", for_choices, "names the C compiler"},
    {"CXX", for_choices, "names the C++ compiler"},
    {"FC", for_choices, "names the Fortran compiler"},
    {"CPP", for_choices, nullptr},
    {"CFLAGS", for_choices, "options of every C compilation"},
    {"CXXFLAGS", for_choices, "options of every C++ compilation"},
    {"FFLAGS", for_choices, "options of every Fortran compilation"},
    {"FCFLAGS", for_choices, "options of every compilation of free-form Fortran"},
    {"CPPFLAGS", for_choices, "options of every C and C++ compilation"},
    {"LDFLAGS", for_choices, "options of every link"},
    {"LIBS", for_choices, nullptr},
    {"CPATH", for_compilers | for_answers | for_choices, "folders where headers are looked for"},
    {"C_INCLUDE_PATH", for_compilers | for_answers | for_choices, "folders where C headers are looked for"},
    {"CPLUS_INCLUDE_PATH", for_compilers | for_answers | for_choices, "folders where C++ headers are looked for"},
    {"OBJC_INCLUDE_PATH", for_compilers, nullptr},
    {"LIBRARY_PATH", for_compilers | for_answers | for_choices, "folders where libraries are looked for"},
    {"COMPILER_PATH", for_compilers | for_answers | for_choices, nullptr},
    {"GCC_EXEC_PREFIX", for_compilers | for_answers | for_choices, nullptr},
    {"CCACHE_CC", for_answers, nullptr},
    {"LD_RUN_PATH", for_compilers | for_choices, nullptr},
    {"LDEMULATION", for_compilers, nullptr},
    {"SOURCE_DATE_EPOCH", for_compilers, nullptr},
    {"LD_LIBRARY_PATH", for_choices, "folders where programs find shared libraries when they run"},
    {"PKG_CONFIG", for_choices, nullptr},
    {"PKG_CONFIG_PATH", for_choices, "folders where .pc files are looked for first"},
    {"PKG_CONFIG_LIBDIR", for_choices, "folders where .pc files are looked for, in place of the usual ones"},
    {"PKG_CONFIG_SYSROOT_DIR", for_choices, "put before the folders that .pc files name"},
    {"PERL5LIB", for_choices, "folders where modules of Perl are looked for first"},
    {"PYTHONPATH", for_choices, "folders where modules of Python are looked for first"},
    {"CMAKE_PREFIX_PATH", for_choices, "prefixes where packages are looked for"},
    {"PATH", for_answers | for_choices, nullptr},
    {"LANG", for_programs, nullptr},
    {"LC_ALL", for_programs, nullptr},
    {"LC_CTYPE", for_programs, nullptr},
    {"LC_COLLATE", for_programs, nullptr},
    {"LC_MESSAGES", for_programs, nullptr},
    {"LC_NUMERIC", for_programs, nullptr},
    {"TZ", for_programs, nullptr},
    {"PYTHONPATH", for_programs, nullptr},
    {"PERL5LIB", for_programs, nullptr},
};

// True for variables that change from run to run without having a say in what is made.
[[nodiscard]] constexpr bool is_passing(std::string_view name) {
  for (const std::string_view one : {"_", "OLDPWD", "PWD", "SHLVL", "COLUMNS", "LINES", "COCTILIS_MAKE_COUNT",
                                     "COCTILIS_MAKE_JOBS", "COCTILIS_MAKE_STEP", "COCTILIS_MAKE_OPEN"}) {
    if (name == one) return true;
  }
  return false;
}

}  // namespace coctilis::model
