// Extension modules of Python: from a setup.py to the library that the language loads, and its tests.
#include <nlohmann/json.hpp>
#include <set>

#include "base/process.h"
#include "support.h"

namespace coctilis::test {
namespace {

class PythonModuleTree : public DrivenTree {
 protected:
  void SetUp() override {
    if (find_program("python3").empty() || !has_headers())
      GTEST_SKIP() << "there is no python3 here with its headers (python3, libpython3-dev)";
    say("[Extension('works._clay', ['works/clay.c', 'works/slip.c'], define_macros=[('FACTOR', '100')])]");
    tree.write("works/clay.c",
               "#include <Python.h>\n#include \"slip.h\"\n"
               "static PyObject* water(PyObject* self, PyObject* cone) {\n"
               "  return PyLong_FromLong(PyLong_AsLong(cone) + slip() + FACTOR);\n}\n"
               "static PyMethodDef methods[] = {{\"water\", water, METH_O, \"\"}, {0}};\n"
               "static struct PyModuleDef clay = {PyModuleDef_HEAD_INIT, \"_clay\", \"\", -1, methods};\n"
               "PyMODINIT_FUNC PyInit__clay(void) { return PyModule_Create(&clay); }\n");
    tree.write("works/slip.c", "#include \"slip.h\"\nint slip(void) { return SLIP; }\n");
    tree.write("works/slip.h", "#define SLIP 2\nint slip(void);\n");
    tree.write("works/__init__.py", "from ._clay import water\nfired = 'fired'\n");
    tree.write("tests/test_water.py",
               "import unittest, works\nclass Water(unittest.TestCase):\n  def test_water(self): "
               "self.assertEqual(works.water(6), 108)\n");
    tree.write("tests/__init__.py", "");
  }
  static bool has_headers() {
    Command command;
    command.argv = {
        "python3", "-c",
        "import os, sysconfig, sys\nsys.exit(not os.path.exists(sysconfig.get_path('include') + '/Python.h'))"};
    return coctilis::run(command).good();
  }
  void say(const std::string& extensions, const std::string& more = {}, const std::string& before = {}) const {
    tree.write("setup.py",
               "from setuptools import setup, Extension\nfrom setuptools.command.build_ext import build_ext\n" +
                   before + "setup(name='works', version='1.5', packages=['works'], ext_modules=" + extensions +
                   ", test_suite='tests.test_water'" + more + ")\n");
  }
  // What a line of the language prints that uses the module as it was built.
  [[nodiscard]] std::string gives(const std::string& line) const {
    Command command;
    command.argv = {"python3", "-c",
                    "import sys; sys.path.insert(0, '" + tree.label_folder() + "/work/build/lib')\n" + line};
    command.environment["PYTHONDONTWRITEBYTECODE"] = "1";
    return coctilis::run(command).output;
  }
  [[nodiscard]] std::string water() const { return gives("import works; print(works.water(6), works.fired)"); }
  nlohmann::json check(const std::string& name) const {
    const auto record = tree.record();
    for (const auto& one : record["checks"]) {
      if (one["name"] == name) return one;
    }
    return {{"verdict", "none"}, {"reason", ""}};
  }
};

TEST_F(PythonModuleTree, ItIsMadeAndItsTestsAreRun) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows setup.py"), std::string::npos) << said.all();
  EXPECT_EQ(water(), "108 fired\n");
  EXPECT_EQ(check("load works._clay")["verdict"], "passed");
  EXPECT_EQ(check("test tests.test_water")["verdict"], "passed");
  for (const char* name : {"Makefile.setup", "build"}) EXPECT_FALSE(files::exists(tree.path(name))) << name;
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  // A header, a file that is not compiled, one more, and what the script says: each counts.
  tree.write("works/slip.h", "#define SLIP 3\nint slip(void);\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "109 fired\n");
  tree.write("works/__init__.py", "from ._clay import water\nfrom .more import fired\n");
  tree.write("works/more.py", "fired = 'fired twice'\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "109 fired twice\n");
  std::filesystem::remove(tree.path("works/more.py"));
  tree.write("works/__init__.py", "from ._clay import water\nfired = 'once'\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "109 once\n");
  EXPECT_EQ(gives("import os, works; print(os.path.exists(works.__path__[0] + '/more.py'))"), "False\n");
  say("[Extension('works._clay', ['works/clay.c', 'works/slip.c'], extra_compile_args=['-DFACTOR=200'])]");
  EXPECT_EQ(run("bringup").exit, 6) << "its test expects another number";
  EXPECT_EQ(water(), "209 once\n");
  EXPECT_EQ(check("test tests.test_water")["verdict"], "failed");
  EXPECT_EQ(run("stage", {"--prefix", tree.scratch() + "/prefix"}).exit, 0);
  std::size_t staged = 0;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.scratch() + "/prefix"))
    staged +=
        entry.path().filename().string().starts_with("_clay.") || entry.path().filename() == "__init__.py" ? 1 : 0;
  EXPECT_EQ(staged, 2U);
}

TEST_F(PythonModuleTree, CommandsOfItsOwnAndLibrariesOfItsOwn) {
  // As scripts do that choose options by the compiler, and try out what there is.
  say("[Extension('works._clay', ['works/clay.c'])]",
      ", cmdclass={'build_ext': Build}, libraries=[('slip', {'sources': ['works/slip.c']})]",
      "import os\nfrom distutils.errors import CompileError\nfrom distutils.ccompiler import new_compiler\n"
      "class Build(build_ext):\n"
      "  def build_extensions(self):\n"
      "    factor = 300 if self.compiler.has_function('getpid') else 0\n"
      "    factor += 50 if not self.compiler.has_function('no_such_function_of_works') else 0\n"
      "    asked = self.get_finalized_command('config')\n"
      "    if asked.try_link('int main(void) { return 0; }') and asked.check_header('stdio.h'): factor += 1000\n"
      "    if asked.try_compile('no such thing') or asked.try_run('int main(void) { return 3; }'): factor += 5000\n"
      "    try:\n"
      "      os.makedirs('tried', exist_ok=True)\n"
      "      open('tried/odd.c', 'w').write('int odd(void) { return oddest; }')\n"
      "      new_compiler().compile(['tried/odd.c'])\n"
      "    except CompileError: factor += 1\n"
      "    for one in self.extensions: one.define_macros.append(('FACTOR', str(factor)))\n"
      "    build_ext.build_extensions(self)\n");
  ASSERT_EQ(run("build").exit, 0) << run("build").all();
  EXPECT_EQ(water(), "1359 fired\n");
  tree.write("works/slip.c", "int slip(void) { return 4; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "1361 fired\n");
}

// What a script puts to the compiler's own words counts; so does another compiler in its place.
TEST_F(PythonModuleTree, ACompilerThatTheScriptChangesIsTheOneThatIsRun) {
  const auto change = [&](const std::string& line) {
    say("[Extension('works._clay', ['works/clay.c', 'works/slip.c'])]", ", cmdclass={'build_ext': Build}",
        "class Build(build_ext):\n  def build_extensions(self):\n    " + line +
            "\n    build_ext.build_extensions(self)\n");
  };
  change("self.compiler.compiler_so.append('-DFACTOR=700')");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "708 fired\n");
  tree.write("wrapped.sh", "#!/bin/sh\nexec cc -DFACTOR=800 -fPIC \"$@\"\n");
  change("self.compiler.set_executable('compiler_so', ['sh', 'wrapped.sh'])");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "808 fired\n");
  change(
      "self.compiler.add_library_dir('kilns'); self.compiler.set_libraries(['m']); "
      "self.compiler.define_macro('FACTOR', '900')");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "908 fired\n");
}

