#include "doctor/limits.h"

#include "base/sandbox.h"
#include "base/text.h"

namespace coctilis::doctor {

namespace {

sandbox::Limits now() { return sandbox::in_force(sandbox::allowed().limits); }

}  // namespace

model::Diagnosis too_much_memory() {
  return {"limit of memory", "it took more than " + text::size(now().memory) + " of memory, and was ended",
          "give it less to do, or set the limit: memory = \"8 GB\" in [sandbox] of coctilis.toml; above the usual with "
          "--trust"};
}

model::Diagnosis too_long() {
  return {"limit of time",
          "it took longer than " + text::duration(static_cast<double>(now().seconds)) + ", and was ended",
          "it may wait for something that never comes; or set the limit: time = \"48 h\" in [sandbox] of "
          "coctilis.toml; above the usual with --trust"};
}

model::Diagnosis file_too_large() {
  return {"limit of a file's size", "it wanted to write a file of more than " + text::size(now().file_size),
          "set the limit: file-size = \"200 GB\" in [sandbox] of coctilis.toml; above the usual with --trust"};
}

}  // namespace coctilis::doctor
