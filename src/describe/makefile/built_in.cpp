// The rules and values that hold without being said (POSIX.1-2024, XCU make, "Default Rules"), and those that makefiles
// in the wild count on besides.
#include "describe/makefile/make.h"

namespace coctilis::describe::makefile {

const char* built_in_rules() {
  return R"(.SUFFIXES: .out .a .ln .o .c .cc .C .cpp .p .f .F .m .r .y .l .ym .yl .s .S .mod .sym .def .h .sh
AR = ar
ARFLAGS = -rv
AS = as
CC = cc
CXX = g++
CPP = $(CC) -E
FC = f77
LD = ld
LEX = lex
YACC = yacc
GET = get
LINT = lint
M2C = m2c
PC = pc
CO = co
CTANGLE = ctangle
CWEAVE = cweave
TANGLE = tangle
WEAVE = weave
MAKEINFO = makeinfo
TEX = tex
RM = rm -f
OUTPUT_OPTION = -o $@
COMPILE.c = $(CC) $(CFLAGS) $(CPPFLAGS) $(TARGET_ARCH) -c
COMPILE.cc = $(CXX) $(CXXFLAGS) $(CPPFLAGS) $(TARGET_ARCH) -c
COMPILE.C = $(COMPILE.cc)
COMPILE.cpp = $(COMPILE.cc)
COMPILE.f = $(FC) $(FFLAGS) $(TARGET_ARCH) -c
COMPILE.S = $(CC) $(ASFLAGS) $(CPPFLAGS) $(TARGET_MACH) -c
COMPILE.s = $(AS) $(ASFLAGS) $(TARGET_MACH)
LINK.o = $(CC) $(LDFLAGS) $(TARGET_ARCH)
LINK.c = $(CC) $(CFLAGS) $(CPPFLAGS) $(LDFLAGS) $(TARGET_ARCH)
LINK.cc = $(CXX) $(CXXFLAGS) $(CPPFLAGS) $(LDFLAGS) $(TARGET_ARCH)
LINK.C = $(LINK.cc)
LINK.cpp = $(LINK.cc)
LINK.f = $(FC) $(FFLAGS) $(LDFLAGS) $(TARGET_ARCH)
LINK.S = $(CC) $(ASFLAGS) $(CPPFLAGS) $(LDFLAGS) $(TARGET_MACH)
LINK.s = $(CC) $(ASFLAGS) $(LDFLAGS) $(TARGET_MACH)
PREPROCESS.S = $(CC) -E $(CPPFLAGS)
LEX.l = $(LEX) $(LFLAGS) -t
YACC.y = $(YACC) $(YFLAGS)
.o:
	$(LINK.o) $^ $(LOADLIBES) $(LDLIBS) -o $@
.c:
	$(LINK.c) $^ $(LOADLIBES) $(LDLIBS) -o $@
.cc:
	$(LINK.cc) $^ $(LOADLIBES) $(LDLIBS) -o $@
.C:
	$(LINK.C) $^ $(LOADLIBES) $(LDLIBS) -o $@
.cpp:
	$(LINK.cpp) $^ $(LOADLIBES) $(LDLIBS) -o $@
.f:
	$(LINK.f) $^ $(LOADLIBES) $(LDLIBS) -o $@
.S:
	$(LINK.S) $^ $(LOADLIBES) $(LDLIBS) -o $@
.s:
	$(LINK.s) $^ $(LOADLIBES) $(LDLIBS) -o $@
.sh:
	cat $< >$@
	chmod a+x $@
.c.o:
	$(COMPILE.c) $(OUTPUT_OPTION) $<
.cc.o:
	$(COMPILE.cc) $(OUTPUT_OPTION) $<
.C.o:
	$(COMPILE.C) $(OUTPUT_OPTION) $<
.cpp.o:
	$(COMPILE.cpp) $(OUTPUT_OPTION) $<
.f.o:
	$(COMPILE.f) $(OUTPUT_OPTION) $<
.S.o:
	$(COMPILE.S) -o $@ $<
.s.o:
	$(COMPILE.s) -o $@ $<
.S.s:
	$(PREPROCESS.S) $< > $@
.y.c:
	$(YACC.y) $<
	mv -f y.tab.c $@
.l.c:
	@$(RM) $@
	$(LEX.l) $< > $@
.c.a:
	$(COMPILE.c) -o $*.o $<
	$(AR) $(ARFLAGS) $@ $*.o
	$(RM) $*.o
(%): %
	$(AR) $(ARFLAGS) $@ $<
)";
}

}  // namespace coctilis::describe::makefile
