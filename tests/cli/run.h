// Running the command line as a user runs it.
#pragma once

#include <sys/wait.h>

#include <array>
#include <catch2/catch.hpp>
#include <cstdio>
#include <string>

#include "folders.h"

namespace bronvel {

struct Result {
  int code = -1;
  std::string text;  ///< standard output and error together
};

inline Result shell(const std::string& command) {
  Result result;
  FILE* pipe = popen(command.c_str(), "r");
  REQUIRE(pipe);
  std::array<char, 4096> buffer{};
  while (const std::size_t got = std::fread(buffer.data(), 1, buffer.size(), pipe))
    result.text.append(buffer.data(), got);
  const int status = pclose(pipe);
  result.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  return result;
}

inline std::string cli_call(const std::string& arguments) {
  return in_build("/bronvel-cli ") + arguments + " 2>&1";
}

inline Result cli(const std::string& arguments) {
  return shell(cli_call(arguments));
}

}  // namespace bronvel
