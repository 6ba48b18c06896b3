// Fetching over ssh by the user's own ssh program, so that keys, agents, known hosts and settings are those that work
// for everything else.
#pragma once

#include <string>
#include <vector>

namespace coctilis::survey {

// Makes libgit2 use it for ssh:// and host:path URLs from now on. Throws nothing.
void use_ssh_program();

// The command for a URL (RFC 3986 form or host:path); empty when the URL names no host or one that an option could hide
// in. It never asks: without a key that works it fails.
[[nodiscard]] std::vector<std::string> ssh_command(const std::string& url);

}  // namespace coctilis::survey
