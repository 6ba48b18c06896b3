// What a compilation looked for before it found something else: a header that appears earlier on its way makes it stale
// although nothing that it read has changed. Compilers tell what they read, not where they looked in vain, so that is
// worked out from the folders they search. Kept is only what lies in these folders; the single names are looked at when
// that is another than it was.
#pragma once

#include <string>
#include <unordered_map>
#include <vector>

#include "engine/contents.h"
#include "engine/journal.h"
#include "model/plan.h"

namespace coctilis::engine {

// The headers that a text names.
struct NamedHeaders {
  struct Name {
    std::string text;
    bool quoted = false;
    bool next = false;  // looked for behind the folder in which the text itself was found
  };
  std::vector<Name> included;  // by #include and its like (ISO C++20, [cpp.include])
  std::vector<Name> asked;     // by __has_include ([cpp.cond])
  bool any_included = false;   // a name is worked out: nobody knows which
  bool any_asked = false;
};
[[nodiscard]] NamedHeaders headers_named_in(std::string_view text);

class Lookups {
 public:
  Lookups(const model::Plan& plan, Journal& journal, Contents& contents)
      : plan_(plan), journal_(journal), contents_(contents) {}

  struct Searched {
    ListId folders = 0;            // what lay in the folders on the way
    std::vector<ContentId> names;  // that the texts ask for (__has_include): there, or not
    bool any_name = false;         // a text asks for a name that is worked out: nobody knows which
  };
  // What a step that compiles `source` and began at `when` searched; `read` is all that it read.
  [[nodiscard]] Searched of(std::size_t search, const std::string& source, const std::vector<PathId>& read,
                            const Moment& when);

  // A file that a step would come upon now before something that it read then; empty when there is none.
  [[nodiscard]] std::string found_since(const Journal::Entry& entry, std::size_t search, const std::string& source);
  // The list of folders as they are now.
  [[nodiscard]] ListId as_they_are(ListId folders);

 private:
  // A way in which a file can have been found: in which folder of the path, and by which name.
  struct Way {
    std::size_t folder = 0;
    std::string_view name;
  };
  [[nodiscard]] std::vector<Way> ways(const model::SearchPath& path, std::string_view file) const;
  [[nodiscard]] bool is_own_of_compiler(const model::SearchPath& path, std::string_view file) const;
  [[nodiscard]] std::vector<std::string> asking_folders(const model::SearchPath& path, const std::string& source,
                                                        const std::vector<PathId>& read) const;
  const NamedHeaders& named_in(PathId file);
  // True when what was read would come upon `place` where it came upon something else, or nothing, before.
  [[nodiscard]] bool leads_to(const model::SearchPath& path, const std::string& source, const std::vector<PathId>& read,
                              const std::string& place);

  const model::Plan& plan_;
  Journal& journal_;
  Contents& contents_;
  std::unordered_map<PathId, NamedHeaders> named_;
  // Folders on the way to a file, by search path and file.
  std::unordered_map<std::uint64_t, std::vector<PathId>> on_the_way_;
};

}  // namespace coctilis::engine
