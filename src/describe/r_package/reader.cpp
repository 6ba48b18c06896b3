#include "describe/r_package/reader.h"

#include <re2/re2.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/configure/reader.h"
#include "describe/makefile/reader.h"
#include "describe/mirror.h"
#include "locate/pc_file.h"

namespace coctilis::describe::r_package {

namespace {

constexpr const char* own_makefile = "src/module.mk";
constexpr std::uint64_t most_bytes = 1U << 20U;

// What a source is by its ending, and the command that makes its object.
struct Kind {
  const char* ending;
  const char* language;
  const char* command;
};
constexpr const char* compile_cxx = "$(module_cxx) $(ALL_CPPFLAGS) $(ALL_CXXFLAGS)";
constexpr Kind kinds[] = {{".c", "C", "$(CC) $(ALL_CPPFLAGS) $(ALL_CFLAGS)"},
                          {".cc", "C++", compile_cxx},
                          {".cpp", "C++", compile_cxx},
                          {".cxx", "C++", compile_cxx},
                          {".f", "Fortran", "$(FC) $(ALL_FFLAGS)"},
                          {".f90", "Fortran", "$(FC) $(ALL_FCFLAGS)"},
                          {".f95", "Fortran", "$(FC) $(ALL_FCFLAGS)"}};

// Of C++, as CXX_STD = CXX17 names them.
constexpr const char* standards[] = {"98", "11", "14", "17", "20", "23"};

// What Makevars may count on, and change.
constexpr const char* before_makevars = R"(R_ARCH =
R_ARCH_BIN =
SHLIB_EXT = .so
DYLIB_EXT = .so
SHLIB = $(R_PACKAGE_NAME)$(SHLIB_EXT)
CFLAGS ?= -O2
CXXFLAGS ?= -O2
FFLAGS ?= -O2
FCFLAGS ?= $(FFLAGS)
FC = gfortran
F77 = $(FC)
AR = ar
RANLIB = ranlib
NM = nm
SED = sed
MKDIR = mkdir
ECHO = echo
CPICFLAGS = -fPIC
CXXPICFLAGS = -fPIC
FPICFLAGS = -fPIC
FCPICFLAGS = -fPIC
SAFE_FFLAGS = -O2 -fPIC -ffloat-store
C_VISIBILITY = -fvisibility=hidden
CXX_VISIBILITY = -fvisibility=hidden
F_VISIBILITY = -fvisibility=hidden
SHLIB_OPENMP_CFLAGS = -fopenmp
SHLIB_OPENMP_CXXFLAGS = -fopenmp
SHLIB_OPENMP_FFLAGS = -fopenmp
BLAS_LIBS = -lblas
LAPACK_LIBS = -llapack
FLIBS = -lgfortran -lm -lquadmath
FCLIBS = $(FLIBS)
LIBM = -lm
LIBR = -L$(R_HOME)/lib -lR
R_XTRA_CPPFLAGS = -I$(R_INCLUDE_DIR) -DNDEBUG
ALL_CPPFLAGS = $(R_XTRA_CPPFLAGS) $(PKG_CPPFLAGS) $(CLINK_CPPFLAGS) $(CPPFLAGS)
ALL_CFLAGS = $(PKG_CFLAGS) $(CPICFLAGS) $(CFLAGS)
ALL_CXXFLAGS = $(PKG_CXXFLAGS) $(CXXPICFLAGS) $(CXXFLAGS)
ALL_FFLAGS = $(PKG_FFLAGS) $(FPICFLAGS) $(FFLAGS)
ALL_FCFLAGS = $(PKG_FCFLAGS) $(PKG_FFLAGS) $(FPICFLAGS) $(FCFLAGS)
ALL_LIBS = $(PKG_LIBS) $(LIBR)
.DEFAULT_GOAL := all
)";
constexpr const char* behind_makevars = R"(module_cxx = $(CXX$(module_standard)) $(CXX$(module_standard)STD)
prefix = /usr/local
module_folder = $(DESTDIR)$(prefix)/lib/R/site-library/$(R_PACKAGE_NAME)/libs
all: $(SHLIB)
install: all
	mkdir -p $(module_folder)
	cp $(SHLIB) $(module_folder)/$(SHLIB)
.PHONY: all install
)";

