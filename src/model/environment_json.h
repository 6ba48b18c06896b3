// The environment of a command as a JSON object: its variables, null for one that is unset.
#pragma once

#include "model/environment.h"

namespace coctilis::model {

// `Json` is one of nlohmann's types of values.
template <class Json>
Json environment_object(const Environment& environment) {
  Json out = Json::object();
  for (const auto& [name, value] : environment) out[name] = value ? Json(*value) : Json(nullptr);
  return out;
}

}  // namespace coctilis::model
