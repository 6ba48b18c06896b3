// What project files of editors have in common: lists of sources with folders, definitions and libraries, in XML. Each
// kind is read into these; targets are made of them in one place.
#pragma once

#include <pugixml.hpp>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/project.h"
#include "model/settings.h"

namespace coctilis::describe::editors {

struct Source {
  std::string path;  // relative to the tree
  std::vector<std::string> define;
  std::vector<std::string> include;
  std::vector<std::string> options;
};

// One project: a program or a library. Paths are relative to the tree.
struct EditorProject {
  enum class Kind { program, archive, library, nothing };
  std::string name;
  std::string file;  // relative to the tree
  std::string id;    // by which others name it; may be empty
  Kind kind = Kind::program;
  std::vector<Source> sources;
  std::vector<std::string> include;
  std::vector<std::string> define;
  std::vector<std::string> options;
  std::vector<std::string> libraries;  // as they stand there
  std::vector<std::string> library_folders;
  std::vector<std::string> uses;       // projects: by name, file or id
  std::vector<std::string> resources;  // files that only systems of another kind use
  std::vector<model::LeftOut> left_out;
};

struct EditorRequest {
  std::string tree;    // absolute
  std::string file;    // absolute
  bool debug = false;  // which of the configurations is meant
};

// The document of a file. Throws Fault (Exit::description) with file and line when it is broken or cannot be read.
// Entities are not replaced, so that none explodes (XML 1.0, 4.1; the reader knows no document types).
void load(pugi::xml_document& document, const EditorRequest& request);
// A path as such files write them ("..\src\x.c", "$(ProjectDir)x.c"), relative to the tree; empty when it hangs on a
// variable that is not known, or lies outside of the tree.
[[nodiscard]] std::string path_in(const std::string& text, const EditorRequest& request);
// "a;b;%(Inherited)": its words, without those that stand for others.
[[nodiscard]] std::vector<std::string> list_in(const std::string& text, const char* separators = ";");
// Chooses one of several configurations by their names ("Release|Win32", "Debug"): that for the variant, for the wider
// machine where there are several. Empty when there are none.
[[nodiscard]] std::string configuration_for(const std::vector<std::string>& names, bool debug);

// The readers; each gives the projects that a file names, itself or others.
[[nodiscard]] std::vector<EditorProject> read_vcxproj(const EditorRequest& request);
[[nodiscard]] std::vector<EditorProject> read_vcproj(const EditorRequest& request);
[[nodiscard]] std::vector<EditorProject> read_sln(const EditorRequest& request);
[[nodiscard]] std::vector<EditorProject> read_cbp(const EditorRequest& request);
[[nodiscard]] std::vector<EditorProject> read_cproject(const EditorRequest& request);

// Targets of all projects, without what belongs to systems of another kind; that is left out and named.
[[nodiscard]] std::vector<model::SourceTarget> targets_of(const std::vector<EditorProject>& projects,
                                                          const EditorRequest& request, model::Project& project);

}  // namespace coctilis::describe::editors
