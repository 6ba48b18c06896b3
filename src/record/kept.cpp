#include "record/kept.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/utsname.h>
#include <unistd.h>

#include <filesystem>
#include <thread>

#include "base/file_stamp.h"
#include "base/files.h"
#include "base/frame.h"
#include "base/hash.h"
#include "base/own_program.h"
#include "base/packing.h"
#include "model/environment_variables.h"

namespace coctilis::record {

namespace {

// Raised when what is written means something else than before, beyond what the identity of this program tells.
constexpr std::string_view heading = "coctilis kept 3\n";

}  // namespace

namespace {
std::map<std::string, std::string> lasting(std::map<std::string, std::string> environment) {
  std::erase_if(environment, [](const auto& entry) { return model::is_passing(entry.first); });
  return environment;
}
}  // namespace

std::string key_of(const std::string& text) { return hash_bytes(own_identity() + '\n' + text).text(); }

std::string key_of(const model::Run& run, const std::map<std::string, std::string>& environment) {
  model::Settings settings = run.settings;
  // How many steps run at once, and whether they were asked for anew, has no say in what they are.
  settings.jobs = 0;
  settings.rerun = false;
  std::vector<std::string> survey;
  if (const auto* followed = run.survey.followed(); followed != nullptr) survey = {followed->format, followed->path};
  for (const auto& language : run.survey.languages) survey.push_back(language.language);
  survey.emplace_back("hazards");
  for (const auto& hazard : run.survey.hazards) {
    if (hazard.kind == "dangling link") survey.push_back(hazard.path);
  }
  return key_of(packed(run.tree, run.kiln, settings, run.toolchain, survey, run.survey.submodules,
                       lasting(own_environment()), lasting(environment)));
}

std::string key_of_run(const model::Run& run) {
  model::Settings settings = run.settings;
  settings.jobs = 0;
  settings.rerun = false;
  return key_of(packed(run.tree, run.kiln_root, settings, run.options.targets, run.options.only_these,
                       lasting(own_environment()), static_cast<std::uint32_t>(::geteuid())));
}

std::string keep(const std::string& path, const std::string& key, Observed& observed, const Kept& kept) {
  std::error_code error;
  if (!observed.settle()) {
    std::filesystem::remove(path, error);
    return observed.why_not();
  }
  try {
    write_frame(path, heading, key, packed(observed), packed(kept));
  } catch (const Fault& fault) {
    std::filesystem::remove(path, error);
    return fault.problem().what;
  }
  return {};
}

Taken take(const std::string& path, const std::string& key,
           const std::function<bool(const std::string&, const std::string&)>& follow) {
  const auto content = files::read(path);
  if (!content) return {std::nullopt, {}, "none was kept"};
  Frame frame;
  switch (read_frame(*content, heading, key, frame)) {
    case Framed::other_form: return {std::nullopt, {}, "what was kept is of another form"};
    case Framed::other_key:
      return {std::nullopt, {}, "the settings, the tool chain, the environment or this program are others"};
    case Framed::damaged: return {std::nullopt, {}, "what was kept is damaged"};
    case Framed::whole: break;
  }
  try {
    Observed observed;
    unpack(frame.seen, observed);
    for (const auto& [from, to] : observed.copies()) {
      if (!follow(from, to)) return {std::nullopt, {}, "the copy of the tree cannot be brought in step"};
    }
    if (auto difference = observed.difference(); !difference.empty()) return {std::nullopt, {}, std::move(difference)};
    Taken out;
    unpack(frame.kept, out.kept.emplace());
    out.observed = std::move(observed);
    return out;
  } catch (const std::exception& error) {
    return {std::nullopt, {}, std::string("what was kept cannot be read: ") + error.what()};
  }
}

}  // namespace coctilis::record
