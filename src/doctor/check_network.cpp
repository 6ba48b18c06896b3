// What programs of a check say of the network, displays and devices.
#include "base/files.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "doctor/checks.h"

namespace coctilis::doctor {

namespace {

// "localhost:4711", "port 4711": what the line of the output is about; empty when it does not say.
std::string address_in(const std::string& line) {
  for (std::size_t i = 0; i < line.size(); ++i) {
    if (line[i] != ':' || i + 1 >= line.size() || std::isdigit(static_cast<unsigned char>(line[i + 1])) == 0) continue;
    std::size_t begin = i;
    while (begin > 0 && (std::isalnum(static_cast<unsigned char>(line[begin - 1])) != 0 || line[begin - 1] == '.' ||
                         line[begin - 1] == '-' || line[begin - 1] == '*'))
      --begin;
    std::size_t end = i + 1;
    while (end < line.size() && std::isdigit(static_cast<unsigned char>(line[end])) != 0) ++end;
    if (begin < i && end - i <= 6) return line.substr(begin, end - begin);
  }
  const auto at = line.find("port ");
  if (at == std::string::npos) return {};
  std::size_t end = at + 5;
  while (end < line.size() && std::isdigit(static_cast<unsigned char>(line[end])) != 0) ++end;
  return end > at + 5 ? line.substr(at, end - at) : std::string{};
}

bool has_own_network() { return sandbox::why_not().empty() && !sandbox::allowed().network; }

}  // namespace

CheckDiagnosis port_taken(const CheckCase& c) {
  const std::string said = caught_in(
      c,
      R"((?i)address (?:is )?already in use|EADDRINUSE|port (?:\d+ )?(?:is )?(?:already |being )?(?:in use|used|taken|occupied))");
  if (said.empty()) return std::nullopt;
  const std::string line = line_with(c, said);
  const std::string address = address_in(line);
  return model::Diagnosis{"port taken",
                          "the port that it wants to listen on is taken" + (address.empty() ? "" : ": " + address),
                          has_own_network()
                              ? "another program of this check listens there: give one of them another port"
                              : "another program on this machine listens there: end it, or give this one another port",
                          {line}};
}

CheckDiagnosis connection_refused(const CheckCase& c) {
  std::string said = caught_in(c, R"((?i)connection refused|ECONNREFUSED)");
  // Others do not say why; of those an address tells that it is one of the network.
  if (said.empty()) {
    said = caught_in(c, R"((?i)(?:could not|cannot|can't|failed to|unable to) connect)");
    if (said.empty() || address_in(line_with(c, said)).empty()) return std::nullopt;
  }
  if (!caught_in(c, R"((?i)display)").empty()) return std::nullopt;
  const std::string line = line_with(c, said);
  const std::string address = address_in(line);
  return model::Diagnosis{
      "connection refused",
      "nobody listens where it wants to connect to" + (address.empty() ? "" : ": " + address),
      has_own_network()
          ? "checks have a network of their own: start what it talks to beside it, as a [[service]], or allow the "
            "machine's: network = true in [sandbox]"
          : "start what it talks to beside it, as a [[service]]",
      {line}};
}

CheckDiagnosis name_unknown(const CheckCase& c) {
  const std::string said = caught_in(
      c,
      R"((?i)name or service not known|temporary failure in name resolution|could ?n(?:o|')t resolve|(?:cannot|can't|unable to|failed to) resolve (?:host|name)|unknown host|no address associated with)");
  if (said.empty()) return std::nullopt;
  return model::Diagnosis{
      "name does not resolve",
      "a host's name does not resolve",
      has_own_network()
          ? "checks have a network of their own, where only localhost has a name: use 127.0.0.1, or allow "
            "the machine's: network = true in [sandbox]"
          : "correct the name, or use an address",
      {line_with(c, said)}};
}

CheckDiagnosis interface_down(const CheckCase& c) {
  const std::string said = caught_in(
      c,
      R"((?i)network is (?:unreachable|down)|ENETUNREACH|no route to host|cannot assign requested address|EADDRNOTAVAIL|interface [^\n]{0,40}(?:is down|not found|does not exist))");
  if (said.empty()) return std::nullopt;
  return model::Diagnosis{"interface down",
                          "the interface or address that it wants to use is not there",
                          has_own_network()
                              ? "checks have a network of their own with nothing but 127.0.0.1: use that, or allow the "
                                "machine's: network = true in [sandbox]"
                              : "bring the interface up, or use another address",
                          {line_with(c, said)}};
}

CheckDiagnosis no_display(const CheckCase& c) {
  const std::string said = caught_in(
      c,
      R"((?i)(?:can ?not|could not|can't|unable to|failed to) (?:open|connect to|init(?:ialize)?)[^\n]{0,30}\bdisplay\b|\bno display\b|no available video device|\$DISPLAY)");
  if (said.empty()) return std::nullopt;
  return model::Diagnosis{"no display",
                          "it wants a display, and there is none",
                          "check it as a program with windows, which gets a display of its own: window = true",
                          {line_with(c, said)}};
}

CheckDiagnosis no_device(const CheckCase& c) {
  const std::string device = caught_in(
      c,
      R"((?i)(?:can ?not|could not|can't|unable to|failed to|error)[^\n]{0,60}?(/dev/[\w/.-]*\w)|(/dev/[\w/.-]*\w)[^\n]{0,40}(?:no such|denied|not permitted|failed|cannot))");
  if (device.empty()) return std::nullopt;
  const bool there = files::exists(device);
  return model::Diagnosis{
      "no device",
      there ? "it wants to use " + device + ": programs of a tree get harmless devices only"
            : "it wants to use " + device + ", which is not there",
      there ? "allow it: devices = [\"" + device + "\"] in [sandbox]"
            : "say that it needs it, and it is skipped where it is not there: devices = [\"" + device + "\"]",
      {line_with(c, device)}};
}

}  // namespace coctilis::doctor
