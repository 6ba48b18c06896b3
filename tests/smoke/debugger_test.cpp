// Frames in what the debugger tells.
#include "smoke/debugger.h"

#include "support.h"

namespace coctilis::smoke {
namespace {

TEST(Frames, BeginWithTheProgramsOwn) {
  EXPECT_EQ(frames_in("#0  0x00007f in raise () from /lib/x86_64-linux-gnu/libc.so.6\n"
                      "#1  0x00007f in abort () from /lib/x86_64-linux-gnu/libc.so.6\n"
                      "#2  0x0000555 in fire_up (cone=...) at /yard/kiln.c:42\n"
                      "#3  main () at /yard/main.c:7\n#4  0x0 in beyond () at /yard/x.c:1\n",
                      "/yard"),
            (std::vector<std::string>{"fire_up (kiln.c:42)", "main (main.c:7)"}));
}

TEST(Frames, OfTheSystemAreThoseThatWereCalled) {
  EXPECT_EQ(frames_in("#0  0x7f in __strlen_avx2 () from /lib/x86_64-linux-gnu/libc.so.6\n#1  0x5 in label_of ()\n#2  "
                      "0x5 in main ()\n",
                      "/yard"),
            (std::vector<std::string>{"label_of", "main"}));
}

TEST(Frames, AreOfTheFirstThread) {
  EXPECT_EQ(frames_in("#0  fire () at a.c:1\n  Id   Target\nThread 1:\n#0  other () at b.c:1\n", "/yard"),
            (std::vector<std::string>{"fire (a.c:1)"}));
  EXPECT_EQ(frames_in("", "/yard"), std::vector<std::string>{});
}

TEST(Frames, OfTemplatesAreWhole) {
  EXPECT_EQ(frames_in("#0  std::vector<int, std::allocator<int> >::at (this=...) at v.h:9\n#1  main () at m.cpp:3\n",
                      "/yard"),
            (std::vector<std::string>{"std::vector<int, std::allocator<int> >::at (v.h:9)", "main (m.cpp:3)"}));
}

}  // namespace
}  // namespace coctilis::smoke
