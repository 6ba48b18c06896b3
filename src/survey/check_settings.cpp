#include "survey/check_settings.h"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {

namespace {

class CheckReader : TomlReader {
 public:
  using TomlReader::TomlReader;

  void smoke(const toml::table& t, model::Settings& settings) const {
    model::AskedCheck check;
    check.place = place(t);
    model::CheckStep alone;
    alone.place = check.place;
    Keys keys = of_surroundings(check.surroundings);
    append(keys, of_step(alone));
    append(keys, {{"name", [&](auto& n) { check.name = name(n); }},
                  {"steps", [&](auto& n) { each(n, "steps", [&](auto& s) { check.steps.push_back(step(s)); }); }},
                  {"needs", [&](auto& n) { check.needs = string_or_strings(n, "needs"); }},
                  {"services", [&](auto& n) { check.services = string_or_strings(n, "services"); }},
                  {"retries", [&](auto& n) { check.retries = integer(n, "retries", 0, 100); }},
                  {"numbers", [&](auto& n) { each(n, "numbers", [&](auto& v) { numbers(v, check.numbers); }); }},
                  {"reference", [&](auto& n) { check.reference = in_tree(n, "reference"); }},
                  {"over", [&](auto& n) { over(table(n, "over"), check); }},
                  {"window", [&](auto& n) { check.window = window(n); }}});
    section(t, "smoke", keys);
    if (!alone.run.empty() && !check.steps.empty())
      wrong(t, "a [[smoke]] check has run or steps, not both", "write the first program as the first of the steps");
    if (alone.run.empty() && check.steps.empty())
      wrong(t, "a [[smoke]] check needs run", "write run = [\"program\", \"argument\"]");
    if (check.steps.empty()) check.steps.push_back(std::move(alone));
    if (check.name.empty()) check.name = name_of(check.steps.front().run, settings.smoke);
    if (!check.reference.empty() && check.numbers.empty())
      wrong(t, "a reference without numbers is compared with nothing",
            "write numbers = [{ name = \"peak\", find = \"peak ([0-9.]+)\" }]");
    if (check.window && check.steps.front().expected.at_least > 0)
      wrong(t, "a program with a window ends when that is closed, not after a time", "take at-least out of expect");
    if (check.window && check.steps.size() > 1)
      wrong(t, "a check with a window has one program",
            "make a check of its own of what comes before, and name it in needs");
    put(t, "smoke", settings.smoke, std::move(check));
  }

  void service(const toml::table& t, model::Settings& settings) const {
    model::AskedService service;
    service.place = place(t);
    Keys keys = of_surroundings(service.surroundings);
    append(keys, {{"name", [&](auto& n) { service.name = name(n); }},
                  {"run", [&](auto& n) { service.run = strings(n, "run"); }},
                  {"needs", [&](auto& n) { service.needs = string_or_strings(n, "needs"); }},
                  {"ready", [&](auto& n) { service.ready = ready(table(n, "ready")); }},
                  {"probe", [&](auto& n) { each(n, "probe", [&](auto& p) { service.probes.push_back(probe(p)); }); }},
                  {"stop-within", [&](auto& n) { service.stop_within = duration(n, "stop-within"); }}});
    section(t, "service", keys);
    if (service.run.empty()) wrong(t, "a [[service]] needs run", "write run = [\"program\", \"argument\"]");
    if (service.name.empty()) service.name = name_of(service.run, settings.services);
    put(t, "service", settings.services, std::move(service));
  }

 private:
  static void append(Keys& keys, const Keys& more) { keys.insert(keys.end(), more.begin(), more.end()); }

  std::string name(const toml::node& n) const {
    std::string out = string(n, "name");
    if (text::trim(out).empty() || text::printable_line(out) != out)
      wrong(n, "a name is printable text", "write name = \"a full firing\"");
    return out;
  }

  // That of the program; of the second of one program, with its words.
  template <class Asked>
  std::string name_of(const std::vector<std::string>& run, const std::vector<Asked>& others) const {
    const bool taken = std::any_of(others.begin(), others.end(), [&](const auto& other) {
      return other.name == run.front() && other.place.file == path();
    });
    return text::printable_line(taken ? text::shell_join(run) : run.front());
  }

