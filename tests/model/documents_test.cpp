// What counts as a document, by its name and where it lies.
#include "model/documents.h"

#include <gtest/gtest.h>

namespace coctilis::model {
namespace {

TEST(Documents, ByTheirEndings) {
  for (const char* name : {"press.html", "a/b/press.info", "press.pdf", "press.ps", "press.dvi", "press.texi", "kiln.1",
                           "kiln.3pm", "kiln.8.gz", "press.info.gz", "press.docbook", "press.epub"})
    EXPECT_TRUE(is_document(name)) << name;
  for (const char* name : {"press", "press.c", "libpress.so.1", "libpress.so.1.2", "press.o", ".html", "press.9",
                           "press.0", "press.12", "press.txt", "press.png", "src/cones.xml", "press.gz", "README", ""})
    EXPECT_FALSE(is_document(name)) << name;
}

TEST(Documents, ByTheFolderTheyLieIn) {
  for (const char* name : {"doc/press.txt", "/yard/docs/press.md", "docs/pictures/kiln.png", "manual/press.xml",
                           "documentation/a.svg", "man/press.rst", "doc/cones.txt.gz"})
    EXPECT_TRUE(is_document(name)) << name;
  for (const char* name : {"doc/press.c", "doc/a/b/press.txt", "docks/press.txt", "doc/press", "doc.txt"})
    EXPECT_FALSE(is_document(name)) << name;
}

}  // namespace
}  // namespace coctilis::model
