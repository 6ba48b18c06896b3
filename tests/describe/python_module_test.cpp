// What is said of modules of Python.
#include "describe/python_module/reader.h"
#include "support.h"

namespace coctilis::describe::python_module {
namespace {

TEST(PythonModule, APackageIsCalledByItsModule) {
  EXPECT_EQ(package_of_module("clay"), "python3-clay");
  EXPECT_EQ(package_of_module("Clay_Body"), "python3-clay-body");
}

TEST(PythonModule, TheModuleThatAScriptLacksIsRead) {
  EXPECT_EQ(module_not_found_in("Traceback (most recent call last):\n  File \"setup.py\", line 1\n"
                                "ModuleNotFoundError: No module named 'clay.body'\n"),
            "clay");
  EXPECT_EQ(module_not_found_in("it says: ModuleNotFoundError: No module named 'clay'\n"), "");
  EXPECT_EQ(module_not_found_in("ModuleNotFoundError: No module named '../clay'\n"), "");
}

TEST(PythonModule, OnlyScriptsThatSpeakOfWhatIsCompiledCount) {
  const test::TreeFolder tree;
  const auto counts = reader().format.counts;
  tree.write("setup.py", "from setuptools import setup\nsetup(name='clay', packages=['clay'])\n");
  EXPECT_FALSE(counts(tree.path("setup.py")));
  tree.write("setup.py", "from setuptools import setup, Extension\nsetup(ext_modules=[Extension('a', ['a.c'])])\n");
  EXPECT_TRUE(counts(tree.path("setup.py")));
  tree.write("setup.py", "from distutils.core import *\nclay = Extension ('a', ['a.c'])\nsetup (\n  name = 'clay')\n");
  EXPECT_TRUE(counts(tree.path("setup.py")));
  tree.write("more.py", tree.read("setup.py"));
  EXPECT_FALSE(counts(tree.path("more.py")));
}

}  // namespace
}  // namespace coctilis::describe::python_module