  // One that an earlier file has is replaced; in one file a name stands for one check.
  template <class Asked>
  void put(const toml::table& t, const std::string& kind, std::vector<Asked>& all, Asked asked) const {
    for (auto& other : all) {
      if (other.name != asked.name) continue;
      if (other.place.file == path())
        wrong(t, "there is a [[" + kind + "]] '" + asked.name + "' already, at " + other.place.text(),
              "give it a name of its own: name = \"...\"");
      other = std::move(asked);
      return;
    }
    all.push_back(std::move(asked));
  }

  // A path that counts from the tree and stays in it.
  std::string in_tree(const toml::node& n, const std::string& key) const {
    std::string out = string(n, key);
    if (!stays_below(out))
      wrong(n, "'" + key + "' leads out of the tree: " + text::printable_line(out),
            "write a path that counts from the tree");
    return out;
  }
  // The same for the working folder.
  std::string in_folder(const toml::node& n, const std::string& key, const std::string& path) const {
    if (!stays_below(path))
      wrong(n, "'" + key + "' leads out of the working folder: " + text::printable_line(path), "write a path below it");
    return path;
  }
  static bool stays_below(const std::string& path) {
    const std::string normal = std::filesystem::path(path).lexically_normal().string();
    return !path.empty() && !path.starts_with('/') && normal != ".." && !normal.starts_with("../");
  }

  Keys of_surroundings(model::Surroundings& out) const {
    return {{"folder", [&](auto& n) { out.folder = string(n, "folder"); }},
            {"environment",
             [&](auto& n) {
               for (const auto& [key, value] : table(n, "environment"))
                 out.environment[std::string(key.str())] = scalar(value, std::string(key.str()));
             }},
            {"files", [&](auto& n) { files_beside(n, out.files); }},
            {"folders",
             [&](auto& n) {
               for (const auto& path : string_or_strings(n, "folders"))
                 out.folders.push_back(in_folder(n, "folders", path));
             }},
            {"launcher", [&](auto& n) { out.launcher = strings(n, "launcher"); }},
            {"devices",
             [&](auto& n) {
               out.devices = string_or_strings(n, "devices");
               for (const auto& device : out.devices) {
                 if (device != "display" && !device.starts_with("/dev/"))
                   wrong(n, "'" + text::printable_line(device) + "' is no device",
                         "write \"display\", or paths below /dev");
               }
             }},
            {"benign", [&](auto& n) { out.benign = patterns(n, "benign"); }},
            {"forbid", [&](auto& n) { out.forbid = patterns(n, "forbid"); }}};
  }

  // "data/firing.conf", or { from = "data/firing.conf", to = "firing.conf" }.
  void files_beside(const toml::node& node, std::vector<model::Surroundings::File>& out) const {
    if (const auto* list = node.as_array()) {
      for (const auto& entry : *list) file_beside(entry, out);
    } else if (node.is_string()) {
      file_beside(node, out);
    } else {
      wrong(node, "'files' must be a text or a list", "write files = [\"data/firing.conf\"]");
    }
  }
  void file_beside(const toml::node& entry, std::vector<model::Surroundings::File>& out) const {
    model::Surroundings::File file;
    if (const auto* t = entry.as_table()) {
      section(*t, "smoke.files",
              {{"from", [&](auto& n) { file.from = string(n, "from"); }},
               {"to", [&](auto& n) { file.to = in_folder(n, "to", string(n, "to")); }}});
      if (file.from.empty()) wrong(entry, "a file needs from", "write { from = \"data/firing.conf\" }");
    } else {
      file.from = string(entry, "files");
    }
    if (file.to.empty()) file.to = std::filesystem::path(file.from).lexically_normal().filename().string();
    if (file.to.empty() || file.to == ".." || file.to == ".")
      wrong(entry, "'" + text::printable_line(file.from) + "' has no name of its own",
            "write { from = \"...\", to = \"...\" }");
    out.push_back(std::move(file));
  }

