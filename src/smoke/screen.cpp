#include "smoke/screen.h"

#include <png.h>
#include <unistd.h>
#include <xcb/xcb.h>
#include <xcb/xtest.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/result.h"
#include "base/shared_library.h"
#include "base/text.h"
#include "smoke/patterns.h"

namespace coctilis::smoke {

namespace {

using nlohmann::json;

constinit const SharedLibrary xcb_library(COCTILIS_XCB_SONAME);
constinit const SharedLibrary xtest_library(COCTILIS_XTEST_SONAME);
constinit const SharedLibrary png_library(COCTILIS_PNG_SONAME);
#define XCB(name) COCTILIS_FUNCTION_OF(xcb_library, name)

struct Free {
  void operator()(void* what) const { std::free(what); }  // NOLINT: what the library has taken from malloc(3)
};
template <class Reply>
using Taken = std::unique_ptr<Reply, Free>;

// A reply of the library to a request of that name.
#define XCB_REPLY(name, connection, ...) \
  Taken<name##_reply_t>(XCB(name##_reply)(connection, XCB(name)(connection, __VA_ARGS__), nullptr))

// Names of keys besides letters and digits, and their symbols (X11/keysymdef.h).
const std::map<std::string, xcb_keysym_t>& named_keys() {
  static const std::map<std::string, xcb_keysym_t> table = {
      {"return", 0xff0d},    {"enter", 0xff0d},  {"escape", 0xff1b}, {"tab", 0xff09},      {"space", 0x20},
      {"backspace", 0xff08}, {"delete", 0xffff}, {"home", 0xff50},   {"left", 0xff51},     {"up", 0xff52},
      {"right", 0xff53},     {"down", 0xff54},   {"pageup", 0xff55}, {"pagedown", 0xff56}, {"end", 0xff57},
      {"insert", 0xff63},    {"plus", '+'},      {"minus", '-'},     {"comma", ','},       {"period", '.'},
      {"slash", '/'},        {"f1", 0xffbe},     {"f2", 0xffbf},     {"f3", 0xffc0},       {"f4", 0xffc1},
      {"f5", 0xffc2},        {"f6", 0xffc3},     {"f7", 0xffc4},     {"f8", 0xffc5},       {"f9", 0xffc6},
      {"f10", 0xffc7},       {"f11", 0xffc8},    {"f12", 0xffc9}};
  return table;
}
const std::map<std::string, xcb_keysym_t>& modifiers() {
  static const std::map<std::string, xcb_keysym_t> table = {
      {"ctrl", 0xffe3}, {"shift", 0xffe1}, {"alt", 0xffe9}, {"super", 0xffeb}};
  return table;
}

// The keys that are held down for one name, the last of which is pressed; nothing when it is none.
std::vector<xcb_keysym_t> keys_of(const std::string& name) {
  std::vector<xcb_keysym_t> out;
  auto parts = text::split(name, '+');
  if (parts.empty()) return {};
  const std::string last = parts.back();
  parts.pop_back();
  for (const auto& part : parts) {
    const auto modifier = modifiers().find(text::lower(part));
    if (modifier == modifiers().end()) return {};
    out.push_back(modifier->second);
  }
  if (last.size() == 1 && last[0] > ' ' && last[0] < 0x7f) {
    if (std::isupper(static_cast<unsigned char>(last[0])) != 0) out.push_back(modifiers().at("shift"));
    out.push_back(static_cast<xcb_keysym_t>(std::tolower(static_cast<unsigned char>(last[0]))));
    return out;
  }
  const auto named = named_keys().find(text::lower(last));
  if (named == named_keys().end()) return {};
  out.push_back(named->second);
  return out;
}

struct Window {
  xcb_window_t id = 0;
  std::string title;
  int x = 0;
  int y = 0;
  int width = 0;
  int height = 0;
};

// Pixels as the server has them: 32 bits each, blue first.
using Pixels = std::vector<std::uint32_t>;

class Display {
 public:
  explicit Display(const std::string& name) : connection_(XCB(xcb_connect)(name.c_str(), nullptr)) {}
  ~Display() { XCB(xcb_disconnect)(connection_); }
  Display(const Display&) = delete;
  Display& operator=(const Display&) = delete;

