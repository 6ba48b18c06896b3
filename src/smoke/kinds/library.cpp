// Can a library that the tree installs be used? A small client is compiled, linked and run against what was installed.
#include <nlohmann/json.hpp>
#include <set>

#include "base/answers.h"
#include "base/files.h"
#include "base/own_program.h"
#include "base/text.h"
#include "smoke/client.h"
#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

std::string name_of_use(const InstalledLibrary& library) {
  return library.target->name + (library.is_shared ? " is used" : " (archive) is used");
}

class LibraryCheck {
 public:
  LibraryCheck(const InstalledLibrary& library, const Context& context, Runner& runner)
      : library_(library), context_(context), runner_(runner) {
    check_.kind = CheckKind::library;
    check_.name = name_of_use(library);
    check_.place = library.target->place;
  }

  Check run() {
    const double begin = now();
    const std::string question = this->question();
    if (!files::is_file(library_.file)) {
      check_.verdict = Verdict::skipped;
      check_.reason = context_.request.not_staged.empty() ? "it was not built" : context_.request.not_staged;
    } else if (!take(question)) {
      ClientSeen seen = try_client(library_, *context_.request.toolchain, runner_, context_.settings.wished_prefixes(),
                                   context_.request.jobs);
      check_.verdict = seen.judgement.verdict;
      check_.reason = seen.judgement.reason;
      check_.cause = seen.judgement.cause;
      check_.remedy = seen.judgement.remedy;
      check_.evidence = seen.judgement.evidence;
      check_.command = seen.command;
      check_.output = seen.output;
      if (check_.verdict == Verdict::passed) check_.error_lines = seen.remarks;
      if (check_.verdict == Verdict::passed && seen.watched) keep(question, seen.files);
    }
    check_.seconds = now() - begin;
    return check_;
  }

 private:
  // All that the answer hangs on besides files.
  [[nodiscard]] std::string question() const {
    const auto& target = *library_.target;
    return "library\n" + library_.file + "\n" + target.output + "\n" + own_identity() + "\n" +
           context_.request.toolchain->name + "\n" + context_.request.toolchain->machine + "\n" +
           text::join(context_.request.toolchain->options, " ") + "\n" +
           text::join(context_.request.toolchain->link_options, " ") + "\n" + text::join(target.compile_options, " ") +
           "\n" + text::join(target.definitions, " ") + "\n" + text::join(target.include_folders, " ") + "\n" +
           text::join(target.system_include_folders, " ") + "\n" + text::join(context_.settings.wished_prefixes(), " ");
  }

  bool take(const std::string& question) {
    if (runner_.starts_anew()) return false;
    const auto read = nlohmann::json::parse(runner_.kept().get(question).value_or(""), nullptr, false);
    if (!read.is_array() || read.size() < 2 ||
        !std::all_of(read.begin(), read.end(), [](const auto& one) { return one.is_string(); }))
      return false;
    check_.verdict = Verdict::passed;
    check_.reason = read[0];
    check_.command = read[1];
    for (std::size_t i = 2; i < read.size(); ++i) check_.error_lines.push_back(read[i]);
    return true;
  }

  void keep(const std::string& question, const std::vector<std::string>& files) {
    nlohmann::json kept = {check_.reason, check_.command};
    for (const auto& line : check_.error_lines) kept.push_back(line);
    std::vector<Watched> watched;
    std::set<std::string> folders;
    for (const auto& path : std::set<std::string>(files.begin(), files.end())) {
      watched.push_back({path, false});
      // A header or .pc file that comes in is one more to try.
      if (files::is_below(path, library_.prefix)) folders.insert(std::filesystem::path(path).parent_path().string());
    }
    for (const auto& folder : folders) watched.push_back({folder, true});
    runner_.kept().put(question, kept.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace), watched);
  }

  const InstalledLibrary& library_;
  const Context& context_;
  Runner& runner_;
  Check check_;
};

std::vector<PlannedCheck> expand_libraries(const Context& context) {
  std::vector<PlannedCheck> out;
  if (context.request.staged.empty() || context.request.toolchain == nullptr) return out;
  for (const auto& library : installed_libraries(context.plan, context.request.staged)) {
    if (!context.wanted(name_of_use(library), library.target->name)) continue;
    out.push_back({name_of_use(library),
                   [library, &context](Runner& runner) { return LibraryCheck(library, context, runner).run(); },
                   "a client of " + files::below(library.file, library.prefix),
                   {},
                   library.target->place});
  }
  return out;
}

std::vector<std::string> library_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& library : installed_libraries(context.plan, context.request.staged))
    out.push_back(name_of_use(library));
  return out;
}

}  // namespace

Kind library_kind() { return {CheckKind::library, expand_libraries, library_names}; }

}  // namespace coctilis::smoke