  Keys of_step(model::CheckStep& out) const {
    return {{"run",
             [&](auto& n) {
               out.run = strings(n, "run");
               if (out.run.empty() || out.run.front().empty())
                 wrong(n, "'run' names no program", "write run = [\"program\", \"argument\"]");
             }},
            {"input", [&](auto& n) { out.input = string(n, "input"); }},
            {"input-file", [&](auto& n) { out.input_file = string(n, "input-file"); }},
            {"expect", [&](auto& n) { out.expected = expected(table(n, "expect")); }}};
  }
  model::CheckStep step(const toml::table& t) const {
    model::CheckStep out;
    out.place = place(t);
    Keys keys = of_step(out);
    append(keys, {{"name", [&](auto& n) { out.name = name(n); }}});
    section(t, "smoke.steps", keys);
    if (out.run.empty()) wrong(t, "a step needs run", "write { run = [\"program\", \"argument\"] }");
    return out;
  }

  model::Expected expected(const toml::table& t) const {
    model::Expected out;
    section(t, "smoke.expect",
            {{"exit",
              [&](auto& n) {
                if (n.is_string() && string(n, "exit") == "any")
                  out.exit.reset();
                else
                  out.exit = integer(n, "exit", 0, 255);
              }},
             {"output", [&](auto& n) { out.output = patterns(n, "output"); }},
             {"absent", [&](auto& n) { out.absent = patterns(n, "absent"); }},
             {"in-order", [&](auto& n) { out.in_order = patterns(n, "in-order"); }},
             {"files",
              [&](auto& n) {
                for (const auto& path : string_or_strings(n, "files")) out.files.push_back(in_folder(n, "files", path));
              }},
             {"within", [&](auto& n) { out.within = duration(n, "within"); }},
             {"at-least", [&](auto& n) { out.at_least = duration(n, "at-least"); }}});
    if (out.at_least >= out.within)
      wrong(t, "it is to run at least as long as it may", "make within longer than at-least");
    return out;
  }

  void numbers(const toml::table& t, std::vector<model::AskedNumber>& all) const {
    model::AskedNumber out;
    out.place = place(t);
    section(t, "smoke.numbers",
            {{"name", [&](auto& n) { out.name = name(n); }},
             {"find", [&](auto& n) { out.find = pattern(n, "find", 1); }},
             {"file", [&](auto& n) { out.file = in_folder(n, "file", string(n, "file")); }},
             {"column", [&](auto& n) { out.column = string(n, "column"); }},
             {"row", [&](auto& n) { out.row = integer(n, "row", -1000000000, 1000000000); }},
             {"key", [&](auto& n) { out.key = string(n, "key"); }},
             {"absolute", [&](auto& n) { out.absolute = number(n, "absolute"); }},
             {"relative", [&](auto& n) { out.relative = number(n, "relative"); }}});
    const int ways = (out.find.empty() ? 0 : 1) + (out.column.empty() ? 0 : 1) + (out.key.empty() ? 0 : 1);
    if (ways != 1) wrong(t, "a number is told by one of find, column and key", "write find = \"peak ([0-9.]+)\"");
    if (out.find.empty() && out.file.empty())
      wrong(t, "a column or a key is one of a file", "write file = \"curve.csv\"");
    if (!out.key.empty() && !out.key.starts_with('/'))
      wrong(t, "'key' is a path in a JSON file that begins with /", "write key = \"/curve/0/peak\"");
    if (out.absolute < 0 || out.relative < 0) wrong(t, "a tolerance is not below 0", "write absolute = 0.5");
    if (out.name.empty()) out.name = !out.column.empty() ? out.column : !out.key.empty() ? out.key : out.find;
    for (const auto& other : all) {
      if (other.name == out.name) wrong(t, "there are two numbers called '" + out.name + "'", "give each a name");
    }
    all.push_back(std::move(out));
  }

