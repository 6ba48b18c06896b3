// [language.NAME] of coctilis.toml: what a language needs that this program does not know.
#pragma once

#include <string>
#include <vector>

#include "base/toml.h"
#include "model/settings.h"

namespace coctilis::survey {

// Places in words of commands: ${source} ${output} ${folder} ${stem} ${name} ${compiler} ${options-file} ${main}
// ${tree} stand for one word; ${include} ${options} ${sources} ${objects} ${object-folder} ${uses} ${library}
// ${library-folder} for several: a word with one of these stands once for each.
[[nodiscard]] const std::vector<std::string>& single_places();
[[nodiscard]] const std::vector<std::string>& listed_places();

// Reads [language.NAME] of the file `path` into `settings`; one of that name of another file is replaced. Throws Fault
// (Exit::usage) with the place: an unknown key, place or pattern, endings without a dot, what does not go together.
void read_language(const std::string& path, const std::string& name, const toml::node& node, model::Settings& settings);

}  // namespace coctilis::survey