const char* language_of(const std::string& name) {
  for (const auto& kind : kinds) {
    if (name.ends_with(kind.ending)) return kind.language;
  }
  return nullptr;
}

bool has_sources(const std::string& folder) {
  const auto names = files::names_in(folder);
  return std::any_of(names.begin(), names.end(),
                     [](const auto& name) { return language_of(name) != nullptr || name == "Makevars"; });
}

// The name becomes one of a file and a word of a makefile.
bool is_name(const std::string& name) {
  static const RE2 form("[A-Za-z][A-Za-z0-9.]*");
  return RE2::FullMatch(name, form);
}

bool is_package(const std::string& path) {
  if (!path.ends_with("/DESCRIPTION")) return false;
  const auto fields = fields_in(files::read_beginning(path, most_bytes));
  const auto it = fields.find("Package");
  return it != fields.end() && is_name(it->second) && has_sources(path.substr(0, path.rfind('/')) + "/src");
}

class Package {
 public:
  explicit Package(const ReadRequest& request)
      : request_(request),
        name_(files::below(request.file, request.survey.tree)),
        folder_(name_.substr(0, name_.size() - std::string_view("DESCRIPTION").size())) {}

  model::Project read() {
    take_fields();
    find_language();
    find_needed();
    if (auto mirrored = mirror(request_.survey.tree, request_.work, request_.services.made_by_step); !mirrored)
      throw Fault(mirrored.problem());
    configure::Ran script;
    if (files::is_file(request_.work + "/" + folder_ + "configure")) {
      auto environment = request_.locator.environment();
      environment["R_HOME"] = home_;
      environment["R_PACKAGE_NAME"] = package_;
      environment["R_PACKAGE_DIR"] = request_.work + "/" + folder_;
      request_.locator.set_environment(environment);
      std::string output;
      auto ran = configure::run_script(folder_ + "configure", request_, {}, output);
      if (!ran) throw Fault(ran.problem());
      script = std::move(*ran);
    }
    files::write_if_different(request_.work + "/" + folder_ + own_makefile, rules());
    auto environment = request_.locator.environment();
    environment["R_HOME"] = home_;
    auto project = makefile::read_in_mirror(folder_ + own_makefile, request_, environment);
    if (!project) throw Fault(project.problem());
    project->name = package_;
    project->read_files.push_back(request_.file);
    if (!script.options.empty()) project->options = std::move(script.options);
    for (auto& warning : script.warnings) project->warnings.push_back(std::move(warning));
    for (const auto& name : odd_)
      project->left_out.push_back(
          {"source", folder_ + "src/" + name, {name_, 0, 0}, "such a name cannot stand in a makefile"});
    for (const char* part : {"R", "tests"}) {
      const std::string place = folder_ + part;
      if (!files::is_folder(request_.survey.tree + "/" + place)) continue;
      project->left_out.push_back({"package",
                                   place + "/",
                                   {name_, 0, 0},
                                   part == std::string_view("R")
                                       ? "it is not compiled: only the module of src/ is built"
                                       : "its tests need the package installed as a whole"});
    }
    return std::move(*project);
  }

 private:
  void take_fields() {
    const auto text = files::read(request_.file);
    if (!text || text->size() > most_bytes)
      throw Fault({Exit::description,
                   {name_, 0, 0},
                   "the file cannot be read, or is larger than 1 MB",
                   {},
                   "see that it is a file that you may read, or name another description in coctilis.toml",
                   {}});
    fields_ = fields_in(*text);
    package_ = field("Package");
    if (!is_name(package_))
      throw Fault({Exit::description,
                   {name_, 0, 0},
                   "it has no field 'Package' with a name of letters, digits and dots",
                   {},
                   "add it: the module is called by it",
                   {}});
  }

  [[nodiscard]] std::string field(const std::string& name) const {
    const auto it = fields_.find(name);
    return it == fields_.end() ? std::string{} : it->second;
  }