  void over(const toml::table& t, model::AskedCheck& check) const {
    for (const auto& [key, node] : t) {
      const std::string name(key.str());
      if (!RE2::FullMatch(name, "[A-Za-z_][A-Za-z0-9_]*") || name == "tree" || name == "kiln" || name == "program")
        wrong(node, "'" + text::printable_line(name) + "' cannot be gone over", "use letters, digits and '_'");
      if (!node.is_array() || node.as_array()->empty())
        wrong(node, "'" + name + "' needs a list of values", "write " + name + " = [1, 2, 4]");
      std::vector<std::string> values;
      for (const auto& entry : *node.as_array()) values.push_back(scalar(entry, name));
      check.over.emplace_back(name, std::move(values));
    }
    std::size_t runs = 1;
    for (const auto& [name, values] : check.over) {
      runs *= values.size();
      if (runs > 1000) wrong(t, "the values that are gone over make more than 1,000 runs", "take fewer");
    }
  }

  model::AskedWindow window(const toml::node& node) const {
    model::AskedWindow out;
    if (node.is_boolean() && boolean(node, "window")) return out;
    section(table(node, "window"), "smoke.window",
            {{"title", [&](auto& n) { out.title = pattern(n, "title"); }},
             {"within", [&](auto& n) { out.within = duration(n, "within"); }},
             {"keys",
              [&](auto& n) {
                out.keys = string_or_strings(n, "keys");
                for (const auto& key : out.keys) {
                  if (!RE2::FullMatch(key, R"((?i)((ctrl|alt|shift|super)\+)*([!-~]|[a-z][a-z0-9]+))"))
                    wrong(n, "'" + text::printable_line(key) + "' is no key", "write keys = [\"Return\", \"ctrl+q\"]");
                }
              }},
             {"clicks",
              [&](auto& n) {
                for (const auto& text : string_or_strings(n, "clicks")) {
                  int x = 0;
                  int y = 0;
                  if (!RE2::FullMatch(text, R"(\s*(\d{1,5})\s*,\s*(\d{1,5})\s*)", &x, &y))
                    wrong(n, "'" + text::printable_line(text) + "' is no place in a window",
                          "write clicks = [\"40, 20\"]");
                  out.clicks.emplace_back(x, y);
                }
              }},
             {"screen", [&](auto& n) {
                out.screen = string(n, "screen");
                if (!RE2::FullMatch(out.screen, R"([1-9]\d{1,3}x[1-9]\d{1,3})"))
                  wrong(n, "'" + text::printable_line(out.screen) + "' is no size of a screen",
                        "write screen = \"1280x800\"");
              }}});
    return out;
  }

  std::string http_address(const toml::node& n, const std::string& key) const {
    std::string out = string(n, key);
    if (!RE2::FullMatch(out, R"(http://[A-Za-z0-9.\-\[\]:]+(/[\x21-\x7e]*)?)"))
      wrong(n, "'" + text::printable_line(out) + "' is no address of a page",
            "write " + key + " = \"http://localhost:8080/prices\"");
    return out;
  }

  model::Ready ready(const toml::table& t) const {
    model::Ready out;
    section(t, "service.ready",
            {{"line", [&](auto& n) { out.line = pattern(n, "line"); }},
             {"port", [&](auto& n) { out.port = integer(n, "port", 1, 65535); }},
             {"file", [&](auto& n) { out.file = in_folder(n, "file", string(n, "file")); }},
             {"url", [&](auto& n) { out.url = http_address(n, "url"); }},
             {"within", [&](auto& n) { out.within = duration(n, "within"); }}});
    return out;
  }

