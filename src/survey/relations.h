// What the parts of a tree that are brought up one by one have for each other: what each is called, what it gives and
// what it asks for, as its manifest and its descriptions say it, and which of them come before which.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "survey/descriptions.h"

namespace coctilis::survey {

// What a package is asked for by others.
struct PackageNeed {
  std::string name;
  std::string constraint;  // ">= 2.1, < 3"; empty: any version
  Place place;
  // How surely the other has to come first: it is said in so many words; it is said, but only for tests or for running;
  // it is read out of a description.
  enum class Strength { said, for_running, read } strength = Strength::read;
};

// A folder of a tree that is brought up by itself.
struct Package {
  std::string folder;  // relative to the tree; "." for the tree's own
  std::string name;    // as its manifest has it, else the folder's
  std::string version;
  Place place;                     // of the manifest; empty: it has none
  bool names_members = false;      // its manifest names nothing but other members: every one of them has to be there
  std::vector<std::string> gives;  // names by which descriptions ask for it
  std::vector<PackageNeed> needs;
};

// A manifest of a package: what others it needs is said there.
inline constexpr const char* manifest_name = "package.xml";

// Reads what the folder says of itself: the [tree] table of its coctilis.toml, a package.xml (formats 1 to 3), the
// descriptions in it and below it, templates of *.pc files and the like. `others`: folders of the tree that are
// packages of their own. Errors: a manifest that cannot be read (Exit::description), a coctilis.toml that is wrong
// (Exit::usage).
[[nodiscard]] Result<Package> package_in(const std::string& tree, const std::string& folder,
                                         const DescriptionFormats& formats, const std::vector<std::string>& others);

// A package in its place. Indices count in the order of places; each is that of one before this.
struct Placed {
  std::size_t package = 0;         // in the list of packages
  std::vector<std::size_t> needs;  // what has to be there before it
  std::vector<std::size_t> waits;  // those, and the ones that whoever listed them put before it
  std::vector<std::size_t> sees;   // all that it waits for, and what these see
  // What keeps it from being built whatever becomes of the others: a version that it needs of one.
  std::optional<Problem> problem;
};
struct Relations {
  std::vector<Package> packages;
  std::vector<Placed> order;       // each behind all that it needs; where that leaves a choice as listed
  std::vector<std::string> notes;  // what was left aside, a sentence each
};

// `in_this_order`: whoever listed them said in which order they come, so that only a manifest asks for one behind, or
// goes without one before.
// Errors: two packages of one name, packages that need each other by what they say, a manifest that names a member that
// is not there (Exit::description).
[[nodiscard]] Result<Relations> relations_of(std::vector<Package> packages, bool in_this_order);
// The same for folders of a tree, read one by one. `more_names`: what else each of them is asked for by; may be empty.
// Errors: those of both.
[[nodiscard]] Result<Relations> relations_between(const std::string& tree, const std::vector<std::string>& folders,
                                                  const DescriptionFormats& formats, bool in_this_order,
                                                  const std::vector<std::vector<std::string>>& more_names = {});

}  // namespace coctilis::survey
