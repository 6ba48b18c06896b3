// Shows the firing curve in a window. Return shows the cooling as well; closing the window ends it.
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <xcb/xcb.h>

enum { width = 640, height = 400, points = 100, key_of_return = 36 };

static xcb_connection_t* screen;
static xcb_window_t window;

static xcb_gcontext_t pen(uint32_t colour, uint32_t line) {
  const xcb_gcontext_t out = xcb_generate_id(screen);
  const uint32_t values[] = {colour, line};
  xcb_create_gc(screen, out, window, XCB_GC_FOREGROUND | XCB_GC_LINE_WIDTH, values);
  return out;
}

static void draw(int with_cooling) {
  const xcb_rectangle_t all = {0, 0, width, height};
  const xcb_gcontext_t ground = pen(0xfaf7f2, 1);
  const xcb_gcontext_t axis = pen(0x6f655c, 1);
  const xcb_gcontext_t heat = pen(0x9c4221, 3);
  const xcb_gcontext_t cool = pen(0x2f5f8f, 3);
  xcb_poly_fill_rectangle(screen, window, ground, 1, &all);
  const xcb_point_t axes[] = {{40, 20}, {40, height - 40}, {width - 20, height - 40}};
  xcb_poly_line(screen, XCB_COORD_MODE_ORIGIN, window, axis, 3, axes);
  xcb_point_t curve[points];
  for (int i = 0; i < points; ++i) {
    const double x = (double)i / (points - 1);
    curve[i].x = (int16_t)(40 + x * (width - 60));
    curve[i].y = (int16_t)(height - 40 - pow(sin(1.5707963 * x), 1.5) * (height - 80));
  }
  xcb_poly_line(screen, XCB_COORD_MODE_ORIGIN, window, heat, points, curve);
  for (int i = 0; i < points; ++i) curve[i].y = (int16_t)(height - 40 - exp(-3.0 * i / points) * (height - 80));
  if (with_cooling) xcb_poly_line(screen, XCB_COORD_MODE_ORIGIN, window, cool, points, curve);
  xcb_flush(screen);
}

static xcb_atom_t atom(const char* name) {
  xcb_intern_atom_reply_t* reply =
      xcb_intern_atom_reply(screen, xcb_intern_atom(screen, 0, (uint16_t)strlen(name), name), NULL);
  const xcb_atom_t out = reply == NULL ? 0 : reply->atom;
  free(reply);
  return out;
}

int main(int argc, char** argv) {
  if (argc > 1) {
    printf("usage: %s\n", argv[0]);
    return strcmp(argv[1], "--help") == 0 ? 0 : 2;
  }
  screen = xcb_connect(NULL, NULL);
  if (xcb_connection_has_error(screen)) {
    fprintf(stderr, "curve-view: cannot open display\n");
    return 1;
  }
  const xcb_screen_t* first = xcb_setup_roots_iterator(xcb_get_setup(screen)).data;
  const uint32_t values[] = {first->white_pixel, XCB_EVENT_MASK_EXPOSURE | XCB_EVENT_MASK_KEY_PRESS};
  window = xcb_generate_id(screen);
  xcb_create_window(screen, XCB_COPY_FROM_PARENT, window, first->root, 100, 100, width, height, 0,
                    XCB_WINDOW_CLASS_INPUT_OUTPUT, first->root_visual, XCB_CW_BACK_PIXEL | XCB_CW_EVENT_MASK, values);
  const char* title = "Firing curve";
  xcb_change_property(screen, XCB_PROP_MODE_REPLACE, window, XCB_ATOM_WM_NAME, XCB_ATOM_STRING, 8,
                      (uint32_t)strlen(title), title);
  const xcb_atom_t closing = atom("WM_DELETE_WINDOW");
  xcb_change_property(screen, XCB_PROP_MODE_REPLACE, window, atom("WM_PROTOCOLS"), XCB_ATOM_ATOM, 32, 1, &closing);
  xcb_map_window(screen, window);
  xcb_flush(screen);
  int with_cooling = 0;
  for (xcb_generic_event_t* event; (event = xcb_wait_for_event(screen)) != NULL; free(event)) {
    const int kind = event->response_type & 0x7f;
    if (kind == XCB_KEY_PRESS && ((xcb_key_press_event_t*)event)->detail == key_of_return) with_cooling = !with_cooling;
    if (kind == XCB_EXPOSE || kind == XCB_KEY_PRESS) draw(with_cooling);
    if (kind == XCB_CLIENT_MESSAGE && ((xcb_client_message_event_t*)event)->data.data32[0] == closing) return 0;
  }
  return 1;
}
