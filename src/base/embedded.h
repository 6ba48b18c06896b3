// Files that come inside the program: the demo tree and the tables of data/. Generated sources define these lists.
#pragma once

#include <string_view>
#include <vector>

namespace coctilis::embedded {

struct File {
  std::string_view path;     // below the folder it came from, with '/'
  std::string_view content;  // lives as long as the program
};

extern const std::vector<File> demo_tree;
extern const std::vector<File> data_tables;

}  // namespace coctilis::embedded