  // Headers and library of the language itself.
  void find_language() {
    model::Requirement want;
    want.kind = model::RequirementKind::package;
    want.name = "libR";
    want.required_by = name_;
    want.place = {name_, 0, 0};
    for (const auto& needed : needed_in(field("Depends"))) {
      if (needed.name == "R") want.constraint = needed.constraint;
    }
    const auto finding = request_.locator.module(want);
    request_.locator.keep(finding);
    if (!finding.found) throw Fault(missing("R"));
    const auto module = locate::parse_pc(files::read(finding.where).value_or(""), finding.where);
    const auto variable = [&](const char* name, const std::string& without) {
      if (!module) return without;
      const auto it = module->variables.find(name);
      return it == module->variables.end() ? without : it->second;
    };
    home_ = variable("rhome", "/usr/lib/R");
    include_ = variable("rincludedir", home_ + "/include");
    version_ = finding.version;
  }

  // Packages whose headers its sources include.
  void find_needed() {
    std::vector<std::string> libraries;
    for (const auto& prefix : request_.locator.prefixes()) libraries.push_back(prefix + "/lib/R/site-library");
    for (const char* part : {"/site-library", "/library"}) lists::append_once(libraries, home_ + part);
    std::string lacking;
    for (const auto& needed : needed_in(field("LinkingTo"))) {
      if (needed.name == "R") continue;
      model::Finding finding;
      finding.requirement = {
          model::RequirementKind::package, needed.name, needed.constraint, true, name_, {name_, 0, 0}, {}};
      for (const auto& library : libraries) {
        const std::string place = library + "/" + needed.name;
        finding.looked.push_back(place + "/include");
        if (!files::is_folder(place + "/include")) continue;
        const std::string version = fields_in(files::read_beginning(place + "/DESCRIPTION", most_bytes))["Version"];
        if (!needed.constraint.empty() && !text::version_meets(version, needed.constraint)) {
          finding.refused = true;
          finding.where = place;
          finding.version = version;
          finding.reason = "version " + (version.empty() ? "unknown" : version) + ", wanted " + needed.constraint;
          continue;
        }
        finding.found = true;
        finding.refused = false;
        finding.reason.clear();
        finding.looked.clear();
        finding.where = place;
        finding.how = "headers of a package";
        finding.version = version;
        finding.version_source = finding.version.empty() ? "" : "DESCRIPTION";
        finding.usage.include_folders = {place + "/include"};
        linking_to_ += " -I'" + place + "/include'";
        break;
      }
      if (!finding.found) {
        // Debian's names of packages of R (Debian R Policy, "Package naming").
        for (const char* kind : {"r-cran-", "r-bioc-"}) {
          const std::string package = kind + text::lower(needed.name);
          if (finding.package.empty() && request_.locator.packages().available(package)) finding.package = package;
        }
        lacking += (lacking.empty() ? "" : ", ") + needed.name;
      }
      request_.locator.keep(std::move(finding));
    }
    if (!lacking.empty()) throw Fault(missing(lacking));
  }

  [[nodiscard]] Problem missing(const std::string& what) const {
    return {Exit::missing, {name_, 0, 0}, "the package needs what is not there: " + what, {}, {}, {}};
  }

  // The standard of C++ that is taken where Makevars says none: that of the field, or of the language's version.
  [[nodiscard]] std::string standard() const {
    static const RE2 asked(R"((?i)\bC\+\+\s?(\d\d)\b)");
    std::string year;
    if (RE2::PartialMatch(field("SystemRequirements"), asked, &year) &&
        std::find(std::begin(standards), std::end(standards), year) != std::end(standards))
      return year;
    return version_.empty() || text::version_meets(version_, ">= 4.3") ? "17" : "14";
  }

