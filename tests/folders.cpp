// The one file of the tests that knows places, so that all others compile to the same in every checkout.
#include "folders.h"

namespace bronvel {

std::string in_checkout(const std::string& path) {
  return BRONVEL_TOP + path;
}

std::string in_build(const std::string& path) {
  return BRONVEL_BIN + path;
}

}  // namespace bronvel
