#include "record/kept.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/utsname.h>
#include <unistd.h>

#include <filesystem>
#include <thread>

#include "base/files.h"
#include "base/hash.h"
#include "record/packing.h"

namespace coctilis::record {

namespace {

// Raised when what is written means something else than before, beyond what the identity of this program tells.
constexpr const char* heading = "coctilis kept 2\n";
constexpr std::size_t hash_length = 32;

// This program, another one may understand descriptions otherwise; and the machine, which descriptions ask about.
std::string own_identity() {
  struct stat info {};
  if (::stat("/proc/self/exe", &info) != 0) return {};
  struct utsname system {};
  ::uname(&system);
  return fmt::format("{} {} {}.{} {}.{} {} {} {} {}", info.st_ino, info.st_size, info.st_mtim.tv_sec,
                     info.st_mtim.tv_nsec, info.st_ctim.tv_sec, info.st_ctim.tv_nsec, system.nodename, system.release,
                     system.machine, std::thread::hardware_concurrency());
}

}  // namespace

template <class Archive>
void serialize(Archive& archive, Kept& value) {
  auto& [project, findings, mentions, search_order, questions, plan, refused] = value;
  archive(project, findings, mentions, search_order, questions, plan, refused);
}

bool is_passing(const std::string& name) {
  static const std::set<std::string> names = {"_",
                                              "OLDPWD",
                                              "PWD",
                                              "SHLVL",
                                              "COLUMNS",
                                              "LINES",
                                              "COCTILIS_MAKE_COUNT",
                                              "COCTILIS_MAKE_JOBS",
                                              "COCTILIS_MAKE_STEP"};
  return names.contains(name);
}

namespace {
std::map<std::string, std::string> lasting(std::map<std::string, std::string> environment) {
  std::erase_if(environment, [](const auto& entry) { return is_passing(entry.first); });
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
  const std::string seen = packed(observed);
  std::string rest = fmt::format("{:016x}", seen.size()) + seen + packed(kept);
  try {
    files::write(path, heading + key + hash_bytes(rest).text() + rest);
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
  std::string_view rest = *content;
  const std::size_t fixed = std::string_view(heading).size() + 2 * hash_length + 16;
  if (!rest.starts_with(heading) || rest.size() < fixed) return {std::nullopt, {}, "what was kept is of another form"};
  rest.remove_prefix(std::string_view(heading).size());
  if (rest.substr(0, hash_length) != key)
    return {std::nullopt, {}, "the settings, the tool chain, the environment or this program are others"};
  const std::string_view hash = rest.substr(hash_length, hash_length);
  rest.remove_prefix(2 * hash_length);
  if (hash_bytes(rest).text() != hash) return {std::nullopt, {}, "what was kept is damaged"};
  try {
    const std::size_t length = std::stoull(std::string(rest.substr(0, 16)), nullptr, 16);
    rest.remove_prefix(16);
    Observed observed;
    unpack(rest.substr(0, length), observed);
    for (const auto& [from, to] : observed.copies()) {
      if (!follow(from, to)) return {std::nullopt, {}, "the copy of the tree cannot be brought in step"};
    }
    if (auto difference = observed.difference(); !difference.empty()) return {std::nullopt, {}, std::move(difference)};
    Taken out;
    unpack(rest.substr(length), out.kept.emplace());
    out.observed = std::move(observed);
    return out;
  } catch (const std::exception& error) {
    return {std::nullopt, {}, std::string("what was kept cannot be read: ") + error.what()};
  }
}

}  // namespace coctilis::record