  model::Probe probe(const toml::table& t) const {
    model::Probe out;
    out.place = place(t);
    out.step.place = out.place;
    Keys keys = of_step(out.step);
    std::erase_if(keys, [](const auto& key) { return key.first == "expect"; });
    append(keys, {{"url", [&](auto& n) { out.url = http_address(n, "url"); }},
                  {"status", [&](auto& n) { out.status = integer(n, "status", 100, 599); }},
                  {"body", [&](auto& n) { out.body = patterns(n, "body"); }},
                  {"headers",
                   [&](auto& n) {
                     for (const auto& [key, value] : table(n, "headers"))
                       out.headers[std::string(key.str())] = pattern(value, std::string(key.str()));
                   }},
                  {"connect",
                   [&](auto& n) {
                     out.connect = string(n, "connect");
                     if (!RE2::FullMatch(out.connect, R"([A-Za-z0-9.\-]+:\d{1,5})"))
                       wrong(n, "'" + text::printable_line(out.connect) + "' is no address",
                             "write connect = \"localhost:4711\"");
                   }},
                  {"send", [&](auto& n) { out.send = string(n, "send"); }},
                  // Of a client it is a table as for other programs; of an exchange, what comes back.
                  {"expect",
                   [&](auto& n) {
                     if (n.is_table())
                       out.step.expected = expected(table(n, "expect"));
                     else
                       out.expect = pattern(n, "expect");
                   }},
                  {"times", [&](auto& n) { out.times = integer(n, "times", 1, 1000); }},
                  {"at-once", [&](auto& n) { out.at_once = boolean(n, "at-once"); }},
                  {"within", [&](auto& n) { out.within = duration(n, "within"); }}});
    section(t, "service.probe", keys);
    const int ways = (out.url.empty() ? 0 : 1) + (out.connect.empty() ? 0 : 1) + (out.step.run.empty() ? 0 : 1);
    if (ways != 1)
      wrong(t, "a probe is one of a page, an exchange and a client: url, connect or run",
            "write { url = \"http://localhost:8080/\" }");
    if (out.url.empty() && (!out.body.empty() || !out.headers.empty()))
      wrong(t, "body and headers are of a page", "write url = \"http://localhost:8080/\"");
    return out;
  }
};

// A circle among what needs what, as a path of names; empty when there is none.
template <class Asked>
std::vector<std::string> circle_in(const std::vector<Asked>& all) {
  std::vector<std::string> path;
  std::set<std::string> done;
  const std::function<bool(const std::string&)> visit = [&](const std::string& name) {
    const auto on_path = std::find(path.begin(), path.end(), name);
    if (on_path != path.end()) {
      path.erase(path.begin(), on_path);
      path.push_back(name);
      return true;
    }
    if (!done.insert(name).second) return false;
    const auto it = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.name == name; });
    if (it == all.end()) return false;
    path.push_back(name);
    for (const auto& need : it->needs) {
      if (visit(need)) return true;
    }
    path.pop_back();
    return false;
  };
  for (const auto& one : all) {
    if (visit(one.name)) return path;
  }
  return {};
}

template <class Asked>
bool has(const std::vector<Asked>& all, const std::string& name) {
  return std::any_of(all.begin(), all.end(), [&](const auto& one) { return one.name == name; });
}

template <class Asked>
void refuse_circles(const std::vector<Asked>& all, const std::string& kind) {
  const auto path = circle_in(all);
  if (path.empty()) return;
  const auto it = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.name == path.front(); });
  throw Fault({Exit::usage,
               it->place,
               kind + " need each other: " + text::join(path, " -> "),
               "",
               "take one of these needs out",
               {}});
}

}  // namespace

void read_smoke_check(const std::string& path, const toml::table& table, model::Settings& settings) {
  CheckReader(path).smoke(table, settings);
}

void read_service(const std::string& path, const toml::table& table, model::Settings& settings) {
  CheckReader(path).service(table, settings);
}

void check_needs_of_checks(const model::Settings& settings) {
  const auto unknown = [](const Place& place, const std::string& what, const std::string& name, const char* key) {
    throw Fault({Exit::usage,
                 place,
                 "there is no " + what + " '" + name + "'",
                 "",
                 std::string("name one of the file in ") + key + ", or take it out",
                 {}});
  };
  for (const auto& check : settings.smoke) {
    for (const auto& name : check.needs) {
      if (!has(settings.smoke, name)) unknown(check.place, "[[smoke]] check", name, "needs");
    }
    for (const auto& name : check.services) {
      if (!has(settings.services, name)) unknown(check.place, "[[service]]", name, "services");
    }
  }
  for (const auto& service : settings.services) {
    for (const auto& name : service.needs) {
      if (!has(settings.services, name)) unknown(service.place, "[[service]]", name, "needs");
    }
  }
  refuse_circles(settings.smoke, "checks");
  refuse_circles(settings.services, "services");
}

}  // namespace coctilis::survey
