#include "describe/listfile/lower/expression_values.h"

#include <gtest/gtest.h>

namespace coctilis::describe::listfile::lower {
namespace {

struct ValueCase {
  const char* operation;
  std::vector<std::string> args;
  std::optional<std::string> result;
};

TEST(ExpressionValues, Lists) {
  const std::vector<ValueCase> cases = {
      {"LENGTH", {"a;b"}, "2"},
      {"GET", {"a;b;c", "0", "-1"}, "a;c"},
      {"GET", {"a", "1"}, std::nullopt},
      {"FIND", {"a;b", "b"}, "1"},
      {"FIND", {"a;b", "c"}, "-1"},
      {"JOIN", {"a;b", "-"}, "a-b"},
      {"APPEND", {"a", "b", "c"}, "a;b;c"},
      {"PREPEND", {"a", "b"}, "b;a"},
      {"INSERT", {"a;c", "1", "b"}, "a;b;c"},
      {"INSERT", {"a", "1", "b"}, "a;b"},
      {"REMOVE_ITEM", {"a;b;a", "a"}, "b"},
      {"REMOVE_AT", {"a;b;c", "1"}, "a;c"},
      {"SUBLIST", {"a;b;c", "1", "-1"}, "b;c"},
      {"REMOVE_DUPLICATES", {"a;b;a"}, "a;b"},
      {"REVERSE", {"a;b"}, "b;a"},
      {"POP_BACK", {"a;b"}, "a"},
      {"POP_FRONT", {"a;b"}, "b"},
      {"SORT", {"b;C;a", "CASE:INSENSITIVE", "ORDER:DESCENDING"}, "C;b;a"},
      {"FILTER", {"clay;cone", "INCLUDE", "^cl"}, "clay"},
      {"FILTER", {"clay;cone", "EXCLUDE", "^cl"}, "cone"},
      {"FILTER", {"clay", "INCLUDE", "("}, std::nullopt},
      {"TRANSFORM", {"a;b", "TOUPPER"}, "A;B"},
      {"TRANSFORM", {"a;b", "APPEND", ".c"}, "a.c;b.c"},
      {"TRANSFORM", {"a1;b2", "REPLACE", "[0-9]", "x"}, "ax;bx"},
      {"TRANSFORM", {"a", "FIRE"}, std::nullopt},
      {"FIRE", {"a", "b"}, std::nullopt},
  };
  for (const auto& c : cases) EXPECT_EQ(list_expression(c.operation, c.args), c.result) << c.operation << c.args[0];
}

TEST(ExpressionValues, Paths) {
  const std::vector<ValueCase> cases = {
      {"GET_FILENAME", {"/kiln/a.tar.gz"}, "a.tar.gz"},
      {"GET_EXTENSION", {"/kiln/a.tar.gz"}, ".tar.gz"},
      {"GET_EXTENSION", {"LAST_ONLY", "/kiln/a.tar.gz"}, ".gz"},
      {"GET_STEM", {"/kiln/a.tar.gz"}, "a"},
      {"GET_STEM", {"/kiln/.hidden"}, ".hidden"},
      {"GET_PARENT_PATH", {"/kiln/a;/clay/b"}, "/kiln;/clay"},
      {"GET_ROOT_PATH", {"/kiln"}, "/"},
      {"HAS_EXTENSION", {"/kiln/a"}, "0"},
      {"IS_ABSOLUTE", {"/kiln"}, "1"},
      {"IS_RELATIVE", {"/kiln"}, "0"},
      {"IS_PREFIX", {"/kiln", "/kiln/a"}, "1"},
      {"IS_PREFIX", {"/kil", "/kiln/a"}, "0"},
      {"IS_PREFIX", {"NORMALIZE", "/kiln/../clay", "/clay/a"}, "1"},
      {"NORMAL_PATH", {"/kiln/../clay/./a"}, "/clay/a"},
      {"RELATIVE_PATH", {"/kiln/a", "/kiln/b"}, "../a"},
      {"ABSOLUTE_PATH", {"a", "/kiln"}, "/kiln/a"},
      {"APPEND", {"/kiln", "a", "b"}, "/kiln/a/b"},
      {"REMOVE_FILENAME", {"/kiln/a"}, "/kiln/"},
      {"REPLACE_FILENAME", {"/kiln/a", "b"}, "/kiln/b"},
      {"REMOVE_EXTENSION", {"/kiln/a.tar.gz"}, "/kiln/a"},
      {"REPLACE_EXTENSION", {"LAST_ONLY", "/kiln/a.tar.gz", "xz"}, "/kiln/a.tar.xz"},
      {"FIRE", {"/kiln"}, std::nullopt},
  };
  for (const auto& c : cases) EXPECT_EQ(path_expression(c.operation, c.args), c.result) << c.operation << c.args[0];
}

}  // namespace
}  // namespace coctilis::describe::listfile::lower
