// Every kind of expression $<...>, by itself.
#include "describe/listfile/lower/expression.h"

#include "support.h"

namespace coctilis::describe::listfile::lower {
namespace {

struct Case {
  const char* text;
  const char* value;
};

class ExpressionTest : public testing::TestWithParam<Case> {
 protected:
  ExpressionTest() {
    project_.configuration = "Release";
    add("kiln", model::TargetKind::program);
    add("clay", model::TargetKind::static_library);
    add("curve", model::TargetKind::shared_library);
    project_.targets[0].properties["GLAZE"] = {{"honey", {}, {}}, {"salt", {}, {}}};
    project_.targets[0].properties["AGAIN"] = {{"$<TARGET_PROPERTY:GLAZE>", {}, {}}};
    toolchain_.family = "gcc";
    toolchain_.version = "12.2.0";
  }
  void add(const std::string& name, model::TargetKind kind) {
    Target target;
    target.name = name;
    target.kind = kind;
    target.usual_prefix = kind == model::TargetKind::program ? "" : "lib";
    target.folder = "/tree/" + name;
    target.binary_folder = "/work/" + name;
    project_.target_index[name] = project_.targets.size();
    project_.targets.push_back(target);
  }
  Expressions expressions() const {
    return {project_,
            toolchain_,
            {[](const Target& target, const std::string& kind) {
               if (target.kind == model::TargetKind::shared_library)
                 return "/work/lib" + target.name + (kind == "SONAME_FILE" ? ".so.2" : ".so");
               return "/work/" + std::string(target.kind == model::TargetKind::program ? "" : "lib") + target.name +
                      (target.kind == model::TargetKind::program ? "" : ".a");
             },
             [](const Target& target) {
               return std::vector<std::string>{target.name + "1.o", target.name + "2.o"};
             },
             [](const Target&, const std::string&, std::string&) { return false; }}};
  }
  ExpressionContext context() const {
    ExpressionContext out;
    out.target = &project_.targets[0];
    out.language = "C++";
    out.place = {"CMakeLists.txt", 7, 1};
    return out;
  }
  Declared project_;
  model::Toolchain toolchain_;
};

TEST_P(ExpressionTest, Value) {
  EXPECT_EQ(expressions().evaluate(GetParam().text, context()), GetParam().value) << GetParam().text;
}

INSTANTIATE_TEST_SUITE_P(
    All, ExpressionTest,
    testing::Values(
        Case{"plain", "plain"}, Case{"a$<1:b>c", "abc"}, Case{"a$<0:b>c", "ac"}, Case{"$<1:a,b:c>", "a,b:c"},
        Case{"$<BOOL:>", "0"}, Case{"$<BOOL:OFF>", "0"}, Case{"$<BOOL:x-NOTFOUND>", "0"}, Case{"$<BOOL:kiln>", "1"},
        Case{"$<NOT:1>", "0"}, Case{"$<AND:1,1,0>", "0"}, Case{"$<AND:1,1>", "1"}, Case{"$<OR:0,1>", "1"},
        Case{"$<OR:0,0>", "0"}, Case{"$<IF:1,a,b>", "a"}, Case{"$<IF:0,a,b>", "b"}, Case{"$<STREQUAL:a,a>", "1"},
        Case{"$<STREQUAL:a,A>", "0"}, Case{"$<EQUAL:10,0xA>", "1"}, Case{"$<IN_LIST:b,a;b>", "1"},
        Case{"$<IN_LIST:c,a;b>", "0"}, Case{"$<VERSION_LESS:1.9,1.10>", "1"},
        Case{"$<VERSION_GREATER_EQUAL:2,2.0>", "1"}, Case{"$<VERSION_EQUAL:1,2>", "0"}, Case{"$<CONFIG>", "Release"},
        Case{"$<CONFIG:release>", "1"}, Case{"$<CONFIG:Debug,Release>", "1"}, Case{"$<$<CONFIG:Debug>:x>", ""},
        Case{"$<$<NOT:$<CONFIG:Debug>>:x>", "x"}, Case{"$<PLATFORM_ID:Linux>", "1"}, Case{"$<PLATFORM_ID>", "Linux"},
        Case{"$<CXX_COMPILER_ID:GNU,Clang>", "1"}, Case{"$<C_COMPILER_ID:MSVC>", "0"},
        Case{"$<CXX_COMPILER_ID>", "GNU"}, Case{"$<CXX_COMPILER_VERSION>", "12.2.0"},
        Case{"$<COMPILE_LANGUAGE:CXX>", "1"}, Case{"$<COMPILE_LANGUAGE:C>", "0"},
        Case{"$<COMPILE_LANG_AND_ID:CXX,GNU>", "1"}, Case{"$<COMPILE_LANG_AND_ID:CXX,Clang>", "0"},
        Case{"$<LOWER_CASE:KILN>", "kiln"}, Case{"$<UPPER_CASE:kiln>", "KILN"},
        Case{"$<MAKE_C_IDENTIFIER:red-brick>", "red_brick"}, Case{"$<JOIN:a;b;c,+>", "a+b+c"},
        Case{"$<JOIN:a;b,, >", "a, b"}, Case{"$<REMOVE_DUPLICATES:a;b;a>", "a;b"},
        Case{"$<ANGLE-R>$<COMMA>$<SEMICOLON>", ">,;"}, Case{"$<BUILD_INTERFACE:a;b>", "a;b"},
        Case{"$<INSTALL_INTERFACE:a>", ""}, Case{"$<LINK_ONLY:x>", ""}, Case{"$<TARGET_EXISTS:kiln>", "1"},
        Case{"$<TARGET_EXISTS:oven>", "0"}, Case{"$<TARGET_NAME_IF_EXISTS:clay>", "clay"},
        Case{"$<TARGET_FILE:kiln>", "/work/kiln"}, Case{"$<TARGET_FILE_NAME:clay>", "libclay.a"},
        Case{"$<TARGET_FILE_DIR:clay>", "/work"}, Case{"$<TARGET_FILE_BASE_NAME:clay>", "clay"},
        Case{"$<TARGET_LINKER_FILE:curve>", "/work/libcurve.so"},
        Case{"$<TARGET_SONAME_FILE_NAME:curve>", "libcurve.so.2"}, Case{"$<TARGET_OBJECTS:clay>", "clay1.o;clay2.o"},
        Case{"$<TARGET_PROPERTY:GLAZE>", "honey;salt"}, Case{"$<TARGET_PROPERTY:kiln,GLAZE>", "honey;salt"},
        Case{"$<TARGET_PROPERTY:clay,GLAZE>", ""}, Case{"$<TARGET_PROPERTY:clay,TYPE>", "STATIC_LIBRARY"},
        Case{"$<TARGET_PROPERTY:AGAIN>", "honey;salt"}, Case{"$<TARGET_PROPERTY:clay,SOURCE_DIR>", "/tree/clay"},
        Case{"$<GENEX_EVAL:$<1:x>>", "x"}, Case{"price: $5 <b>", "price: $5 <b>"}, Case{"$<unfinished", "$<unfinished"},
        Case{"$<LINK_LIBRARY:WHOLE_ARCHIVE,clay>", "-Wl,--whole-archive;clay;-Wl,--no-whole-archive"}));

TEST_F(ExpressionTest, WhatIsNotUnderstoodIsRefused) {
  for (const char* text :
       {"$<BAKE:x>", "$<TARGET_FILE:oven>", "$<IF:1>", "$<TARGET_PROPERTY:oven,X>", "$<FILTER_ALL:a>"}) {
    try {
      (void)expressions().evaluate(text, context());
      ADD_FAILURE() << text;
    } catch (const Fault& fault) {
      EXPECT_EQ(fault.problem().exit, Exit::description);
      EXPECT_EQ(fault.problem().place.line, 7);
    }
  }
}

TEST_F(ExpressionTest, ValuesAreDividedAfterwards) {
  const Values values = {{"a;b", {}, {}}, {"$<1:c;d>", {}, {}}, {"$<0:e>", {}, {}}, {"f\\;g", {}, {}}};
  EXPECT_EQ(expressions().evaluate(values, context()), (std::vector<std::string>{"a", "b", "c", "d", "f;g"}));
}

TEST_F(ExpressionTest, LinkOnlyCountsForTheLinker) {
  auto linking = context();
  linking.linking = true;
  EXPECT_EQ(expressions().evaluate("$<LINK_ONLY:clay>", linking), "clay");
}

TEST_F(ExpressionTest, SelfReferenceEnds) {
  project_.targets[0].properties["LOOP"] = {{"$<TARGET_PROPERTY:LOOP>", {}, {}}};
  EXPECT_THROW((void)expressions().evaluate("$<TARGET_PROPERTY:LOOP>", context()), Fault);
}

TEST_F(ExpressionTest, NamedTargetsAreNoted) {
  auto here = context();
  std::vector<std::string> named;
  here.named_targets = &named;
  (void)expressions().evaluate("$<TARGET_FILE:clay> $<TARGET_FILE_DIR:kiln>", here);
  EXPECT_EQ(named, (std::vector<std::string>{"clay", "kiln"}));
}

}  // namespace
}  // namespace coctilis::describe::listfile::lower