  [[nodiscard]] bool is_there() const { return XCB(xcb_connection_has_error)(connection_) == 0; }

  // Windows that are shown and have some size, with those of programs that draw without a frame of their own.
  std::vector<Window> windows() {
    std::vector<Window> out;
    const auto setup = XCB(xcb_get_setup)(connection_);
    if (setup == nullptr) return out;
    root_ = XCB(xcb_setup_roots_iterator)(setup).data->root;
    const auto tree = XCB_REPLY(xcb_query_tree, connection_, root_);
    if (!tree) return out;
    const auto* children = XCB(xcb_query_tree_children)(tree.get());
    for (int i = 0; i < XCB(xcb_query_tree_children_length)(tree.get()); ++i) {
      const auto attributes = XCB_REPLY(xcb_get_window_attributes, connection_, children[i]);
      const auto geometry = XCB_REPLY(xcb_get_geometry, connection_, children[i]);
      if (!attributes || !geometry || attributes->map_state != XCB_MAP_STATE_VIEWABLE ||
          attributes->_class != XCB_WINDOW_CLASS_INPUT_OUTPUT || geometry->width < 8 || geometry->height < 8)
        continue;
      out.push_back({children[i], title_of(children[i]), geometry->x, geometry->y, geometry->width, geometry->height});
    }
    return out;
  }

  Pixels picture(const Window& window) {
    const auto image =
        XCB_REPLY(xcb_get_image, connection_, XCB_IMAGE_FORMAT_Z_PIXMAP, window.id, 0, 0,
                  static_cast<std::uint16_t>(window.width), static_cast<std::uint16_t>(window.height), ~0U);
    if (!image) return {};
    const auto length = static_cast<std::size_t>(XCB(xcb_get_image_data_length)(image.get()));
    const auto count = static_cast<std::size_t>(window.width) * static_cast<std::size_t>(window.height);
    if (length < 4 * count) return {};
    const auto* bytes = XCB(xcb_get_image_data)(image.get());
    Pixels out(count);
    for (std::size_t i = 0; i < count; ++i)
      out[i] = static_cast<std::uint32_t>(bytes[4 * i]) | static_cast<std::uint32_t>(bytes[4 * i + 1]) << 8U |
               static_cast<std::uint32_t>(bytes[4 * i + 2]) << 16U;
    return out;
  }

  bool takes_closing(const Window& window) {
    const auto atoms = atoms_of(window, "WM_PROTOCOLS");
    return std::find(atoms.begin(), atoms.end(), atom("WM_DELETE_WINDOW")) != atoms.end();
  }
  // As a window manager does (ICCCM 4.2.8.1).
  void close(const Window& window) {
    xcb_client_message_event_t event{};
    event.response_type = XCB_CLIENT_MESSAGE;
    event.format = 32;
    event.window = window.id;
    event.type = atom("WM_PROTOCOLS");
    event.data.data32[0] = atom("WM_DELETE_WINDOW");
    XCB(xcb_send_event)(connection_, 0, window.id, XCB_EVENT_MASK_NO_EVENT, reinterpret_cast<const char*>(&event));
    sync();
  }

  void focus(const Window& window) {
    XCB(xcb_set_input_focus)(connection_, XCB_INPUT_FOCUS_PARENT, window.id, XCB_CURRENT_TIME);
    sync();
  }
  // False when the keyboard has no such key.
  bool press(const std::string& name) {
    std::vector<xcb_keycode_t> codes;
    for (const auto key : keys_of(name)) codes.push_back(code_of(key));
    if (codes.empty() || std::find(codes.begin(), codes.end(), 0) != codes.end()) return false;
    for (const auto code : codes) send(XCB_KEY_PRESS, code);
    for (auto it = codes.rbegin(); it != codes.rend(); ++it) send(XCB_KEY_RELEASE, *it);
    sync();
    return true;
  }
  void click(const Window& window, int x, int y) {
    XCB(xcb_warp_pointer)
    (connection_, XCB_NONE, window.id, 0, 0, 0, 0, static_cast<std::int16_t>(x), static_cast<std::int16_t>(y));
    sync();
    send(XCB_BUTTON_PRESS, 1);
    send(XCB_BUTTON_RELEASE, 1);
    sync();
  }