TEST_F(PythonModuleTree, WhatGoesElsewhereIsInstalledThere) {
  tree.write("works/cones.txt", "cone 6\n");
  tree.write("works/glazes/celadon.txt", "green\n");
  tree.write("MANIFEST.in", "# data\nrecursive-include works *.txt\nexclude works/cones.txt\ngraft nowhere\n");
  tree.write("tools/fire.sh", "#!/bin/sh\necho fired\n");
  tree.write("share/hints for kilns.txt", "slowly\n");
  say("[Extension('works._clay', ['works/clay.c', 'works/slip.c'], define_macros=[('FACTOR', '100')])]",
      ", include_package_data=True, scripts=['tools/fire.sh'], headers=['works/slip.h'], "
      "data_files=[('share/works', ['share/hints for kilns.txt'])], "
      "entry_points={'console_scripts': ['water = works:water']}");
  const std::string prefix = tree.scratch() + "/prefix";
  const auto said = run("stage", {"--prefix", prefix});
  ASSERT_EQ(said.exit, 0) << said.all();
  for (const char* name : {"/bin/fire.sh", "/bin/water", "/share/works/hints for kilns.txt"})
    EXPECT_TRUE(files::is_file(prefix + name)) << name;
  EXPECT_TRUE(files::is_program(prefix + "/bin/water"));
  std::set<std::string> names;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(prefix))
    names.insert(entry.path().filename().string());
  EXPECT_TRUE(names.contains("slip.h"));
  EXPECT_TRUE(names.contains("celadon.txt"));
  EXPECT_FALSE(names.contains("cones.txt"));
}

