#include "base/xml.h"

#include <algorithm>

#include "base/files.h"
#include "base/result.h"
#include "base/text.h"

namespace coctilis {

namespace {
int line_at(const std::string& content, std::ptrdiff_t offset) {
  const auto end = std::min(static_cast<std::size_t>(std::max<std::ptrdiff_t>(offset, 0)), content.size());
  return static_cast<int>(std::count(content.begin(), content.begin() + static_cast<std::ptrdiff_t>(end), '\n')) + 1;
}
}  // namespace

void load_xml(pugi::xml_document& document, const std::string& path, const std::string& shown, const std::string& kind,
              const std::string& remedy) {
  const auto content = files::read(path);
  if (!content)
    throw Fault(
        {Exit::description, {shown, 0, 0}, kind + " cannot be read: it " + files::why_not_read(path), {}, remedy, {}});
  constexpr std::size_t most = 64U << 20U;
  if (content->size() > most)
    throw Fault({Exit::description, {shown, 0, 0}, kind + " is larger than " + text::size(most), {}, remedy, {}});
  const auto result = document.load_buffer(content->data(), content->size());
  if (result) return;
  throw Fault({Exit::description,
               {shown, line_at(*content, result.offset), 0},
               kind + " is broken: " + text::lower(result.description()),
               {},
               "mend it, or " + remedy,
               {}});
}

int line_of(const pugi::xml_node& node, const std::string& content) {
  return content.empty() ? 0 : line_at(content, node.offset_debug());
}

}  // namespace coctilis
