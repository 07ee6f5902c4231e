// The one error type: what is wrong, where, and what to do about it.
#pragma once

#include <stdexcept>
#include <string>

namespace bronvel {

/// A message for the user. `where` is a place such as "scene.json:31: bodies[2].mass (fender)"; it may be empty.
class Error : public std::runtime_error {
 public:
  Error(const std::string& where, const std::string& what, const std::string& remedy = "")
      : std::runtime_error((where.empty() ? "" : where + ": ") + what + (remedy.empty() ? "" : " (" + remedy + ")")) {}
};

}  // namespace bronvel
