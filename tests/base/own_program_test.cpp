// This program itself.
#include "base/own_program.h"

#include "base/files.h"
#include "support.h"

namespace coctilis {
namespace {

TEST(OwnProgram, IsTheFileThatRuns) {
  EXPECT_TRUE(files::is_program(own_program()));
  EXPECT_EQ(std::filesystem::path(own_program()).filename(), "unit-tests");
}

TEST(OwnProgram, ItsIdentityIsAlwaysTheSame) {
  EXPECT_FALSE(own_identity().empty());
  EXPECT_EQ(own_identity(), own_identity());
}

}  // namespace
}  // namespace coctilis