  // The makefile: what Makevars may count on, Makevars or the Makefile in its place, and the rules.
  [[nodiscard]] std::string rules() {
    const std::string folder = request_.work + "/" + folder_ + "src";
    std::vector<std::string> objects;
    std::set<std::string> languages;
    for (const auto& name : files::names_in(folder)) {
      const char* language = language_of(name);
      if (language == nullptr) continue;
      if (name.find_first_of(" \t$#%:;&|<>()*?[]{}~`!=,'\"\\") != std::string::npos) {
        odd_.push_back(name);
        continue;
      }
      languages.insert(language);
      objects.push_back(name.substr(0, name.rfind('.')) + ".o");
    }
    std::sort(objects.begin(), objects.end());
    std::string out = "R_HOME = " + home_ + "\nR_INCLUDE_DIR = " + include_ + "\nR_PACKAGE_NAME = " + package_ +
                      "\nOBJECTS = " + text::join(objects, " ") + "\nCLINK_CPPFLAGS =" + linking_to_ + "\n" +
                      before_makevars;
    for (const char* year : standards) {
      const std::string name = std::string("CXX") + year;
      out += name + " = $(CXX)\n" + name + "STD = -std=gnu++" + year + "\n" + name + "FLAGS = $(CXXFLAGS)\n" + name +
             "PICFLAGS = -fPIC\n";
    }
    if (files::is_file(folder + "/Makefile")) return out + "include Makefile\n";
    if (files::is_file(folder + "/Makevars"))
      out += "include Makevars\n";
    else if (objects.empty())
      throw Fault({Exit::description,
                   {name_, 0, 0},
                   "there is nothing in " + folder_ + "src/ that is compiled",
                   odd_.empty() ? "" : "such a name cannot stand in a makefile: " + text::printable_line(odd_.front()),
                   "give its sources other names, or say in src/Makevars what is made",
                   {}});
    out += std::string("module_standard := $(or $(filter ") +
           text::join({std::begin(standards), std::end(standards)}, " ") + ",$(patsubst CXX%,%,$(strip $(CXX_STD))))," +
           standard() + ")\n" + behind_makevars;
    for (const auto& kind : kinds)
      out += std::string("%.o: %") + kind.ending + "\n\t" + kind.command + " -c $< -o $@\n";
    return out + "$(SHLIB): $(OBJECTS)\n\t" + (languages.contains("C++") ? "$(CXX)" : "$(CC)") +
           " -shared $(LDFLAGS) -o $@ $(OBJECTS) $(ALL_LIBS)" + (languages.contains("Fortran") ? " $(FLIBS)" : "") +
           "\n";
  }

  const ReadRequest& request_;
  const std::string name_;    // of the file, from the tree
  const std::string folder_;  // of it, from the tree, with the slash; empty at the top
  std::map<std::string, std::string> fields_;
  std::string package_;
  std::string home_;
  std::string include_;
  std::string version_;
  std::string linking_to_;
  std::vector<std::string> odd_;  // sources whose names cannot stand in a makefile
};

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading DESCRIPTION", [&] { return Package(request).read(); });
}

}  // namespace

std::map<std::string, std::string> fields_in(const std::string& text) {
  std::map<std::string, std::string> out;
  std::string* now = nullptr;
  static const RE2 field(R"(([A-Za-z][A-Za-z0-9@/_-]*):[ \t]*(.*))");
  for (auto line : text::split(text, '\n')) {
    if (!line.empty() && line.back() == '\r') line.pop_back();
    std::string name;
    std::string value;
    if (!line.empty() && (line[0] == ' ' || line[0] == '\t')) {
      const auto more = text::trim(line);
      if (now != nullptr && !more.empty()) *now += (now->empty() ? "" : " ") + std::string(more);
    } else if (RE2::FullMatch(line, field, &name, &value)) {
      const auto [it, fresh] = out.emplace(name, std::string(text::trim(value)));
      now = fresh ? &it->second : nullptr;
    } else {
      now = nullptr;
    }
  }
  return out;
}

std::vector<Needed> needed_in(const std::string& value) {
  std::vector<Needed> out;
  static const RE2 form(R"(\s*([A-Za-z][A-Za-z0-9.]*)\s*(?:\(\s*([<>=]+\s*[^)]*?)\s*\))?\s*)");
  for (const auto& one : text::split(value, ',')) {
    Needed needed;
    if (!RE2::FullMatch(one, form, &needed.name, &needed.constraint)) continue;
    if (needed.constraint.starts_with("==")) needed.constraint.erase(0, 1);
    out.push_back(needed);
  }
  return out;
}

Reader reader() {
  Reader out;
  // Before a configure script, which only writes what the rules take up.
  out.format = {"DESCRIPTION", {{"DESCRIPTION", 3}}, true, is_package, {}};
  out.format.counts = is_package;
  out.runs_recipes = true;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::r_package