 private:
  void send(std::uint8_t kind, std::uint8_t detail) {
    COCTILIS_FUNCTION_OF(xtest_library, xcb_test_fake_input)
    (connection_, kind, detail, XCB_CURRENT_TIME, XCB_NONE, 0, 0, 0);
    XCB(xcb_flush)(connection_);
    ::usleep(5000);
  }
  void sync() { (void)XCB_REPLY(xcb_query_tree, connection_, root_); }

  xcb_atom_t atom(const std::string& name) {
    const auto reply =
        XCB_REPLY(xcb_intern_atom, connection_, 0, static_cast<std::uint16_t>(name.size()), name.c_str());
    return reply ? reply->atom : static_cast<xcb_atom_t>(XCB_ATOM_NONE);
  }
  std::string bytes_of(xcb_window_t window, xcb_atom_t property) {
    const auto reply = XCB_REPLY(xcb_get_property, connection_, 0, window, property, XCB_ATOM_ANY, 0, 1024);
    if (!reply || reply->format != 8) return {};
    return {static_cast<const char*>(XCB(xcb_get_property_value)(reply.get())),
            static_cast<std::size_t>(XCB(xcb_get_property_value_length)(reply.get()))};
  }
  std::vector<xcb_atom_t> atoms_of(const Window& window, const std::string& property) {
    const auto reply = XCB_REPLY(xcb_get_property, connection_, 0, window.id, atom(property), XCB_ATOM_ATOM, 0, 64);
    if (!reply || reply->format != 32) return {};
    const auto* values = static_cast<const xcb_atom_t*>(XCB(xcb_get_property_value)(reply.get()));
    return {values, values + XCB(xcb_get_property_value_length)(reply.get()) / 4};
  }
  std::string title_of(xcb_window_t window) {
    std::string out = bytes_of(window, atom("_NET_WM_NAME"));
    return out.empty() ? bytes_of(window, XCB_ATOM_WM_NAME) : out;
  }
  xcb_keycode_t code_of(xcb_keysym_t key) {
    const auto* setup = XCB(xcb_get_setup)(connection_);
    const auto count = static_cast<std::uint8_t>(setup->max_keycode - setup->min_keycode + 1);
    const auto mapping = XCB_REPLY(xcb_get_keyboard_mapping, connection_, setup->min_keycode, count);
    if (!mapping) return 0;
    const auto* symbols = XCB(xcb_get_keyboard_mapping_keysyms)(mapping.get());
    for (int i = 0; i < count; ++i) {
      if (symbols[i * mapping->keysyms_per_keycode] == key) return static_cast<xcb_keycode_t>(setup->min_keycode + i);
    }
    return 0;
  }

