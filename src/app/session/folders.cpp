// The one file that knows the checkout's place, so that all others compile to the same in every checkout.
#include "app/session/folders.h"

#include <cstdlib>

namespace bronvel {

std::string examples_folder() {
  const char* elsewhere = std::getenv("BRONVEL_EXAMPLES");
  return elsewhere ? elsewhere : BRONVEL_TOP "/examples";
}

std::string recipes_folder() {
  return BRONVEL_TOP "/recipes";
}

}  // namespace bronvel
