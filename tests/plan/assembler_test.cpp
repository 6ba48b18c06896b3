// Sources for an assembler that is a language of its own.
#include <sys/stat.h>

#include "plan/planning.h"

namespace coctilis::test {
namespace {

class AssemblerTest : public PlanTest {
 protected:
  void SetUp() override {
    sources({"a.c", "fire.asm"});
    for (const char* name : {"tools/nasm", "tools/yasm"}) {
      reading_.tree.write(name, "#!/bin/sh\n");
      ::chmod(tree(name).c_str(), 0755);
    }
  }
  // A library with a source for the assembler of this name.
  model::Plan with(const std::string& name, const std::string& more = {}) {
    return plan("set(CMAKE_ASM_NASM_COMPILER ${CMAKE_SOURCE_DIR}/tools/" + name + ")\nenable_language(ASM_NASM)\n" +
                more + "add_library(kiln STATIC a.c fire.asm)\n");
  }
};

TEST_F(AssemblerTest, TellsWhatItReadsOnTheWay) {
  const auto made = with("nasm");
  const auto* assembling = step(made, "fire.asm");
  ASSERT_NE(assembling, nullptr);
  ASSERT_EQ(assembling->actions.size(), 1U);
  HAS(command(made, "fire.asm"), "tools/nasm -f elf64 ");
  HAS(command(made, "fire.asm"), " -MD " + assembling->dependency_file + " ");
}

TEST_F(AssemblerTest, IsAskedApartWhatItReadsWhenItCannotTellOnTheWay) {
  const auto made = with("yasm");
  const auto* assembling = step(made, "fire.asm");
  ASSERT_NE(assembling, nullptr);
  ASSERT_EQ(assembling->actions.size(), 2U);
  HAS_NOT(assembling->actions[0].text(), "-MD");
  EXPECT_EQ(assembling->actions[1].how, model::Action::How::shell);
  HAS(assembling->actions[1].text(), " -M -o ");
  HAS(assembling->actions[1].text(), " >" + assembling->dependency_file);
}

TEST_F(AssemblerTest, GetsDefinitionsFoldersAndItsOwnOptions) {
  const auto made = with("nasm",
                         "add_definitions(-DCONE=6)\ninclude_directories(inc)\nset(CMAKE_ASM_NASM_FLAGS \"-w+all\")\n"
                         "set(CMAKE_C_FLAGS \"-fno-common\")\n");
  const auto said = command(made, "fire.asm");
  HAS(said, " -DCONE=6 ");
  HAS(said, " -I" + tree("inc") + "/ ");
  HAS(said, " -w+all ");
  HAS_NOT(said, "-fno-common");
}

TEST_F(AssemblerTest, ItsObjectsGoIntoTheLibrary) {
  const auto made = with("nasm");
  HAS(command(made, "libkiln.a", model::StepKind::archive), "fire.o ");
}

TEST_F(AssemblerTest, KnowsItsNameAndForm) {
  const auto project = reading_.read(
      "set(CMAKE_ASM_NASM_COMPILER ${CMAKE_SOURCE_DIR}/tools/yasm)\nenable_language(ASM_NASM)\n"
      "message(STATUS \"${CMAKE_ASM_NASM_COMPILER_ID} ${CMAKE_ASM_NASM_OBJECT_FORMAT}\")\n");
  ASSERT_TRUE(project.ok());
  EXPECT_EQ(project->messages.back(), "YASM elf64");
}

TEST_F(AssemblerTest, OneThatIsNotThereIsARequiredWant) {
  const auto project =
      reading_.read("set(CMAKE_ASM_NASM_COMPILER ${CMAKE_SOURCE_DIR}/tools/none)\nenable_language(ASM_NASM)\n");
  ASSERT_TRUE(project.ok());
  const auto& all = project->findings;
  EXPECT_TRUE(std::any_of(all.begin(), all.end(), [](const auto& finding) {
    return finding.requirement.name == "nasm" && finding.requirement.required && !finding.found;
  }));
}

}  // namespace
}  // namespace coctilis::test
