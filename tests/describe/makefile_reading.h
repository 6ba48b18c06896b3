// Reads makefiles in tests.
#pragma once

#include "describe/makefile/make.h"
#include "pipeline/inner_make.h"
#include "support.h"

namespace coctilis::test {

class MakefileReading : public testing::Test {
 protected:
  // The makefile `text`, read as `make words...` does in the tree.
  describe::makefile::Make make(const std::string& text, const std::vector<std::string>& words = {},
                                const describe::makefile::Limits& limits = {}) {
    tree.write("Makefile", text);
    auto call = describe::makefile::parse_call(words, environment, tree.path());
    EXPECT_TRUE(call.ok());
    call->output_root = tree.path();
    describe::makefile::Make out(*call, tree.path(), limits);
    model::Plan plan;
    plan.tree = plan.work = tree.path();
    plan.kiln = tree.kiln();
    plan.journal = tree.kiln() + "/journal";
    files::make_folder(tree.kiln());
    out.run_recipes = pipeline::services_for(plan).run_recipes;
    out.read();
    return out;
  }
  // What $(info) said, with the tree's path called TREE; a failure with its place.
  std::vector<std::string> says(const std::string& text, const std::vector<std::string>& words = {}) {
    try {
      return tree.named(make(text + "\nall:\n", words).messages());
    } catch (const Fault& fault) {
      return {fault.problem().place.text() + ": " + fault.problem().what};
    }
  }
  TreeFolder tree;
  std::map<std::string, std::string> environment = {{"PATH", "/usr/bin:/bin"}};
};

}  // namespace coctilis::test
