#include "survey/folders.h"

#include <algorithm>
#include <unordered_map>

#include "base/text.h"

namespace coctilis::survey {

const char* name_of(FolderRole role) {
  switch (role) {
    case FolderRole::own: return "a folder of the tree";
    case FolderRole::tests: return "a folder of tests";
    case FolderRole::examples: return "a folder of examples";
    case FolderRole::documents: return "a folder of documents";
    case FolderRole::third_party: return "a folder of others' code";
    case FolderRole::packaging: return "a folder for packaging";
    case FolderRole::elsewhere: return "a folder for other systems";
    case FolderRole::extras: return "a folder of extras";
  }
  return "";
}

FolderRole role_of_folder(std::string_view name) {
  static const std::unordered_map<std::string, FolderRole> table = [] {
    std::unordered_map<std::string, FolderRole> out;
    const auto add = [&](FolderRole role, std::initializer_list<const char*> names) {
      for (const char* one : names) out.emplace(one, role);
    };
    add(FolderRole::tests,
        {"test",      "tests",      "testing",     "testsuite", "test-suite", "testcases", "unittest",
         "unittests", "unit-tests", "unit_tests",  "unit-test", "t",          "check",     "checks",
         "regress",   "regression", "regressions", "selftest",  "selftests",  "autotest",  "gtest",
         "fuzz",      "fuzzing",    "fuzzer",      "fuzzers",   "fuzz-tests", "ossfuzz",   "oss-fuzz",
         "api_test",  "testdata",   "test-data",   "test_data", "spec",       "specs",     "conformance"});
    add(FolderRole::examples, {"example", "examples", "sample", "samples", "demo", "demos", "tutorial", "tutorials",
                               "bench", "benchmark", "benchmarks", "benches", "perf", "playground", "templates"});
    add(FolderRole::documents,
        {"doc",      "docs",   "document", "documents", "documentation", "man",     "manual", "manpages",
         "website",  "web",    "www",      "po",        "locale",        "locales", "i18n",   "licenses",
         "licences", "images", "data",     "icons"});
    add(FolderRole::third_party, {"third_party", "third-party", "thirdparty", "3rdparty", "3rd_party", "3rd-party",
                                  "3rdparties", "external", "externals", "extern", "vendor", "vendored", "vendors",
                                  "deps", "dependencies", "subprojects", "bundled", "node_modules", "submodules"});
    add(FolderRole::packaging,
        {"debian", "rpm", "packaging", "package", "pkg", "dist", "obs", "snap", "flatpak", "homebrew", "installer",
         "installers", "ci", "docker", "conda", "nix", "distrib", "appimage"});
    add(FolderRole::elsewhere,
        {"win",     "win32",        "win64",  "windows", "winnt",      "mswin",   "wince",   "uwp",      "msw",
         "msdos",   "dos",          "djgpp",  "os2",     "vms",        "openvms", "mac",     "macos",    "macosx",
         "osx",     "darwin",       "xcode",  "ios",     "android",    "amiga",   "amigaos", "beos",     "haiku",
         "atari",   "riscos",       "acorn",  "msvc",    "vs",         "vc",      "vc6",     "vc7",      "vc8",
         "vc9",     "vc10",         "vcnet",  "watcom",  "borland",    "bcb",     "symbian", "nintendo", "psp",
         "wii",     "vs2005",       "vs2008", "vs2010",  "vs2012",     "vs2013",  "vs2015",  "vs2017",   "vs2019",
         "visualc", "visualstudio", "msvs",   "wasm",    "emscripten", "solaris", "hpux",    "aix",      "qnx",
         "qnx4",    "mingw",        "cygwin", "plan9",   "vxworks",    "nds",     "netware"});
    add(FolderRole::extras,
        {"contrib", "contribs", "contributed", "extra", "extras", "misc", "attic", "old", "obsolete", "deprecated",
         "unused", "backup", "experimental", "sandbox", "wip", "todo", "legacy", "historical"});
    return out;
  }();
  const auto it = table.find(text::lower(std::string(name)));
  return it == table.end() ? FolderRole::own : it->second;
}

FolderRole role_of_path(std::string_view path, std::string* which) {
  for (std::size_t at = 0; at < path.size();) {
    const auto slash = std::min(path.find('/', at), path.size());
    const auto role = role_of_folder(path.substr(at, slash - at));
    if (role != FolderRole::own) {
      if (which != nullptr) *which = path.substr(0, slash);
      return role;
    }
    at = slash + 1;
  }
  return FolderRole::own;
}

}  // namespace coctilis::survey
