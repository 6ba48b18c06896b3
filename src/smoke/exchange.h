// Asking a service something: a page by HTTP, or an exchange of words over TCP. It happens in a process of its own in
// the network that the service is in, which this program calls itself for.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/process.h"

namespace coctilis::smoke {

struct Question {
  std::string url;  // http; empty: `host` and `port`
  std::string host;
  int port = 0;
  std::string send;
  std::string until;     // regular expression in what comes back that ends the exchange; empty: the other side does
  double within = 10;    // seconds for all of it
  bool insists = false;  // as long as nobody answers it is asked again
};

struct Reply {
  std::string error;                           // why there is none; empty: there is one
  int status = 0;                              // of HTTP
  std::map<std::string, std::string> headers;  // names in small letters; of several of one name the last
  std::string body;                            // the page, or what came back; the first 8 MiB
  double seconds = 0;
};

// Asks. To be called in the network where the answer is.
[[nodiscard]] Reply ask(const Question& question);

// The words with which this program calls itself to ask, and what they say.
[[nodiscard]] std::vector<std::string> words_of(const Question& question);
// What that call does: the answer as it is printed. Nothing: the words are none of these.
[[nodiscard]] std::optional<std::string> reply_to_words(const std::vector<std::string>& words);
// What such a call printed. One that printed no answer says why in `error`.
[[nodiscard]] Reply reply_in(const Ended& ended);

}  // namespace coctilis::smoke
