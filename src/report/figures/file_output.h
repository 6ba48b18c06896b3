// Figures as files.
#pragma once

#include <string>
#include <vector>

#include "report/figures/drawing.h"

namespace coctilis::report {

enum class FigureForm { svg, png, pdf };

// The drawing in that form, on white, PNG at twice the screen's density. Throws Fault (Exit::missing) when the library
// that draws (cairo) is not there.
[[nodiscard]] std::string drawn(const Drawing& drawing, FigureForm form);

}  // namespace coctilis::report
