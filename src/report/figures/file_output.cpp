#include "report/figures/file_output.h"

#include <cairo/cairo-pdf.h>
#include <cairo/cairo-svg.h>
#include <cairo/cairo.h>

#include "base/shared_library.h"

namespace coctilis::report {

namespace {

constinit const SharedLibrary cairo_library(COCTILIS_CAIRO_SONAME);

#define CAIRO(name) COCTILIS_FUNCTION_OF(cairo_library, name)

struct Colour {
  double red, green, blue;
};

Colour colour_of(Ink ink) {
  static constexpr Colour table[] = {{0.17, 0.15, 0.13}, {0.44, 0.40, 0.36}, {0.87, 0.83, 0.78}, {0.80, 0.47, 0.33},
                                     {0.58, 0.60, 0.68}, {0.88, 0.74, 0.48}, {0.25, 0.42, 0.23}, {0.64, 0.13, 0.08}};
  return table[static_cast<int>(ink)];
}

void draw(cairo_t* on, const Drawing& drawing) {
  CAIRO(cairo_set_source_rgb)(on, 1, 1, 1);
  CAIRO(cairo_paint)(on);
  CAIRO(cairo_select_font_face)(on, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
  CAIRO(cairo_set_font_size)(on, letter_size);
  CAIRO(cairo_set_line_width)(on, 1);
  const double dashes[] = {4, 3};
  for (const auto& shape : drawing.shapes) {
    const Colour colour = colour_of(shape.ink);
    CAIRO(cairo_set_source_rgb)(on, colour.red, colour.green, colour.blue);
    CAIRO(cairo_set_dash)(on, dashes, shape.dashed ? 2 : 0, 0);
    switch (shape.kind) {
      case Shape::Kind::box:
        CAIRO(cairo_rectangle)(on, shape.x, shape.y, shape.width, shape.height);
        if (shape.hollow)
          CAIRO(cairo_stroke)(on);
        else
          CAIRO(cairo_fill)(on);
        break;
      case Shape::Kind::line:
        CAIRO(cairo_move_to)(on, shape.x, shape.y);
        CAIRO(cairo_line_to)(on, shape.width, shape.height);
        CAIRO(cairo_stroke)(on);
        break;
      case Shape::Kind::way:
        for (std::size_t i = 0; i + 1 < shape.points.size(); i += 2) {
          if (i == 0)
            CAIRO(cairo_move_to)(on, shape.points[i], shape.points[i + 1]);
          else
            CAIRO(cairo_line_to)(on, shape.points[i], shape.points[i + 1]);
        }
        CAIRO(cairo_stroke)(on);
        break;
      case Shape::Kind::text: {
        if (shape.strong)
          CAIRO(cairo_select_font_face)(on, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_BOLD);
        cairo_text_extents_t extents;
        CAIRO(cairo_text_extents)(on, shape.text.c_str(), &extents);
        const double before = shape.anchor == Anchor::start ? 0
                              : shape.anchor == Anchor::end ? extents.x_advance
                                                            : extents.x_advance / 2;
        CAIRO(cairo_move_to)(on, shape.x - before, shape.y);
        CAIRO(cairo_show_text)(on, shape.text.c_str());
        if (shape.strong)
          CAIRO(cairo_select_font_face)(on, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
        break;
      }
    }
  }
}

cairo_status_t take(void* to, const unsigned char* bytes, unsigned int length) {
  static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), length);
  return CAIRO_STATUS_SUCCESS;
}

}  // namespace

std::string drawn(const Drawing& drawing, FigureForm form) {
  std::string out;
  // Points are 1/72 inch.
  constexpr double points = 0.75;
  constexpr double density = 2;
  cairo_surface_t* surface =
      form == FigureForm::png
          ? CAIRO(cairo_image_surface_create)(CAIRO_FORMAT_RGB24, static_cast<int>(drawing.width * density),
                                              static_cast<int>(drawing.height * density))
      : form == FigureForm::svg
          ? CAIRO(cairo_svg_surface_create_for_stream)(take, &out, drawing.width * points, drawing.height * points)
          : CAIRO(cairo_pdf_surface_create_for_stream)(take, &out, drawing.width * points, drawing.height * points);
  cairo_t* on = CAIRO(cairo_create)(surface);
  const double scale = form == FigureForm::png ? density : points;
  CAIRO(cairo_scale)(on, scale, scale);
  draw(on, drawing);
  CAIRO(cairo_show_page)(on);
  if (form == FigureForm::png) {
    CAIRO(cairo_surface_flush)(surface);
    CAIRO(cairo_surface_write_to_png_stream)(surface, take, &out);
  }
  CAIRO(cairo_destroy)(on);
  CAIRO(cairo_surface_finish)(surface);
  CAIRO(cairo_surface_destroy)(surface);
  return out;
}

#undef CAIRO

}  // namespace coctilis::report