  xcb_connection_t* connection_;
  xcb_window_t root_ = 0;
};

bool has_content(const Pixels& pixels) {
  return std::any_of(pixels.begin(), pixels.end(), [&](auto pixel) { return pixel != pixels.front(); });
}

void write_picture(const std::string& path, const Window& window, const Pixels& pixels) {
  png_image image{};
  image.version = PNG_IMAGE_VERSION;
  image.width = static_cast<png_uint_32>(window.width);
  image.height = static_cast<png_uint_32>(window.height);
  image.format = PNG_FORMAT_RGB;
  std::vector<std::uint8_t> bytes;
  bytes.reserve(pixels.size() * 3);
  for (const auto pixel : pixels) {
    for (const unsigned shift : {16U, 8U, 0U}) bytes.push_back(static_cast<std::uint8_t>(pixel >> shift & 0xffU));
  }
  const auto write = COCTILIS_FUNCTION_OF(png_library, png_image_write_to_memory);
  png_alloc_size_t size = 0;
  if (write(&image, nullptr, &size, 0, bytes.data(), 0, nullptr) == 0) return;
  std::string out(size, '\0');
  if (write(&image, out.data(), &size, 0, bytes.data(), 0, nullptr) != 0) files::write(path, out.substr(0, size));
}

// The picture when it does not change any more, or a second is over.
Pixels settled(Display& display, const Window& window) {
  Pixels before = display.picture(window);
  for (int i = 0; i < 10; ++i) {
    ::usleep(100000);
    Pixels now = display.picture(window);
    if (now == before) break;
    before = std::move(now);
  }
  return before;
}

ScreenReport look(const ScreenTask& task) {
  ScreenReport out;
  const double until = now() + task.within;
  std::optional<Window> found;
  std::string why = "no window";
  std::unique_ptr<Display> display;
  for (bool first = true; !found && (first || now() < until); first = false) {
    if (!first) ::usleep(50000);
    if (!display) display = std::make_unique<Display>(task.display);
    if (!display->is_there()) {
      display.reset();
      why = "the display cannot be reached";
      continue;
    }
    out.others.clear();
    why = "no window";
    for (const auto& window : display->windows()) {
      if (!task.title.empty() && !is_found(task.title, window.title)) {
        out.others.push_back(window.title);
        if (why == "no window") why = "no window with that title";
        continue;
      }
      if (task.closes || has_content(display->picture(window))) {
        if (!found || window.width * window.height > found->width * found->height) found = window;
      } else {
        why = "the window is there, but empty: all of it has one colour";
      }
    }
  }
  if (!found) {
    out.error = why;
    return out;
  }
  out.title = found->title;
  out.width = found->width;
  out.height = found->height;
  out.can_close = display->takes_closing(*found);
  if (task.closes) {
    if (out.can_close) display->close(*found);
    return out;
  }
  Pixels before = settled(*display, *found);
  write_picture(task.picture, *found, before);
  if (task.keys.empty() && task.clicks.empty()) return out;
  display->focus(*found);
  for (const auto& key : task.keys) {
    if (display->press(key)) continue;
    out.error = "the keyboard of the display has no key '" + key + "'";
    return out;
  }
  for (const auto& [x, y] : task.clicks) display->click(*found, x, y);
  ::usleep(200000);
  const Pixels after = settled(*display, *found);
  out.changed = !after.empty() && after != before;
  if (!after.empty()) write_picture(task.picture, *found, after);
  return out;
}

}  // namespace

bool is_key(const std::string& name) { return !keys_of(name).empty(); }

ScreenReport look_at_screen(const ScreenTask& task) {
  try {
    return look(task);
  } catch (const Fault& fault) {
    ScreenReport out;
    out.error = fault.problem().what;
    return out;
  }
}

std::vector<std::string> words_of(const ScreenTask& task) {
  json clicks = json::array();
  for (const auto& [x, y] : task.clicks) clicks.push_back({x, y});
  const json out = {{"display", task.display}, {"title", task.title}, {"within", task.within},
                    {"picture", task.picture}, {"keys", task.keys},   {"clicks", clicks},
                    {"closes", task.closes}};
  return {"look-at-screen", out.dump(-1, ' ', true, json::error_handler_t::replace)};
}

std::optional<std::string> screen_report_to_words(const std::vector<std::string>& words) {
  if (words.size() != 1) return std::nullopt;
  const json read = json::parse(words.front(), nullptr, false);
  ScreenTask task;
  try {
    task.display = read.at("display");
    task.title = read.at("title");
    task.within = read.at("within");
    task.picture = read.at("picture");
    task.keys = read.at("keys").get<std::vector<std::string>>();
    for (const auto& click : read.at("clicks")) task.clicks.emplace_back(click.at(0), click.at(1));
    task.closes = read.at("closes");
  } catch (const json::exception&) {
    return std::nullopt;
  }
  const ScreenReport report = look_at_screen(task);
  const json out = {{"error", report.error},    {"title", report.title},   {"width", report.width},
                    {"height", report.height},  {"others", report.others}, {"can_close", report.can_close},
                    {"changed", report.changed}};
  return out.dump(-1, ' ', true, json::error_handler_t::replace) + "\n";
}

ScreenReport screen_report_in(const Ended& ended) {
  ScreenReport out;
  const json read = json::parse(ended.output, nullptr, false);
  try {
    out.error = read.at("error");
    out.title = read.at("title");
    out.width = read.at("width");
    out.height = read.at("height");
    out.others = read.at("others").get<std::vector<std::string>>();
    out.can_close = read.at("can_close");
    out.changed = read.at("changed");
  } catch (const json::exception&) {
    out = {};
    out.error = "the display could not be looked at: " + ended.text() + " " +
                text::clip(text::printable_line(std::string(text::trim(ended.output))), 200);
  }
  return out;
}

}  // namespace coctilis::smoke