TEST_F(PythonModuleTree, OldNamesAndFilesBesideTheScriptCount) {
  tree.write("setup.cfg", "[build_ext]\ndefine = FACTOR=400\n[options]\npackages = find:\n");
  tree.write("setup.py",
             "from distutils.core import setup, Extension\n"
             "setup(name='works', ext_modules=[Extension('works._clay', ['works/clay.c', 'works/slip.c'])])\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(water(), "408 fired\n");
  // Assertions count in a build for looking for faults.
  EXPECT_NE(run("plan").all().find("NDEBUG"), std::string::npos);
  EXPECT_EQ(run("plan", {"--variant", "debug"}).all().find("NDEBUG"), std::string::npos);
}

TEST_F(PythonModuleTree, SourcesInItsOwnLanguageBecomeC) {
  if (find_program("cython3").empty()) GTEST_SKIP() << "there is no cython3";
  tree.write("works/_clay.pyx",
             "# distutils: sources = works/slip.c\n# cython: language_level=3\n"
             "cdef extern from \"slip.h\":\n  int slip()\ninclude \"factor.pxi\"\n"
             "def water(int cone):\n  return cone + slip() + FACTOR\n");
  tree.write("works/factor.pxi", "DEF FACTOR = 500\n");
  tree.write("setup.py",
             "from setuptools import setup\nfrom Cython.Build import cythonize\n"
             "setup(name='works', packages=['works'], ext_modules=cythonize('works/*.pyx'))\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(water(), "508 fired\n");
  EXPECT_FALSE(files::exists(tree.path("works/_clay.c")));
  tree.write("works/factor.pxi", "DEF FACTOR = 600\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(water(), "608 fired\n");
}

TEST_F(PythonModuleTree, WhatIsLackingIsNamed) {
  say("[]", "", "import works_missing_helper\n");
  auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("works_missing_helper"), std::string::npos) << said.all();
  // What only the running module needs keeps nothing from being built; that it does not load is not said to be its own.
  say("[Extension('works._clay', ['works/clay.c', 'works/slip.c'], define_macros=[('FACTOR', '100')])]",
      ", install_requires=['works-missing-peer>=2']");
  tree.write("works/__init__.py", "import works_missing_peer\nfrom ._clay import water\n");
  said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("works-missing-peer"), std::string::npos) << said.all();
  EXPECT_EQ(check("load works._clay")["verdict"], "skipped");
  EXPECT_EQ(check("load works._clay")["reason"],
            "it says so itself (exit code 77): the module works_missing_peer is not there");
  // One that is not there although it is its own fails.
  tree.write("works/__init__.py", "from ._glaze import water\n");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_EQ(check("load works._clay")["verdict"], "failed");
  // Nor are tests skipped that are not there at all.
  tree.write("works/__init__.py", "from ._clay import water\n");
  std::filesystem::remove_all(tree.path("tests"));
  EXPECT_EQ(run("bringup").exit, 6);
  EXPECT_EQ(check("test tests.test_water")["verdict"], "failed");
}

TEST_F(PythonModuleTree, WhatIsNotFollowedIsSaid) {
  say("[Extension('works._clay', ['works/clay.kiln'])]");
  auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("nobody here compiles works/clay.kiln"), std::string::npos) << said.all();
  tree.write("setup.py", "# ext_modules\nprint('not on this system')\ndef setup(): pass\nsetup()\n");
  said = run("build");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("without a word on how"), std::string::npos) << said.all();
  tree.write("setup.py",
             "from setuptools import setup\nfrom Cython.Build import cythonize\n"
             "setup(name='works', ext_modules=cythonize('nowhere/*.pyx'))\n");
  said = run("build");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("there are no files nowhere/*.pyx"), std::string::npos) << said.all();
  say("[]", ", rust_extensions=['works']");
  said = run("build");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("in Rust are not followed"), std::string::npos) << said.all();
  say("[Extension('works._clay', ['works/clay.c $(touch out)'])]");
  EXPECT_EQ(run("build").exit, 4);
  say("[Extension('../../clay', ['works/clay.c'])]");
  EXPECT_NE(run("build").exit, 0);
  tree.write("setup.py", "ext_modules = setup(\n");
  said = run("build");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("SyntaxError"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
