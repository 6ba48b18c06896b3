#include "record/standing.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include "base/files.h"
#include "base/hash.h"
#include "record/packing.h"

namespace coctilis::record {

namespace {

constexpr std::string_view heading = "coctilis standing 2\n";
constexpr char for_all = 'a';
constexpr char for_builds = 'b';  // not for checks
constexpr std::size_t hash_length = 32;
constexpr std::size_t begin_length = heading.size() + hash_length + 1;
constexpr std::size_t fixed = begin_length + hash_length + 16;

// What of a run its screen, its checks and its record need.
struct Standing {
  model::Survey survey;
  std::vector<model::Toolchain> toolchains;
  model::Toolchain toolchain;
  std::string label;
  std::vector<model::Finding> findings;
  std::vector<model::Question> questions;
  std::vector<std::string> search_order;
  std::vector<model::Mention> mentions;
  model::Project project;  // what people see of it
  model::Plan plan;        // without steps
  std::vector<std::string> notes;
  model::Repeats repeats;
};

template <class Archive>
void serialize(Archive& archive, Standing& value) {
  auto& [a, b, c, d, e, f, g, h, i, j, k, l] = value;
  archive(a, b, c, d, e, f, g, h, i, j, k, l);
}

}  // namespace

void keep_standing(model::Run& run, const std::string& key, const Sights& sights) {
  Standing standing;
  standing.survey = run.survey;
  standing.toolchains = run.toolchains;
  standing.toolchain = run.toolchain;
  standing.label = run.label;
  standing.findings = run.findings;
  standing.questions = run.questions;
  standing.search_order = run.search_order;
  standing.mentions = run.mentions;
  standing.project.name = run.project.name;
  standing.project.version = run.project.version;
  standing.project.description = run.project.description;
  standing.project.format = run.project.format;
  standing.project.by_recipes = run.project.by_recipes;
  standing.project.messages = run.project.messages;
  standing.project.warnings = run.project.warnings;
  standing.notes = run.outcome.notes;
  standing.repeats.run = run.number;
  standing.repeats.up_to_date = run.outcome.up_to_date;
  for (const auto& step : run.plan.steps) standing.repeats.steps += step.in_default ? 1 : 0;
  std::vector<model::Step> steps;
  steps.swap(run.plan.steps);
  standing.plan = run.plan;
  steps.swap(run.plan.steps);
  standing.plan.searches.clear();
  const std::string& seen = sights.packed();
  const std::string rest = fmt::format("{:016x}", seen.size()) + seen + packed(standing);
  const std::string path = run.kiln + "/" + standing_name;
  try {
    files::write(path, std::string(heading) + key + (run.project.by_recipes ? for_builds : for_all) +
                           hash_bytes(rest).text() + rest);
  } catch (const Fault&) {
    std::error_code error;
    std::filesystem::remove(path, error);
  }
}

std::string find_standing(const std::string& kiln_root, const std::string& key, bool checks) {
  for (const auto& name : files::names_in(kiln_root)) {
    const std::string kiln = kiln_root + "/" + name;
    const int fd = ::open((kiln + "/" + standing_name).c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK);
    if (fd < 0) continue;
    char begin[begin_length];
    const bool whole = ::pread(fd, begin, sizeof begin, 0) == static_cast<ssize_t>(sizeof begin);
    ::close(fd);
    const char what = begin[begin_length - 1];
    if (whole && std::string_view(begin, begin_length - 1) == std::string(heading) + key &&
        (what == for_all || (what == for_builds && !checks)))
      return kiln;
  }
  return {};
}

bool take_standing(const std::string& kiln, const std::string& key, model::Run& run) {
  const auto content = files::read(kiln + "/" + standing_name);
  if (!content || content->size() < fixed || !content->starts_with(std::string(heading) + key)) return false;
  std::string_view rest = *content;
  const std::string_view hash = rest.substr(begin_length, hash_length);
  rest.remove_prefix(begin_length + hash_length);
  if (hash_bytes(rest).text() != hash) return false;
  Standing standing;
  try {
    const std::size_t length = std::stoull(std::string(rest.substr(0, 16)), nullptr, 16);
    rest.remove_prefix(16);
    if (length > rest.size() || !Sights::stand(rest.substr(0, length))) return false;
    unpack(rest.substr(length), standing);
  } catch (const std::exception&) {
    return false;
  }
  run.survey = std::move(standing.survey);
  run.toolchains = std::move(standing.toolchains);
  run.toolchain = std::move(standing.toolchain);
  run.label = std::move(standing.label);
  run.findings = std::move(standing.findings);
  run.questions = std::move(standing.questions);
  for (auto& question : run.questions) question.kept = true;
  run.search_order = std::move(standing.search_order);
  run.mentions = std::move(standing.mentions);
  run.project = std::move(standing.project);
  run.plan = std::move(standing.plan);
  run.outcome.notes = std::move(standing.notes);
  run.plan_kept = true;
  run.repeats = standing.repeats;
  return true;
}

}  // namespace coctilis::record
